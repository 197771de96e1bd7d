using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Ladders;
using Sirena.Core.People;
using Sirena.Core.Wordings;
using Sirena.Engine.Instructions;
using Sirena.Engine.Ladders;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Web.Pages.Shared;
using Sirena.Web.Pages.Watch;

namespace Sirena.Web.Pages.Answers;

/// <summary>
/// The page behind a message's link: what the message said, and the button. Opening it changes nothing, it shows no more of the order than the message did, and
/// it works without a script.
/// </summary>
[AllowAnonymous]
[EnableRateLimiting("answers")]
[ResponseCache(NoStore = true, Location = ResponseCacheLocation.None)]
public sealed class AnswerModel(SirenaDb db, AnswerDesk desk, RuleShelf shelf, InstructionDesk instructions, Consequences consequences) : SirenaPage
{
    /// <summary>The link's key.</summary>
    [BindProperty(SupportsGet = true)]
    public string Key { get; set; } = "";

    /// <summary>The link; <see langword="null"/> for a wrong or an expired one.</summary>
    public AnswerLink? Link { get; private set; }

    /// <summary>Its reader, where they are of the staff.</summary>
    public Person? Reader => Link?.Person is { } id ? Around.Staff.Person(id) : null;

    /// <summary>Its alert.</summary>
    public Alert? Alert { get; private set; }

    /// <summary>The message as it was sent.</summary>
    public MessageParts Parts { get; private set; } = new("", [], [], []);

    /// <summary>When the message was made.</summary>
    public Instant ToldAt { get; private set; }

    /// <summary>What made its reader one of those who are told, or <see langword="null"/>.</summary>
    public string? Because { get; private set; }

    /// <summary>When the order is due, where the message says so.</summary>
    public Instant? DueAt { get; private set; }

    /// <summary>The alert's fuse, for staff; somebody outside sees no colleagues' names.</summary>
    public Fuse? Fuse { get; private set; }

    /// <summary>Who is told next, or <see langword="null"/>.</summary>
    public string? NextWho => Fuse?.Next is { Names.Length: > 0 } next ? next.Names : null;

    /// <summary>The fuse for those who do not see it.</summary>
    public string FuseInWords
    {
        get
        {
            if (Fuse is not { } fuse)
            {
                return "";
            }

            var knots = fuse
                .Knots.Where(k => k.Fired || fuse.Next is not null)
                .Select(k => k.Fired ? L["Told {0} {1}.", k.Names, Clock.Short(k.At)] : L["Then {0} {1}.", k.Names, Clock.Until(k.At)]);
            var taken = fuse.CutAt is { } cut ? " " + L["Taken {0}.", Clock.Short(cut)] : "";
            return $"{L["Raised {0}.", Clock.Short(fuse.Begin)]} {string.Join(" ", knots)}{taken}";
        }
    }

    /// <summary>Why the answer was not taken.</summary>
    public string? Problem { get; private set; }

    /// <summary>To whom it was to be passed on, where that did not work.</summary>
    public string? PassTo { get; private set; }

    /// <summary>The answer that was taken just now.</summary>
    public AnswerKind? Given { get; private set; }

    /// <summary>The reader has it.</summary>
    public bool IsMine => Alert is { State: AlertState.Taken } a && a.TakenBy == Who;

    /// <summary>An answer can still be given.</summary>
    public bool CanAnswer => Alert!.State is AlertState.Open or AlertState.Lapsed || IsMine;

    /// <inheritdoc/>
    protected override TextLanguage PageLanguage => BrowserLanguage;

    private string Who => Link!.Person ?? Link.Contact;

    /// <summary>What its rule offers to do to the order; <see langword="null"/> for nothing, or somebody outside.</summary>
    public OfferSheet? Offers { get; private set; }

    /// <summary>Asks the order system for what the rule offers; whoever does has the alert.</summary>
    public async Task<IActionResult> OnPostDoAsync(string kind, CancellationToken cancel)
    {
        if (!await ReadAsync(cancel) || Link!.Person is not { } person)
        {
            return NotFoundPage();
        }

        var form = await Request.ReadFormAsync(cancel);
        var ended = await OfferSheet.AskAsync(
            instructions,
            desk,
            shelf,
            Around,
            Alert!,
            kind,
            form,
            await OfferSheet.AskerAsync(db, Around, person, cancel),
            "link",
            Link.DeliveryId,
            cancel
        );
        Problem = ended.Status == 201 ? null : ended.Words;
        Alert = await db.Alerts.AsNoTracking().FirstAsync(a => a.Id == Link.AlertId, cancel);
        return await ShowAsync(cancel);
    }

    /// <summary>Says yes to the instruction that waits for it, or stops it.</summary>
    public async Task<IActionResult> OnPostYesAsync(Guid id, bool stop, CancellationToken cancel)
    {
        if (!await ReadAsync(cancel) || Link!.Person is not { } person)
        {
            return NotFoundPage();
        }

        var ended = await instructions.SettleAsync(id, stop, await OfferSheet.AskerAsync(db, Around, person, cancel), cancel);
        Problem = ended.Status == 200 ? null : ended.Problem;
        if (Problem is null)
        {
            await desk.AnswerAsync(Link.AlertId, Who, AnswerKind.Done, "link", null, null, Link.DeliveryId, cancel);
            Alert = await db.Alerts.AsNoTracking().FirstAsync(a => a.Id == Link.AlertId, cancel);
        }

        return await ShowAsync(cancel);
    }

    /// <summary>Shows it.</summary>
    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await ReadAsync(cancel) ? await ShowAsync(cancel) : NotFoundPage();

    /// <summary>Answers.</summary>
    public async Task<IActionResult> OnPostAsync(string? answer, string? to, CancellationToken cancel)
    {
        if (!await ReadAsync(cancel))
        {
            return NotFoundPage();
        }

        if (Names.Parse<AnswerKind>(answer) is not { } kind)
        {
            (Problem, Response.StatusCode) = (AnswerDesk.NoAnswer, 422);
            return await ShowAsync(cancel);
        }

        var answered = await desk.AnswerAsync(Link!.AlertId, Who, kind, "link", null, null, Link.DeliveryId, cancel, to);
        (Problem, Given, PassTo) = (answered.Problem, answered.Problem is null ? kind : null, answered.Problem is null ? null : to);
        Alert = await db.Alerts.AsNoTracking().FirstAsync(a => a.Id == Link.AlertId, cancel);
        return await ShowAsync(cancel);
    }

    // The link, its alert and what its message said.
    private async Task<bool> ReadAsync(CancellationToken cancel)
    {
        Response.Headers["Referrer-Policy"] = "no-referrer";
        Link = await desk.LinkAsync(Key, cancel);
        if (Link is null)
        {
            return false;
        }

        Alert = await db.Alerts.AsNoTracking().FirstOrDefaultAsync(a => a.Id == Link.AlertId, cancel);
        var message = await db.Messages.AsNoTracking().FirstOrDefaultAsync(m => m.DeliveryId == Link.DeliveryId, cancel);
        if (Alert is null || message is null)
        {
            return false;
        }

        if (Reader is { } reader)
        {
            Speak(TextLanguage.Of(reader.Language));
        }

        Parts = MessageParts.Of(message.Subject, message.Text, Around.Business.BaseAddress);
        return true;
    }

    private async Task<PageResult> ShowAsync(CancellationToken cancel)
    {
        ToldAt = Alert!.RaisedAt;
        var due = Alert.OrderNumber is { } number
            ? await db.Orders.AsNoTracking().Where(o => o.Number == number).Select(o => o.DueAt).FirstOrDefaultAsync(cancel)
            : null;
        DueAt = due is { } at && Parts.Says(at.InZone(Clock.Zone).ToString("HH:mm", System.Globalization.CultureInfo.InvariantCulture)) ? at : null;
        if (Link!.Person is { } reader)
        {
            var one = (await BurningAlert.ReadAsync(db, shelf, [Alert], cancel))[0];
            Offers = await OfferSheet.ReadAsync(
                db,
                shelf,
                consequences,
                Alert,
                Around,
                Clock,
                await OfferSheet.AskerAsync(db, Around, reader, cancel),
                $"/a/{Key}",
                cancel
            );
            Fuse = new Fuses(Around, reader, L.Language).Of(one);
            if (one.Deliveries.FirstOrDefault(d => d.Id == Link.DeliveryId) is { } own)
            {
                (ToldAt, Because) = (own.CreatedAt, one.Steps.FirstOrDefault(s => s.Index == own.Step)?.BecauseOf(reader));
            }
        }

        return Page();
    }

    private PageResult NotFoundPage()
    {
        Link = null;
        Response.StatusCode = 404;
        return Page();
    }
}
