using NodaTime;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;

namespace Sirena.Core.Insight;

/// <summary>An alert that a rule would have raised.</summary>
/// <param name="Subject">The order, or the thing that the event is about.</param>
/// <param name="Case">The case used.</param>
/// <param name="At">When.</param>
/// <param name="People">The ids of those told, or the addresses of those outside.</param>
/// <param name="Unreached">How many recipients would have been nobody.</param>
public sealed record RehearsedAlert(string? Subject, string Case, Instant At, IReadOnlyList<string> People, int Unreached);

/// <summary>Something that a rule would have asked of the order system.</summary>
/// <param name="Kind">The kind's name.</param>
/// <param name="Subject">The order.</param>
/// <param name="At">When.</param>
/// <param name="Step">The step of the ladder that would ask, if nobody answered until then; 0 for at once.</param>
public sealed record RehearsedAsk(string Kind, string? Subject, Instant At, int Step);

/// <summary>How often a case was the one that is used.</summary>
/// <param name="Case">The case's name.</param>
/// <param name="Events">Of how many events; those that joined an alert or rested are counted too.</param>
public sealed record CaseFit(string Case, int Events);

/// <summary>One rule over past events, as if it had been in force: it raises, joins and rests as it would have. Nobody is told.</summary>
/// <param name="rule">The rule.</param>
/// <param name="staff">Everybody, and the rota; as they are now.</param>
/// <param name="business">The business.</param>
public sealed class RehearsalRun(CompiledRule rule, StaffDirectory staff, Business business)
{
    private readonly Dictionary<string, Alert> latest = [];
    private readonly Dictionary<string, int> fits = [];

    /// <summary>How many events of the kinds that it listens to came by.</summary>
    public int Heard { get; private set; }

    /// <summary>Each case in its order, with how often it was used.</summary>
    public IReadOnlyList<CaseFit> Cases => [.. rule.Rule.Cases.Select(c => new CaseFit(c.Name, fits.GetValueOrDefault(c.Name)))];

    /// <summary>What it would have raised.</summary>
    public List<RehearsedAlert> Alerts { get; } = [];

    /// <summary>What it would have asked of the order system.</summary>
    public List<RehearsedAsk> Asks { get; } = [];

    /// <summary>The rule needs to see the event: it listens to it, or the order may reach a status that ends an alert.</summary>
    /// <param name="type">The event's type.</param>
    /// <param name="subject">The order, or the thing that the event is about.</param>
    public bool Wants(string type, string? subject) =>
        rule.Rule.When.Contains(type) || (subject is not null && !rule.Rule.WithdrawAt.IsEmpty && latest.ContainsKey(subject));

    /// <summary>Takes the next event, in their order.</summary>
    public void Take(OrderEvent happened)
    {
        End(happened);
        if (rule.Rule.When.Contains(happened.Type))
        {
            Heard++;
            var facts = new Facts(happened, business.Zone, business.Currency);
            if (rule.Decide(facts) is { Outcome: Outcome.Matched } decision)
            {
                fits[decision.Case!.Name] = fits.GetValueOrDefault(decision.Case.Name) + 1;
                Match(decision, facts);
            }
        }
    }

    /// <summary>Takes a match of the rule.</summary>
    /// <returns>Whether it raised an alert.</returns>
    internal bool Match(Decision decision, Facts facts)
    {
        var happened = facts.Event;
        var now = happened.Received;
        var key = Key(happened);
        var joining = Joining.Of(decision, happened, latest.GetValueOrDefault(key), now);
        if (joining.Tells)
        {
            Ask(decision.Case!, facts, now);
        }

        if (!joining.Tells || (decision.Case!.Tell.IsEmpty && decision.Case.Ladder.IsEmpty))
        {
            return false;
        }

        var who = new WhoIsTold(staff, business, facts).Resolve(
            new TellQuestion(decision.Case.Tell, decision.Case.By, rule.Rule.Urgency, happened.Type, rule.Rule.Id, rule.Rule.MayOptOut, now)
        );
        Alerts.Add(
            new RehearsedAlert(
                happened.Subject,
                decision.Case.Name,
                now,
                [.. who.Told.Concat(who.Held).Select(t => t.Person ?? t.Contact).Distinct()],
                who.Unreached
            )
        );
        latest[key] = new Alert
        {
            RuleId = rule.Rule.Id,
            Case = decision.Case.Name,
            Urgency = rule.Rule.Urgency,
            State = AlertState.Open,
            RaisedAt = now,
        };
        return true;
    }

    private void Ask(RuleCase one, Facts facts, Instant now)
    {
        var sight = new Instructions.InstructionSight(facts, []);
        Asks.AddRange(
            one.Do.Where(d => Instructions.InstructionKinds.Find(d.Kind)?.WhyNot(sight, d.Members) is null)
                .Select(d => new RehearsedAsk(d.Kind, facts.Event.Subject, now, 0))
        );
        for (var i = 0; i < one.Ladder.Length; i++)
        {
            Asks.AddRange(one.Ladder[i].Do.Select(d => new RehearsedAsk(d.Kind, facts.Event.Subject, now + one.Ladder[i].Delay, i + 1)));
        }
    }

    internal static string Key(OrderEvent happened) => happened.Subject ?? $"event {happened.EventId}";

    // What people would have answered nobody knows: an alert counts as open until its order moved on or the deadline of its urgency passed.
    internal void End(OrderEvent happened)
    {
        var now = happened.Received;
        if (!latest.TryGetValue(Key(happened), out var alert) || alert.EndedAt is not null)
        {
            return;
        }

        var late = alert.RaisedAt + alert.Urgency.Deadline();
        var status = Facts.Member(happened.After, "status");
        if (late <= now)
        {
            (alert.State, alert.EndedAt) = (AlertState.Lapsed, late);
        }
        else if (status.ValueKind == System.Text.Json.JsonValueKind.String && rule.Rule.WithdrawAt.Contains(status.GetString()!))
        {
            (alert.State, alert.EndedAt) = (AlertState.Withdrawn, now);
        }
    }
}

/// <summary>A person's share of a rehearsal.</summary>
/// <param name="Person">The id, or an outside address.</param>
/// <param name="Draft">Alerts by the draft.</param>
/// <param name="InForce">Alerts by the version in force.</param>
/// <param name="BusiestHour">The hour in which the draft would tell them most often, or <see langword="null"/>.</param>
/// <param name="InBusiestHour">How often in that hour.</param>
public sealed record PersonShare(string Person, int Draft, int InForce, Instant? BusiestHour, int InBusiestHour);

/// <summary>A draft beside the version in force.</summary>
/// <param name="Events">How many events were looked at.</param>
/// <param name="Draft">What the draft would have raised.</param>
/// <param name="InForce">What the version in force would have raised.</param>
public sealed record Rehearsal(int Events, IReadOnlyList<RehearsedAlert> Draft, IReadOnlyList<RehearsedAlert> InForce)
{
    /// <summary>What the draft would have asked of the order system.</summary>
    public IReadOnlyList<RehearsedAsk> Asks { get; init; } = [];

    /// <summary>How many events of the kinds that the draft listens to came by.</summary>
    public int Heard { get; init; }

    /// <summary>Each case of the draft, with how often it was used.</summary>
    public IReadOnlyList<CaseFit> Cases { get; init; } = [];

    /// <summary>The cases that fitted none of the events, though there were some.</summary>
    public IReadOnlyList<string> NeverFit => Heard == 0 ? [] : [.. Cases.Where(c => c.Events == 0).Select(c => c.Case)];

    /// <summary>Alerts a day, every day of the period.</summary>
    public IReadOnlyList<(LocalDate Day, int Draft, int InForce)> ByDay(Instant from, Instant to, DateTimeZone zone)
    {
        var (draft, old) = (Draft.CountBy(a => a.At.InZone(zone).Date).ToDictionary(), InForce.CountBy(a => a.At.InZone(zone).Date).ToDictionary());
        var first = from.InZone(zone).Date;
        return
        [
            .. Enumerable
                .Range(0, Period.DaysBetween(first, to.InZone(zone).Date) + 1)
                .Select(d => first.PlusDays(d))
                .Select(d => (d, draft.GetValueOrDefault(d), old.GetValueOrDefault(d))),
        ];
    }

    /// <summary>Alerts by the hour of the day, 24 numbers each.</summary>
    public (int[] Draft, int[] InForce) ByHour(DateTimeZone zone)
    {
        int[] Hours(IReadOnlyList<RehearsedAlert> alerts)
        {
            var hours = new int[24];
            foreach (var alert in alerts)
            {
                hours[alert.At.InZone(zone).Hour]++;
            }

            return hours;
        }

        return (Hours(Draft), Hours(InForce));
    }

    /// <summary>The hour in which the draft would have raised most, and how many; <see langword="null"/> where it would have raised none.</summary>
    public (Instant From, int Alerts)? Busiest => Busy(Draft.Select(a => a.At)) is { Value: > 0 } hour ? (hour.Key, hour.Value) : null;

    /// <summary>The hour with most of the times; the first of several.</summary>
    internal static KeyValuePair<Instant, int> Busy(IEnumerable<Instant> times) =>
        times.CountBy(at => at.Hour()).OrderByDescending(h => h.Value).ThenBy(h => h.Key).FirstOrDefault();

    /// <summary>Everybody's share, whoever the draft tells most first.</summary>
    public IReadOnlyList<PersonShare> ByPerson()
    {
        var draft = Draft.SelectMany(a => a.People.Select(p => (p, a.At))).ToLookup(x => x.p, x => x.At);
        var old = InForce.SelectMany(a => a.People).CountBy(p => p).ToDictionary();
        return
        [
            .. draft
                .Select(d => d.Key)
                .Union(old.Keys)
                .Select(person =>
                {
                    var busiest = Busy(draft[person]);
                    return new PersonShare(person, draft[person].Count(), old.GetValueOrDefault(person), busiest.Value > 0 ? busiest.Key : null, busiest.Value);
                })
                .OrderByDescending(s => s.Draft)
                .ThenByDescending(s => s.InForce)
                .ThenBy(s => s.Person, StringComparer.Ordinal),
        ];
    }

    /// <summary>The orders that would have an alert and have none, that would lose theirs, and whose case or people would differ.</summary>
    public (IReadOnlyList<string> Gained, IReadOnlyList<string> Lost, IReadOnlyList<string> Changed) Difference()
    {
        static Dictionary<string, string> Marks(IEnumerable<RehearsedAlert> alerts) =>
            alerts
                .Where(a => a.Subject is not null)
                .GroupBy(a => a.Subject!)
                .ToDictionary(g => g.Key, g => string.Join(" | ", g.Select(a => $"{a.Case}: {string.Join(' ', a.People.Order(StringComparer.Ordinal))}")));
        var (draft, old) = (Marks(Draft), Marks(InForce));
        return (
            [.. draft.Keys.Where(k => !old.ContainsKey(k)).Order(StringComparer.Ordinal)],
            [.. old.Keys.Where(k => !draft.ContainsKey(k)).Order(StringComparer.Ordinal)],
            [.. draft.Where(d => old.TryGetValue(d.Key, out var was) && was != d.Value).Select(d => d.Key).Order(StringComparer.Ordinal)]
        );
    }
}
