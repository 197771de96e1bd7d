using System.Collections.Immutable;
using NodaTime;
using Sirena.Core.Ladders;

namespace Sirena.Core.Rules;

/// <summary>A part of a rule that two versions have differently, in words; <see langword="null"/> on the side that has none.</summary>
/// <param name="What">The part: <c>Only if</c>, <c>Case high, tell</c>.</param>
/// <param name="Before">In the one.</param>
/// <param name="After">In the other.</param>
public sealed record RuleChange(string What, string? Before, string? After);

/// <summary>What differs between two versions of a rule, part by part in the order of the sentence.</summary>
/// <param name="sentence">Says the parts.</param>
public sealed class RuleDifference(RuleSentence sentence)
{
    /// <summary>Every part that differs; none when the versions say the same.</summary>
    public IReadOnlyList<RuleChange> Between(Rule before, Rule after)
    {
        var (old, now) = (Parts(before), Parts(after));
        var found = old.Select(p => (p.What, Before: (string?)p.Said, After: now.FirstOrDefault(n => n.What == p.What).Said))
            .Where(p => p.Before != p.After)
            .Select(p => new RuleChange(p.What, p.Before, p.After))
            .ToList();
        found.AddRange(now.Where(n => old.All(p => p.What != n.What)).Select(n => new RuleChange(n.What, null, n.Said)));
        string[] order = [.. old.Concat(now).Select(p => p.What).Distinct()];
        return [.. found.OrderBy(c => Array.IndexOf(order, c.What)), .. CaseOrder(before, after)];
    }

    private static IEnumerable<RuleChange> CaseOrder(Rule before, Rule after)
    {
        string[] old = [.. before.Cases.Select(c => c.Name)],
            now = [.. after.Cases.Select(c => c.Name)];
        return old.Length > 1 && !old.SequenceEqual(now) && old.Order(StringComparer.Ordinal).SequenceEqual(now.Order(StringComparer.Ordinal))
            ? [new RuleChange("Order of the cases", string.Join(", ", old), string.Join(", ", now))]
            : [];
    }

    private List<(string What, string Said)> Parts(Rule rule)
    {
        List<(string What, string Said)> parts =
        [
            ("Name", rule.Name),
            ("On", rule.On ? "on" : "off"),
            ("When", sentence.When(rule)),
            ("Urgency", rule.Urgency.Name()),
        ];
        if (rule.OnlyIf is { } only)
        {
            parts.Add(("Only if", sentence.Of(only)));
        }

        foreach (var one in rule.Cases)
        {
            var name = rule.Cases.Length == 1 && one.OnlyIf is null ? "" : $"Case {one.Name}, ";
            void Add(string what, string said) => parts.Add((name.Length == 0 ? Sentences.Capital(what) : name + what, said));
            if (one.OnlyIf is { } condition)
            {
                Add("only if", sentence.Of(condition));
            }

            Add("tell", one.Tell.IsEmpty ? "nobody" : string.Join(", ", one.Tell.Select(sentence.Of)));
            Add("by", RuleSentence.Of(one.By));
            if (one.By is { FirstThatLands: true } first)
            {
                Add("wait for each", first.Wait.ExactWords());
            }

            if (one.SharedLadder is { } shared)
            {
                Add("ladder", $"the shared one '{shared}'");
            }

            for (var i = 0; i < one.Ladder.Length; i++)
            {
                Add($"step {i + 1}", sentence.Of(one.Ladder[i], one.By));
            }

            if (!one.Do.IsEmpty)
            {
                Add("asks the order system", sentence.Of(one.Do));
            }

            if (!one.OnLanded.IsEmpty)
            {
                Add("when a message has landed", sentence.Of(one.OnLanded));
            }

            if (!one.Offer.IsEmpty)
            {
                Add("offers", sentence.Of(one.Offer));
            }

            foreach (var answer in one.OnAnswer)
            {
                Add($"on {answer.Answer.Name()}", sentence.Of(answer.Do));
            }

            if (one.Wording is { } wording)
            {
                Add("wording", wording);
            }

            if (one.NotOlderThan is { } age)
            {
                Add("not older than", age.ExactWords());
            }
        }

        parts.AddRange(
            RuleOptions
                .All.Select(o => (o.What, Value: o.Get(rule), o.Compared))
                .Where(o => o.Value is not null)
                .Select(o => (o.What, o.Compared(sentence, o.Value!)))
        );
        return parts;
    }
}
