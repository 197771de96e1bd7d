using NodaTime;
using Sirena.Core.People;

namespace Sirena.Core.Instructions;

/// <summary>A day on which a source takes orders otherwise than usual.</summary>
/// <param name="Date">The day.</param>
/// <param name="From">From when it takes orders; <see langword="null"/> for not at all.</param>
/// <param name="To">Until when.</param>
/// <param name="Name">Why: a holiday's name.</param>
public sealed record IntakeException(LocalDate Date, LocalTime? From, LocalTime? To, string? Name);

/// <summary>When a source takes orders, on the wall clock of the business.</summary>
public sealed record IntakeHours
{
    /// <summary>The spans of a week.</summary>
    public List<WeeklySpan> Open { get; init; } = [];

    /// <summary>The days that differ.</summary>
    public List<IntakeException> Exceptions { get; init; } = [];

    /// <summary>The business's holidays close it too.</summary>
    public bool Holidays { get; init; } = true;

    /// <summary>Whether it is to be open, why not, and until when it stays so.</summary>
    /// <param name="at">The moment.</param>
    /// <param name="zone">The business's zone.</param>
    /// <param name="holidays">Its holidays.</param>
    public (bool Open, string? Because, Instant? Until) At(Instant at, DateTimeZone zone, IReadOnlyCollection<Holiday> holidays)
    {
        var today = at.InZone(zone).Date;
        var spans = new List<(Instant From, Instant To)>();
        for (var day = today.PlusDays(-1); day <= today.PlusDays(8); day = day.PlusDays(1))
        {
            spans.AddRange(On(day, zone, holidays).Spans);
        }

        spans.Sort((a, b) => a.From.CompareTo(b.From));
        Instant? until = null;
        foreach (var (from, to) in spans)
        {
            // Spans that touch or overlap are one.
            if (from <= (until ?? at) && to > (until ?? at))
            {
                until = to;
            }
        }

        return until is not null
            ? (true, null, until)
            : (false, On(today, zone, holidays).Because ?? "outside its hours", spans.Where(s => s.From > at).Select(s => (Instant?)s.From).FirstOrDefault());
    }

    private (IEnumerable<(Instant From, Instant To)> Spans, string? Because) On(LocalDate day, DateTimeZone zone, IReadOnlyCollection<Holiday> holidays)
    {
        if (Exceptions.Find(e => e.Date == day) is { } other)
        {
            return other is { From: { } from, To: { } to }
                ? ([(day.At(from).InZoneLeniently(zone).ToInstant(), (to > from ? day : day.PlusDays(1)).At(to).InZoneLeniently(zone).ToInstant())], other.Name)
                : ([], other.Name ?? "closed that day");
        }

        return Holidays && holidays.FirstOrDefault(h => h.Date == day) is { } holiday
            ? ([], holiday.Name)
            : (Open.Select(s => s.On(day, zone)).OfType<(Instant, Instant)>(), null);
    }
}
