using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Sirena.Channels.Mail;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Insight;
using Sirena.Core.People;
using Sirena.Engine;
using Sirena.Engine.Dispatch;
using Sirena.Engine.FirstDay;
using Sirena.Engine.Intake;
using Sirena.Engine.People;
using Sirena.Engine.Sources;
using Sirena.Formats.People;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.FirstDay;

/// <summary>From an empty installation to the first answered alert: five stations, each proved by what really happened.</summary>
[Authorize(Policies.Change)]
public sealed class IndexModel(
    FirstDayReader reader,
    MailServerSearch search,
    GatewayDesk gateways,
    GatewayTests tests,
    PeopleDesk people,
    SourceDesk sources,
    SourceShelf shelf,
    DeveloperLinks links,
    RefusedCalls refused,
    SirenaDb db,
    Signals signals
) : SirenaPage
{
    private const string Gateway = "mail";

    /// <summary>A station that is opened beside the first that is not proved.</summary>
    [BindProperty(SupportsGet = true)]
    public Station? At { get; set; }

    /// <summary>It was proved already when it was opened: it stays open.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Keep { get; set; }

    /// <summary>A test that runs, or ran.</summary>
    [BindProperty(SupportsGet = true)]
    public Guid? Test { get; set; }

    /// <summary>What is proved.</summary>
    public FirstDayFacts Facts { get; private set; } = null!;

    /// <summary>The test.</summary>
    public RunningTest? Running => Test is { } id ? tests.Of(id) : null;

    /// <summary>Servers that answered; <see langword="null"/> where none was looked for.</summary>
    public IReadOnlyList<MailServerFound>? Found { get; private set; }

    /// <summary>The server that is written in the form.</summary>
    public MailServerFound? Server { get; private set; }

    /// <summary>The address by which mail goes out.</summary>
    public string Address { get; private set; } = "";

    /// <summary>What is wrong, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>A source's key that was made just now: shown once.</summary>
    public string? Key { get; private set; }

    /// <summary>A link for whoever connects the order system, made just now.</summary>
    public string? DeveloperLink { get; private set; }

    /// <summary>The door for an order system's events.</summary>
    public OrderDoor Door => new($"{Around.Business.BaseAddress}/api/events", Around.Business.Currency, Key, Facts.Order, refused.Newest, Clock);

    /// <summary>
    /// The station that is open: the one that was asked for, unless it was proved while its page stood open; else the first that is not proved.
    /// </summary>
    public Station Opened =>
        At is { } at
        && (Keep || !(Request.Headers.ContainsKey("X-Sirena-Follow") && Facts.Stations.Any(s => s.Station == at && s.State == StationState.Proved)))
            ? at
            : First;

    /// <summary>The first station that is not proved.</summary>
    public Station First =>
        Facts.Stations.FirstOrDefault(s => s.State is StationState.Open or StationState.Broken, (Station: Station.Alert, State: StationState.Open)).Station;

    /// <summary>How many are proved.</summary>
    public int Proved => Facts.Stations.Count(s => s.State == StationState.Proved);

    /// <summary>Shows them.</summary>
    public Task OnGetAsync(CancellationToken cancel) => LoadAsync(cancel);

    /// <summary>Looks for the mail server of an address.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostFindAsync(string? address, CancellationToken cancel)
    {
        At = Station.Mail;
        await LoadAsync(cancel);
        if (!MailAddress.TryParse(address, out var mail, out var bad))
        {
            return Wrong($"This address {bad}.");
        }

        Address = mail.Value;
        Found = await search.FindAsync(MailAddress.DomainOf(mail.Value), cancel);
        Server = Found is [var best, ..] ? best : null;
        return Page();
    }

    /// <summary>Keeps a mail server and tries it with a message to whoever asks.</summary>
    public async Task<IActionResult> OnPostMailAsync(
        string? address,
        string? server,
        string? encryption,
        string? user,
        string? secret,
        CancellationToken cancel
    )
    {
        At = Station.Mail;
        await LoadAsync(cancel);
        Address = address?.Trim() ?? "";
        if (!MailAddress.TryParse(address, out var mail, out var bad))
        {
            return Wrong($"This address {bad}.");
        }

        if (HostAndPort.Read(server ?? "", 587) is not var (host, port))
        {
            return Wrong("Give the server as host and port, such as mail.example:587.");
        }

        Server = new MailServerFound(host, port, encryption ?? MailSettings.UsualEncryption(port), user is { Length: > 0 }, "");
        var document = new JsonObject
        {
            ["channel"] = "mail",
            ["name"] = host,
            ["address"] = $"{host}:{port}",
            ["encryption"] = Server.Encryption,
            ["sender"] = mail.Value,
            ["on"] = true,
            ["user"] = string.IsNullOrWhiteSpace(user) ? null : user.Trim(),
        };
        if (!string.IsNullOrEmpty(secret))
        {
            document["secret"] = secret;
        }

        var saved = await gateways.SaveAsync(Gateway, document, User.Name(), cancel);
        if (saved.Gateway is not { } gateway)
        {
            return Wrong(string.Join(" ", saved.Errors.Select(e => e.Problem)));
        }

        await db.Businesses.ExecuteUpdateAsync(u => u.SetProperty(b => b.MailFrom, mail.Value), cancel);
        signals.Raise(Topic.Setup);
        return Redirect($"/first-day?at=Mail&test={tests.Begin(gateway, Mine ?? mail.Value)}");
    }

    /// <summary>Adds somebody who can be told.</summary>
    public async Task<IActionResult> OnPostPersonAsync(string? name, string? email, string? phone, CancellationToken cancel)
    {
        At = Station.People;
        var id = PersonId.From(name ?? "");
        if (!NameText.Fits(name, 120) || !MailAddress.TryParse(email, out var mail, out _))
        {
            await LoadAsync(cancel);
            return Wrong("Give a name and a mail address.");
        }

        if (Around.Staff.Person(id) is { } same)
        {
            await LoadAsync(cancel);
            return Wrong($"{same.Name} is there already.");
        }

        var contacts = new List<ContactPoint>
        {
            new() { Channel = Channel.Mail, Address = mail.Value },
        };
        if (!string.IsNullOrWhiteSpace(phone))
        {
            if (!PhoneNumber.TryParse(phone, out var number, out var wrong))
            {
                await LoadAsync(cancel);
                return Wrong($"The phone number {wrong}.");
            }

            contacts.Add(new ContactPoint { Channel = Channel.Sms, Address = number.Value });
        }

        await people.SaveAsync(
            new PeopleDocument(
                [
                    new PersonEntry(
                        new Person
                        {
                            Id = id,
                            Name = name.Trim(),
                            Email = mail.Value,
                            Contacts = contacts,
                        },
                        []
                    ),
                ],
                [],
                0
            ),
            false,
            User.Name(),
            cancel
        );
        Said = $"{name.Trim()} can be told.";
        return Redirect("/first-day?at=People");
    }

    /// <summary>Makes a key for an order system that posts events.</summary>
    public async Task<IActionResult> OnPostKeyAsync(CancellationToken cancel)
    {
        At = Station.Orders;
        (Key, Problem) = await OrderDoor.MakeKeyAsync(shelf, sources, User.Name(), cancel);
        await LoadAsync(cancel);
        return Page();
    }

    /// <summary>Makes a link for whoever connects the order system: this station alone, for a week.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostLinkAsync(CancellationToken cancel)
    {
        At = Station.Orders;
        DeveloperLink = $"{Around.Business.BaseAddress}/first-day/orders/{links.Make(User.Name())}";
        await LoadAsync(cancel);
        return Page();
    }

    /// <summary>Makes an order up: placed, or what a rule listens to.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostMadeUpAsync(string? type, CancellationToken cancel)
    {
        var number = await reader.MakeUpAsync(type ?? "order.placed", User.Name(), cancel);
        Said = $"{number} is made up and comes in like any other.";
        return Redirect("/first-day");
    }

    // The mail address of whoever is signed in.
    private string? Mine => User.FindFirst("person")?.Value is { } person ? Around.Staff.Person(person)?.Mails.FirstOrDefault() : null;

    private PageResult Wrong(string problem)
    {
        (Problem, Response.StatusCode) = (problem, StatusCodes.Status422UnprocessableEntity);
        return Page();
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        Facts = await reader.ReadAsync(cancel);
        Address = Around.AllGateways.FirstOrDefault(g => g.Id == Gateway)?.Sender ?? Mine ?? "";
    }
}
