using Sirena.Channels.Ticket;

namespace Sirena.Engine.Tests;

public class TicketTextTests
{
    [Theory]
    [InlineData("AQ-1 held", "AQ-1 held")]
    [InlineData("Ólafur Þórarinsson, 4 × Bœuf à la façon – “chaud”", "Olafur ?orarinsson, 4 x B?uf a la facon -|\"chaud\"")]
    [InlineData("a\tb\u001b@c", "a b @c")]
    [InlineData("one\r\ntwo\nthree", "one|two|three")]
    [InlineData("", "")]
    public void A_ticket_has_the_printer_s_letters_and_no_characters_that_it_obeys(string text, string lines) => Assert.Equal(lines, string.Join('|', TicketText.Lines(text)));

    [Fact]
    public void Half_a_character_is_one_question_mark() => Assert.Equal("half ? character", Assert.Single(TicketText.Lines("half " + (char)0xD800 + " character")));

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
            Assert.All(lines, l => Assert.InRange(l.Length, 0, TicketText.Columns));
            Assert.Equal(text.Replace(" ", ""), string.Concat(lines).Replace(" ", ""));
        }
    }
}
