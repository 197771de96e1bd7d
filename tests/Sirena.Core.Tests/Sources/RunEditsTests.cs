using NodaTime;
using Sirena.Core.Sources;

namespace Sirena.Core.Tests.Sources;

/// <summary>What a person mends of a run, and from when on a source is expected to speak.</summary>
public sealed class RunEditsTests
{
    private static readonly string[] Head = ["no", "due", "sum"];

    [Fact]
    public void A_mended_cell_stands_in_its_row_alone()
    {
        var edits = new RunEdits().With(3, "due", "31/05/2026").With(3, "sum", "7").With(4, "due", "x");
        Assert.Equal(["1", "31/05/2026", "7"], edits.Mended(3, Head, ["1", "31/02/2026", "o"]));
        Assert.Equal(["2", "x", ""], edits.Mended(4, Head, ["2"]));
        string[] other = ["3", "", ""];
        Assert.Same(other, edits.Mended(5, Head, other));
        string[] tooMany = ["1", "2", "3", "4"];
        Assert.Same(tooMany, edits.Mended(3, Head, tooMany));
    }

    [Fact]
    public void The_last_word_on_a_cell_counts_and_the_edits_before_stay_as_they_were()
    {
        var first = new RunEdits().With(3, "due", "a");
        var second = first.With(3, "due", "b");
        Assert.Equal(("a", "b"), (first.Cells[3]["due"], second.Cells[3]["due"]));
    }

    [Theory]
    [InlineData(null, "cancelled", "cancelled")]
    [InlineData(null, null, RunEdits.Nothing)]
    [InlineData("signed-for", "cancelled", "signed-for")]
    [InlineData(RunEdits.Stays, "cancelled", RunEdits.Stays)]
    [InlineData(RunEdits.Nothing, "cancelled", RunEdits.Nothing)]
    public void A_gone_row_means_what_was_said_of_it_else_what_its_source_says(string? said, string? usual, string meaning) =>
        Assert.Equal(meaning, (said is null ? new RunEdits() : new RunEdits().With("YB-1", said)).MeaningOf("YB-1", usual));

    [Fact]
    public void Nothing_is_expected_of_a_source_before_the_time_that_was_said()
    {
        var last = Instant.FromUtc(2026, 11, 24, 12, 0);
        var later = last + Duration.FromHours(2);
        Assert.Equal(last, new SilencePlan().ExpectedFrom(last));
        Assert.Equal(later, new SilencePlan { NotBefore = later }.ExpectedFrom(last));
        Assert.Equal(later, new SilencePlan { NotBefore = last }.ExpectedFrom(later));
        var source = new Source
        {
            Id = "ledger",
            Name = "Quay ledger",
            SilentSince = last,
            Silence = new SilencePlan { NotBefore = later },
        };
        Assert.False(source.IsSilent(later - Duration.FromSeconds(1)));
        Assert.True(source.IsSilent(later));
        Assert.False(new Source { Id = "ledger", Name = "Quay ledger" }.IsSilent(later));
    }
}
