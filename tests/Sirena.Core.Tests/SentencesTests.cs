namespace Sirena.Core.Tests;

/// <summary>Pieces of sentences.</summary>
public sealed class SentencesTests
{
    [Theory]
    [InlineData("you are in Kitchen", "is in Kitchen")]
    [InlineData("you are on duty for Credit control", "is on duty for Credit control")]
    [InlineData("you manage Galley kitchen", "manages Galley kitchen")]
    [InlineData("you cover for Farah Mensah: they are in Kitchen", "covers for Farah Mensah: they are in Kitchen")]
    [InlineData("you are named in it", "is named in it")]
    [InlineData("this address is named in it", "this address is named in it")]
    [InlineData("off duty", "off duty")]
    [InlineData("you", "you")]
    public void A_reason_written_to_somebody_is_said_of_them(string because, string said) => Assert.Equal(said, Sentences.OfAnother(because));

    [Theory]
    [InlineData("", "")]
    [InlineData("hold the order", "Hold the order")]
    public void A_sentence_begins_with_a_capital(string text, string said) => Assert.Equal(said, Sentences.Capital(text));
}
