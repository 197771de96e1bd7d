using System.Text;
using Sirena.Core.Instructions;
using Sirena.Core.Rules;
using Sirena.Engine;
using Sirena.Engine.Instructions;
using Sirena.Engine.Trail;
using Sirena.Web.Pages.Shared;
using static Sirena.Web.Pages.Shared.Draw;

namespace Sirena.Web.Pages.Orders;

/// <summary>
/// The trail of one event as a tree of text and lines: event, rules, people, deliveries, answer. Ink for what happened, dashed grey for what did not, with the
/// reason
/// beside it. Every node is a link that opens its details.
/// </summary>
public sealed partial class TrailDrawing
{
    private const double Row = 34.5,
        RuleX = 226,
        PeopleX = 540,
        DeliveryX = 748,
        AnswerX = 1056,
        Width = 1216,
        Top = 18;
    private const string Ink = "var(--ink)",
        Muted = "var(--muted)",
        Faint = "var(--hair-strong)";
    private readonly StringBuilder dashed = new();
    private readonly StringBuilder solid = new();
    private readonly StringBuilder text = new();
    private readonly Surroundings around;
    private readonly DeskTime clock;
    private readonly TrailWords words;
    private readonly string address;
    private readonly string? picked;
    private readonly IReadOnlyList<Instruction> done;
    private double rows;

    private TrailDrawing(IReadOnlyList<Instruction> done, Surroundings around, DeskTime clock, string address, string? picked)
    {
        (this.done, this.around, this.clock, this.address, this.picked) = (done, around, clock, address, picked);
        words = new TrailWords(around);
    }

    /// <summary>Draws the trail.</summary>
    /// <param name="trail">The order's trail.</param>
    /// <param name="at">The event that is drawn.</param>
    /// <param name="done">What the order system was asked to do to the order.</param>
    /// <param name="around">For names.</param>
    /// <param name="clock">For times.</param>
    /// <param name="address">The page's address with a query that names the event; a node's name is added.</param>
    /// <param name="picked">The node whose details are open.</param>
    public static string Draw(
        OrderTrail trail,
        EventTrail at,
        IReadOnlyList<Instruction> done,
        Surroundings around,
        DeskTime clock,
        string address,
        string? picked
    ) => new TrailDrawing(done, around, clock, address, picked).Make(trail, at);

    private string Make(OrderTrail trail, EventTrail at)
    {
        var places = new List<(double Y, bool Fits)>();
        var named = at.Rules.Where(TrailWords.Fits).ToArray();
        foreach (var rule in named)
        {
            var alert = trail.Alerts.FirstOrDefault(a => a.Alert.Id == rule.Alert);
            places.Add((Rule(rule, alert, at), true));
        }

        var rest = at.Rules.Except(named).ToArray();
        rows += named.Length > 0 && rest.Length > 0 ? 0.35 : 0;
        foreach (var rule in rest)
        {
            var y = Top + (rows * Row);
            places.Add((y, false));
            Name(y, rule, words.Of(rule), "");
            rows += 1.12;
        }

        if (places.Count == 0)
        {
            text.Append(T(RuleX + 18, Top + 4.5, "No rule listens to this event", color: Muted, italic: true));
            rows = 1;
        }

        var height = Math.Max(Top + (rows * Row) + 6, 96);
        var middle = Math.Clamp(named.Length > 0 ? places.Where(p => p.Fits).Average(p => p.Y) : height / 2, 44, height - 52);
        foreach (var (y, fits) in places)
        {
            Link(150, middle, RuleX - 6, y, fits);
        }

        Event(at, middle);
        return $"<svg width=\"{Width}\" height=\"{N(height)}\" viewBox=\"0 0 {Width} {N(height)}\" role=\"group\" aria-label=\"Trail of "
            + $"{E(around.EventName(at.Event.Type))}\">{dashed}{solid}{text}</svg>";
    }

    private void Event(EventTrail at, double y)
    {
        var happened = at.Event;
        var change = happened.DataJson.TryGetProperty("change", out var c) && c.ValueKind == System.Text.Json.JsonValueKind.Object ? c : default;
        var detail = happened.Type == "order.note-added" ? "" : Changed(change);
        Node(
            "event",
            0,
            y - 36,
            152,
            72,
            text.Append($"<rect x=\"0\" y=\"{N(y - 30)}\" width=\"4\" height=\"60\" fill=\"{Ink}\"/>"),
            T(14, y - 16, clock.Exact(happened.Time), size: 12.5, color: Muted, mono: true)
                + T(14, y + 1, Cut(around.EventName(happened.Type), 18), size: 16, weight: 680)
                + T(14, y + 18, Cut(detail, 24), size: 12.5)
                + (
                    done.FirstOrDefault(i => i.Id == happened.CausedBy) is { } cause
                        ? T(14, y + 34, Cut($"as {cause.By} asked", 22), size: 12.5, color: "var(--glass-ink)", title: $"as {cause.By} asked")
                    : happened.Late || happened.DecidedLate
                        ? T(14, y + 34, happened.DecidedLate ? "decided late" : "came late", size: 12.5, color: "var(--brass-ink)")
                    : ""
                )
        );
    }

    private string Changed(System.Text.Json.JsonElement change)
    {
        if (change.ValueKind != System.Text.Json.JsonValueKind.Object || !change.TryGetProperty("field", out var field))
        {
            return "";
        }

        var after = change.TryGetProperty("after", out var a) ? a : default;
        return a.ValueKind is System.Text.Json.JsonValueKind.Object or System.Text.Json.JsonValueKind.Array
            ? $"{field} changed"
            : $"{field}: {around.NameOf(Core.Orders.Fields.Facts.InWords(after))}";
    }

    // Returns the rule's height in the drawing; its people and deliveries take the rows.
    private double Rule(RuleTrail rule, AlertTrail? alert, EventTrail at)
    {
        var begin = rows;
        var people = alert is null ? [] : alert.Deliveries.GroupBy(d => d.Delivery.Person ?? d.Delivery.To).ToList();
        var left = alert is null ? [] : alert.Steps.SelectMany(s => s.Left).ToArray();
        var why = alert is null
            ? new Dictionary<string, string>()
            : alert.Steps.SelectMany(s => s.Told).GroupBy(t => t.Person ?? t.Contact).ToDictionary(g => g.Key, g => g.First().Because);
        var places = new List<(double Y, bool Told)>();
        if (rule.Outcome == Outcome.Joined)
        {
            people = [.. people.Where(p => p.Any(d => d.Delivery.CreatedAt >= at.Event.Received))];
            left = [];
        }

        foreach (var person in people)
        {
            places.Add((Person(person.Key, [.. person], alert!, why.GetValueOrDefault(person.Key)), true));
        }

        // Who was told already stands above, with what they were told by.
        foreach (
            var one in left.Where(l =>
                !l.Because.StartsWith(Engine.Ladders.AlertLives.ToldAlready, StringComparison.Ordinal) || !people.Any(p => p.Key == l.Person)
            )
        )
        {
            var y = Top + (rows * Row);
            places.Add((y, false));
            var name = around.NameOf(one.Person);
            Node(
                $"left-{alert!.Alert.Id}-{one.Person}",
                PeopleX - 4,
                y - 12,
                190,
                34,
                text,
                T(PeopleX + 2, y + 4.5, Cut(name, 26), weight: 600, color: Muted) + T(PeopleX + 2, y + 20, "not told", size: 12, color: Muted)
            );
            dashed.Append($"<path d=\"M{PeopleX + 150} {N(y)}H{DeliveryX - 8}\" stroke=\"{Faint}\" stroke-width=\"1.2\" stroke-dasharray=\"3 3\"/>");
            text.Append(T(DeliveryX, y + 4.5, Cut(one.Because, 52), size: 12.5, color: "var(--flare-ink)"));
            rows += 1.15;
        }

        foreach (
            var asked in done.Where(i =>
                    i.RuleId == rule.Decision.Rule.Id && i.EventId == at.Event.Id
                    || rule.Outcome == Outcome.Matched && alert is not null && i.AlertId == alert.Alert.Id
                )
                .OrderBy(i => i.Seq)
        )
        {
            places.Add((Asked(asked), !asked.Trial));
        }

        if (places.Count == 0)
        {
            rows += 1.25;
        }

        var middle = places.Count == 0 ? Top + (begin * Row) : places.Average(p => p.Y);
        Name(middle, rule, words.Of(rule), "");
        foreach (var (y, told) in places)
        {
            Link(RuleX + 28 + Math.Min(Measure(rule.Decision.Rule.Name), 250), middle, PeopleX - 6, y, told);
        }

        rows += 0.2;
        return middle;
    }

    // What the order system was asked because of the alert: who was asked stands where people stand, how it stands where deliveries do.
    private double Asked(Instruction asked)
    {
        var y = Top + (rows * Row);
        var (_, standing) = DoSheet.Standing(asked);
        var words = $"{standing}: {InstructionDesk.Clause(asked.Kind, asked.Members, around)}";
        var to = around.Taking.GetValueOrDefault(asked.Source)?.Source.Name ?? asked.Source;
        var said =
            asked.Trial ? "would have been asked"
            : asked.RuleId is null ? $"asked by {asked.By}"
            : "asked by the rule";
        var at = clock.Exact(asked.SeenAt ?? asked.EndedAt ?? asked.TakenAt ?? asked.AskedAt);
        Node(
            $"instruction-{asked.Id}",
            PeopleX - 4,
            y - 13,
            Width - PeopleX - 2,
            36,
            text,
            T(PeopleX + 2, y + 4.5, Cut(to, 21), weight: 660, color: asked.Trial ? Muted : Ink, title: to)
                + T(PeopleX + 2, y + 20, Cut(said, 28), size: 12, color: Muted)
                + Evidence(y, "k-call", MarkFor(asked), at, words, 56)
        );
        Link(PeopleX + Math.Min(12 + Measure(Cut(to, 21)), 158), y, DeliveryX - 6, y, !asked.Trial);
        rows += 1.15;
        return y;
    }

    private static string MarkFor(Instruction asked) =>
        asked.Trial
            ? "skipped"
            : asked.State switch
            {
                InstructionState.Seen => "landed",
                InstructionState.Refused or InstructionState.Failed => "failed",
                InstructionState.Dropped => "skipped",
                InstructionState.Asked => "waiting",
                _ => "handed",
            };

    private double Person(string id, DeliveryTrail[] deliveries, AlertTrail alert, string? because)
    {
        var begin = rows;
        var ys = new List<double>();
        foreach (var one in deliveries)
        {
            var y = Top + (rows++ * Row);
            ys.Add(y);
            Delivery(one, y);
            if (one.Delivery.Answered && alert.Answers.FirstOrDefault(a => a.Person == one.Delivery.Person) is { } answer)
            {
                Answer(answer, alert, y);
                rows += deliveries.Length == 1 ? 0.6 : 0;
            }
        }

        var middle = ys.Average();
        rows = Math.Max(rows, begin + 1.05);
        var name = around.NameOf(id);
        Node(
            $"person-{alert.Alert.Id}-{id}",
            PeopleX - 4,
            middle - 12,
            150,
            34,
            text,
            T(PeopleX + 2, middle + 4.5, Cut(name, 21), weight: 660, title: name)
                + T(
                    PeopleX + 2,
                    middle + 20,
                    Cut((because ?? "").Replace("you are ", "", StringComparison.Ordinal).Replace("this address is ", "", StringComparison.Ordinal), 26),
                    size: 12,
                    color: Muted
                )
        );
        foreach (var y in ys)
        {
            Link(PeopleX + Math.Min(12 + Measure(Cut(name, 21)), 158), middle, DeliveryX - 6, y, true);
        }

        return middle;
    }
}
