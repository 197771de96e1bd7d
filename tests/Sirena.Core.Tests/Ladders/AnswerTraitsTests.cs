using Sirena.Core.Ladders;

namespace Sirena.Core.Tests.Ladders;

/// <summary>What answers are called, and which of them a reply means.</summary>
public sealed class AnswerTraitsTests
{
    [Fact]
    public void Each_answer_has_its_row_in_its_place()
    {
        Assert.Equal(Enum.GetValues<AnswerKind>(), AnswerTraits.All.Select(a => a.Kind));
        Assert.All(Enum.GetValues<AnswerKind>(), kind => Assert.Equal(kind, kind.Traits().Kind));
        Assert.Equal(AnswerTraits.All.Length, AnswerTraits.All.Select(a => a.Said).Distinct().Count());
    }

    [Theory]
    [InlineData("OK", AnswerKind.Taken)]
    [InlineData("yes", AnswerKind.Taken)]
    [InlineData("No", AnswerKind.Declined)]
    [InlineData("cannot", AnswerKind.Declined)]
    [InlineData("DONE", AnswerKind.Done)]
    [InlineData("later", AnswerKind.Taken)]
    [InlineData("", AnswerKind.Taken)]
    public void A_reply_means_what_its_first_word_says(string word, AnswerKind kind) => Assert.Equal(kind, AnswerTraits.OfReply(word));

    [Fact]
    public void The_note_completes_what_was_passed_on_or_put_off()
    {
        static Answer With(AnswerKind kind) =>
            new()
            {
                Person = "ines.calder",
                Kind = kind,
                Via = "screen",
                Note = "to Hugo Brandt",
            };
        Assert.Equal(
            [AnswerKind.Passed, AnswerKind.Later],
            Enum.GetValues<AnswerKind>().Where(k => With(k).NoteCompletes).OrderBy(k => k != AnswerKind.Passed)
        );
    }
}
