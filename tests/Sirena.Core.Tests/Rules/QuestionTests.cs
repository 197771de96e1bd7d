using CsCheck;
using NodaTime;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Rules;

public class QuestionTests
{
    private const string Order = """
        {"number":"AQ-1","status":"picking","total":1284.50,"currency":"EUR","placedAt":"2026-11-24T09:00:00Z","dueAt":"2026-11-24T15:30:00Z","customer":{"name":"RV Professor Ólafur","group":"yachts"},
         "risk":{"level":"medium","score":62},"tags":["export"],"berth":"N3","extra":{"vessel":"MV Corvane","crew":12},
         "lines":[{"title":"Gin, case of 6","quantity":2,"unitPrice":96.00,"tags":["bonded"]},{"title":"Bread","quantity":4,"unitPrice":18.60,"tags":[]}]}
        """;

    [Theory]
    [InlineData("order.status", "equal", "\"Picking\"", true)]
    [InlineData("order.customer.name", "contains", "\"olafur\"", true)]
    [InlineData("order.customer.name", "starts-with", "\"rv\"", true)]
    [InlineData("order.customer.group", "one-of", "[\"yachts\",\"research\"]", true)]
    [InlineData("order.customer.group", "none-of", "[\"yachts\"]", false)]
    [InlineData("order.customer.group", "not-equal", "\"ferries\"", true)]
    [InlineData("order.customer.name", "matches", "^rv .*lafur$", true, true)]
    [InlineData("order.total", "at-least", "1284.5", true)]
    [InlineData("order.total", "more-than", "1284.5", false)]
    [InlineData("order.total", "between", "[1284.50, 2000]", true)]
    [InlineData("order.total", "one-of", "[1, 1284.5]", true)]
    [InlineData("order.risk.score", "less-than", "63", true)]
    [InlineData("order.risk.level", "at-least", "\"medium\"", true)]
    [InlineData("order.risk.level", "more-than", "\"medium\"", false)]
    [InlineData("order.dueAt", "at-most", "\"2026-11-24T16:30:00+01:00\"", true)]
    [InlineData("order.until-due", "less-than", "\"PT4H\"", true)]
    [InlineData("order.age", "equal", "\"PT3H\"", true)]
    [InlineData("order.tags", "contains", "\"Export\"", true)]
    [InlineData("order.tags", "contains-any", "[\"x\",\"export\"]", true)]
    [InlineData("order.tags", "contains-all", "[\"x\",\"export\"]", false)]
    [InlineData("order.customer.tags", "empty", null, false)]
    [InlineData("order.hold.reason", "missing", null, true)]
    [InlineData("order.hold.reason", "present", null, false)]
    [InlineData("order.lines.any.tags", "contains", "\"bonded\"", true)]
    [InlineData("order.lines.all.quantity", "at-least", "2", true)]
    [InlineData("order.lines.none.title", "contains", "\"gin\"", false)]
    [InlineData("order.lines.count", "equal", "2", true)]
    [InlineData("order.lines.sum.quantity", "equal", "6", true)]
    [InlineData("order.lines.sum.value", "equal", "266.40", true)]
    [InlineData("order.extra.berth", "equal", "\"n3\"", true)]
    [InlineData("order.extra.crew", "at-least", "12", true)]
    [InlineData("event.local-hour", "equal", "12", true)]
    [InlineData("event.weekday", "one-of", "[\"mon\",\"tue\"]", true)]
    public void Each_operator_does_what_its_word_says(string field, string op, string? value, bool holds, bool text = false) =>
        Assert.Equal(holds, Ask(Leaf(field, op, text ? $"\"{value}\"" : value), Facts(Order)).Holds);

    [Fact]
    public void A_missing_field_fails_every_operator_but_missing_and_changed() =>
        Gen.OneOf([.. Operators.For(Core.Orders.Fields.FieldType.Text).Select(o => Gen.Const(o))])
            .Sample(op =>
            {
                var value =
                    op.TakesNothing() ? null
                    : op.TakesList() ? "[\"x\"]"
                    : "\"x\"";
                return Ask(Leaf("order.via", op.Name(), value), Facts("{}")).Holds == (op == Operator.Missing);
            });

    [Theory]
    [InlineData("order.lines.any.quantity", false)]
    [InlineData("order.lines.all.quantity", false)]
    [InlineData("order.lines.none.quantity", true)]
    [InlineData("order.lines.count", true)]
    [InlineData("order.lines.sum.quantity", true)]
    public void Over_no_lines_any_and_all_fail_none_holds_count_and_sum_are_zero(string field, bool holds) =>
        Assert.Equal(holds, Ask(Leaf(field, "equal", "0"), Facts("{}")).Holds);

    [Fact]
    public void Who_writes_and_what_a_source_says_can_be_asked_for()
    {
        Assert.True(Ask(Leaf("contact.subject", "contains", "\"complaint\""), Facts("{}", data: """{"contact":{"subject":"A COMPLAINT about AQ-1"}}""")).Holds);
        Assert.True(Ask(Leaf("source.id", "equal", "\"ledger\""), Facts("{}", data: """{"source":{"id":"ledger"}}""")).Holds);
    }

    [Theory]
    [InlineData("stock.onHand", "at-most", "stock.threshold", true)]
    [InlineData("stock.onHand", "more-than", "stock.threshold", false)]
    [InlineData("stock.onHand", "equal", "stock.onHand", true)]
    [InlineData("stock.title", "equal", "stock.sku", true)]
    [InlineData("stock.title", "not-equal", "stock.site", true)]
    [InlineData("order.total", "at-most", "order.lines.sum.value", true)]
    [InlineData("order.placedAt", "less-than", "order.dueAt", true)]
    [InlineData("order.extra.limit", "at-least", "order.total", true)]
    public void A_field_is_compared_with_another_field(string field, string op, string other, bool holds) =>
        Assert.Equal(
            holds,
            Ask(
                Leaf(field, op, $"{{\"field\":\"{other}\"}}"),
                Facts(
                    """{"total":5,"currency":"EUR","placedAt":"2026-11-24T09:00:00Z","dueAt":"2026-11-24T15:30:00Z","extra":{"limit":9},"lines":[{"quantity":2,"unitPrice":3}]}""",
                    data: """{"stock":{"sku":"Caf\u00e9","title":"CAFE","site":"galley","onHand":5,"threshold":5.0}}"""
                )
            ).Holds
        );

    [Fact]
    public void Where_the_other_field_is_missing_nothing_is_compared_and_it_says_so()
    {
        var (holds, problem) = Ask(Leaf("stock.onHand", "not-equal", """{"field":"stock.threshold"}"""), Facts("{}", data: """{"stock":{"onHand":5}}"""));
        Assert.False(holds);
        Assert.Contains("stock.threshold is missing", problem);
        Assert.False(
            Ask(Leaf("order.total", "equal", """{"field":"order.extra.limit"}"""), Facts("""{"total":9,"currency":"USD","extra":{"limit":"nine"}}""")).Holds
        );
        Assert.Equal(
            "the quantity on hand is at most the threshold",
            new RuleSentence(n => n).Of((Condition)Leaf("stock.onHand", "at-most", """{"field":"stock.threshold"}"""))
        );
    }

    [Theory]
    [InlineData("stock.onHand", "between", "stock.threshold", "takes no field")]
    [InlineData("stock.onHand", "at-most", "stock.treshold", "Did you mean 'stock.threshold'")]
    [InlineData("stock.onHand", "at-most", "stock.title", "are not compared")]
    [InlineData("order.via", "equal", "order.lines.any.sku", "are not compared")]
    public void Fields_that_do_not_compare_are_refused(string field, string op, string other, string sentence) =>
        Assert.Contains(sentence, Question.TryMake(Leaf(field, op, $"{{\"field\":\"{other}\"}}"), out _)!.Value.Problem);

    [Fact]
    public void Unlike_currencies_never_compare_and_say_so()
    {
        var (holds, problem) = Ask(Leaf("order.total", "not-equal", """{"amount":5,"currency":"USD"}"""), Facts(Order));
        Assert.False(holds);
        Assert.Contains("unlike currencies", problem);
        Assert.False(Ask(Leaf("order.total", "at-least", "5"), Facts("""{"total":9,"currency":"USD"}""")).Holds);
    }

    [Fact]
    public void Exactly_minds_case_and_accents() => Assert.False(Ask(Leaf("order.status", "equal", "\"Picking\"", exactly: true), Facts(Order)).Holds);

    [Fact]
    public void Changed_compares_before_and_after()
    {
        Assert.True(Ask(Leaf("order.total", "changed"), Facts("""{"total":2}""", """{"total":1}""")).Holds);
        Assert.False(Ask(Leaf("order.total", "changed"), Facts("""{"total":2.0}""", """{"total":2}""")).Holds);
        Assert.True(Ask(Leaf("order.hold.reason", "changed"), Facts("{}", """{"hold":{"reason":"x"}}""")).Holds);
    }

    [Fact]
    public void A_regular_expression_that_would_run_for_ever_stops_and_says_so()
    {
        var (holds, problem) = Ask(Leaf("order.via", "matches", "\"^(a+)+\\\\1$\""), Facts($$"""{"via":"{{new string('a', 40)}}b"}"""));
        Assert.False(holds);
        Assert.Equal("time limit", problem);
    }

    [Theory]
    [InlineData("{}", false, false)]
    [InlineData("""{"extra":{}}""", false, false)]
    [InlineData("""{"extra":{"v":null}}""", false, false)]
    [InlineData("""{"extra":{"v":0}}""", true, false)]
    [InlineData("""{"extra":{"v":false}}""", true, false)]
    [InlineData("""{"extra":{"v":"x"}}""", true, false)]
    [InlineData("""{"extra":{"v":{}}}""", true, false)]
    [InlineData("""{"extra":{"v":[]}}""", true, true)]
    [InlineData("""{"extra":{"v":[1]}}""", true, false)]
    public void What_is_there_is_present_whatever_it_is(string order, bool present, bool empty)
    {
        Assert.Equal((present, null), Ask(Leaf("order.extra.v", "present"), Facts(order)));
        Assert.Equal(!present, Ask(Leaf("order.extra.v", "missing"), Facts(order)).Holds);
        Assert.Equal(empty, Ask(Leaf("order.extra.v", "empty"), Facts(order)).Holds);
    }

    // What a rule writes as a number is looked for as it is written.
    [Theory]
    [InlineData("order.extra.codes", "contains", "204", true)]
    [InlineData("order.extra.codes", "contains", "20", false)]
    [InlineData("order.extra.codes", "contains-any", "[9, 204]", true)]
    [InlineData("order.extra.codes", "contains-any", "[9, 20]", false)]
    [InlineData("order.extra.codes", "contains-all", "[7, 204]", true)]
    [InlineData("order.extra.codes", "contains-all", "[7, 9]", false)]
    [InlineData("order.extra.ref", "starts-with", "204", true)]
    [InlineData("order.extra.ref", "starts-with", "418", false)]
    [InlineData("order.extra.ref", "contains", "418", true)]
    public void Numbers_are_found_in_lists_and_texts(string field, string op, string value, bool holds) =>
        Assert.Equal(holds, Ask(Leaf(field, op, value), Facts("""{"extra":{"codes":[204,7.0],"ref":"20418"}}""")).Holds);

    // A machine that is busy for the twentieth of a second must not make a rule miss what it was written for.
    [Fact]
    public void Only_a_pattern_that_may_backtrack_is_held_to_a_time_that_a_busy_machine_takes()
    {
        Assert.Equal(TimeSpan.FromMilliseconds(50), Question.Pattern(@"(a)\1", exactly: false).MatchTimeout);
        Assert.True(Question.Pattern("allerg|sesame|nuts?", exactly: false).MatchTimeout >= TimeSpan.FromSeconds(1));
        var long1 = new string('x', 3_000_000) + "sesame";
        Assert.Equal((true, null), Ask(Leaf("order.via", "matches", "\"x*y|(x|xx)*sesame\""), Facts($$"""{"via":"{{long1}}"}""")));
    }

    [Fact]
    public void Clock_fields_follow_the_business_through_a_clock_change() =>
        Assert.True(Ask(Leaf("event.local-hour", "equal", "2"), Facts("{}", time: Instant.FromUtc(2026, 3, 29, 1, 0))).Holds);

    [Theory]
    [InlineData("order.totl", "equal", "1", "Did you mean 'order.total'?")]
    [InlineData("order.total", "contains", "1", "does not work on order.total, which is money")]
    [InlineData("order.total", "between", "[1]", "needs two values")]
    [InlineData("order.risk.level", "equal", "\"severe\"", "one of low, medium, high")]
    [InlineData("order.via", "matches", "\"(\"", "not a regular expression")]
    [InlineData("order.via", "present", "1", "takes no value")]
    [InlineData("order.via", "equal", null, "needs a value")]
    public void A_mistake_is_said_in_a_sentence(string field, string op, string? value, string sentence) =>
        Assert.Contains(sentence, Question.TryMake(Leaf(field, op, value), out _)!.Value.Problem);

    [Fact]
    public void At_least_and_less_than_are_opposites_for_any_amounts() =>
        Gen.Select(Gen.Decimal[-1000, 1000], Gen.Decimal[-1000, 1000])
            .Sample(
                (found, wanted) =>
                {
                    var facts = Facts(FormattableString.Invariant($"{{\"total\":{found}}}"));
                    var value = wanted.ToString(System.Globalization.CultureInfo.InvariantCulture);
                    return Ask(Leaf("order.total", "at-least", value), facts).Holds == found >= wanted
                        && Ask(Leaf("order.total", "less-than", value), facts).Holds == found < wanted;
                }
            );
}
