using NodaTime;

namespace Sirena.Core.Ladders;

/// <summary>The hours in which a business works, on the wall clock of its time zone.</summary>
/// <param name="Days">The days; each span begins on them.</param>
/// <param name="From">The begin.</param>
/// <param name="To">The end, after the begin.</param>
/// <param name="Zone">The time zone.</param>
public sealed record WorkingHours(IReadOnlyCollection<IsoDayOfWeek> Days, LocalTime From, LocalTime To, DateTimeZone Zone)
{
    private const int MostDays = 400;

    /// <summary>Monday to Friday, 8 to 18.</summary>
    public static WorkingHours Usual(DateTimeZone zone) => new([IsoDayOfWeek.Monday, IsoDayOfWeek.Tuesday, IsoDayOfWeek.Wednesday, IsoDayOfWeek.Thursday, IsoDayOfWeek.Friday], new LocalTime(8, 0), new LocalTime(18, 0), zone);

    /// <summary>The instant by which that much working time has gone by since another; <see langword="null"/> when it does not within a year.</summary>
    public Instant? After(Instant since, Duration work)
    {
        var (day, left) = (since.InZone(Zone).Date, work);
        for (var i = 0; i < MostDays; i++, day = day.PlusDays(1))
        {
            if (!Days.Contains(day.DayOfWeek))
            {
                continue;
            }

            var begin = Instant.Max(since, day.At(From).InZoneLeniently(Zone).ToInstant());
            var end = day.At(To).InZoneLeniently(Zone).ToInstant();
            if (end - begin >= left)
            {
                return begin + left;
            }

            left -= Instant.Max(end, begin) - begin;
        }

        return null;
    }
}

/// <summary>When the steps of a ladder are due (semantics 18): each counts from when the alert was raised, whatever became of the others.</summary>
public static class LadderClock
{
    /// <summary>When a step is due; <see langword="null"/> when that never comes: before the due time of an order that has none.</summary>
    /// <param name="step">The step.</param>
    /// <param name="raised">When the alert was raised.</param>
    /// <param name="due">When the order is due, or <see langword="null"/>.</param>
    /// <param name="hours">The hours of work.</param>
    public static Instant? Due(LadderStep step, Instant raised, Instant? due, WorkingHours hours) => step.Clock switch
    {
        StepClock.After => raised + step.Delay,
        StepClock.AfterWorking => hours.After(raised, step.Delay),
        _ => due is { } at ? Instant.Max(raised, at - step.Delay) : null,
    };
}
