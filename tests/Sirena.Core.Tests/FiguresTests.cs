using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Core.Notices;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Core.Sources;
using Sirena.Core.Wordings;

namespace Sirena.Core.Tests;

/// <summary>The figures that were decided once and that people rely on: how long, how many, how much. Each is written down elsewhere too.</summary>
public sealed class FiguresTests
{
    private static Duration Min(int minutes) => Duration.FromMinutes(minutes);

    [Theory]
    [InlineData(Urgency.Urgent, 30, 60, 30)]
    [InlineData(Urgency.Prompt, 240, 480, 720)]
    [InlineData(Urgency.Routine, 1_440, 4_320, 720)]
    public void An_urgency_says_how_long_is_tried_done_and_told(Urgency urgency, int deadline, int done, int old) =>
        Assert.Equal((Min(deadline), Min(done), Min(old)), (urgency.Deadline(), urgency.DoneWithin(), urgency.NotOlderThan()));

    [Fact]
    public void Waits_and_lifetimes() =>
        Assert.Equal(
            [2, 10, 1, 72 * 60, 15, 5, 30, 28 * 24 * 60],
            new[]
            {
                Ways.UsualWait,
                CheckDifference.Grace,
                Alert.Grace,
                AnswerLink.Lifetime,
                Instruction.UsualDeadline,
                Instruction.UsualSight,
                Instruction.UsualPatience,
                Rota.Block,
            }.Select(d => d.TotalMinutes)
        );

    [Fact]
    public void Retries_and_rests() => Assert.Equal([5, 20, 60, 300, 900, 1_800], RetrySchedule.Default.Pauses.Select(p => p.TotalSeconds));

    [Fact]
    public void Bounds() =>
        Assert.Equal(
            [2, 3, 2_000, 12, 8, 3, 40, 40, 60, 2_000, 3, 42, 8, 64 * 1024, 256 * 1024, 100_000, 8 << 20, 100_000, 8, 14, 200],
            [
                Alert.MostPutOff,
                Instruction.LongestChain,
                Rota.MostInBlock,
                SeenField.Kept,
                OwnField.Most,
                OwnField.MostInLists,
                OwnField.LongestName,
                Fact.Most,
                Fact.LongestLabel,
                FarText.Most,
                GatewayHealth.TrialsAtOnce,
                PrinterAddress.UsualColumns,
                ParsedText.MostDeep,
                ParsedText.MostLength,
                MessageWriter.MostOutput,
                MessageWriter.MostWork,
                NotePicture.MostBytes,
                Source.MostCalls,
                Rhythm.Weeks,
                Rhythm.LeastDays,
                Rhythm.LeastEvents,
            ]
        );

    [Theory]
    [InlineData(40, 40)]
    [InlineData(41, 41)]
    [InlineData(500, 41)]
    public void A_quotation_has_forty_characters_where_nothing_else_is_said(int long1, int quoted) =>
        Assert.Equal(quoted, Quoting.Cut(new string('x', long1)).Length);

    [Theory]
    [InlineData("", false)]
    [InlineData("a", true)]
    [InlineData("a-1", true)]
    [InlineData("1a", true)]
    [InlineData("-a", false)]
    [InlineData("new", false)]
    [InlineData("Ledger", false)]
    [InlineData("a.b", false)]
    [InlineData("ü", false)]
    public void A_source_s_id_is_small_letters_digits_and_hyphens(string text, bool good) => Assert.Equal(good, Source.IsId(text));

    [Fact]
    public void Names_of_fields_and_ids_have_their_lengths()
    {
        Assert.True(Source.IsId(new string('a', 60)));
        Assert.False(Source.IsId(new string('a', 61)));
        Assert.NotNull(ReadingField.Find("order.extra." + new string('a', 100)));
        Assert.Null(ReadingField.Find("order.extra." + new string('a', 101)));
        Assert.Null(ReadingField.Find("order.extra."));
        Assert.NotNull(ReadingField.Find("order.extra.a"));
        Assert.Null(ReadingField.Find("order.extra.a.b"));
        Assert.Equal("berth", ReadingField.Find("order.extra.berth")!.Name);
    }
}
