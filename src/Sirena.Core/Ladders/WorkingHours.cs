using System.Collections.Immutable;
using NodaTime;
using Sirena.Core.People;

namespace Sirena.Core.Ladders;

/// <summary>The hours in which a business or one of its teams works, on the wall clock of its time zone.</summary>
/// <param name="Spans">The spans of a week; one may end on the next day. Spans that overlap count once.</param>
/// <param name="Holidays">Days on which no span begins.</param>
/// <param name="Zone">The time zone.</param>
public sealed record WorkingHours(IReadOnlyList<WeeklySpan> Spans, IReadOnlySet<LocalDate> Holidays, DateTimeZone Zone)
{
    private const int MostDays = 400;

    /// <summary>Monday to Friday, 8 to 18.</summary>
    public static WeeklySpan Usual { get; } =
        new(
            ImmutableArray.Create(IsoDayOfWeek.Monday, IsoDayOfWeek.Tuesday, IsoDayOfWeek.Wednesday, IsoDayOfWeek.Thursday, IsoDayOfWeek.Friday),
            new LocalTime(8, 0),
            new LocalTime(18, 0)
        );

    /// <summary>The instant by which that much working time has gone by since another; <see langword="null"/> when it does not within a year.</summary>
    public Instant? After(Instant since, Duration work)
    {
        var (from, left, day) = (since, work, since.InZone(Zone).Date.PlusDays(-1));
        for (var i = 0; i < MostDays; i++, day = day.PlusDays(1))
        {
            if (Holidays.Contains(day))
            {
                continue;
            }

            foreach (var (begin, end) in Spans.Select(s => s.On(day, Zone)).OfType<(Instant From, Instant To)>().OrderBy(s => s.From))
            {
                var start = Instant.Max(from, begin);
                if (start > end || (start == end && left > Duration.Zero))
                {
                    continue;
                }

                if (end - start >= left)
                {
                    return start + left;
                }

                left -= end - start;
                from = end;
            }
        }

        return null;
    }
}
