using System.Globalization;
using System.Text.RegularExpressions;
using NodaTime;
using NodaTime.Text;

namespace Sirena.Core;

/// <summary>ISO 8601 durations of fixed length: days and less. A day is 24 hours.</summary>
public static partial class Durations
{
    /// <summary>
    /// Reads <c>PT5M</c>, <c>P1DT2H</c>, with or without a sign before it (ISO 8601-2); <see langword="null"/> when it is none, or has months or years, which
    /// have no fixed length, or is more than 292 years.
    /// </summary>
    public static Duration? Parse(string text)
    {
        var (body, negative) = text.Trim() is ['-', .. var rest] ? (rest, true) : (text.Trim().TrimStart('+'), false);
        try
        {
            return PeriodPattern.NormalizingIso.Parse(body) is { Success: true } parsed && parsed.Value is { Months: 0, Years: 0 } period
                ? negative
                    ? -period.ToDuration()
                    : period.ToDuration()
                : null;
        }
        catch (OverflowException)
        {
            // More nanoseconds than 64 bits hold.
            return null;
        }
    }

    /// <summary>
    /// Writes it as ISO 8601: <c>PT5M</c>, <c>PT0S</c>; what is below zero with one sign before it, as RFC 5545 and XML Schema do: <c>-PT1M30S</c>.
    /// </summary>
    public static string Iso(this Duration duration) =>
        duration == Duration.Zero ? "PT0S"
        : duration < Duration.Zero ? "-" + (-duration).Iso()
        : PeriodPattern.NormalizingIso.Format(Period.FromNanoseconds(duration.ToInt64Nanoseconds()));

    /// <summary>
    /// Reads a length of time as a person types it: <c>5 min</c>, <c>1 h 30 min</c>, <c>2 days</c>, a bare number for minutes, or ISO 8601;
    /// <see langword="null"/> when it is none.
    /// </summary>
    public static Duration? ParseWords(string text)
    {
        text = Digits.Plain(text).Trim().ToLowerInvariant();
        if (decimal.TryParse(text, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var bare))
        {
            return bare <= MostMinutes ? Duration.FromSeconds((long)(bare * 60)) : null;
        }

        if (Worded().Match(text) is not { Success: true } match)
        {
            return Parse(text.ToUpperInvariant());
        }

        var seconds = match
            .Groups["n"]
            .Captures.Zip(match.Groups["u"].Captures, (n, u) => decimal.Parse(n.Value, CultureInfo.InvariantCulture)
                * u.Value[0] switch
                {
                    'w' => 604_800,
                    'd' => 86_400,
                    'h' => 3_600,
                    'm' => 60,
                    _ => 1,
                })
            .Sum();
        return seconds <= MostMinutes * 60 ? Duration.FromSeconds((long)seconds) : null;
    }

    /// <summary>In words that <see cref="ParseWords"/> reads as the same: <c>1 h 30 min</c>, <c>2 d</c>, <c>90 s</c>.</summary>
    public static string ExactWords(this Duration duration)
    {
        if (duration <= Duration.Zero || duration.SubsecondNanoseconds != 0)
        {
            return duration.Iso();
        }

        (int N, string Unit)[] parts = [(duration.Days, "d"), (duration.Hours, "h"), (duration.Minutes, "min"), (duration.Seconds, "s")];
        return string.Join(' ', parts.Where(p => p.N > 0).Select(p => $"{p.N} {p.Unit}"));
    }

    /// <summary>The hour (UTC) in which an instant lies: its beginning.</summary>
    public static Instant Hour(this Instant at) => Instant.FromUnixTimeSeconds(at.ToUnixTimeSeconds() / 3600 * 3600);

    /// <summary>An instant as PostgreSQL keeps it, to the microsecond below: what is decided and what is stored must be the same instant.</summary>
    public static Instant Micros(this Instant at) => Instant.FromUnixTimeTicks(at.ToUnixTimeTicks() / 10 * 10);

    private const int MostMinutes = 5_256_000;

    [GeneratedRegex(@"^(?:(?<n>\d{1,9}(?:\.\d{1,4})?)\s*(?<u>weeks?|w|days?|d|hours?|h|minutes?|min|m|seconds?|sec|s)\s*)+$", RegexOptions.CultureInvariant)]
    private static partial Regex Worded();

    /// <summary>How long something took, in words: tenths of a second below a minute, a dash for nothing known.</summary>
    public static string Took(this Duration? span) =>
        span switch
        {
            null => "–",
            { TotalSeconds: < 60 } s => s.TotalSeconds.ToString("0.0", CultureInfo.InvariantCulture) + " s",
            { } s => s.InWords(),
        };

    /// <summary>In words: <c>2 h 28</c>, <c>18 min</c>, <c>3 days</c>, <c>40 s</c>. The sign is dropped.</summary>
    public static string InWords(this Duration duration)
    {
        var d = duration < Duration.Zero ? -duration : duration;
        return d switch
        {
            { TotalDays: >= 2 } => $"{(int)d.TotalDays} days",
            { TotalHours: >= 1, Minutes: 0 } => $"{(int)d.TotalHours} h",
            { TotalHours: >= 1 } => $"{(int)d.TotalHours} h {d.Minutes:00}",
            { TotalMinutes: >= 1 } => $"{(int)d.TotalMinutes} min",
            _ => $"{(int)d.TotalSeconds} s",
        };
    }
}
