using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Orders;

/// <summary>The fields that rules and wordings can name.</summary>
public sealed class FieldCatalogueTests
{
    [Theory]
    [InlineData("order.extra.berth", FieldType.Any, "berth")]
    [InlineData("event.extra.seal.number", FieldType.Any, "seal number")]
    [InlineData("order.lines.count", FieldType.Number, "the number of lines")]
    [InlineData("order.lines.sum.value", FieldType.Money, "the value of all lines")]
    [InlineData("order.lines.any.sku", FieldType.Text, "any line's article number")]
    [InlineData("order.lines.all.unitPrice", FieldType.Money, "every line's unit price")]
    [InlineData("order.lines.none.tags", FieldType.List, "no line's tags")]
    public void A_path_that_is_made_up_of_parts_is_known(string path, FieldType type, string name)
    {
        var field = FieldCatalogue.Find(path)!;
        Assert.Equal((path, type, name), (field.Path, field.Type, field.Name));
    }

    [Theory]
    [InlineData("")]
    [InlineData("order")]
    [InlineData("order.extra")]
    [InlineData("order.extra.")]
    [InlineData("order.extra.a..b")]
    [InlineData("stock.extra.a")]
    [InlineData("order.lines.some.sku")]
    [InlineData("order.lines.any.colour")]
    [InlineData("order.lines.any")]
    [InlineData("order.lines.sum.quantity.more")]
    [InlineData("Order.total")]
    public void What_is_no_field_is_none(string path) => Assert.Null(FieldCatalogue.Find(path));

    [Fact]
    public void Every_example_is_a_value_that_its_field_takes()
    {
        foreach (var field in FieldCatalogue.All.Concat(FieldCatalogue.OfLines).Where(f => f.Type is not (FieldType.Thing or FieldType.List or FieldType.Any)))
        {
            var example = FieldCatalogue.Example(field);
            var value = field.Type is FieldType.Number or FieldType.Money or FieldType.YesNo ? example : $"\"{example}\"";
            Assert.Null(Question.TryMake(Leaf(field.Path, "equal", value), out _));
        }
    }

    [Theory]
    [InlineData("order.total", "the order's currency")]
    [InlineData("order.age", "ISO 8601, such as PT2H")]
    [InlineData("order.dueAt", "RFC 3339, with an offset")]
    [InlineData("order.risk.level", "low < medium < high")]
    [InlineData("order.risk.score", "0 to 100")]
    [InlineData("event.local-hour", "0 to 23, the business's time")]
    [InlineData("order.lines.count", "lines")]
    [InlineData("stock.onHand", "pieces")]
    [InlineData("order.status", null)]
    public void Each_says_in_what_it_is_counted(string path, string? unit) => Assert.Equal(unit, FieldCatalogue.Unit(FieldCatalogue.Find(path)!));

    [Fact]
    public void Each_path_stands_once_and_lines_are_asked_in_three_ways()
    {
        Assert.Equal(FieldCatalogue.All.Count, FieldCatalogue.All.Select(f => f.Path).Distinct().Count());
        Assert.Equal((FieldCatalogue.LineMembers.Count * 3) + 3, FieldCatalogue.OfLines.Count());
        Assert.All(FieldCatalogue.All, f => Assert.Same(f, FieldCatalogue.Find(f.Path)));
        Assert.True(FieldCatalogue.IsOrderMember("total"));
        Assert.False(FieldCatalogue.IsOrderMember("berth"));
    }
}
