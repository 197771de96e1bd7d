namespace Sirena.Core.Tests;

public class ClosestTests
{
    private static readonly string[] Fields = ["order.number", "order.total", "order.customer.name", "order.hold.reason"];

    [Theory]
    [InlineData("order.numbr", "order.number")]
    [InlineData("ORDER.TOTAL", "order.total")]
    [InlineData("order.customr.nam", "order.customer.name")]
    [InlineData("order.hold.raeson", "order.hold.reason")]
    [InlineData("vessel", null)]
    [InlineData("", null)]
    public void A_slip_is_answered_with_the_word_that_was_meant(string word, string? meant) => Assert.Equal(meant, Closest.To(word, Fields));

    [Fact]
    public void The_hint_ends_a_sentence_or_is_nothing()
    {
        Assert.Equal(" Did you mean 'order.number'?", Closest.Hint("order.numbr", Fields));
        Assert.Equal("", Closest.Hint("vessel", Fields));
        Assert.Equal("", Closest.Hint("anything", []));
    }
}
