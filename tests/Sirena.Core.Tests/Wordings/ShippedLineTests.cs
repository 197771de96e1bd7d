using CsCheck;
using Sirena.Core.Wordings;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Wordings;

public class ShippedLineTests
{
    private static string Order(params (string Sku, int Quantity, int Shipped)[] lines) =>
        $$"""{"number":"AQ-1","lines":[{{string.Join(',', lines.Select(l => $$"""{"sku":"{{l.Sku}}","quantity":{{l.Quantity}},"shipped":{{l.Shipped}}}"""))}}]}""";

    private static string Of(string? before, string after) =>
        string.Join(' ', ShippedLine.Of(Event(after, "order.shipped", before)).Select(l => $"{l.Quantity}/{l.Shipped}/{l.Now}/{l.Later}"));

    [Fact]
    public void What_goes_now_is_what_was_shipped_since_the_order_before() =>
        Assert.Equal("12/4/4/8 2/2/0/0", Of(Order(("A", 12, 0), ("B", 2, 2)), Order(("A", 12, 4), ("B", 2, 2))));

    [Fact]
    public void Without_an_order_before_all_that_is_shipped_goes_now() => Assert.Equal("12/4/4/8", Of(null, Order(("A", 12, 4))));

    [Fact]
    public void Lines_are_known_by_their_article_wherever_they_stand() =>
        Assert.Equal("2/2/2/0 12/8/4/4", Of(Order(("A", 12, 4), ("B", 2, 0)), Order(("B", 2, 2), ("A", 12, 8))));

    [Fact]
    public void Two_lines_of_one_article_are_told_apart_by_their_order() =>
        Assert.Equal("5/5/0/0 7/3/3/4", Of(Order(("A", 5, 5), ("A", 7, 0)), Order(("A", 5, 5), ("A", 7, 3))));

    [Fact]
    public void What_was_taken_back_does_not_go_now_and_too_much_leaves_nothing_to_follow() =>
        Assert.Equal("12/2/0/10 3/5/5/0", Of(Order(("A", 12, 6), ("B", 3, 0)), Order(("A", 12, 2), ("B", 3, 5))));

    [Fact]
    public void A_line_without_numbers_counts_as_none()
    {
        var line = Assert.Single(ShippedLine.Of(Event("""{"lines":[{"title":"Rope","quantity":"many"}]}""", "order.shipped")));
        Assert.Equal((0, 0, 0, 0), (line.Quantity, line.Shipped, line.Now, line.Later));
        Assert.Empty(ShippedLine.Of(Event("""{"lines":null}""", "order.shipped")));
    }

    [Fact]
    public void What_goes_now_and_what_went_before_make_up_what_is_shipped() =>
        Gen.Select(Gen.Int[0, 30], Gen.Int[0, 30], Gen.Int[0, 30])
            .Array[1, 8]
            .Sample(lines =>
            {
                var before = lines.Select((l, i) => ($"S{i}", l.Item1, l.Item2)).ToArray();
                var after = lines.Select((l, i) => ($"S{i}", l.Item1, l.Item2 + l.Item3)).Reverse().ToArray();
                var read = ShippedLine.Of(Event(Order(after), "order.shipped", Order(before)));
                Assert.Equal(lines.Sum(l => l.Item3), read.Sum(l => l.Now));
                Assert.All(read, l => Assert.True(l.Later >= 0 && (l.Later == 0 || l.Shipped + l.Later == l.Quantity)));
            });
}
