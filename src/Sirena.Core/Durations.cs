using NodaTime;
using NodaTime.Text;

namespace Sirena.Core;

/// <summary>ISO 8601 durations of fixed length: days and less. A day is 24 hours.</summary>
public static class Durations
{
    /// <summary>Reads <c>PT5M</c>, <c>P1DT2H</c>, with or without a sign; <see langword="null"/> when it is none, or has months or years, which have no fixed length.</summary>
    public static Duration? Parse(string text) =>
        PeriodPattern.NormalizingIso.Parse(text.Trim()) is { Success: true } parsed && parsed.Value is { Months: 0, Years: 0 } period ? period.ToDuration() : null;

    /// <summary>Writes it as ISO 8601: <c>PT5M</c>, <c>PT0S</c>.</summary>
    public static string Iso(this Duration duration) =>
        duration == Duration.Zero ? "PT0S" : PeriodPattern.NormalizingIso.Format(Period.FromNanoseconds(duration.ToInt64Nanoseconds()));

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
