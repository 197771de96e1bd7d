using Sirena.Channels.Ticket;
using Sirena.Core.Deliveries;

namespace Sirena.Engine.Tests;

public class TicketTextTests
{
    [Theory]
    [InlineData("AQ-1 held", "AQ-1 held")]
    [InlineData("Ólafur Þórarinsson, 4 × Bœuf à la façon – “chaud”", "Olafur ?orarinsson, 4 x B?uf a la facon -|\"chaud\"")]
    [InlineData("a\tb\u001b@c", "a b @c")]
    [InlineData("one\r\ntwo\nthree", "one|two|three")]
    [InlineData("", "")]
    public void A_ticket_has_the_printer_s_letters_and_no_characters_that_it_obeys(string text, string lines) =>
        Assert.Equal(lines, string.Join('|', TicketText.Lines(text)));

    [Theory]
    [InlineData(437, "Müller, 3 ½ £ å, Þór 5 €", "Müller, 3 ½ £ å, ?ór 5 E")]
    [InlineData(850, "Þór ø × 5 €", "Þór ø × 5 E")]
    [InlineData(858, "Þór ø × 5 €", "Þór ø × 5 €")]
    [InlineData(1252, "“Bœuf” – 5 € Łódź", "“Bœuf” – 5 € ?ódz")]
    public void A_code_page_s_letters_are_printed_and_others_come_near(int page, string text, string line)
    {
        var letters = TicketText.Letters(page)!;
        Assert.Equal(line, Assert.Single(TicketText.Lines(text, letters: letters)));
        Assert.Equal(line, letters.GetString(letters.GetBytes(line)));
    }

    [Theory]
    [InlineData("printer.galley.example", 9100, null, 42)]
    [InlineData("10.0.0.9:9101?page=858&columns=32", 9101, 858, 32)]
    [InlineData("[::1]:9100?columns=48", 9100, null, 48)]
    public void A_printer_s_address_says_its_page_and_columns(string text, int port, int? page, int columns)
    {
        Assert.True(PrinterAddress.TryParse(text, out var printer, out _));
        Assert.Equal((port, page, columns), (printer!.Port, printer.Page, printer.Columns));
    }

    [Theory]
    [InlineData("", "is no printer's address")]
    [InlineData("printer:99999", "is no printer's address")]
    [InlineData("two words:9100", "is no printer's address")]
    [InlineData("printer:9100?page=1251", "page is 437, 850, 858 or 1252")]
    [InlineData("printer:9100?columns=7", "columns is 20 to 96")]
    [InlineData("printer:9100?paper=58", "says more than is known")]
    public void What_no_printer_understands_is_refused(string text, string problem)
    {
        Assert.False(PrinterAddress.TryParse(text, out _, out var said));
        Assert.Contains(problem, said);
    }

    [Fact]
    public void Half_a_character_is_one_question_mark() =>
        Assert.Equal("half ? character", Assert.Single(TicketText.Lines("half " + (char)0xD800 + " character")));

    [Fact]
    public void Long_lines_are_wrapped_at_words_and_keep_their_indent()
    {
        string[] lines = [.. TicketText.Lines("   12 x Mooring line, braided polyester, 24 mm, 60 m, with spliced eye")];
        Assert.Equal(["   12 x Mooring line, braided polyester,", "   24 mm, 60 m, with spliced eye"], lines);
        Assert.Equal([new string('w', 42), new string('w', 8)], TicketText.Lines(new string('w', 50)));
    }

    [Fact]
    public void No_line_is_wider_than_the_paper_and_no_letter_is_lost()
    {
        var chance = new Random(7);
        for (var i = 0; i < 500; i++)
        {
            var text = string.Concat(Enumerable.Range(0, chance.Next(200)).Select(_ => "abc   xyz -"[chance.Next(11)]));
            string[] lines = [.. TicketText.Lines(text)];
            Assert.All(lines, l => Assert.InRange(l.Length, 0, PrinterAddress.UsualColumns));
            Assert.Equal(text.Replace(" ", ""), string.Concat(lines).Replace(" ", ""));
        }
    }
}
