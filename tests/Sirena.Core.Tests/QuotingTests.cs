namespace Sirena.Core.Tests;

/// <summary>What is repeated of a text in a sentence about it.</summary>
public class QuotingTests
{
    [Theory]
    [InlineData("short", 5, "short")]
    [InlineData("longer", 5, "longe…")]
    [InlineData("four⛵\U0001F6A2", 6, "four⛵…")]
    [InlineData("four\U0001F6A2s", 6, "four\U0001F6A2…")]
    public void A_long_text_is_cut_between_whole_characters(string text, int most, string quoted) => Assert.Equal(quoted, Quoting.Cut(text, most));

    [Fact]
    public void Names_are_listed_as_a_sentence_lists_them() =>
        Assert.Equal(["", "'a'", "'a' and 'b'", "'a', 'b' and 'c'"], new[] { 0, 1, 2, 3 }.Select(n => Quoting.All(new[] { "a", "b", "c" }.Take(n))));
}
