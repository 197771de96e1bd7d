using NodaTime;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Rules;

/// <summary>Every operator that compares, below its edge, upon it and above it, for each kind of value that has an order.</summary>
public sealed class OperatorEdgesTests
{
    // A kind of value: the field, how an order holds a value of it, and five values in order; the second and the fourth are asked for.
    private static readonly (string Field, string Order, string[] Values)[] Kinds =
    [
        ("order.total", """{"total":#,"currency":"EUR"}""", ["4.99", "5", "7", "9", "9.01"]),
        ("order.risk.score", """{"risk":{"score":#}}""", ["19", "20", "50", "80", "81"]),
        ("order.extra.crew", """{"extra":{"crew":#}}""", ["-0.001", "0", "0.5", "1", "1.000001"]),
        (
            "order.dueAt",
            """{"dueAt":#}""",
            [
                "\"2026-11-24T15:29:59Z\"",
                "\"2026-11-24T16:30:00+01:00\"",
                "\"2026-11-25T00:00:00Z\"",
                "\"2026-11-25T15:30:00Z\"",
                "\"2026-11-25T15:30:00.001Z\"",
            ]
        ),
    ];

    private static readonly (string Is, string Holds)[] Single =
    [
        ("equal", "-+---"),
        ("not-equal", "+-+++"),
        ("at-least", "-++++"),
        ("at-most", "++---"),
        ("more-than", "--+++"),
        ("less-than", "+----"),
    ];

    private static string Asked(string field, string order, string[] values, string op, string wanted) =>
        string.Concat(values.Select(v => Ask(Leaf(field, op, wanted), Facts(order.Replace("#", v, StringComparison.Ordinal))).Holds ? '+' : '-'));

    [Fact]
    public void What_takes_one_value_turns_exactly_there()
    {
        foreach (var (field, order, values) in Kinds)
        {
            foreach (var (op, holds) in Single)
            {
                Assert.Equal($"{field} {op} {holds}", $"{field} {op} {Asked(field, order, values, op, values[1])}");
            }
        }
    }

    [Fact]
    public void Between_takes_both_its_ends_and_nothing_beyond_and_one_of_takes_each_of_its_values()
    {
        foreach (var (field, order, values) in Kinds)
        {
            var wanted = $"[{values[1]}, {values[3]}]";
            Assert.Equal($"{field} -+++-", $"{field} {Asked(field, order, values, "between", wanted)}");
            Assert.Equal($"{field} -+-+-", $"{field} {Asked(field, order, values, "one-of", wanted)}");
        }
    }

    [Theory]
    [InlineData("equal", "-+-")]
    [InlineData("not-equal", "+-+")]
    [InlineData("at-least", "-++")]
    [InlineData("at-most", "++-")]
    [InlineData("more-than", "--+")]
    [InlineData("less-than", "+--")]
    public void Levels_are_in_their_order(string op, string holds) =>
        Assert.Equal(holds, Asked("order.risk.level", """{"risk":{"level":#}}""", ["\"low\"", "\"medium\"", "\"high\""], op, "\"medium\""));

    // The event is of noon: that long until the order is due.
    [Theory]
    [InlineData("less-than", "+--")]
    [InlineData("at-most", "++-")]
    [InlineData("at-least", "-++")]
    [InlineData("between", "-++")]
    public void Lengths_of_time_turn_to_the_second(string op, string holds) =>
        Assert.Equal(
            holds,
            Asked(
                "order.until-due",
                """{"dueAt":#}""",
                ["\"2026-11-24T12:29:59Z\"", "\"2026-11-24T12:30:00Z\"", "\"2026-11-24T12:30:01Z\""],
                op,
                op == "between" ? "[\"PT30M\", \"PT1H\"]" : "\"PT30M\""
            )
        );

    [Theory]
    [InlineData("one-of", "[\"walk-in\",\"post\"]", true, false)]
    [InlineData("none-of", "[\"walk-in\",\"post\"]", false, true)]
    [InlineData("starts-with", "\"walk\"", true, false)]
    [InlineData("contains", "\"ALK\"", true, false)]
    public void Words_are_one_of_a_list_or_none_of_it(string op, string wanted, bool walkIn, bool web) =>
        Assert.Equal(
            (walkIn, web),
            (Ask(Leaf("order.via", op, wanted), Facts("""{"via":"Walk-in"}""")).Holds, Ask(Leaf("order.via", op, wanted), Facts("""{"via":"web"}""")).Holds)
        );

    // A line that cannot be compared is no proof that none is so: it is said, and the condition fails.
    [Theory]
    [InlineData("any", "3", true, false)]
    [InlineData("any", "9", false, true)]
    [InlineData("all", "1", false, true)]
    [InlineData("none", "9", false, true)]
    [InlineData("none", "3", false, true)]
    public void None_of_lines_that_cannot_be_compared_is_not_known(string quantifier, string wanted, bool holds, bool said)
    {
        var facts = Facts("""{"lines":[{"quantity":4},{"quantity":"a few"},{"quantity":2}]}""");
        var (found, problem) = Ask(Leaf($"order.lines.{quantifier}.quantity", "at-least", wanted), facts);
        Assert.Equal(holds, found);
        if (said)
        {
            Assert.Contains("which is not a number", problem);
        }
    }

    [Fact]
    public void Unlike_currencies_among_lines_are_not_known_either()
    {
        var facts = Facts("""{"currency":"EUR","lines":[{"unitPrice":4},{"unitPrice":{"amount":3,"currency":"USD"}}]}""");
        var (none, problem) = Ask(Leaf("order.lines.none.unitPrice", "more-than", "10"), facts);
        Assert.False(none);
        Assert.NotNull(problem);
    }
}
