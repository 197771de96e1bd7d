using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;
using Sirena.Channels.Mail;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Engine.Dispatch;
using Sirena.Formats.Documents;
using Sirena.Storage;
using Sirena.Storage.Deliveries;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Connections;

/// <summary>The gateways in order of use, the one that is chosen with its settings and its test.</summary>
[Authorize(Policies.SeeAll)]
public sealed class IndexModel(GatewayTests tests, GatewayDesk desk, NpgsqlDataSource source, SirenaDb db) : SirenaPage
{
    /// <inheritdoc/>
    protected override string? Thing => Id is null or "new" || !Edit && HttpMethods.IsGet(Request.Method) ? null : $"gateway:{Id}";

    /// <summary>The gateway that is chosen; <c>new</c> for one that is being made.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Id { get; set; }

    /// <summary>What went through each, by its name.</summary>
    public IReadOnlyDictionary<string, GatewayUse> Use { get; private set; } = new Dictionary<string, GatewayUse>();

    /// <summary>The chosen gateway.</summary>
    public Gateway? Chosen => Around.AllGateways.FirstOrDefault(g => g.Id == Id);

    /// <summary>Settings stand in the panel instead of the test.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Edit { get; set; }

    /// <summary>What was typed and could not be saved.</summary>
    public JsonObject? Typed { get; private set; }

    /// <summary>The mistakes.</summary>
    public IReadOnlyList<DocumentError> Errors { get; private set; } = [];

    /// <summary>The test that is looked at.</summary>
    [BindProperty(SupportsGet = true, Name = "test")]
    public Guid? TestId { get; set; }

    /// <summary>That test, running or over.</summary>
    public RunningTest? Test => TestId is { } id && tests.Of(id) is { } test && test.Gateway == (Chosen?.Id ?? Gateway.OfSettings) ? test : null;

    /// <summary>Where the test goes.</summary>
    public string To { get; private set; } = "";

    /// <summary>What each gateway spent this month.</summary>
    public IReadOnlyDictionary<string, GatewaySpend> Spent { get; private set; } = new Dictionary<string, GatewaySpend>();

    /// <summary>How many browsers show push messages.</summary>
    public int Browsers { get; private set; }

    /// <summary>The channel of a gateway that is being made.</summary>
    [BindProperty(SupportsGet = true, Name = "channel")]
    public string? NewChannel { get; set; }

    /// <summary>The id of a gateway that is being made, as it was typed.</summary>
    [BindProperty]
    public string? NewId { get; set; }

    /// <summary>Shows them: without a choice the one that needs looking at, else the first.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        Id ??= Around
            .AllGateways.OrderBy(g => g.FailingSince is null)
            .ThenBy(g => g.EchoMissedSince is null)
            .ThenBy(g => !g.On)
            .ThenBy(g => g.Channel)
            .ThenBy(g => g.Position)
            .FirstOrDefault()
            ?.Id;
        await LoadAsync(cancel);
    }

    /// <summary>Sends a test.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostTestAsync(string? to, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (string.IsNullOrWhiteSpace(to))
        {
            Said = "Nothing was sent: give an address of your own to which the test goes.";
            return Redirect("/channels?id=" + Uri.EscapeDataString(Id ?? ""));
        }

        var chosen = Around.Gateways.FirstOrDefault(g => g.Id == Id);
        var channel = chosen?.Channel ?? Channel.Mail;
        var (good, problems) = channel is Channel.Mail or Channel.Sms ? Core.People.Addresses.Read(channel, to) : ([to], []);
        if (problems.Count > 0 || good.Count != 1)
        {
            Said = $"Nothing was sent: {(problems.Count > 0 ? problems[0] : "give one address.")}";
            return Redirect("/channels?id=" + Uri.EscapeDataString(Id ?? ""));
        }

        return Redirect($"/channels?id={Uri.EscapeDataString(Id ?? "")}&test={tests.Begin(chosen, to.Trim())}");
    }

    /// <summary>Sends an echo now.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostEchoAsync([FromServices] Engine.Schedules.Echo echo, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (Chosen is { EchoTo: not null } g)
        {
            await echo.SendAsync(g, Around.Business, cancel);
            Said = $"A marked message is on its way to {g.EchoTo}.";
        }

        return Redirect("/channels?id=" + Uri.EscapeDataString(Id ?? ""));
    }

    /// <summary>Saves a gateway.</summary>
    public async Task<IActionResult> OnPostSaveAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        var form = await Request.ReadFormAsync(cancel);
        var id = Id is null or "new" ? (NewId ?? "").Trim() : Id;
        var document = new JsonObject { ["on"] = form["on"].ToString() == "true" };
        foreach (
            var name in new[]
            {
                "channel",
                "name",
                "address",
                "encryption",
                "user",
                "sender",
                "body",
                "idAt",
                "errorAt",
                "tokenAddress",
                "clientId",
                "scope",
                "dkimSelector",
                "echoTo",
                "ehlo",
                "certificateAuthority",
                "certificatePin",
            }.Where(form.ContainsKey)
        )
        {
            document[name] = form[name].ToString();
        }

        foreach (var name in new[] { "position", "width" }.Where(form.ContainsKey))
        {
            document[name] = int.TryParse(form[name], out var n) ? n : -1;
        }

        foreach (var name in new[] { "perMinute", "echoMinutes" }.Where(form.ContainsKey))
        {
            document[name] = form[name].ToString().Trim() is { Length: > 0 } typed
                ? int.TryParse(typed, out var n)
                    ? n
                    : -1
                : null;
        }

        foreach (var name in new[] { "segmentCost", "monthlyBudget" }.Where(form.ContainsKey))
        {
            document[name] = form[name].ToString().Trim() is { Length: > 0 } typed ? Core.Sources.DecimalText.Typed(typed) ?? -1 : null;
        }

        if (document["encryption"]?.ToString() == "usual")
        {
            document["encryption"] = MailSettings.Server(form["address"].ToString()) is var (_, port) ? MailSettings.UsualEncryption(port) : "none";
        }

        if (form["dkimKey"].ToString() is { Length: > 0 } key)
        {
            document["dkimKey"] = key;
        }

        if (form["secret"].ToString() is { Length: > 0 } secret)
        {
            document["secret"] = secret;
        }

        var (headers, noHeaders) = RequestHeader.ReadLines(form["headers"].ToString());
        if (headers.Count > 0)
        {
            document["headers"] = new JsonObject(headers.Select(h => KeyValuePair.Create(h.Key, (JsonNode?)h.Value)));
        }

        DocumentError[] wrong =
        [
            .. noHeaders.Select(problem => new DocumentError("headers", null, null, problem)),
            .. Id is null or "new" && await db.Gateways.AnyAsync(g => g.Id == id, cancel)
                ? [new DocumentError("id", null, null, $"There is a gateway '{id}' already. Give this one another id.")]
                : Array.Empty<DocumentError>(),
        ];
        var saved = wrong.Length > 0 ? new GatewaySave(null, false, null, wrong) : await desk.SaveAsync(id, document, User.Name(), cancel);
        if (saved.Gateway is not null)
        {
            Said =
                $"'{saved.Gateway.Name}' is saved, in use from the next message "
                + $"on.{(saved.NewReceiptKey is { } receipts ? $" Its receipts are signed with {receipts}; it is shown this once." : "")}";
            return Redirect("/channels?id=" + Uri.EscapeDataString(id));
        }

        (Typed, Errors, Edit) = (document, saved.Errors, true);
        Response.StatusCode = 422;
        await LoadAsync(cancel);
        return Page();
    }

    /// <summary>Takes a gateway away.</summary>
    public async Task<IActionResult> OnPostRemoveAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Said = await desk.RemoveAsync(Id ?? "", User.Name(), cancel)
            ? "The gateway is removed; what went through it stays in Proof."
            : "There is no such gateway.";
        return Redirect("/channels");
    }

    /// <summary>A member of the form: what was typed, else what is set.</summary>
    public string Value(string name, string? set) => Typed?[name]?.ToString() ?? set ?? "";

    /// <summary>The mistakes of a member.</summary>
    public IEnumerable<string> At(string name) => Errors.Where(e => e.Path == name).Select(e => e.Problem);

    /// <summary>The class of a member that has a mistake; empty for none.</summary>
    public string Invalid(string name) => At(name).Any() ? "is-invalid" : "";

    /// <summary>What a gateway is called; that of the settings has no name of its own.</summary>
    public static string Called(Gateway gateway) => gateway.Id == Gateway.OfSettings ? "The mail server of the settings" : gateway.Name;

    private async Task LoadAsync(CancellationToken cancel)
    {
        Use = await GatewayUse.SinceAsync(source, Clock.Midnight, Clock.Zone, cancel);
        var month = new LocalDate(Clock.Today.Year, Clock.Today.Month, 1);
        Spent = await db.GatewaySpend.AsNoTracking().Where(s => s.Month == month).ToDictionaryAsync(s => s.Gateway, cancel);
        Browsers = await db.PushSubscriptions.CountAsync(cancel);
        To =
            Test is { } running ? running.To
            : User.FindFirst("person")?.Value is { } id && Around.Staff.Person(id) is { } me
                ? me.Contacts.FirstOrDefault(c => c.Channel == (Chosen?.Channel ?? Channel.Mail))?.Address ?? ""
            : "";
    }
}

/// <summary>A test of a gateway as a page shows it.</summary>
/// <param name="Running">The test.</param>
/// <param name="Address">Where it is asked for again while it runs.</param>
/// <param name="Part">The id of the part of the page that is drawn anew then.</param>
/// <param name="Clock">The moment.</param>
public sealed record TestView(RunningTest Running, string Address, string Part, DeskTime Clock);
