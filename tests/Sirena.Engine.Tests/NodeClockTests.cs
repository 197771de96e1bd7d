using NodaTime;

namespace Sirena.Engine.Tests;

/// <summary>A node's clock is corrected by what the database's shows, and by nothing else.</summary>
public sealed class NodeClockTests
{
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 14, 0);

    private static Duration Ms(double milliseconds) => Duration.FromTicks(milliseconds * NodaConstants.TicksPerMillisecond);

    // A look at a clock that is ahead by so much, with so long a way there and back.
    private static ClockLook Look(double ahead, double there, double back, double at = 0) =>
        new(Now + Ms(at), Now + Ms(at + there + ahead), Now + Ms(at + there + back));

    [Theory]
    [InlineData(0, 0, 0)]
    [InlineData(0, 400, 0)]
    [InlineData(0, 0, 400)]
    [InlineData(120, 3, 3)]
    public void A_slow_way_moves_no_clock_that_is_right(double ahead, double there, double back) =>
        Assert.Equal(Ms(ahead), ClockLook.Offset(Ms(ahead), [Look(ahead, there, back)]));

    [Fact]
    public void The_quickest_look_bounds_what_the_slow_ones_leave_open()
    {
        ClockLook[] looks = [Look(500, 900, 0), Look(500, 1, 2, 1_000), Look(500, 0, 700, 2_000)];
        var offset = ClockLook.Offset(Duration.Zero, looks);
        Assert.InRange(offset, Ms(498), Ms(501));
        Assert.Equal(offset, ClockLook.Offset(offset, looks));
        Assert.InRange(ClockLook.Offset(Ms(5_000), looks), Ms(499), Ms(502));
    }

    [Fact]
    public void Looks_that_contradict_each_other_leave_the_last_one() =>
        Assert.Equal(Ms(-300), ClockLook.Offset(Duration.Zero, [Look(900, 1, 1), Look(-300, 2, 2, 100)]));

    [Fact]
    public void A_clock_that_shows_microseconds_below_is_not_behind()
    {
        var own = Now + Duration.FromTicks(19);
        Assert.Equal(Duration.Zero, ClockLook.Offset(Duration.Zero, [new ClockLook(own, Now + Duration.FromTicks(10), own)]));
    }

    [Fact]
    public void The_offset_is_never_farther_from_the_truth_than_the_quickest_look_took()
    {
        var chance = new Random(7);
        for (var i = 0; i < 5_000; i++)
        {
            var (ahead, until) = (chance.Next(-3_000, 3_000), chance.Next(-3_000, 3_000));
            (int There, int Back)[] ways = [.. Enumerable.Range(0, chance.Next(1, 7)).Select(_ => (chance.Next(200), chance.Next(200)))];
            var offset = ClockLook.Offset(Ms(until), [.. ways.Select((w, n) => Look(ahead, w.There, w.Back, n * 1_000))]);
            var quickest = ways.Min(w => w.There + w.Back);
            Assert.InRange(offset, Ms(ahead - quickest), Ms(ahead + quickest + 0.002));
        }
    }
}
