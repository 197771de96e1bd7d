using System.Globalization;
using NodaTime;
using Sirena.Core.Sources;

namespace Sirena.Core.Tests.Sources;

/// <summary>What is usual of sources of several kinds, and when their silence would be said, kept as it was found good.</summary>
public sealed class RhythmSweepTests
{
    private static readonly Instant Begin = Instant.FromUtc(2026, 9, 7, 0, 0);

    // Events an hour by the hour of the week: a shop by day, a port round the clock, a list in bursts, hardly anything, nothing on Sundays.
    private static readonly (string Name, Func<int, int> Events)[] Kinds =
    [
        ("a shop", h => h % 24 is >= 8 and < 18 ? 12 + (h * 7 % 5) : 0),
        ("a port", h => 3 + (h * 5 % 4)),
        ("bursts", h => h % 24 == 6 ? 60 : 0),
        ("rare", h => h % 40 == 9 ? 1 : 0),
        ("no Sundays", h => h % 168 >= 144 ? 0 : 2 + (h * 31 % 7 == 0 ? 20 : 0)),
    ];

    private static string N(double number) => number.ToString("0.###", CultureInfo.InvariantCulture);

    [Fact]
    public void Silences_are_said_when_they_were()
    {
        var told = new List<string>();
        foreach (var (name, events) in Kinds)
        {
            foreach (
                var (weeks, zone, holidays) in new (int, string, LocalDate[])[]
                {
                    (8, "Europe/Lisbon", [new(2026, 10, 5), new(2026, 11, 3)]),
                    (3, "UTC", []),
                    (1, "UTC", []),
                }
            )
            {
                var now = Begin + Duration.FromDays(7 * weeks) + Duration.FromMinutes(25);
                var counts = Enumerable.Range(0, weeks * 168).Select(h => new HourCount(Begin + Duration.FromHours(h), events(h))).Where(c => c.Events > 0);
                var rhythm = Rhythm.Of(counts, Begin + Duration.FromMinutes(10), now, DateTimeZoneProviders.Tzdb[zone], holidays);
                told.Add(
                    $"{name}, {weeks} weeks in {zone}: {(rhythm.IsKnown ? "known" : "not known")}, {N(rhythm.EventsAWeek)} a week, dispersion {N(rhythm.Dispersion)}, threshold {N(rhythm.Threshold(9.2))} and {N(rhythm.Threshold(20))}"
                );
                for (var hours = 0; hours < 200; hours += 13)
                {
                    var since = now + Duration.FromHours(hours);
                    told.Add(
                        $"  from {since}: usual {N(rhythm.Usual(since))}, in 5 h {N(rhythm.Expected(since, since + Duration.FromHours(5)))}, in 40 days {N(rhythm.Expected(since, since + Duration.FromDays(40)))}, surprise of 2 h {N(rhythm.Surprise(since, since + Duration.FromHours(2)))}, said at {rhythm.SaidAt(since, 9.2)}"
                    );
                }
            }
        }

        Kept.Same("rhythms", told);
    }
}
