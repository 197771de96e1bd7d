using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Rules;

public class RuleBookTests
{
    private static RuleBook Book(params Rule[] rules) => new(1, rules.Select(r => new CompiledRule(r, 1)));

    [Fact]
    public void Only_rules_that_listen_are_asked_and_the_most_urgent_comes_first()
    {
        var book = Book(Rule("b"), Rule("a"), Rule("z", urgency: Urgency.Urgent), Rule("other", when: "order.placed"), Rule("off", on: false));
        Assert.Equal(["z", "a", "b"], book.Matches(Facts("{}")).Select(d => d.Rule.Id));
        Assert.Equal(["a", "b", "off", "z"], book.Explain(Facts("{}")).Select(d => d.Rule.Id));
    }

    [Fact]
    public void A_book_knows_whether_somebody_listens_and_whether_anything_is_gathered()
    {
        var book = Book(Rule("a"), Rule("off", when: "order.placed", on: false), Rule("both", when: "order.paid"), Rule("too", when: "order.paid", on: false));
        Assert.Equal([true, false, true, false], new[] { "order.held", "order.placed", "order.paid", "order.shipped" }.Select(book.Listens));
        Assert.False(book.Gathers);
        Assert.Empty(book.Guarded);
        Assert.True(Book(Rule("a"), Rule("b") with { Gather = NodaTime.Duration.FromMinutes(1) }).Gathers);
        var guarded = Book(Rule("a"), Rule("b") with { Storm = new StormGuard(20, NodaTime.Duration.FromMinutes(10)) });
        Assert.True(guarded.Gathers);
        Assert.Equal(["b"], guarded.Guarded.Select(r => r.Id));
    }

    [Fact]
    public void The_first_case_that_holds_is_used_and_the_trace_stops_there()
    {
        var rule = Rule(
            "r",
            Leaf("order.total", "at-least", "1"),
            cases:
            [
                new RuleCase { Name = "high", OnlyIf = Leaf("order.risk.level", "equal", "\"high\"") },
                new RuleCase { Name = "medium", OnlyIf = Leaf("order.risk.level", "equal", "\"medium\"") },
                new RuleCase { Name = "otherwise" },
            ]
        );
        var decision = Book(rule).Explain(Facts("""{"total":5,"risk":{"level":"medium"}}"""))[0];
        Assert.Equal("medium", decision.Case!.Name);
        Assert.Equal([(null, true), ("high", false), ("medium", true)], decision.Conditions.Select(c => (c.Case, c.Holds)));
    }

    [Fact]
    public void A_rule_that_does_not_match_says_which_condition_failed_and_what_it_found()
    {
        var condition = new ConditionGroup(
            Grouping.All,
            [Leaf("order.total", "at-least", "500"), new ConditionGroup(Grouping.None, [Leaf("order.via", "equal", "\"web\"")])]
        );
        var decision = Book(Rule("r", condition)).Explain(Facts("""{"total":20,"via":"web"}"""))[0];
        Assert.Equal(Outcome.NotMatched, decision.Outcome);
        Assert.Equal("20", decision.Conditions[0].Found.GetRawText());
        Assert.Equal([false, true], decision.Conditions.Select(c => c.Holds));
    }

    [Fact]
    public void Verdict_and_trace_agree()
    {
        var rule = Rule("r", new ConditionGroup(Grouping.Any, [Leaf("order.total", "more-than", "10"), Leaf("order.via", "missing")]));
        foreach (var order in new[] { "{}", """{"total":11,"via":"web"}""", """{"total":9,"via":"web"}""" })
        {
            Assert.Equal(Book(rule).Matches(Facts(order)).Count == 1, Book(rule).Explain(Facts(order))[0].Outcome == Outcome.Matched);
        }
    }
}
