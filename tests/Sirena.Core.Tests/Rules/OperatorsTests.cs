using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;

namespace Sirena.Core.Tests.Rules;

/// <summary>Which operators a type has, what they take, and how they read.</summary>
public sealed class OperatorsTests
{
    [Theory]
    [InlineData(FieldType.Text, "equal not-equal contains starts-with one-of none-of matches")]
    [InlineData(FieldType.Number, "equal not-equal at-least at-most more-than less-than between one-of")]
    [InlineData(FieldType.Money, "equal not-equal at-least at-most more-than less-than between one-of")]
    [InlineData(FieldType.Time, "equal not-equal at-least at-most more-than less-than between one-of")]
    [InlineData(FieldType.Choice, "equal not-equal at-least at-most more-than less-than between one-of")]
    [InlineData(FieldType.YesNo, "equal not-equal")]
    [InlineData(FieldType.List, "contains contains-any contains-all empty")]
    [InlineData(FieldType.Thing, "")]
    public void A_type_has_its_own_and_those_that_all_have(FieldType type, string own) =>
        Assert.Equal(
            own.Split(' ', StringSplitOptions.RemoveEmptyEntries).Concat(["present", "missing", "changed"]),
            Operators.For(type).Select(o => o.Name())
        );

    [Fact]
    public void A_field_that_was_not_seen_yet_has_every_one_once()
    {
        var all = Operators.For(FieldType.Any);
        Assert.Equal(Enum.GetValues<Operator>().Order(), all.Order());
    }

    [Fact]
    public void Each_takes_nothing_one_value_or_a_list_and_reads_as_a_clause()
    {
        var nothing = Enum.GetValues<Operator>().Where(o => o.TakesNothing()).Select(o => o.Name());
        var list = Enum.GetValues<Operator>().Where(o => o.TakesList()).Select(o => o.Name());
        Assert.Equal(["empty", "present", "missing", "changed"], nothing.OrderBy(n => Array.IndexOf(["empty", "present", "missing", "changed"], n)));
        Assert.Equal(["between", "contains-all", "contains-any", "none-of", "one-of"], list.Order(StringComparer.Ordinal));
        Assert.Equal(Enum.GetValues<Operator>().Length, Enum.GetValues<Operator>().Select(o => o.Phrase()).Distinct().Count());
    }
}
