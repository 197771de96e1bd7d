using System.Globalization;
using System.Text.RegularExpressions;
using NodaTime;
using NodaTime.Text;

namespace Sirena.Core;

/// <summary>
/// Days and times as people type them: <c>14:30</c>, <c>tomorrow 8</c>, <c>Fri 14:30</c>, <c>28 Nov 13:36</c>, <c>28/11/2026</c>, <c>in 2 h</c>, and ISO 8601.
/// Days run before months, hours to 24. A time alone is the next one; a day of the week is the next one; a day without its year is the nearest.
/// </summary>
public static partial class WhenText
{
    private static readonly string[] Weekdays = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"];
    private static readonly string[] Months =
    [
        "january",
        "february",
        "march",
        "april",
        "may",
        "june",
        "july",
        "august",
        "september",
        "october",
        "november",
        "december",
    ];
    private static readonly LocalDateTimePattern[] Iso =
    [
        .. new[] { "uuuu-MM-dd'T'HH:mm", "uuuu-MM-dd'T'HH:mm:ss", "uuuu-MM-dd HH:mm", "uuuu-MM-dd HH:mm:ss" }.Select(
            LocalDateTimePattern.CreateWithInvariantCulture
        ),
    ];

    /// <summary>A day and time, written so that it is read again: <c>Sat 28 Nov 2026, 13:36</c>.</summary>
    public static string Write(LocalDateTime at) => at.ToString("ddd d MMM uuuu, HH:mm", CultureInfo.InvariantCulture);

    /// <summary>A day, written so that it is read again: <c>Sat 28 Nov 2026</c>.</summary>
    public static string Write(LocalDate day) => day.ToString("ddd d MMM uuuu", CultureInfo.InvariantCulture);

    /// <summary>A day and time; a day alone is its begin.</summary>
    /// <param name="text">What is typed.</param>
    /// <param name="now">The wall time from which "tomorrow" counts.</param>
    /// <returns><see langword="null"/> where it is none from 1970 to 2199.</returns>
    public static LocalDateTime? Read(string? text, LocalDateTime now)
    {
        var typed = Plain(text);
        var read = typed.Length is 0 or > 60 ? null : Exact(typed) ?? Ahead(typed, now) ?? Worded(typed, now);
        return read is { } at && KnownTime.Holds(at.Date) ? at : null;
    }

    /// <summary>A day.</summary>
    /// <param name="text">What is typed.</param>
    /// <param name="now">The wall time from which "tomorrow" counts.</param>
    /// <returns><see langword="null"/> where it is none, or says a time of day too.</returns>
    public static LocalDate? ReadDay(string? text, LocalDateTime now)
    {
        var typed = Plain(text);
        var day =
            typed.Length is 0 or > 60 ? null
            : LocalDatePattern.Iso.Parse(typed.ToUpperInvariant()) is { Success: true } iso ? iso.Value
            : Spans().Match(typed) is { Success: true } spans && spans.Groups["u"].Captures.All(u => u.Value[0] is 'd' or 'w') ? Ahead(typed, now)?.Date
            : DayOf(typed.Split(' '), now) is var (found, tokens) && tokens == typed.Split(' ').Length ? found
            : null;
        return day is { } known && KnownTime.Holds(known) ? known : null;
    }

    /// <summary>A time of day: <c>8</c>, <c>8:30</c>, <c>8.30</c>, <c>0830</c>, <c>8 h</c>, <c>noon</c>.</summary>
    public static LocalTime? ReadTime(string? text)
    {
        var typed = Plain(text);
        if (typed is "noon" or "midday")
        {
            return LocalTime.Noon;
        }

        if (typed is "midnight")
        {
            return LocalTime.Midnight;
        }

        if (Clock().Match(typed) is not { Success: true } clock)
        {
            return null;
        }

        var (hour, minute) = (Number(clock.Groups["h"].Value), clock.Groups["m"].Success ? Number(clock.Groups["m"].Value) : 0);
        return hour < 24 && minute < 60 ? new LocalTime(hour, minute) : null;
    }

    /// <summary>A time of day as documents have it: <c>8</c> becomes <c>08:00</c>. What is none stays as it was typed, and their reader says so.</summary>
    public static string Clocked(string typed) => ReadTime(typed)?.ToString("HH:mm", CultureInfo.InvariantCulture) ?? typed;

    private static string Plain(string? text) => Blanks().Replace(Digits.Plain(text ?? "").Trim().ToLowerInvariant().Replace(',', ' '), " ");

    private static int Number(string digits) => int.Parse(digits, NumberStyles.None, CultureInfo.InvariantCulture);

    private static LocalDateTime? Exact(string typed) =>
        Iso.Select(p => p.Parse(typed.ToUpperInvariant())).FirstOrDefault(p => p.Success)?.Value
        ?? (LocalDatePattern.Iso.Parse(typed.ToUpperInvariant()) is { Success: true } day ? day.Value.AtMidnight() : null);

    private static LocalDateTime? Ahead(string typed, LocalDateTime now)
    {
        if (typed == "now")
        {
            return Minute(now);
        }

        // "18h" is a time of day, "2 h" and "in 2h" are from now on.
        if (Spans().Match(typed) is not { Success: true } spans || ClockHour().IsMatch(typed) || spans.Groups["n"].Captures.Any(n => n.Length > 4))
        {
            return null;
        }

        var at = now;
        foreach (var (n, unit) in spans.Groups["n"].Captures.Zip(spans.Groups["u"].Captures, (n, u) => (Number(n.Value), u.Value)))
        {
            at = unit[0] switch
            {
                'm' => at.PlusMinutes(n),
                'h' => at.PlusHours(n),
                'w' => at.PlusWeeks(n),
                _ => at.PlusDays(n),
            };
        }

        return Minute(at);
    }

    private static LocalDateTime Minute(LocalDateTime at) => at.Date + new LocalTime(at.Hour, at.Minute);

    private static LocalDateTime? Worded(string typed, LocalDateTime now)
    {
        var tokens = typed.Split(' ').Where(t => t is not "at").ToArray();
        if (tokens.Length == 0)
        {
            return null;
        }

        if (DayOf(tokens, now) is not var (day, used))
        {
            return ReadTime(string.Join(' ', tokens)) is { } alone
                ? now.Date + alone is var today && today > now
                    ? today
                    : now.Date.PlusDays(1) + alone
                : null;
        }

        if (used == tokens.Length)
        {
            return day.AtMidnight();
        }

        if (ReadTime(string.Join(' ', tokens[used..])) is not { } time)
        {
            return null;
        }

        // "Fri 14:30" on a Friday afternoon is next week's.
        return used == 1 && IndexOf(Weekdays, tokens[0]) >= 0 && day == now.Date && day + time <= now ? day.PlusWeeks(1) + time : day + time;
    }

    // The day that the first words say, and how many of them.
    private static (LocalDate Day, int Used)? DayOf(string[] tokens, LocalDateTime now)
    {
        var today = now.Date;
        switch (tokens[0])
        {
            case "today":
                return (today, 1);
            case "tomorrow":
                return (today.PlusDays(1), 1);
            case "yesterday":
                return (today.PlusDays(-1), 1);
        }

        var weekday = IndexOf(Weekdays, tokens[0]);
        if (weekday >= 0)
        {
            // A day of the week before a date only says it once more, and must be right.
            if (tokens.Length > 1 && DateOf(tokens[1..], today) is var (date, used))
            {
                return (int)date.DayOfWeek == weekday + 1 ? (date, used + 1) : null;
            }

            return (today.PlusDays((weekday + 1 - (int)today.DayOfWeek + 7) % 7), 1);
        }

        return DateOf(tokens, today);
    }

    private static (LocalDate Date, int Used)? DateOf(string[] tokens, LocalDate today)
    {
        if (LocalDatePattern.Iso.Parse(tokens[0]) is { Success: true } iso)
        {
            return (iso.Value, 1);
        }

        if (Dated().Match(tokens[0]) is { Success: true } dated)
        {
            return
                Made(
                    dated.Groups["y"].Success ? Number(dated.Groups["y"].Value) : null,
                    Number(dated.Groups["mo"].Value),
                    Number(dated.Groups["d"].Value),
                    today
                )
                    is { } day
                ? (day, 1)
                : null;
        }

        if (
            tokens.Length < 2
            || IndexOf(Months, tokens[1].TrimEnd('.')) is not (>= 0 and var month)
            || DayNumber().Match(tokens[0]) is not { Success: true } number
        )
        {
            return null;
        }

        var year = tokens.Length > 2 && Year().IsMatch(tokens[2]) ? Number(tokens[2]) : (int?)null;
        return Made(year, month + 1, Number(number.Groups["d"].Value), today) is { } made ? (made, year is null ? 2 : 3) : null;
    }

    private static LocalDate? Made(int? year, int month, int day, LocalDate today)
    {
        LocalDate? Of(int y) =>
            y is >= 1970 and < 2200 && month is >= 1 and <= 12 && day >= 1 && day <= CalendarSystem.Iso.GetDaysInMonth(y, month)
                ? new LocalDate(y, month, day)
                : null;
        return year is { } said
            ? Of(said < 100 ? 2000 + said : said)
            : new[] { today.Year - 1, today.Year, today.Year + 1 }
                .Select(Of)
                .OfType<LocalDate>()
                .OrderBy(d => Math.Abs(Period.DaysBetween(today, d)))
                .Select(d => (LocalDate?)d)
                .FirstOrDefault();
    }

    // By its whole name, or its first three letters or more.
    private static int IndexOf(string[] names, string word) => word.Length < 3 ? -1 : Array.FindIndex(names, n => n.StartsWith(word, StringComparison.Ordinal));

    [GeneratedRegex(@"\s+", RegexOptions.CultureInvariant)]
    private static partial Regex Blanks();

    [GeneratedRegex(@"^(?<h>\d{1,2})(?:[:.](?<m>\d{2})| ?h(?<m>\d{2})?|(?<=\d{2})(?<m>\d{2}))?$", RegexOptions.CultureInvariant)]
    private static partial Regex Clock();

    [GeneratedRegex(@"^(?:in |\+ ?)?(?:(?<n>\d+) ?(?<u>minutes?|mins?|m|hours?|hrs?|h|days?|d|weeks?|w)(?: |(?=\d)|$))+$", RegexOptions.CultureInvariant)]
    private static partial Regex Spans();

    [GeneratedRegex(@"^\d{1,2}h$", RegexOptions.CultureInvariant)]
    private static partial Regex ClockHour();

    [GeneratedRegex(@"^(?<d>\d{1,2})(?:/(?<mo>\d{1,2})(?:/(?<y>\d{4}|\d{2}))?|\.(?<mo>\d{1,2})\.(?<y>\d{4}|\d{2})?)$", RegexOptions.CultureInvariant)]
    private static partial Regex Dated();

    [GeneratedRegex(@"^(?<d>\d{1,2})(?:\.|st|nd|rd|th)?$", RegexOptions.CultureInvariant)]
    private static partial Regex DayNumber();

    [GeneratedRegex(@"^\d{4}$", RegexOptions.CultureInvariant)]
    private static partial Regex Year();
}
