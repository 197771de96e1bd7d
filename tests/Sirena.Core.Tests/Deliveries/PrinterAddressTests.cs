using Sirena.Core.Deliveries;

namespace Sirena.Core.Tests.Deliveries;

public class PrinterAddressTests
{
    [Theory]
    [InlineData("printer.galley.example", "printer.galley.example", 9100, null, 42)]
    [InlineData(" printer.galley.example:9101 ", "printer.galley.example", 9101, null, 42)]
    [InlineData("10.0.0.7?page=858", "10.0.0.7", 9100, 858, 42)]
    [InlineData("10.0.0.7:1?page=437&columns=20", "10.0.0.7", 1, 437, 20)]
    [InlineData("10.0.0.7:65535?columns=96&page=1252", "10.0.0.7", 65535, 1252, 96)]
    [InlineData("[fd00::7]", "fd00::7", 9100, null, 42)]
    [InlineData("[fd00::7]:9102?page=850", "fd00::7", 9102, 850, 42)]
    public void A_printer_is_read_with_what_it_prints(string text, string host, int port, int? page, int columns)
    {
        Assert.True(PrinterAddress.TryParse(text, out var printer, out var problem), problem);
        Assert.Equal(new PrinterAddress(host, port, page, columns), printer);
        Assert.Null(problem);
    }

    // Each part of a name has 63 characters at most, the whole 200.
    [Theory]
    [InlineData(8, true)]
    [InlineData(9, false)]
    public void An_address_has_200_characters_at_most(int last, bool taken)
    {
        var host = string.Join('.', Enumerable.Repeat(new string('p', 63), 3)) + "." + new string('q', last);
        Assert.Equal(192 + last, host.Length);
        Assert.Equal(taken, PrinterAddress.TryParse(host, out _, out _));
        Assert.Equal(taken, PrinterAddress.TryParse(host + "?columns=42", out _, out _));
    }

    [Theory]
    [InlineData(null, "is no printer's address")]
    [InlineData("", "is no printer's address")]
    [InlineData("a printer", "is no printer's address")]
    [InlineData("p:0", "is no printer's address")]
    [InlineData("p:65536", "is no printer's address")]
    [InlineData("p:port", "is no printer's address")]
    [InlineData("p?page=851", "names a code page that is not known")]
    [InlineData("p?page", "names a code page that is not known")]
    [InlineData("p?columns=19", "has columns that no printer has")]
    [InlineData("p?columns=97", "has columns that no printer has")]
    [InlineData("p?columns=-42", "has columns that no printer has")]
    [InlineData("p?paper=80", "says more than is known")]
    [InlineData("p?", "says more than is known")]
    public void What_is_none_is_refused_with_what_is_wrong(string? text, string because)
    {
        Assert.False(PrinterAddress.TryParse(text, out var printer, out var problem));
        Assert.StartsWith(because, problem, StringComparison.Ordinal);
        Assert.Null(printer);
    }

    [Fact]
    public void A_name_of_any_length_is_not_looked_up() => Assert.False(PrinterAddress.TryParse(new string('p', 201), out _, out _));
}
