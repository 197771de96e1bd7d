using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;

namespace Sirena.Core.Tests.Ladders;

public sealed class FuseTests
{
    private static readonly Instant Noon = Instant.FromUtc(2026, 11, 24, 12, 0);

    private static Fuse Make(AlertState state, Instant? taken = null, Instant? ended = null, params (int Index, int Due, bool Fired)[] steps)
    {
        var alert = new Alert
        {
            Id = Guid.NewGuid(),
            RuleId = "r",
            Case = "c",
            State = state,
            RaisedAt = Noon,
            TakenAt = taken,
            EndedAt = ended,
        };
        var deliveries = new[]
        {
            new Delivery
            {
                Id = Guid.NewGuid(),
                RuleId = "r",
                To = "a@b.example",
                Person = "ines",
                Channel = Channel.Sms,
                State = DeliveryState.Landed,
                Step = 0,
            },
        };
        return Fuse.Of(
            alert,
            steps.Select(s => new AlertStep
            {
                AlertId = alert.Id,
                Index = s.Index,
                Rung = s.Index,
                DueAt = Noon + Duration.FromMinutes(s.Due),
                FiredAt = s.Fired ? Noon + Duration.FromMinutes(s.Due) : null,
            }),
            deliveries,
            null,
            d => d.Person!,
            s => $"rung {s.Rung}"
        );
    }

    [Fact]
    public void A_fuse_burns_towards_its_first_step_that_has_not_fired()
    {
        var fuse = Make(AlertState.Open, steps: [(0, 0, true), (2, 30, false), (1, 10, false)]);
        Assert.Equal(("rung 1", false), (fuse.Next!.Names, fuse.Next.Fired));
        Assert.Equal(["ines", "rung 1", "rung 2"], fuse.Knots.Select(k => k.Names));
        Assert.Equal(new FuseMark(Channel.Sms, DeliveryState.Landed, false), Assert.Single(fuse.Knots[0].Marks));
    }

    [Theory]
    [InlineData(0, FuseHeat.Far)]
    [InlineData(5, FuseHeat.Near)]
    [InlineData(8, FuseHeat.Near)]
    [InlineData(9, FuseHeat.Hot)]
    public void It_grows_hotter_as_the_next_step_comes(int minute, FuseHeat heat) =>
        Assert.Equal(heat, Make(AlertState.Open, steps: [(0, 0, true), (1, 10, false)]).Heat(Noon + Duration.FromMinutes(minute)));

    [Theory]
    [InlineData(301, FuseHeat.Far)]
    [InlineData(300, FuseHeat.Near)]
    [InlineData(91, FuseHeat.Near)]
    [InlineData(90, FuseHeat.Hot)]
    [InlineData(-5, FuseHeat.Hot)]
    public void It_is_near_from_five_minutes_and_hot_from_ninety_seconds_on(int left, FuseHeat heat) =>
        Assert.Equal(heat, Make(AlertState.Open, steps: [(0, 0, true), (1, 10, false)]).Heat(Noon + Duration.FromSeconds(600 - left)));

    [Fact]
    public void Whoever_takes_it_cuts_it_and_a_lapsed_one_is_burnt_out()
    {
        var cut = Make(AlertState.Taken, taken: Noon + Duration.FromMinutes(3), steps: [(0, 0, true), (1, 10, false)]);
        Assert.Equal((null, Noon + Duration.FromMinutes(3), FuseHeat.Far), (cut.Next, cut.CutAt, cut.Heat(Noon + Duration.FromMinutes(9))));
        var burnt = Make(AlertState.Lapsed, ended: Noon + Duration.FromMinutes(40), steps: [(0, 0, true)]);
        Assert.Equal(FuseHeat.Hot, burnt.Heat(Noon + Duration.FromHours(2)));
        var open = Make(AlertState.Open, steps: [(0, 0, true), (1, 10, false)]);
        var endless = Make(AlertState.Open, steps: [(0, 0, true)]);
        Assert.Equal([burnt, open, endless, cut], new[] { cut, endless, open, burnt }.OrderBy(f => f.Order));
    }
}
