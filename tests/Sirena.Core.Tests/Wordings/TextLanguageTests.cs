using System.Globalization;
using CsCheck;
using NodaTime;
using Sirena.Core.Wordings;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Wordings;

public class TextLanguageTests
{
    [Theory]
    [InlineData("en", "1,284.5", "1,284.50 EUR", "-0.07 EUR", "1,000,000")]
    [InlineData("pt", "1.284,5", "1.284,50 EUR", "-0,07 EUR", "1.000.000")]
    public void Numbers_and_amounts_read_as_the_language_writes_them(string code, string number, string money, string small, string million)
    {
        var language = TextLanguage.Of(code);
        Assert.Equal(
            (number, money, small, million),
            (language.Number(1284.5m), language.Money(1284.5m, "EUR"), language.Money(-0.07m, "EUR"), language.Number(1_000_000))
        );
    }

    [Fact]
    public void No_digit_of_a_number_is_lost() =>
        Gen.Decimal[-1_000_000, 1_000_000]
            .Select(d => Math.Round(d, 6))
            .Sample(value =>
            {
                foreach (var language in TextLanguage.All)
                {
                    var culture = new CultureInfo("")
                    {
                        NumberFormat = { NumberGroupSeparator = language.Code == "pt" ? "." : ",", NumberDecimalSeparator = language.Code == "pt" ? "," : "." },
                    };
                    Assert.Equal(value, decimal.Parse(language.Number(value), NumberStyles.Number, culture));
                }
            });

    [Fact]
    public void Days_and_times_are_in_the_zone_that_is_given()
    {
        var summer = Instant.FromUtc(2026, 7, 1, 23, 30).InZone(Lisbon);
        Assert.Equal("Thu 2 Jul, 00:30", TextLanguage.En.Moment(summer));
        Assert.Equal("qui 2 jul, 00:30", TextLanguage.Of("pt").Moment(summer));
        Assert.Equal("Sun 29 Mar, 02:15", TextLanguage.En.Moment(Instant.FromUtc(2026, 3, 29, 1, 15).InZone(Lisbon)));
    }

    [Theory]
    [InlineData(20, "20 s", "20 s")]
    [InlineData(1_200, "20 min", "20 min")]
    [InlineData(12_000, "3 h 20 min", "3 h 20 min")]
    [InlineData(7_200, "2 h", "2 h")]
    [InlineData(100_800, "1 day 4 h", "1 dia 4 h")]
    [InlineData(187_200, "2 days 4 h", "2 dias 4 h")]
    [InlineData(0, "0 s", "0 s")]
    [InlineData(59, "59 s", "59 s")]
    [InlineData(60, "1 min", "1 min")]
    [InlineData(3_600, "1 h", "1 h")]
    [InlineData(86_399, "23 h 59 min", "23 h 59 min")]
    [InlineData(86_400, "1 day", "1 dia")]
    [InlineData(172_800, "2 days", "2 dias")]
    [InlineData(-1_200, "20 min", "20 min")]
    public void A_length_of_time_reads_in_its_two_largest_parts(int seconds, string en, string pt) =>
        Assert.Equal((en, pt), (TextLanguage.En.Span(Duration.FromSeconds(seconds)), TextLanguage.Of("pt").Span(Duration.FromSeconds(seconds))));

    [Fact]
    public void What_is_ahead_and_what_has_passed_are_told_apart()
    {
        var twenty = Duration.FromMinutes(20);
        Assert.Equal(
            ("in 20 min", "20 min ago", "em 20 min", "há 20 min"),
            (TextLanguage.En.Until(twenty), TextLanguage.En.Until(-twenty), TextLanguage.Of("pt").Until(twenty), TextLanguage.Of("pt").Until(-twenty))
        );
    }

    [Theory]
    [InlineData("pt", "pt")]
    [InlineData("PT-br", "pt")]
    [InlineData("ptx", "en")]
    [InlineData("fr", "en")]
    [InlineData("", "en")]
    [InlineData(null, "en")]
    public void A_language_that_does_not_ship_falls_back_to_English(string? code, string used) => Assert.Equal(used, TextLanguage.Of(code).Code);

    [Fact]
    public void Portuguese_has_a_word_for_every_one_that_documents_use()
    {
        foreach (
            var word in new[]
            {
                "Quantity",
                "Article",
                "To follow",
                "Price",
                "Order confirmation",
                "Shipping note",
                "Picking list",
                "Customer",
                "Site",
                "Page",
                "Follows later",
                "To pick",
                "Ordered",
                "Shipped",
                "Nothing is left to pick here.",
                "Everything is in this shipment.",
            }
        )
        {
            Assert.NotEqual(word, TextLanguage.Of("pt").Word(word));
            Assert.Equal(word, TextLanguage.En.Word(word));
        }
    }
}
