using System.Collections.Immutable;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Rules;

/// <summary>A rule's version made ready to decide: every leaf a <see cref="Question"/>, every group a closure over its parts.</summary>
public sealed class CompiledRule
{
    private readonly Dictionary<ConditionLeaf, Question> questions = new(ReferenceEqualityComparer.Instance);
    private readonly Func<Facts, bool> onlyIf;
    private readonly ImmutableArray<(RuleCase Case, Func<Facts, bool> OnlyIf)> cases;

    /// <summary>Makes a rule ready.</summary>
    /// <exception cref="ArgumentException">A condition has a mistake; documents are checked when they are read.</exception>
    public CompiledRule(Rule rule, int version)
    {
        (Rule, Version) = (rule, version);
        onlyIf = Compile(rule.OnlyIf);
        cases = [.. rule.Cases.Select(c => (c, Compile(c.OnlyIf)))];
    }

    /// <summary>The rule.</summary>
    public Rule Rule { get; }

    /// <summary>Its version.</summary>
    public int Version { get; }

    /// <summary>A leaf of the rule, made ready.</summary>
    internal Question Of(ConditionLeaf leaf) => questions[leaf];

    /// <summary>The verdict alone.</summary>
    public Decision Decide(Facts facts)
    {
        if (!Rule.On)
        {
            return new Decision(Rule, Version, Outcome.Off, null, []);
        }

        var used = onlyIf(facts) ? cases.FirstOrDefault(c => c.OnlyIf(facts)).Case : null;
        return new Decision(Rule, Version, used is null ? Outcome.NotMatched : Outcome.Matched, used, []);
    }

    /// <summary>The verdict with every condition asked: the rule's own, then those of each case up to the one used.</summary>
    public Decision Explain(Facts facts)
    {
        var verdict = Decide(facts);
        var trace = Trace(Rule.OnlyIf, facts, null).ToList();
        if (onlyIf(facts))
        {
            foreach (var (one, holds) in cases)
            {
                trace.AddRange(Trace(one.OnlyIf, facts, one.Name));
                if (holds(facts))
                {
                    break;
                }
            }
        }

        return verdict with
        {
            Conditions = trace,
        };
    }

    private IEnumerable<ConditionTrace> Trace(Condition? condition, Facts facts, string? ofCase) =>
        condition?.Leaves.Select(leaf => questions[leaf].Explain(facts, ofCase)) ?? [];

    private Func<Facts, bool> Compile(Condition? condition)
    {
        switch (condition)
        {
            case null:
                return _ => true;
            case ConditionLeaf leaf:
                var question = questions[leaf] = Make(leaf);
                return facts => question.Holds(facts, out _);
            case ConditionGroup group:
                Func<Facts, bool>[] parts = [.. group.Items.Select(Compile)];
                return group.Grouping switch
                {
                    Grouping.All => facts => Array.TrueForAll(parts, p => p(facts)),
                    Grouping.Any => facts => Array.Exists(parts, p => p(facts)),
                    _ => facts => !Array.Exists(parts, p => p(facts)),
                };
            default:
                throw new ArgumentException($"A condition of an unknown kind: {condition}.", nameof(condition));
        }
    }

    private static Question Make(ConditionLeaf leaf) =>
        Question.TryMake(leaf, out var question) is { } mistake ? throw new ArgumentException(mistake.Problem, nameof(leaf)) : question!;
}
