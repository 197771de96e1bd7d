using CsCheck;
using NodaTime;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Ladders;

public class LadderClockTests
{
    [Theory]
    [InlineData("2026-11-24T10:00", 30, "2026-11-24T10:30")]
    [InlineData("2026-11-24T17:45", 30, "2026-11-25T08:15")]
    [InlineData("2026-11-27T17:45", 30, "2026-11-30T08:15")]
    [InlineData("2026-11-28T12:00", 0, "2026-11-30T08:00")]
    [InlineData("2026-11-24T05:00", 660, "2026-11-25T09:00")]
    public void Working_time_runs_from_eight_to_six_on_weekdays(string since, int minutes, string until)
    {
        Instant At(string text) =>
            NodaTime.Text.LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm").Parse(text).Value.InZoneLeniently(Lisbon).ToInstant();
        Assert.Equal(
            At(until),
            new WorkingHours([WorkingHours.Usual], System.Collections.Frozen.FrozenSet<LocalDate>.Empty, Lisbon).After(At(since), Duration.FromMinutes(minutes))
        );
    }

    [Fact]
    public void More_working_time_never_ends_sooner() =>
        Gen.Select(Gen.Int[0, 20_000], Gen.Int[0, 4_000], Gen.Int[0, 500])
            .Sample(
                (start, work, more) =>
                {
                    var (hours, since) = (
                        new WorkingHours([WorkingHours.Usual], System.Collections.Frozen.FrozenSet<LocalDate>.Empty, Lisbon),
                        Noon + Duration.FromMinutes(start)
                    );
                    return hours.After(since, Duration.FromMinutes(work)) <= hours.After(since, Duration.FromMinutes(work + more));
                }
            );

    [Fact]
    public void Steps_count_from_when_the_alert_was_raised_or_back_from_the_due_time()
    {
        LadderStep Step(StepClock clock) => new(clock, Duration.FromHours(1), [], null, null);
        var hours = new WorkingHours([WorkingHours.Usual], System.Collections.Frozen.FrozenSet<LocalDate>.Empty, Lisbon);
        Assert.Equal(Noon + Duration.FromHours(1), LadderClock.Due(Step(StepClock.After), Noon, null, hours));
        Assert.Equal(Noon + Duration.FromHours(4), LadderClock.Due(Step(StepClock.BeforeDue), Noon, Noon + Duration.FromHours(5), hours));
        Assert.Equal(Noon, LadderClock.Due(Step(StepClock.BeforeDue), Noon, Noon + Duration.FromMinutes(5), hours));
        Assert.Null(LadderClock.Due(Step(StepClock.BeforeDue), Noon, null, hours));
    }
}
