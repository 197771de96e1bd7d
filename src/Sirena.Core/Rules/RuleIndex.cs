using System.Collections.Frozen;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Rules;

/// <summary>
/// The rules of one event type, found by the equalities that their conditions cannot hold without (<c>risk is high</c>, <c>the group is one of …</c>, a line's
/// tag), so that an event meets
/// only rules that may fit. Each rule stands under one field: the one whose keys it shares with the fewest others. A rule without an equality is asked each
/// time.
/// </summary>
internal sealed class RuleIndex
{
    private readonly CompiledRule[] always;
    private readonly (Field Field, FrozenDictionary<object, CompiledRule[]> ByKey, CompiledRule[] All)[] fields;

    /// <summary>Makes an index over rules that are on.</summary>
    public RuleIndex(IReadOnlyList<CompiledRule> rules)
    {
        var choices = rules.Select(r => (Rule: r, Ways: Necessary(r))).ToArray();
        var shared = choices.SelectMany(c => c.Ways.Values.SelectMany(w => w.Keys.Select(k => (w.Field.Path, k)))).CountBy(k => k).ToDictionary();
        always = [.. choices.Where(c => c.Ways.Count == 0).Select(c => c.Rule)];
        fields =
        [
            .. choices
                .Where(c => c.Ways.Count > 0)
                .Select(c => (c.Rule, Way: c.Ways.Values.MinBy(w => (w.Keys.Sum(k => (long)shared[(w.Field.Path, k)]), w.Field.Path))))
                .GroupBy(c => c.Way.Field.Path)
                .Select(g =>
                    (
                        g.First().Way.Field,
                        g.SelectMany(c => c.Way.Keys.Select(k => (k, c.Rule)))
                            .GroupBy(k => k.k)
                            .ToFrozenDictionary(k => k.Key, k => k.Select(x => x.Rule).ToArray()),
                        g.Select(c => c.Rule).ToArray()
                    )
                ),
        ];
    }

    /// <summary>Every rule that may fit, each once.</summary>
    public List<CompiledRule> Candidates(Facts facts)
    {
        var found = new List<CompiledRule>(always);
        foreach (var (field, byKey, all) in fields)
        {
            if (Question.KeysOf(field, facts) is not { } keys)
            {
                found.AddRange(all);
                continue;
            }

            var (begin, hits) = (found.Count, 0);
            foreach (var key in keys)
            {
                if (byKey.TryGetValue(key, out var rules))
                {
                    found.AddRange(rules);
                    hits++;
                }
            }

            if (hits > 1)
            {
                // A field with several values may lead to one rule by several keys.
                var once = found.Skip(begin).Distinct().ToArray();
                found.RemoveRange(begin, found.Count - begin);
                found.AddRange(once);
            }
        }

        return found;
    }

    // The equalities of which, for each field, one must hold: those of the rule's own conditions, and those that every case asks for.
    private static Dictionary<string, (Field Field, HashSet<object> Keys)> Necessary(CompiledRule rule) =>
        Both(Of(rule, rule.Rule.OnlyIf), Either([.. rule.Rule.Cases.Select(c => Of(rule, c.OnlyIf))]));

    private static Dictionary<string, (Field Field, HashSet<object> Keys)> Of(CompiledRule rule, Condition? condition) =>
        condition switch
        {
            ConditionLeaf leaf when rule.Of(leaf).Equalities() is { } e => new() { [e.Field.Path] = (e.Field, [.. e.Keys]) },
            ConditionGroup { Grouping: Grouping.All } all => all.Items.Select(i => Of(rule, i)).Aggregate(Both),
            ConditionGroup { Grouping: Grouping.Any } any => Either([.. any.Items.Select(i => Of(rule, i))]),
            _ => [],
        };

    private static Dictionary<string, (Field Field, HashSet<object> Keys)> Both(
        Dictionary<string, (Field Field, HashSet<object> Keys)> a,
        Dictionary<string, (Field Field, HashSet<object> Keys)> b
    )
    {
        foreach (var (path, way) in b)
        {
            a[path] = a.TryGetValue(path, out var known) && known.Keys.Count <= way.Keys.Count ? known : way;
        }

        return a;
    }

    private static Dictionary<string, (Field Field, HashSet<object> Keys)> Either(Dictionary<string, (Field Field, HashSet<object> Keys)>[] parts) =>
        parts.Length == 0
            ? []
            : parts[0]
                .Where(p => parts.All(o => o.ContainsKey(p.Key)))
                .ToDictionary(p => p.Key, p => (p.Value.Field, parts.SelectMany(o => o[p.Key].Keys).ToHashSet()));
}
