using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Channels.Mail;
using Sirena.Core;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Engine;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Settings;

/// <summary>The business's name, address, time zone, currency and mail server.</summary>
[Authorize(Policies.Change)]
public sealed class IndexModel(SirenaDb db, Signals signals) : SirenaPage
{
    /// <inheritdoc/>
    protected override string? Thing => "settings";

    private Dictionary<string, string> given = [];

    /// <summary>What is wrong, by field.</summary>
    public Dictionary<string, string> Problems { get; } = [];

    /// <summary>The fields with their labels, help and values.</summary>
    public IEnumerable<(string Name, string Label, string Help, string Value)> Fields()
    {
        var b = Around.Business;
        (string, string, string, string)[] all =
        [
            ("name", "Name of the business", "Stands in every message.", b.Name),
            ("base", "Address of Sirena", "Links in messages begin with it.", b.BaseAddress),
            ("zone", "Time zone", "An IANA name, such as Europe/Lisbon.", b.TimeZone),
            ("currency", "Currency", "For amounts that name none, such as EUR.", b.Currency),
            ("server", "Mail server", "Host and port, such as mail.example:25.", b.MailServer),
            ("from", "Mail comes from", "An address that the mail server accepts.", b.MailFrom),
        ];
        return all.Select(f => (f.Item1, f.Item2, f.Item3, given.GetValueOrDefault(f.Item1, f.Item4)));
    }

    /// <summary>Shows them.</summary>
    public void OnGet() { }

    /// <summary>Saves them, all or none.</summary>
    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        var form = await Request.ReadFormAsync(cancel);
        given = form.ToDictionary(f => f.Key, f => f.Value.ToString().Trim());
        string Get(string name) => given.GetValueOrDefault(name, "");
        Check("name", NameText.Fits(Get("name"), 100), "Give a name of at most 100 characters.");
        Check(
            "base",
            Uri.TryCreate(Get("base"), UriKind.Absolute, out var address)
                && address is { Scheme: "http" or "https", UserInfo: "" }
                && !Get("base").AsSpan().ContainsAny("?#"),
            address is { Scheme: "http" or "https" }
                ? "Links are made by adding to it: give it without a name before @, ? and #."
                : "Give an address that begins with http:// or https://."
        );
        Check("zone", DateTimeZoneProviders.Tzdb.GetZoneOrNull(Get("zone")) is not null, $"'{Get("zone")}' is no IANA time zone. Try Europe/Lisbon.");
        Check("currency", Money.IsCurrency(Get("currency")), "Give a code of ISO 4217, such as EUR.");
        Check("server", MailSettings.Server(Get("server")) is not null, "Give host and port, such as mail.example:25.");
        Check("from", MailAddress.TryParse(Get("from"), out _, out var bad), $"This address {bad}.");
        if (Problems.Count > 0)
        {
            Response.StatusCode = 422;
            return Page();
        }

        var business = await db.Businesses.SingleAsync(cancel);
        (business.Name, business.BaseAddress, business.TimeZone, business.Currency) = (Get("name"), Get("base").TrimEnd('/'), Get("zone"), Get("currency"));
        (business.MailServer, business.MailFrom) = (Get("server"), Get("from"));
        db.Audit.Add(
            new AuditEntry
            {
                At = Clock.Now,
                By = User.Name(),
                Thing = "settings",
                What = "Saved the settings of the business and its mail.",
            }
        );
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
        Said = "Saved. In force from the next message.";
        return RedirectToPage();
    }

    private void Check(string field, bool good, string problem)
    {
        if (!good)
        {
            Problems[field] = problem;
        }
    }
}
