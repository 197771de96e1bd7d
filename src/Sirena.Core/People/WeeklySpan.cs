using System.Collections.Immutable;
using NodaTime;
using NodaTime.Text;

namespace Sirena.Core.People;

/// <summary>
/// A span of every week: quiet hours, hours of work. It belongs to the day it starts on: Friday 22:00 to 06:00 ends on Saturday. Both ends are wall clock times
/// of the business.
/// </summary>
/// <param name="Days">The days it starts on; every day when empty.</param>
/// <param name="From">Its begin.</param>
/// <param name="To">Its end; on the next day where it is not after the begin.</param>
public sealed record WeeklySpan(ImmutableArray<IsoDayOfWeek> Days, LocalTime From, LocalTime To)
{
    /// <summary>Reads a span as a form gives it.</summary>
    /// <param name="from">Its begin, <c>22:00</c>.</param>
    /// <param name="to">Its end; not the same.</param>
    /// <param name="days">The names of the days on which it begins; none for every day.</param>
    /// <returns>The span, or <see langword="null"/> when a time or a day cannot be read.</returns>
    public static WeeklySpan? Read(string? from, string? to, IEnumerable<string> days)
    {
        IsoDayOfWeek[] begins = [.. days.Select(d => Enum.GetValues<IsoDayOfWeek>().FirstOrDefault(day => day.ToString() == d)).Distinct().Order()];
        return WhenText.ReadTime(from) is { } begin && WhenText.ReadTime(to) is { } end && begin != end && !begins.Contains(IsoDayOfWeek.None)
            ? new WeeklySpan([.. begins], begin, end)
            : null;
    }

    /// <summary>The span that begins on a day, as instants, right also where the clocks change in it; <see langword="null"/> when none does.</summary>
    public (Instant From, Instant To)? On(LocalDate day, DateTimeZone zone) =>
        Days.IsEmpty || Days.Contains(day.DayOfWeek)
            ? (zone.AtLeniently(day + From).ToInstant(), zone.AtLeniently((To > From ? day : day.PlusDays(1)) + To).ToInstant())
            : null;

    /// <summary>When the quiet ends that holds at an instant; <see langword="null"/> when none does.</summary>
    public Instant? Until(Instant at, DateTimeZone zone)
    {
        var local = at.InZone(zone).Date;
        foreach (var day in new[] { local, local.PlusDays(-1) })
        {
            if (On(day, zone) is { } span && span.From <= at && at < span.To)
            {
                return span.To;
            }
        }

        return null;
    }

    /// <summary>When quiet ends that holds by any of the spans, spans that follow one another counted as one.</summary>
    public static Instant? Until(IReadOnlyList<WeeklySpan> spans, Instant at, DateTimeZone zone)
    {
        Instant? end = null;
        for (var i = 0; i < 14; i++)
        {
            var next = spans.Select(s => s.Until(end ?? at, zone)).Max();
            if (next is null)
            {
                break;
            }

            end = next;
        }

        return end;
    }

    /// <inheritdoc/>
    public bool Equals(WeeklySpan? other) => other is not null && Days.SequenceEqual(other.Days) && From == other.From && To == other.To;

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Days.Length, From, To);
}
