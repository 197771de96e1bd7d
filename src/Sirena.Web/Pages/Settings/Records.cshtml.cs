using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Channels.Mail;
using Sirena.Engine;
using Sirena.Engine.Dispatch;
using Sirena.Engine.Schedules;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Settings;

/// <summary>How long records are kept, where reports about mail come back to, and who gets a summary.</summary>
[Authorize(Policies.Change)]
public sealed class RecordsModel(SirenaDb db, Summaries summaries, Gateways gateways, Signals signals) : SirenaPage
{
    /// <inheritdoc/>
    protected override string? Thing => "records";

    /// <summary>What is wrong, by field.</summary>
    public Dictionary<string, string> Problems { get; } = [];

    /// <summary>Everyone who gets a summary.</summary>
    public IReadOnlyList<(string Span, string To, Instant Next)> Summaries { get; private set; } = [];

    /// <summary>A field: what was typed, else what is set.</summary>
    public string Value(string name, string? set) => Request.HasFormContentType && Request.Form.TryGetValue(name, out var typed) ? typed.ToString() : set ?? "";

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync(CancellationToken cancel) => Summaries = await summaries.AllAsync(cancel);

    /// <summary>Saves how long records are kept.</summary>
    public async Task<IActionResult> OnPostKeepAsync(string? bodyDays, string? rowMonths, string? arrivalDays, CancellationToken cancel)
    {
        var days = int.TryParse(bodyDays, out var d) && d is >= 1 and <= 3650 ? d : Wrong("bodyDays", "Texts are kept from 1 to 3,650 days.");
        var months = int.TryParse(rowMonths, out var m) && m is >= 1 and <= 240 ? m : Wrong("rowMonths", "Deliveries are kept from 1 to 240 months.");
        var arrivals =
            int.TryParse(arrivalDays, out var a) && a is >= 1 and <= 3650 ? a : Wrong("arrivalDays", "What came from sources is kept from 1 to 3,650 days.");
        if (Problems.Count > 0)
        {
            return await AgainAsync(cancel);
        }

        await db.Businesses.ExecuteUpdateAsync(
            s => s.SetProperty(b => b.BodyDays, days).SetProperty(b => b.RowMonths, months).SetProperty(b => b.ArrivalDays, arrivals),
            cancel
        );
        return await SavedAsync(
            $"Set texts to be kept {days} days, bodies from sources {arrivals} days and deliveries {months} months.",
            "Saved. Upkeep begins with it within minutes.",
            cancel
        );
    }

    /// <summary>Saves the mailbox.</summary>
    public async Task<IActionResult> OnPostMailboxAsync(string? mailbox, string? encryption, string? user, string? password, CancellationToken cancel)
    {
        var at = string.IsNullOrWhiteSpace(mailbox) ? null : mailbox.Trim();
        if (at is not null && MailSettings.Server(at) is null)
        {
            Wrong("mailbox", "Give the mailbox's host and port, such as mail.example:993.");
            return await AgainAsync(cancel);
        }

        var business = await db.Businesses.SingleAsync(cancel);
        (business.ReportMailbox, business.ReportMailboxEncryption, business.ReportMailboxUser, business.ReportMailboxError) = (
            at,
            encryption is "none" or "starttls" ? encryption : "tls",
            string.IsNullOrWhiteSpace(user) ? null : user.Trim(),
            null
        );
        business.ReportMailboxSecret =
            at is null ? null
            : string.IsNullOrEmpty(password) ? business.ReportMailboxSecret
            : gateways.Close(password);
        return await SavedAsync(
            $"Set the mailbox of reports to {at ?? "none"}.",
            at is null ? "Saved. No mailbox is read." : "Saved. It is read within half a minute; whether that works stands here.",
            cancel
        );
    }

    /// <summary>Somebody wants a summary.</summary>
    public async Task<IActionResult> OnPostSummaryAsync(string? span, string? to, CancellationToken cancel)
    {
        if (await summaries.AddAsync(span ?? "", to ?? "", cancel) is { } problem)
        {
            Wrong("to", problem);
            return await AgainAsync(cancel);
        }

        return await SavedAsync($"Added a {span} summary to {to}.", $"{to} gets a {span} summary.", cancel);
    }

    /// <summary>Somebody wants it no more.</summary>
    public async Task<IActionResult> OnPostNoSummaryAsync(string span, string to, CancellationToken cancel)
    {
        await summaries.RemoveAsync(span, to, cancel);
        return await SavedAsync($"Took the {span} summary to {to} away.", $"{to} gets no {span} summary any more.", cancel);
    }

    /// <summary>Sends one at once.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostSummaryNowAsync(string? span, string? to, CancellationToken cancel)
    {
        if (span is not ("daily" or "weekly" or "monthly") || to is null || !Core.People.MailAddress.TryParse(to, out _, out _))
        {
            Said = "Nothing was sent: give a mail address, and how often: daily, weekly or monthly.";
            return RedirectToPage();
        }

        await summaries.SendAsync(span, to, Clock.Now, cancel);
        Said = $"The {span} summary is on its way to {to}.";
        return RedirectToPage();
    }

    private int Wrong(string field, string problem)
    {
        Problems[field] = problem;
        return 0;
    }

    private async Task<IActionResult> AgainAsync(CancellationToken cancel)
    {
        Response.StatusCode = 422;
        Summaries = await summaries.AllAsync(cancel);
        return Page();
    }

    private async Task<IActionResult> SavedAsync(string what, string said, CancellationToken cancel)
    {
        db.Audit.Add(
            new AuditEntry
            {
                At = Clock.Now,
                By = User.Name(),
                Thing = "records",
                What = what,
            }
        );
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
        Said = said;
        return RedirectToPage();
    }
}
