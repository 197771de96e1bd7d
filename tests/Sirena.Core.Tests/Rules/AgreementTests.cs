using CsCheck;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Formats.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Rules;

/// <summary>What must agree for any rule and any order.</summary>
public class AgreementTests
{
    [Fact]
    public void Compiled_and_interpreted_evaluation_agree() =>
        Gen.Select(Anything.Condition, Anything.Order)
            .Sample(
                (condition, order) =>
                    new CompiledRule(Rule("r", condition), 1).Decide(Facts(order)).Outcome == Outcome.Matched == Interpret(condition, Facts(order))
            );

    [Fact]
    public void The_index_finds_what_asking_every_rule_finds() =>
        Gen.Select(Anything.Rule.List[1, 30], Anything.Order)
            .Sample(
                (rules, order) =>
                {
                    CompiledRule[] compiled = [.. rules.DistinctBy(r => r.Id).Select(r => new CompiledRule(r, 1))];
                    var asked = compiled.Where(r => r.Decide(Facts(order)).Outcome == Outcome.Matched).Select(r => r.Rule.Id).Order(StringComparer.Ordinal);
                    return asked.SequenceEqual(new RuleBook(1, compiled).Matches(Facts(order)).Select(d => d.Rule.Id));
                }
            );

    [Fact]
    public void An_index_passes_over_rules_that_cannot_fit()
    {
        var rules = Enumerable
            .Range(0, 200)
            .Select(n => new CompiledRule(
                Rule($"r{n:000}", new ConditionGroup(Grouping.All, [Leaf("order.via", "equal", $"\"v{n}\""), Leaf("order.total", "at-least", "1")])),
                1
            ))
            .ToArray();
        Assert.Equal("r017", Assert.Single(new RuleIndex(rules).Candidates(Facts("""{"via":"V17","total":2}"""))).Rule.Id);
        Assert.Empty(new RuleIndex(rules).Candidates(Facts("{}")));
    }

    [Fact]
    public void An_index_goes_by_what_one_of_several_must_be_and_by_what_every_case_asks()
    {
        ConditionGroup Any(params string[] ways) => new(Grouping.Any, [.. ways.Select(w => Leaf("order.via", "equal", $"\"{w}\""))]);
        RuleCase Case(string way) => new() { Name = way, OnlyIf = Leaf("order.via", "equal", $"\"{way}\"") };
        CompiledRule[] rules =
        [
            new(Rule("either", Any("web", "phone")), 1),
            new(Rule("cases", cases: [Case("web"), Case("mail")]), 1),
            new(Rule("open", cases: [Case("web"), new RuleCase { Name = "otherwise" }]), 1),
        ];
        string Found(string order) => string.Join(' ', new RuleIndex(rules).Candidates(Facts(order)).Select(r => r.Rule.Id).Order(StringComparer.Ordinal));
        Assert.Equal(
            ["cases either open", "either open", "cases open", "open", "open"],
            new[] { "web", "phone", "mail", "shop", "" }.Select(w => Found($$"""{"via":"{{w}}"}"""))
        );
    }

    [Fact]
    public void Written_and_read_again_it_is_the_same_rule() =>
        Anything.Rule.Sample(rule =>
        {
            var text = RuleWriter.Write(rule).ToJsonString();
            var (again, errors) = RuleReader.Read(text, yaml: false);
            return errors.Count == 0 && RuleWriter.Write(again!).ToJsonString() == text;
        });

    [Fact]
    public void The_sentence_never_lies_about_all_and_any() =>
        Gen.Select(Flags(Flags(Flags(Gen.Int[0, 4]))), Gen.Int[0, 31])
            .Sample(
                (condition, bits) =>
                {
                    var facts = Facts($"{{{string.Join(',', Enumerable.Range(0, 5).Where(i => (bits >> i & 1) == 1).Select(i => $"\"x{i}\":1"))}}}");
                    return new Reading(new RuleSentence(id => id).Of(condition), facts).Whole() == Interpret(condition, facts);
                }
            );

    private static bool Interpret(Condition condition, Facts facts) =>
        condition switch
        {
            ConditionLeaf leaf => Ask(leaf, new Facts(facts.Event, facts.Zone, facts.Currency)).Holds,
            ConditionGroup { Grouping: Grouping.All } group => group.Items.All(i => Interpret(i, facts)),
            ConditionGroup { Grouping: Grouping.Any } group => group.Items.Any(i => Interpret(i, facts)),
            ConditionGroup group => !group.Items.Any(i => Interpret(i, facts)),
            _ => throw new InvalidOperationException(),
        };

    private static Gen<Condition> Flags(Gen<int> flag) => Flags(flag.Select(n => (Condition)Leaf($"order.extra.x{n}", "present")));

    private static Gen<Condition> Flags(Gen<Condition> inner) =>
        Gen.Frequency((1, inner), (3, Gen.Select(Gen.Enum<Grouping>(), inner.Array[1, 3], (g, items) => (Condition)new ConditionGroup(g, [.. items]))));

    /// <summary>Reads a sentence as a person would: brackets first, commas go with the word before the last part, and no level mixes 'and' with 'or'.</summary>
    private sealed class Reading(string sentence, Facts facts)
    {
        private int at;

        public bool Whole()
        {
            var value = Level();
            return at == sentence.Length ? value : throw new InvalidOperationException($"Not read to the end: {sentence}");
        }

        private bool Level()
        {
            var none = Take("none of these holds: ");
            List<bool> parts = [Part()];
            var words = new HashSet<string>();
            while (at < sentence.Length && sentence[at] != ')')
            {
                words.Add(
                    Take(", ") ? ","
                    : Take(" and ") ? "and"
                    : Take(" or ") ? "or"
                    : throw new InvalidOperationException($"At {at}: {sentence}")
                );
                parts.Add(Part());
            }

            words.Remove(",");
            return none ? words.Count == 0 && !parts.Contains(true)
                : words.Count > 1 ? throw new InvalidOperationException($"'and' and 'or' on one level: {sentence}")
                : words.Contains("or") ? parts.Contains(true)
                : !parts.Contains(false);
        }

        private bool Part()
        {
            if (Take("("))
            {
                var inner = Level();
                return Take(")") ? inner : throw new InvalidOperationException($"No closing bracket: {sentence}");
            }

            var name = sentence[at..(at + 2)];
            at += 2;
            return Take(" is there") ? Ask(Leaf("order.extra." + name, "present"), facts).Holds : throw new InvalidOperationException($"At {at}: {sentence}");
        }

        private bool Take(string text)
        {
            var there = sentence.AsSpan(at).StartsWith(text);
            at += there ? text.Length : 0;
            return there;
        }
    }
}
