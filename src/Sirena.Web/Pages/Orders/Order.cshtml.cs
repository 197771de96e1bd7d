using System.Text.Json;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Core.Deliveries;
using Sirena.Core.Insight;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Engine.Instructions;
using Sirena.Engine.Notices;
using Sirena.Engine.Rules;
using Sirena.Engine.Trail;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;
using Sirena.Web.Pages.Watch;

namespace Sirena.Web.Pages.Orders;

/// <summary>One order: its facts, its lines, and the trail of each of its events.</summary>
public sealed partial class OrderModel(
    TrailReader trails,
    RuleShelf shelf,
    NoteDesk notes,
    InstructionDesk instructions,
    Consequences consequences,
    SirenaDb db
) : SirenaPage
{
    /// <summary>Its number.</summary>
    [BindProperty(SupportsGet = true)]
    public string Number { get; set; } = "";

    /// <summary>The event that is drawn, by its place in the order; the last that a rule fits where none is given.</summary>
    [BindProperty(SupportsGet = true)]
    public long? Event { get; set; }

    /// <summary>The node of the trail whose details are open.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Node { get; set; }

    /// <summary>The person of whom is asked why they were told or not.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Why { get; set; }

    /// <summary>The answer: each event with the rules that listen to it; those that could tell the person come first.</summary>
    public IEnumerable<(EventTrail At, IReadOnlyList<Why> Rules)> Answers()
    {
        var why = new WhyNot(Around.Staff, Around.Sentences);
        var alerts = Trail.Alerts.ToDictionary(a => a.Alert.Id);
        foreach (var at in Trail.Events.Reverse())
        {
            var facts = new Facts(at.Event, Around.Business.Zone, Around.Business.Currency);
            yield return (
                at,
                [
                    .. at
                        .Rules.Select(r =>
                        {
                            var alert = r.Alert is { } id ? alerts.GetValueOrDefault(id) : null;
                            return why.Of(Why!, facts, r.Decision, r.Outcome, r.Outcome == Outcome.Joined ? [] : Told(alert), Left(alert));
                        })
                        .OrderByDescending(w => w.Names)
                        .ThenBy(w => w.Standing),
                ]
            );
        }
    }

    private List<(string Person, string How)> Told(AlertTrail? alert) =>
        [
            .. (alert?.Deliveries ?? []).Select(d =>
                (
                    d.Delivery.Person ?? d.Delivery.To,
                    $"by {d.Delivery.Channel.Traits().Word} at {Clock.Short(d.Delivery.CreatedAt)}: "
                        + $"{Draw.MarkOf(d.Delivery.State, d.Delivery.Answered).Word}{(d.Delivery.Reason is { } reason ? $", {reason}" : "")}"
                )
            ),
        ];

    private static List<(string Person, string Because)> Left(AlertTrail? alert) =>
        [.. (alert?.Steps ?? []).SelectMany(s => s.Left).Select(l => (l.Person, l.Because))];

    /// <summary>Everything that is known.</summary>
    public OrderTrail Trail { get; private set; } = null!;

    /// <summary>The event that is drawn.</summary>
    public EventTrail At { get; private set; } = null!;

    /// <summary>The order's document.</summary>
    public JsonElement Document { get; private set; }

    /// <summary>The order.</summary>
    public Order Order => Trail.Order!;

    /// <summary>Reads it.</summary>
    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (await trails.OfOrderAsync(Number, cancel) is not { } trail)
        {
            Response.StatusCode = 404;
            return Page();
        }

        Trail = trail;
        await BurnAsync(cancel);
        using var document = JsonDocument.Parse(Order.Document);
        Document = document.RootElement.Clone();
        Do = await DoSheet.ReadAsync(db, consequences, Order, Around, Clock, Asker, wished, Self, null, cancel, wishProblem, sure);
        At = trail.Events.FirstOrDefault(e => e.Event.Seq == Event)
            ?? trail.Events.LastOrDefault(e => e.Rules.Any(r => r.Alert is not null))
            ?? trail.Events[^1];
        return Page();
    }

    /// <summary>What can be asked of its source, and what was.</summary>
    public DoSheet Do { get; private set; } = null!;

    private IFormCollection? wished;
    private string? wishProblem;
    private bool sure;

    /// <summary>The alerts that burn, or that somebody has, as fuses on one axis.</summary>
    public IReadOnlyList<(AlertTrail Alert, Fuse Fuse)> Burning { get; private set; } = [];

    /// <summary>Draws them: back to the first that was raised, at most four hours, and ahead to the last step, at most four.</summary>
    public FuseDrawing Pen
    {
        get
        {
            var most = NodaTime.Duration.FromHours(4);
            var back = NodaTime.Duration.Max(NodaTime.Duration.FromMinutes(10), Clock.Now - Burning.Min(b => b.Fuse.Begin) + NodaTime.Duration.FromMinutes(2));
            var ahead = NodaTime.Duration.Max(
                NodaTime.Duration.FromMinutes(15),
                Burning.SelectMany(b => b.Fuse.Knots).Max(k => k.At) - Clock.Now + NodaTime.Duration.FromMinutes(3)
            );
            return new FuseDrawing(Clock.Now, NodaTime.Duration.Min(most, back), NodaTime.Duration.Min(most, ahead), Clock);
        }
    }

    /// <summary>Where an alert stands, in a few words, where there is no room for its fuse.</summary>
    public string Says(Alert alert, Fuse fuse) =>
        alert.State == AlertState.Lapsed ? "burnt out, nobody answered"
        : alert.TakenBy is { } holder ? $"{Around.NameOf(holder)} has it"
        : fuse.Next is { } next ? $"next step {Clock.Until(next.At)}: {next.Names}"
        : "no further step";

    /// <summary>The notes on the order, newest first.</summary>
    public IEnumerable<(OrderEvent Event, JsonElement Note)> Notes =>
        Trail.Events.Reverse().Where(e => e.Event.Type == "order.note-added").Select(e => (e.Event, Facts.Member(e.Event.DataJson, "note")));

    /// <summary>What is wrong with the note in the form.</summary>
    public string? NoteProblem { get; private set; }

    /// <summary>The note in the form, kept when it was refused.</summary>
    public string NoteText { get; private set; } = "";

    /// <summary>Whether whoever is signed in may write notes.</summary>
    public bool Writes => !User.IsInRole("reader");

    /// <summary>Adds a note.</summary>
    public async Task<IActionResult> OnPostNoteAsync(string? text, string? audience, IFormFile? picture, CancellationToken cancel)
    {
        if (!Writes || await trails.OfOrderAsync(Number, cancel) is null)
        {
            return Forbid();
        }

        byte[]? given = null;
        if (picture is { Length: > 0 and <= Core.Notices.NotePicture.MostBytes + 1 })
        {
            using var stream = new MemoryStream();
            await picture.CopyToAsync(stream, cancel);
            given = stream.ToArray();
        }

        NoteProblem = picture is { Length: > Core.Notices.NotePicture.MostBytes }
            ? "The picture is larger than 8 MB. Make it smaller first."
            : await notes.AddAsync(Number, User.FindFirst("person")?.Value ?? User.Name(), text ?? "", audience == "customer", given, cancel);
        if (NoteProblem is null)
        {
            Said = audience == "customer" ? "The note is on its way to the customer." : "The note stands on the order; whoever it names is told.";
            return Redirect($"/orders/{Uri.EscapeDataString(Number)}#notes");
        }

        NoteText = text ?? "";
        Response.StatusCode = 422;
        return await OnGetAsync(cancel);
    }

    /// <summary>A picture of a note.</summary>
    public async Task<IActionResult> OnGetPictureAsync(Guid id, CancellationToken cancel) =>
        await db.NotePictures.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id && p.OrderNumber == Number, cancel) is { } found
            ? File(found.Jpeg, "image/jpeg")
            : NotFound();

    private async Task BurnAsync(CancellationToken cancel)
    {
        var (all, fuses) = (new List<(AlertTrail, Fuse)>(), new Fuses(Around));
        foreach (
            var a in Trail.Alerts.Where(a =>
                a.Alert.State is AlertState.Open or AlertState.Taken
                || (a.Alert.State == AlertState.Lapsed && Clock.Now - a.Alert.RaisedAt < NodaTime.Duration.FromHours(12))
            )
        )
        {
            all.Add(
                (
                    a,
                    fuses.Of(
                        new BurningAlert(a.Alert, (await shelf.OfAsync(a.Alert, cancel)).Case, [.. a.Steps], [.. a.Deliveries.Select(d => d.Delivery)]),
                        Order.DueAt
                    )
                )
            );
        }

        Burning = [.. all.OrderBy(b => b.Item2.Order).Take(6)];
    }

    /// <summary>The trail, drawn.</summary>
    public string Drawing() => TrailDrawing.Draw(Trail, At, Do.Done, Around, Clock, $"/orders/{Uri.EscapeDataString(Number)}?event={At.Event.Seq}", Node);

    /// <summary>The fields of the business's own that the order has, with their values.</summary>
    public IEnumerable<(OwnField Field, string Value)> Own => OwnField.Of(Document, Around.Business.OwnFields);

    /// <summary>A member of the order in words, <see langword="null"/> when it is missing.</summary>
    public string? Words(params string[] path)
    {
        var at = Document;
        foreach (var name in path)
        {
            at = Facts.Member(at, name);
        }

        return at.ValueKind == JsonValueKind.Undefined ? null : Facts.InWords(at);
    }

    /// <summary>The statuses that the order was in, in the order of its events, each with its time.</summary>
    public IReadOnlyDictionary<string, NodaTime.Instant> Reached() =>
        Trail
            .Events.Select(e => (Status: Facts.Member(e.Event.After, "status"), e.Event.Time))
            .Where(e => e.Status.ValueKind == JsonValueKind.String)
            .GroupBy(e => e.Status.GetString()!)
            .ToDictionary(g => g.Key, g => g.First().Time);

    /// <summary>Where the order stands, in one sentence for the heading.</summary>
    public (string Tone, string Sentence) Standing()
    {
        var status = Around.Status(Order.Status);
        return Order.HoldReason is { } hold
            ? ("flare", $"Held in {status?.Name ?? Order.Status}: {hold}")
            : (status is { Closed: true } ? "glass" : "", status?.Name ?? Order.Status ?? "no status");
    }

    /// <summary>The last move of the order that its status did not allow, in a sentence; <see langword="null"/> where all went the usual way.</summary>
    public string? AgainstTheWay =>
        Trail
            .Events.Reverse()
            .Select(e => (e.Event, From: Around.Status(Facts.Text(e.Event.Before, "status")), To: Around.Status(Facts.Text(e.Event.After, "status"))))
            .Where(m => m.From is not null && m.To is not null && m.From.WhyNot(m.To) is not null)
            .Select(m => $"It went from {m.From!.Name} to {m.To!.Name} at {Clock.Short(m.Event.Time)}: {m.From.WhyNot(m.To)}.")
            .FirstOrDefault();

    /// <summary>Whether whoever is signed in may see the messages themselves.</summary>
    public bool SeesMessages => User.SeesAll();
}
