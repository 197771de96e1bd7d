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

        // An order that is due in the very moment is not too late for its step; a moment later it is.
        Assert.Equal(Noon, LadderClock.Due(Step(StepClock.BeforeDue), Noon, Noon, hours));
        Assert.Null(LadderClock.Due(Step(StepClock.BeforeDue), Noon + Duration.Epsilon, Noon, hours));
        Assert.Equal(Noon + Duration.FromHours(1), LadderClock.Due(Step(StepClock.AfterWorking), Noon, null, hours));
    }

    private static string Plan(int? due, bool pull, int stood, params LadderStep[] ladder) =>
        string.Join(
            ' ',
            LadderClock
                .Plan(
                    ladder,
                    Noon,
                    due is { } minutes ? Noon + Duration.FromMinutes(minutes) : null,
                    pull,
                    _ => new WorkingHours([], System.Collections.Frozen.FrozenSet<LocalDate>.Empty, Lisbon),
                    Duration.FromMinutes(stood)
                )
                .Select(p => $"{p.Rung}@{(p.At - Noon).TotalMinutes:0}{(p.Pulled ? "!" : "")}#{p.Place}")
        );

    private static LadderStep After(int minutes, StepClock clock = StepClock.After) => new(clock, Duration.FromMinutes(minutes), [], null, null);

    [Fact]
    public void The_next_step_beyond_the_due_time_is_pulled_to_it_and_no_other()
    {
        var ladder = new[] { After(10), After(60), After(90) };
        Assert.Equal("1@10#1 2@60#2 3@90#3", Plan(null, true, 0, ladder));
        Assert.Equal("1@10#1 2@59!#2 3@90#3", Plan(59, true, 0, ladder));
        Assert.Equal("1@10#1 2@60#2 3@60!#3", Plan(60, true, 0, ladder));
        Assert.Equal("1@10#1 2@60#2 3@90#3", Plan(90, true, 0, ladder));
        Assert.Equal("1@1!#1 2@60#2 3@90#3", Plan(1, true, 0, ladder));
        Assert.Equal("1@10#1 2@60#2 3@90#3", Plan(0, true, 0, ladder));
        Assert.Equal("1@10#1 2@60#2 3@90#3", Plan(59, false, 0, ladder));
    }

    [Fact]
    public void What_stood_still_moves_what_counts_from_the_raising_and_not_what_counts_back_from_the_due_time()
    {
        var ladder = new[] { After(10), After(30, StepClock.BeforeDue) };
        Assert.Equal("1@15#1 2@90#2", Plan(120, true, 5, ladder));
        Assert.Equal("1@10#1", Plan(null, true, 0, ladder));
        Assert.Equal("1@120!#1 2@90#2", Plan(120, true, 200, ladder));
    }

    [Fact]
    public void Working_time_that_never_comes_comes_with_the_due_time_where_steps_are_pulled()
    {
        var ladder = new[] { After(10, StepClock.AfterWorking), After(20) };
        Assert.Equal("1@60!#1 2@20#2", Plan(60, true, 0, ladder));
        Assert.Equal("2@20#2", Plan(60, false, 0, ladder));
        Assert.Equal("2@20#2", Plan(null, true, 0, ladder));
    }

    [Fact]
    public void A_step_that_comes_again_has_a_place_for_each_time_and_so_have_those_after_it()
    {
        var ladder = new[] { After(10) with { Repeat = new StepRepeat(2, Duration.FromMinutes(5)) }, After(17), After(60) };
        Assert.Equal("1@10#1 1@15#2 1@20#3 2@17#4 3@60#5", Plan(null, true, 0, ladder));
        Assert.Equal("1@10#1 1@15#2 1@20#3 2@16!#4 3@60#5", Plan(16, true, 0, ladder));
    }
}
