using NodaTime;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Core.People;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Ladders;

/// <summary>
/// Hours, half an hour after half an hour over days on which much meets: a weekend, a holiday, the night in which the clocks go back. What is kept was read
/// and found good; every edge of a span lies upon one of the times asked.
/// </summary>
public sealed class HoursSweepTests
{
    private static readonly LocalDate Friday = new(2027, 10, 29);

    private static readonly Holiday[] Closed = [new(new LocalDate(2027, 11, 1), "All Saints")];

    private static WeeklySpan Span(int from, int to, params IsoDayOfWeek[] days) => new([.. days], new LocalTime(from, 0), new LocalTime(to, 0));

    private static readonly (string Name, WeeklySpan[] Spans)[] Weeks =
    [
        ("usual", [WorkingHours.Usual]),
        ("nights", [Span(22, 6)]),
        ("touching", [Span(8, 12), Span(12, 16), Span(14, 18, IsoDayOfWeek.Friday, IsoDayOfWeek.Monday)]),
        ("one day", [Span(9, 9, IsoDayOfWeek.Saturday)]),
    ];

    // Times that follow each other with the same words are one line.
    private static IEnumerable<string> Along(Func<Instant, string> said)
    {
        var (begin, before, from) = (Friday.AtStartOfDayInZone(Lisbon).ToInstant(), (string?)null, default(ZonedDateTime));
        for (var n = 0; n <= 5 * 48; n++)
        {
            var at = begin + Duration.FromMinutes(30 * n);
            var now = said(at);
            if (now != before)
            {
                if (before is not null)
                {
                    yield return $"  {from:ddd HH:mm o<g>}: {before}";
                }

                (before, from) = (now, at.InZone(Lisbon));
            }
        }

        yield return $"  {from:ddd HH:mm o<g>}: {before}";
    }

    private static string At(Instant? at) => at is { } then ? $"{then.InZone(Lisbon):ddd d HH:mm o<g>}" : "never";

    [Fact]
    public void Hours_of_days_on_which_much_meets()
    {
        var told = new List<string>();
        foreach (var (name, spans) in Weeks)
        {
            var hours = new WorkingHours(spans, Closed.Select(c => c.Date).ToHashSet(), Lisbon);
            told.Add($"work of {name}");
            told.AddRange(Along(at => string.Join(", ", new[] { 0, 30, 240, 600, 720 }.Select(m => At(hours.After(at, Duration.FromMinutes(m)))))));
            told.Add($"quiet of {name}");
            told.AddRange(Along(at => At(WeeklySpan.Until(spans, at, Lisbon))));
            foreach (var holidays in new[] { true, false })
            {
                var intake = new IntakeHours
                {
                    Open = [.. spans],
                    Holidays = holidays,
                    Exceptions = [new(Friday.PlusDays(1), new LocalTime(20, 0), new LocalTime(2, 0), "stocktaking"), new(Friday.PlusDays(4), null, null, null)],
                };
                told.Add($"intake of {name}{(holidays ? "" : ", on holidays too")}");
                told.AddRange(
                    Along(at =>
                        intake.At(at, Lisbon, Closed) is var (open, because, until) && open ? $"open until {At(until)}" : $"{because}, until {At(until)}"
                    )
                );
            }
        }

        Kept.Same("hours", told);
    }
}
