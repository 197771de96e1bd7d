using NodaTime;
using Sirena.Core.Sources;

namespace Sirena.Core.Tests.Sources;

/// <summary>Lives through the weeks of a source that never fails.</summary>
public static class FalseAlarms
{
    /// <summary>How many silences were said, after eight weeks of learning.</summary>
    public static int In(Random chance, int weeks, double scale, int burst, Instant begin, DateTimeZone zone)
    {
        var (counts, times) = (new Dictionary<Instant, int>(), new List<Instant>());
        var end = begin + Duration.FromDays(7 * (8 + weeks));
        for (var at = begin; at < end;)
        {
            // Thinning: candidates at the highest rate, kept by the rate of their hour.
            at += Duration.FromSeconds(-Math.Log(1 - chance.NextDouble()) * 3600 / (30 * scale / burst));
            var hour = (int)((at - begin).TotalHours % 24);
            if (
                chance.NextDouble() * 30
                < (
                    hour switch
                    {
                        >= 8 and < 18 => 30,
                        >= 18 and < 22 => 6,
                        _ => 0.2,
                    }
                )
            )
            {
                times.Add(at);
                var key = Instant.FromUnixTimeSeconds(at.ToUnixTimeSeconds() / 3600 * 3600);
                counts[key] = counts.GetValueOrDefault(key) + burst;
            }
        }

        var (alarms, last, rhythm, known) = (0, begin, (Rhythm?)null, Instant.MinValue);
        foreach (var at in times)
        {
            if (at - begin > Duration.FromDays(56))
            {
                if (at - known > Duration.FromDays(1))
                {
                    (rhythm, known) = (
                        Rhythm.Of(
                            counts.Where(c => c.Key < at && c.Key > at - Duration.FromDays(57)).Select(c => new HourCount(c.Key, c.Value)),
                            begin,
                            at,
                            zone,
                            []
                        ),
                        at
                    );
                }

                alarms += rhythm!.IsKnown && rhythm.Surprise(last, at) >= rhythm.Threshold(9.2) ? 1 : 0;
            }

            last = at;
        }

        return alarms;
    }
}
