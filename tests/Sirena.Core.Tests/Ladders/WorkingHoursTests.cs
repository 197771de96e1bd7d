using System.Collections.Immutable;
using CsCheck;
using NodaTime;
using Sirena.Core.Ladders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Ladders;

public class WorkingHoursTests
{
    private static readonly WeeklySpan Night = new([], new LocalTime(22, 0), new LocalTime(6, 0));

    private static Instant At(string text) =>
        NodaTime.Text.LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm").Parse(text).Value.InZoneLeniently(Lisbon).ToInstant();

    private static WorkingHours Hours(WeeklySpan[] spans, params LocalDate[] holidays) => new(spans, holidays.ToHashSet(), Lisbon);

    // In Lisbon the clocks go forward at 01:00 on 28 March 2027 and back at 02:00 on 31 October 2027: that night's shift has seven hours, this one's nine.
    [Theory]
    [InlineData("2027-03-27T21:00", 6 * 60, "2027-03-28T05:00")]
    [InlineData("2027-03-27T21:00", (7 * 60) + 30, "2027-03-28T22:30")]
    [InlineData("2027-10-30T21:00", 8 * 60, "2027-10-31T05:00")]
    [InlineData("2027-10-30T21:00", (9 * 60) + 30, "2027-10-31T22:30")]
    [InlineData("2027-06-10T02:00", 60, "2027-06-10T03:00")]
    public void A_night_of_work_is_as_long_as_it_is_when_the_clocks_change(string since, int minutes, string until) =>
        Assert.Equal(At(until), Hours([Night]).After(At(since), Duration.FromMinutes(minutes)));

    [Theory]
    [InlineData("2026-12-24T17:30", 60, "2026-12-28T08:30")]
    [InlineData("2026-12-25T10:00", 30, "2026-12-28T08:30")]
    [InlineData("2026-12-23T17:00", 11 * 60, "2026-12-24T18:00")]
    public void Nothing_works_on_a_holiday(string since, int minutes, string until) =>
        Assert.Equal(At(until), Hours([WorkingHours.Usual], new LocalDate(2026, 12, 25)).After(At(since), Duration.FromMinutes(minutes)));

    [Fact]
    public void Spans_that_overlap_count_once()
    {
        var two = Hours([new WeeklySpan([], new LocalTime(8, 0), new LocalTime(12, 0)), new WeeklySpan([], new LocalTime(10, 0), new LocalTime(14, 0))]);
        Assert.Equal(At("2026-11-24T13:00"), two.After(At("2026-11-24T08:00"), Duration.FromHours(5)));
    }

    // Ten hours each working day: 260 of them come within the days that are looked at, 300 do not.
    [Theory]
    [InlineData("2026-11-23T08:00", 10, "2026-11-23T18:00")]
    [InlineData("2026-11-23T08:00", 260 * 10, "2027-11-19T18:00")]
    [InlineData("2026-11-23T08:00", 300 * 10, null)]
    [InlineData("2026-11-23T18:00", 0, "2026-11-23T18:00")]
    [InlineData("2026-11-23T18:01", 0, "2026-11-24T08:00")]
    public void Working_time_over_a_year_never_comes(string since, int hours, string? until) =>
        Assert.Equal(until is null ? null : At(until), Hours([WorkingHours.Usual]).After(At(since), Duration.FromHours(hours)));

    [Fact]
    public void Without_hours_the_time_never_comes() => Assert.Null(Hours([]).After(Noon, Duration.FromMinutes(1)));

    [Fact]
    public void Working_time_adds_up_over_any_begin() =>
        Gen.Select(Gen.Int[0, 600_000], Gen.Int[1, 3_000], Gen.Int[1, 3_000])
            .Sample(
                (start, a, b) =>
                {
                    var hours = Hours([WorkingHours.Usual, Night], new LocalDate(2026, 12, 25), new LocalDate(2027, 1, 1));
                    var since = Noon + Duration.FromMinutes(start);
                    return hours.After(hours.After(since, Duration.FromMinutes(a))!.Value, Duration.FromMinutes(b))
                        == hours.After(since, Duration.FromMinutes(a + b));
                }
            );

    private static LadderStep Step(StepClock clock, int minutes) => new(clock, Duration.FromMinutes(minutes), [], null, null);

    [Fact]
    public void The_next_step_is_pulled_forward_to_the_due_time_and_the_others_keep_theirs()
    {
        LadderStep[] ladder = [Step(StepClock.After, 10), Step(StepClock.After, 120), Step(StepClock.After, 180)];
        var plan = LadderClock.Plan(ladder, Noon, Noon + Duration.FromMinutes(60), pull: true, _ => Hours([WorkingHours.Usual]));
        Assert.Equal([(1, 10, false), (2, 60, true), (3, 180, false)], plan.Select(p => (p.Rung, (int)(p.At - Noon).TotalMinutes, p.Pulled)));
        Assert.DoesNotContain(LadderClock.Plan(ladder, Noon, Noon + Duration.FromMinutes(60), pull: false, _ => Hours([])), p => p.Pulled);
        Assert.DoesNotContain(LadderClock.Plan(ladder, Noon, Noon - Duration.FromMinutes(60), pull: true, _ => Hours([])), p => p.Pulled);
    }

    [Fact]
    public void A_step_that_comes_again_has_a_place_for_each_time()
    {
        LadderStep[] ladder = [Step(StepClock.After, 10) with { Repeat = new StepRepeat(2, Duration.FromMinutes(5)) }, Step(StepClock.After, 60)];
        var plan = LadderClock.Plan(ladder, Noon, null, pull: true, _ => Hours([]));
        Assert.Equal([(1, 10, 1), (1, 15, 2), (1, 20, 3), (2, 60, 4)], plan.Select(p => (p.Rung, (int)(p.At - Noon).TotalMinutes, p.Place)));
    }

    [Fact]
    public void At_most_one_step_is_pulled_and_none_comes_before_the_alert() =>
        Gen.Select(Gen.Int[1, 400].Array[1, 6], Gen.Int[-100, 600])
            .Sample(
                (delays, due) =>
                {
                    var plan = LadderClock.Plan(
                        [.. delays.Select((d, i) => Step(i % 3 == 2 ? StepClock.BeforeDue : StepClock.After, d))],
                        Noon,
                        Noon + Duration.FromMinutes(due),
                        pull: true,
                        _ => Hours([WorkingHours.Usual])
                    );
                    return plan.Count(p => p.Pulled) <= 1
                        && plan.All(p => p.At >= Noon)
                        && plan.Where(p => p.Pulled).All(p => p.At == Noon + Duration.FromMinutes(due));
                }
            );
}
