using System.Globalization;
using CsCheck;
using Sirena.Core.Sources;

namespace Sirena.Core.Tests.Sources;

/// <summary>Amounts as people and programs write them, and what is no amount.</summary>
public sealed class DecimalTextTests
{
    [Theory]
    [InlineData("0", "0")]
    [InlineData("12", "12")]
    [InlineData("-12.50", "-12.50")]
    [InlineData("+7", "7")]
    [InlineData("1.28", "1.28")]
    [InlineData("\u22123.5", "-3.5")]
    [InlineData(" 42 ", "42")]
    [InlineData("9999999999999999999999999999", "9999999999999999999999999999")]
    [InlineData("1,284", null)]
    [InlineData("1 284", null)]
    [InlineData("1.", null)]
    [InlineData(".5", null)]
    [InlineData("", null)]
    [InlineData("-", null)]
    [InlineData("-.5", null)]
    [InlineData("+.5", null)]
    [InlineData("-5.", null)]
    [InlineData("5-", null)]
    [InlineData("1.2.3", null)]
    [InlineData("1e3", null)]
    [InlineData("12 EUR", null)]
    [InlineData("99999999999999999999999999999", null)]
    [InlineData("\u0661\u0662", null)]
    public void Without_a_sign_before_the_decimals_only_digits_and_a_point_are_taken(string text, string? number) => Same(number, DecimalText.Read(text, null));

    [Theory]
    [InlineData("1,284.50", "1284.50")]
    [InlineData("1 284.50", "1284.50")]
    [InlineData("1\u00A0284.50", "1284.50")]
    [InlineData("1\u202F284", "1284")]
    [InlineData("1'284'000.5", "1284000.5")]
    [InlineData("1\u2019284", "1284")]
    [InlineData("-1,284", "-1284")]
    [InlineData("+12,345,678.9", "12345678.9")]
    [InlineData("12,34", null)]
    [InlineData("1,2845", null)]
    [InlineData("1234,567", null)]
    [InlineData(",567", null)]
    [InlineData("1,284 000", null)]
    [InlineData("1,284.5x", null)]
    [InlineData("1,a84", null)]
    public void Groups_are_taken_where_they_are_groups(string text, string? number) => Same(number, DecimalText.Read(text, '.'));

    [Theory]
    [InlineData("12,5", "12.5")]
    [InlineData("1.284,50", "1284.50")]
    [InlineData("1.284", "1284")]
    [InlineData("1.28", null)]
    [InlineData("-0,01", "-0.01")]
    [InlineData("1,284.50", null)]
    [InlineData("1,", null)]
    public void A_comma_before_the_decimals_makes_the_point_a_mark_of_groups(string text, string? number) => Same(number, DecimalText.Read(text, ','));

    [Theory]
    [InlineData("1284", "1284")]
    [InlineData("1284.5", "1284.5")]
    [InlineData("1,284", "1284")]
    [InlineData("1,284.50", "1284.50")]
    [InlineData("9,99", "9.99")]
    [InlineData("0,5", "0.5")]
    [InlineData("-1,5", "-1.5")]
    [InlineData("1.284,50", "1284.50")]
    [InlineData("1.284", "1.284")]
    [InlineData("1 284,50", "1284.50")]
    [InlineData("1,2845", "1.2845")]
    [InlineData("1,284,5", null)]
    [InlineData("1,28 €", null)]
    [InlineData("1.2.3", null)]
    [InlineData("", null)]
    public void What_a_person_types_is_never_a_hundred_times_what_was_meant(string text, string? number) => Same(number, DecimalText.Typed(text));

    [Fact]
    public void What_was_written_with_groups_is_read_as_the_same_number()
    {
        var forms = new[] { (".", ",", '.'), (",", ".", ','), (",", " ", ','), (".", "'", '.') };
        Gen.Select(Gen.Long[-9_999_999_999, 9_999_999_999], Gen.Int[0, forms.Length - 1])
            .Sample(
                (cents, form) =>
                {
                    var (point, group, sign) = forms[form];
                    var culture = new NumberFormatInfo
                    {
                        NumberDecimalSeparator = point,
                        NumberGroupSeparator = group,
                        NegativeSign = "-",
                    };
                    var number = cents / 100m;
                    return DecimalText.Read(number.ToString("#,##0.00", culture), sign) == number;
                }
            );
    }

    private static void Same(string? wanted, decimal? found) =>
        Assert.Equal(wanted is null ? null : decimal.Parse(wanted, CultureInfo.InvariantCulture), found);
}
