using CsCheck;
using Sirena.Core.Deliveries;

namespace Sirena.Core.Tests.Deliveries;

/// <summary>What a far end says is kept whatever it sends.</summary>
public class FarTextTests
{
    [Theory]
    [InlineData(null, "")]
    [InlineData("  250 2.0.0 Ok: queued  ", "250 2.0.0 Ok: queued")]
    [InlineData("two\r\nlines\tand a tab", "two  lines and a tab")]
    [InlineData("a\0b", "a\uFFFDb")]
    [InlineData("a\u001Bb\u007Fc\u0085d", "a\uFFFDb\uFFFDc\uFFFDd")]
    [InlineData("Olá, ação: não €", "Olá, ação: não €")]
    [InlineData("boat ⛵ and 🚢", "boat ⛵ and 🚢")]
    public void Controls_cannot_be_shown_and_line_ends_are_spaces(string? said, string kept) => Assert.Equal(kept, FarText.Clean(said));

    [Fact]
    public void Half_a_character_is_the_replacement_character() => Assert.Equal("cut \uFFFD", FarText.Clean("cut \uD83D"));

    [Theory]
    [InlineData("abcdef", 4, "abcd")]
    [InlineData("abcd", 4, "abcd")]
    [InlineData("abc🚢", 4, "abc")]
    [InlineData("abc🚢", 5, "abc🚢")]
    [InlineData("ab\ncdef", 4, "ab c")]
    public void It_is_cut_between_whole_characters(string said, int most, string kept) => Assert.Equal(kept, FarText.Clean(said, most));

    [Fact]
    public void The_usual_bound_is_two_thousand() =>
        Assert.Equal((FarText.Most, FarText.Most), (FarText.Clean(new string('x', 5_000)).Length, FarText.Clean(new string('é', FarText.Most)).Length));

    // PostgreSQL takes neither a zero character nor half of one, and a page no control.
    [Fact]
    public void Whatever_comes_can_be_stored_and_shown() =>
        Gen
            .Char.Array[0, 60]
            .Select(c => new string(c))
            .Sample(said =>
            {
                var kept = FarText.Clean(said, 40);
                Assert.True(kept.Length <= 40);
                Assert.DoesNotContain(kept, char.IsControl);
                Assert.Equal(kept, FarText.Clean(kept, 40));
                Assert.Equal(kept, System.Text.Encoding.UTF8.GetString(System.Text.Encoding.UTF8.GetBytes(kept)));
            });
}
