using NodaTime;

namespace Sirena.Core.Sources;

/// <summary>How many events came in one hour.</summary>
/// <param name="Hour">The hour's begin.</param>
/// <param name="Events">How many.</param>
public readonly record struct HourCount(Instant Hour, int Events);

/// <summary>
/// What a source usually sends in each hour of the week, from its last eight weeks, and how much it varies. Newer weeks weigh more, the business's holidays are
/// left out. Events are taken as a
/// Poisson process that may be bursty: the number expected in a silence, divided by the dispersion (variance to mean, at least 1), is the negative logarithm of
/// how likely such a silence is by chance.
/// </summary>
public sealed class Rhythm
{
    /// <summary>How far back it looks.</summary>
    public const int Weeks = 8;

    /// <summary>The days that it needs, with <see cref="LeastEvents"/>, before it says anything.</summary>
    public const int LeastDays = 14;

    /// <summary>The events that it needs.</summary>
    public const int LeastEvents = 200;

    private const int HoursOfWeek = 168;

    // A week counts for 0.85 of the one after it: the oldest still for a third of the newest.
    private const double Fading = 0.85;

    // The margin for what is not known of the usual: with it, a source of any size stays under one false alarm in 20 weeks.
    private const double Margin = 1.5;

    private readonly double[] usual;
    private readonly DateTimeZone zone;
    private readonly IReadOnlyCollection<LocalDate> holidays;

    private Rhythm(double[] usual, double dispersion, bool known, DateTimeZone zone, IReadOnlyCollection<LocalDate> holidays) =>
        (this.usual, Dispersion, IsKnown, this.zone, this.holidays) = (usual, dispersion, known, zone, holidays);

    /// <summary>Variance to mean of the counts of an hour about the usual one, at least 1.</summary>
    public double Dispersion { get; }

    /// <summary>There is enough to go by.</summary>
    public bool IsKnown { get; }

    /// <summary>The events of a usual week.</summary>
    public double EventsAWeek => usual.Sum();

    /// <summary>Works a rhythm out.</summary>
    /// <param name="counts">Events by hour; an hour that is not named had none.</param>
    /// <param name="since">When the source began; hours before it count for nothing.</param>
    /// <param name="now">The moment; the hour that it lies in does not count.</param>
    /// <param name="zone">The business's zone: an hour of the week is its own.</param>
    /// <param name="holidays">Days that are like no other.</param>
    public static Rhythm Of(IEnumerable<HourCount> counts, Instant since, Instant now, DateTimeZone zone, IReadOnlyCollection<LocalDate> holidays)
    {
        var byHour = counts.GroupBy(c => c.Hour.Hour()).ToDictionary(g => g.Key, g => g.Sum(c => c.Events));
        var end = now.Hour();
        var begin = Instant.Max((since + Duration.FromMinutes(59)).Hour(), end - Duration.FromDays(7 * Weeks));
        var (sum, weight, cells) = (new double[HoursOfWeek], new double[HoursOfWeek], new List<(int Cell, int Events)>());
        for (var hour = begin; hour < end; hour += Duration.FromHours(1))
        {
            var local = hour.InZone(zone).LocalDateTime;
            if (holidays.Contains(local.Date))
            {
                continue;
            }

            var (cell, events) = (CellOf(local), byHour.GetValueOrDefault(hour));
            var w = Math.Pow(Fading, (end - hour).TotalDays / 7);
            (sum[cell], weight[cell]) = (sum[cell] + (w * events), weight[cell] + w);
            cells.Add((cell, events));
        }

        double[] usual = [.. sum.Zip(weight, (s, w) => w > 0 ? s / w : 0)];
        var total = cells.Sum(c => c.Events);
        return new Rhythm(usual, DispersionOf(cells, usual), (end - begin).TotalDays >= LeastDays && total >= LeastEvents, zone, holidays);
    }

    /// <summary>The events of a usual hour that an instant lies in; a holiday is like no other day, and nothing is expected of it.</summary>
    public double Usual(Instant at) => at.InZone(zone).LocalDateTime is var local && holidays.Contains(local.Date) ? 0 : usual[CellOf(local)];

    /// <summary>How many events a span usually brings; whole hours and parts of them, at most four weeks.</summary>
    public double Expected(Instant from, Instant to)
    {
        var (expected, at) = (0.0, Instant.Max(from, to - Duration.FromDays(28)));
        while (at < to)
        {
            var next = Instant.Min(at.Hour() + Duration.FromHours(1), to);
            expected += Usual(at) * (next - at).TotalHours;
            at = next;
        }

        return expected;
    }

    /// <summary>How surprising a silence is: the negative natural logarithm of its chance.</summary>
    public double Surprise(Instant since, Instant now) => Expected(since, now) / Dispersion;

    /// <summary>
    /// From which surprise on a silence is said. A source with more events has more gaps, each with its chance; so that it does not raise more false alarms for
    /// that, the threshold grows with the
    /// logarithm of its gaps in 20 weeks.
    /// </summary>
    /// <param name="threshold">The one that is set: 9.2 is one in ten thousand.</param>
    public double Threshold(double threshold) => Math.Max(threshold, Math.Log(Math.Max(1, EventsAWeek * 20 / Dispersion)) + Margin);

    /// <summary>When a silence that began would be said, or <see langword="null"/> where that is more than four weeks off.</summary>
    public Instant? SaidAt(Instant since, double threshold)
    {
        var (wanted, sum, at) = (Threshold(threshold) * Dispersion, 0.0, since);
        for (var end = since + Duration.FromDays(28); at < end;)
        {
            var next = at.Hour() + Duration.FromHours(1);
            var here = Usual(at) * (next - at).TotalHours;
            if (sum + here >= wanted && here > 0)
            {
                return at + Duration.FromSeconds((next - at).TotalSeconds * ((wanted - sum) / here));
            }

            (sum, at) = (sum + here, next);
        }

        return null;
    }

    private static int CellOf(LocalDateTime local) => (((int)local.DayOfWeek - 1) * 24) + local.Hour;

    // Pearson's statistic over its degrees of freedom: one is lost for each hour of the week whose usual number was worked out from the same counts.
    private static double DispersionOf(List<(int Cell, int Events)> cells, double[] usual)
    {
        var (sum, count, used) = (0.0, 0, new HashSet<int>());
        foreach (var (cell, events) in cells.Where(c => usual[c.Cell] > 0.05))
        {
            sum += Math.Pow(events - usual[cell], 2) / usual[cell];
            count++;
            used.Add(cell);
        }

        return count - used.Count < 24 ? 1 : Math.Max(1, sum / (count - used.Count));
    }
}
