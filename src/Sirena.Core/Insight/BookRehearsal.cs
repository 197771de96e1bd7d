using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;

namespace Sirena.Core.Insight;

/// <summary>Two rules that tell the same people of the same orders.</summary>
/// <param name="Rule">A rule's id.</param>
/// <param name="Other">The other's.</param>
/// <param name="Orders">For how many orders somebody would have been told by both.</param>
/// <param name="Of">The orders of the one of them that has fewer.</param>
public sealed record Overlap(string Rule, string Other, int Orders, int Of);

/// <summary>A rule that would have told one person too often within an hour.</summary>
/// <param name="Rule">The rule's id.</param>
/// <param name="Person">The person's id, or an outside address.</param>
/// <param name="Hour">The begin of the hour.</param>
/// <param name="Times">How often.</param>
public sealed record Flood(string Rule, string Person, Instant Hour, int Times);

/// <summary>Every rule in force over past events: what the hints on the Rules page are measured on. Nobody is told.</summary>
/// <param name="book">The rules.</param>
/// <param name="staff">Everybody, and the rota; as they are now.</param>
/// <param name="business">The business.</param>
public sealed class BookRehearsal(RuleBook book, StaffDirectory staff, Business business)
{
    private readonly Dictionary<string, RehearsalRun> runs = book.Rules.ToDictionary(r => r.Rule.Id, r => new RehearsalRun(r, staff, business));
    private readonly Dictionary<string, List<RehearsalRun>> open = [];

    /// <summary>Each rule's alerts, by its id.</summary>
    public IReadOnlyDictionary<string, List<RehearsedAlert>> Alerts => runs.ToDictionary(r => r.Key, r => r.Value.Alerts);

    /// <summary>Takes the next event, in their order.</summary>
    public void Take(OrderEvent happened)
    {
        var key = RehearsalRun.Key(happened);
        if (open.TryGetValue(key, out var burning))
        {
            burning.ForEach(r => r.End(happened));
        }

        var facts = new Facts(happened, business.Zone, business.Currency);
        foreach (var decision in book.Matches(facts))
        {
            var run = runs[decision.Rule.Id];
            if (run.Match(decision, facts))
            {
                (burning ??= open[key] = []).Remove(run);
                burning.Add(run);
            }
        }
    }

    /// <summary>The pairs of rules of which somebody would have heard twice, for at least that many orders and half of the smaller one's.</summary>
    public IReadOnlyList<Overlap> Overlaps(int least)
    {
        // By order: which rules told whom. Only pairs that met are counted.
        var told = new Dictionary<string, Dictionary<string, HashSet<string>>>();
        foreach (var (rule, run) in runs)
        {
            foreach (var alert in run.Alerts.Where(a => a.Subject is not null))
            {
                var byRule = told.TryGetValue(alert.Subject!, out var known) ? known : told[alert.Subject!] = [];
                (byRule.TryGetValue(rule, out var people) ? people : byRule[rule] = []).UnionWith(alert.People);
            }
        }

        var orders = told.Values.SelectMany(b => b.Keys).CountBy(r => r).ToDictionary();
        return
        [
            .. told
                .Values.Where(b => b.Count > 1)
                .SelectMany(b =>
                    b.SelectMany(one =>
                        b.Where(other => string.CompareOrdinal(one.Key, other.Key) < 0 && one.Value.Overlaps(other.Value))
                            .Select(other => (one.Key, Other: other.Key))
                    )
                )
                .CountBy(pair => pair)
                .Select(p => new Overlap(p.Key.Key, p.Key.Other, p.Value, Math.Min(orders[p.Key.Key], orders[p.Key.Other])))
                .Where(o => o.Orders >= least && o.Orders * 2 >= o.Of)
                .OrderByDescending(o => o.Orders)
                .ThenBy(o => o.Rule, StringComparer.Ordinal),
        ];
    }

    /// <summary>The rules that would have told one person more often than that within an hour, each with its worst hour.</summary>
    public IReadOnlyList<Flood> Floods(int most) =>
        [
            .. runs.SelectMany(r =>
                    r.Value.Alerts.SelectMany(a => a.People.Select(p => (p, a.At)))
                        .ToLookup(x => x.p, x => x.At)
                        .Select(p => (Rule: r.Key, Person: p.Key, Busy: Rehearsal.Busy(p)))
                )
                .Where(f => f.Busy.Value > most)
                .GroupBy(f => f.Rule)
                .Select(g => g.MaxBy(f => f.Busy.Value))
                .Select(f => new Flood(f.Rule, f.Person, f.Busy.Key, f.Busy.Value))
                .OrderByDescending(f => f.Times),
        ];
}
