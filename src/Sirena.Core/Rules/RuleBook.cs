using System.Collections.Frozen;
using NodaTime;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Rules;

/// <summary>All rules in force at one version of the book, indexed by the events that they listen to.</summary>
public sealed class RuleBook
{
    private readonly FrozenDictionary<string, (CompiledRule[] All, RuleIndex Index)> byEvent;

    /// <summary>Makes a book.</summary>
    /// <param name="version">The book's version; every save of a rule makes a new one.</param>
    /// <param name="rules">The rules in force, those that are off among them.</param>
    public RuleBook(long version, IEnumerable<CompiledRule> rules)
    {
        Version = version;
        Rules = [.. rules.OrderBy(r => r.Rule.Id, StringComparer.Ordinal)];
        Guarded = [.. Rules.Select(r => r.Rule).Where(r => r.Storm is not null)];
        Gathers = Rules.Any(r => r.Rule.Gather > Duration.Zero || r.Rule.Storm is not null);
        byEvent = Rules
            .SelectMany(r => r.Rule.When.Distinct().Select(type => (type, r)))
            .GroupBy(x => x.type)
            .ToFrozenDictionary(g => g.Key, g => (g.Select(x => x.r).ToArray(), new RuleIndex([.. g.Select(x => x.r).Where(r => r.Rule.On)])));
    }

    /// <summary>The book's version.</summary>
    public long Version { get; }

    /// <summary>Every rule, by id.</summary>
    public IReadOnlyList<CompiledRule> Rules { get; }

    /// <summary>The rules with a storm guard.</summary>
    public IReadOnlyList<Rule> Guarded { get; }

    /// <summary>Some rule gathers its messages.</summary>
    public bool Gathers { get; }

    /// <summary>Some rule that is on listens to events of that type.</summary>
    public bool Listens(string type) => byEvent.TryGetValue(type, out var listening) && listening.All.Any(r => r.Rule.On);

    /// <summary>The rules that match, most urgent first, then by id.</summary>
    public IReadOnlyList<Decision> Matches(Facts facts)
    {
        if (!byEvent.TryGetValue(facts.Event.Type, out var listening))
        {
            return [];
        }

        var found = new List<Decision>();
        foreach (var rule in listening.Index.Candidates(facts))
        {
            if (rule.Decide(facts) is { Outcome: Outcome.Matched } decision)
            {
                found.Add(decision);
            }
        }

        found.Sort(
            (a, b) => (b.Rule.Urgency - a.Rule.Urgency, string.CompareOrdinal(a.Rule.Id, b.Rule.Id)) is var (urgency, id) && urgency != 0 ? urgency : id
        );
        return found;
    }

    /// <summary>Every rule that listens to the event, by id, with every condition's verdict.</summary>
    public IReadOnlyList<Decision> Explain(Facts facts) => [.. byEvent.GetValueOrDefault(facts.Event.Type, ([], null!)).All.Select(r => r.Explain(facts))];
}
