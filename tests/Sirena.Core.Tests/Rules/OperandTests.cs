using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Rules;

/// <summary>What a condition compares with: what is taken, and the sentence for what is not.</summary>
public sealed class OperandTests
{
    [Theory]
    [InlineData("order.total", "present", "5", "'present' takes no value.")]
    [InlineData("order.total", "at-least", null, "'at-least' needs a value. To ask whether a field is there, use present or missing.")]
    [InlineData("order.total", "at-least", "null", "'at-least' needs a value. To ask whether a field is there, use present or missing.")]
    [InlineData("order.status", "one-of", "\"picking\"", "'one-of' needs a list of values: [a, b].")]
    [InlineData("order.status", "equal", "[\"picking\"]", "'equal' takes one value, not a list.")]
    [InlineData("order.total", "between", "[1]", "'between' needs two values: [from, to].")]
    [InlineData("order.total", "between", "[1,2,3]", "'between' needs two values: [from, to].")]
    [InlineData("order.status", "one-of", "[]", "'one-of' needs at least one value.")]
    [InlineData(
        "order.total",
        "at-least",
        "\"much\"",
        "'much' is not an amount such as 500 or { amount: 500, currency: EUR }, which order.total is compared with."
    )]
    [InlineData(
        "order.total",
        "at-least",
        """{"amount":5,"currency":"euro"}""",
        "is not an amount such as 500 or { amount: 500, currency: EUR }, which order.total is compared with."
    )]
    [InlineData("order.dueAt", "at-most", "\"soon\"", "'soon' is not a time such as 2026-11-24T15:30:00Z, which order.dueAt is compared with.")]
    [InlineData("order.age", "more-than", "\"2 h\"", "'2 h' is not a duration such as PT2H, which order.age is compared with.")]
    [InlineData("order.risk.level", "equal", "\"huge\"", "'huge' is not one of low, medium, high, which order.risk.level is compared with.")]
    [InlineData("order.risk.score", "at-least", "\"82\"", "which order.risk.score is compared with.")]
    [InlineData("note.visibleToCustomer", "equal", "\"yes\"", "which note.visibleToCustomer is compared with.")]
    [InlineData("order.via", "matches", "\"(\"", "'(' is not a regular expression:")]
    public void A_value_that_does_not_fit_is_refused_with_a_sentence(string field, string op, string? value, string problem) =>
        Assert.Contains(problem, Question.TryMake(Leaf(field, op, value), out _)?.Problem, StringComparison.Ordinal);

    [Theory]
    [InlineData("order.risk.level", "\" High \"", 2)]
    [InlineData("order.risk.level", "\"low\"", 0)]
    [InlineData("event.weekday", "\"sun\"", 6)]
    [InlineData("order.risk.level", "2", null)]
    public void A_choice_is_its_place_among_the_choices(string field, string value, int? place) =>
        Assert.Equal(place, Operand.Convert(Element(value), FieldCatalogue.Find(field)!, null));

    [Theory]
    [InlineData("500", null, "500")]
    [InlineData("500", "EUR", "500.00 EUR")]
    [InlineData("""{"amount":500,"currency":"USD"}""", "EUR", "500.00 USD")]
    [InlineData("""{"amount":"500","currency":"USD"}""", "EUR", null)]
    [InlineData("""{"amount":500}""", "EUR", null)]
    [InlineData("\"500\"", "EUR", null)]
    public void Money_without_a_currency_stays_a_number_until_it_is_known(string value, string? currency, string? read) =>
        Assert.Equal(read, Operand.Convert(Element(value), FieldCatalogue.Find("order.total")!, currency)?.ToString());

    [Theory]
    [InlineData("\"text\"", "text")]
    [InlineData("12.5", "12.5")]
    [InlineData("true", "True")]
    [InlineData("{}", null)]
    [InlineData("[1]", null)]
    [InlineData("null", null)]
    public void A_field_of_ones_own_takes_whatever_it_holds(string value, string? read) =>
        Assert.Equal(
            read,
            Operand.Convert(Element(value), FieldCatalogue.Find("order.extra.berth")!, null) is { } found
                ? Convert.ToString(found, System.Globalization.CultureInfo.InvariantCulture)
                : null
        );

    [Theory]
    [InlineData("stock.onHand", "at-most", "stock.threshold", null)]
    [InlineData("order.extra.a", "equal", "order.extra.b", null)]
    [InlineData("order.status", "equal", "order.risk.level", null)]
    [InlineData("stock.onHand", "one-of", "stock.threshold", "'one-of' takes no field to compare with")]
    [InlineData("stock.onHand", "at-most", "stock.treshold", "There is no field 'stock.treshold'. Did you mean 'stock.threshold'?")]
    [InlineData("stock.onHand", "at-most", "order.status", "these two are not compared")]
    [InlineData("stock.onHand", "at-most", "order.lines.any.quantity", "these two are not compared")]
    [InlineData("order.status", "equal", "order.tags", "these two are not compared")]
    [InlineData("order.total", "at-least", "order.lines.all.unitPrice", "these two are not compared")]
    [InlineData("order.total", "at-least", "order.lines.none.unitPrice", "these two are not compared")]
    [InlineData("order.total", "at-least", "order.lines.sum.value", null)]
    [InlineData("order.extra.a", "equal", "order.tags", "these two are not compared")]
    [InlineData("order.extra.a", "equal", "order.customer", "these two are not compared")]
    [InlineData("order.extra.a", "equal", "order.total", null)]
    [InlineData("order.total", "equal", "order.extra.a", null)]
    [InlineData("order.risk.level", "equal", "order.status", "these two are not compared")]
    [InlineData("order.total", "equal", "order.risk.score", "these two are not compared")]
    public void A_field_is_compared_with_one_of_its_kind(string field, string op, string with, string? problem)
    {
        var (other, wrong) = Operand.Other(Leaf(field, op), FieldCatalogue.Find(field)!, with);
        Assert.Equal(problem is null, other is not null);
        Assert.Contains(problem ?? "", wrong ?? "", StringComparison.Ordinal);
    }
}
