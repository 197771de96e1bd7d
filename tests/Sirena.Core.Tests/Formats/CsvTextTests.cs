using CsCheck;
using Sirena.Formats.Documents;

namespace Sirena.Core.Tests.Formats;

public class CsvTextTests
{
    [Theory]
    [InlineData("Order,Status", ',')]
    [InlineData("Order;Status\n1,2,3,4", ';')]
    [InlineData("Order\tStatus\r\n", '\t')]
    [InlineData("Order|Status|Due, local", '|')]
    [InlineData("Order", ',')]
    [InlineData("", ',')]
    [InlineData("a,b;c", ',')]
    public void The_separator_is_the_one_that_the_head_row_uses_most(string text, char separator) => Assert.Equal(separator, CsvText.SeparatorOf(text));

    [Fact]
    public void Whatever_is_guarded_against_spreadsheets_reads_back_and_begins_like_no_formula() =>
        Gen.Char["'=+-@\t\rab 1"]
            .Array[0, 6]
            .Sample(
                signs =>
                {
                    var cell = new string(signs);
                    var guarded = CsvText.Guarded(cell);
                    Assert.Equal(cell, CsvText.Unguarded(guarded));
                    Assert.False(guarded.Length > 0 && "=+-@\t\r".Contains(guarded[0], StringComparison.Ordinal), guarded);
                },
                iter: 2_000
            );

    [Theory]
    [InlineData("a,b\n1,2", null)]
    [InlineData("a,b\n\"1\n2\",3", null)]
    [InlineData("a,b\n\"he said \"\"now\"\"\",3", null)]
    [InlineData("a,b\n1,\"2", 2)]
    [InlineData("\"a,b\n1,2", 1)]
    [InlineData("a,b\n1, \"2\n3", 2)]
    [InlineData("a,b\n5\" pipe,2\n\"x", 3)]
    [InlineData("a,b\n1,2\"", null)]
    [InlineData("a,b\n\"x\"\"", 2)]
    [InlineData("a,b\r\"x", 1)]
    public void A_quotation_mark_that_is_never_closed_is_found_with_its_line(string text, int? line) => Assert.Equal(line, CsvText.OpenQuote(text, ','));

    [Fact]
    public void Only_the_separator_in_use_begins_a_cell()
    {
        Assert.Null(CsvText.OpenQuote("a;b\n1,\"2", ';'));
        Assert.Equal(2, CsvText.OpenQuote("a;b\n1;\"2", ';'));
    }
}
