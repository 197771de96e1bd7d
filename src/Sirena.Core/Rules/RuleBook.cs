using System.Collections.Frozen;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Rules;

/// <summary>All rules in force at one version of the book, indexed by the events that they listen to.</summary>
public sealed class RuleBook
{
    private readonly FrozenDictionary<string, CompiledRule[]> byEvent;

    /// <summary>Makes a book.</summary>
    /// <param name="version">The book's version; every save of a rule makes a new one.</param>
    /// <param name="rules">The rules in force, those that are off among them.</param>
    public RuleBook(long version, IEnumerable<CompiledRule> rules)
    {
        Version = version;
        Rules = [.. rules.OrderBy(r => r.Rule.Id, StringComparer.Ordinal)];
        byEvent = Rules.SelectMany(r => r.Rule.When.Distinct().Select(type => (type, r)))
            .GroupBy(x => x.type)
            .ToFrozenDictionary(g => g.Key, g => g.Select(x => x.r).ToArray());
    }

    /// <summary>The book's version.</summary>
    public long Version { get; }

    /// <summary>Every rule, by id.</summary>
    public IReadOnlyList<CompiledRule> Rules { get; }

    /// <summary>The rules that match, most urgent first, then by id.</summary>
    public IReadOnlyList<Decision> Matches(Facts facts) =>
        [.. Listening(facts.Event.Type).Select(r => r.Decide(facts)).Where(d => d.Outcome == Outcome.Matched).OrderByDescending(d => d.Rule.Urgency).ThenBy(d => d.Rule.Id, StringComparer.Ordinal)];

    /// <summary>Every rule that listens to the event, by id, with every condition's verdict.</summary>
    public IReadOnlyList<Decision> Explain(Facts facts) => [.. Listening(facts.Event.Type).Select(r => r.Explain(facts))];

    private CompiledRule[] Listening(string type) => byEvent.GetValueOrDefault(type, []);
}
