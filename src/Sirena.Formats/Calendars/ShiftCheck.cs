using System.Globalization;
using System.Text.RegularExpressions;
using NodaTime;
using NodaTime.Text;
using static Sirena.Core.Quoting;

namespace Sirena.Formats.Calendars;

/// <summary>
/// Whether the properties of a VEVENT are what RFC 5545 says they are and can be worked out. Each answer is the sentence on what is wrong, or
/// <see langword="null"/>.
/// </summary>
internal static partial class ShiftCheck
{
    /// <summary>The longest shift.</summary>
    public static readonly Duration Longest = Duration.FromDays(7);

    /// <summary>The sentence on a longer one.</summary>
    public const string TooLong = "A shift lasts at most 7 days. Write several, or a repetition.";

    private const int MostDates = 2_000;
    private static readonly string[] Once =
    [
        "DTSTART",
        "DTEND",
        "DURATION",
        "RRULE",
        "UID",
        "RECURRENCE-ID",
        "STATUS",
        "SUMMARY",
        "LOCATION",
        "ORGANIZER",
        "SEQUENCE",
        "DTSTAMP",
    ];
    private static readonly LocalDateTimePattern Stamp = LocalDateTimePattern.CreateWithInvariantCulture("uuuuMMdd'T'HHmmss");
    private static readonly LocalDatePattern Day = LocalDatePattern.CreateWithInvariantCulture("uuuuMMdd");

    /// <summary>How many of each number a part of a rule may hold: name, least, most, whether it may be counted from the end.</summary>
    private static readonly Dictionary<string, (int Least, int Most, bool FromEnd)> Numbers = new()
    {
        ["INTERVAL"] = (1, 1000, false),
        ["COUNT"] = (1, 20_000, false),
        ["BYSECOND"] = (0, 59, false),
        ["BYMINUTE"] = (0, 59, false),
        ["BYHOUR"] = (0, 23, false),
        ["BYMONTHDAY"] = (1, 31, true),
        ["BYYEARDAY"] = (1, 366, true),
        ["BYWEEKNO"] = (1, 53, true),
        ["BYMONTH"] = (1, 12, false),
        ["BYSETPOS"] = (1, 366, true),
    };

    /// <summary>What may stand once and stands more often, or stands beside what it excludes.</summary>
    public static (CalendarProperty Property, string Problem)? Crowded(CalendarComponent entry)
    {
        foreach (var twice in Once.Select(name => entry.Properties.Where(p => p.Name == name).Skip(1).FirstOrDefault()).OfType<CalendarProperty>())
        {
            return (twice, $"{twice.Name} stands more than once in one entry.");
        }

        return entry["DURATION"] is { } length && entry["DTEND"] is not null ? (length, "DTEND and DURATION exclude each other (RFC 5545, 3.6.1).")
            : entry["EXRULE"] is { } old ? (old, "EXRULE is not taken (RFC 5545 gave it up). Write the times that fall out as EXDATE.")
            : null;
    }

    /// <summary>A property that holds one time or several.</summary>
    public static string? Times(CalendarProperty property)
    {
        var values = property.Name is "RDATE" or "EXDATE" ? property.Value.Split(',') : [property.Value];
        if (values.Length > MostDates)
        {
            return $"{property.Name} holds {values.Length} times; an entry may have {MostDates}. Write them as a repetition (RRULE).";
        }

        foreach (var value in values)
        {
            var (begin, end) = property.Name == "RDATE" && value.Split('/') is [var from, var to] ? (from, to) : (value, null);
            var problem = Time(property.Name, begin.Trim())
                ?? (
                    end is null ? null
                    : end.StartsWith('P') ? Length(end)
                    : Time(property.Name, end)
                );
            if (problem is not null)
            {
                return problem;
            }
        }

        return null;
    }

    private static string? Time(string name, string text)
    {
        var date = text.EndsWith('Z') ? text[..^1] : text;
        LocalDate? day =
            Stamp.Parse(date).TryGetValue(default, out var stamp) ? stamp.Date
            : !text.EndsWith('Z') && Day.Parse(date).TryGetValue(default, out var whole) ? whole
            : null;
        return day is null ? $"{name}: '{Cut(text)}' is no time of RFC 5545, such as 20261124T080000."
            : name != "EXDATE" && (day.Value.Year < 1970 || day.Value.Year >= 2200) ? $"{name}: '{Cut(text)}' lies outside the years 1970 to 2199."
            : null;
    }

    /// <summary>A DURATION.</summary>
    public static string? Length(string text)
    {
        var match = LengthText().Match(text.Trim());
        if (!match.Success)
        {
            return $"DURATION: '{Cut(text)}' is no length of time of RFC 5545, such as PT8H.";
        }

        long Of(int group) => match.Groups[group].Success ? long.Parse(match.Groups[group].ValueSpan, CultureInfo.InvariantCulture) : 0;
        var seconds = (Of(1) * 604_800) + (Of(2) * 86_400) + (Of(3) * 3_600) + (Of(4) * 60) + Of(5);
        return seconds <= 0 ? "DURATION: a shift is longer than nothing."
            : seconds > Longest.TotalSeconds ? TooLong
            : null;
    }

    /// <summary>An RRULE.</summary>
    public static string? Rule(string text)
    {
        var parts = new Dictionary<string, string>();
        foreach (var part in text.Trim().TrimEnd(';').Split(';'))
        {
            var (name, value) = part.Split('=') is [var n, var v] ? (n.Trim().ToUpperInvariant(), v.Trim().ToUpperInvariant()) : (part, "");
            if (value.Length == 0 || !parts.TryAdd(name, value))
            {
                return $"RRULE: '{Cut(part)}' {(value.Length == 0 ? "is no part of a repetition, such as FREQ=WEEKLY" : "stands twice")}.";
            }

            if (Part(name, value) is { } problem)
            {
                return problem;
            }
        }

        var frequency = parts.GetValueOrDefault("FREQ");
        return frequency is null ? "RRULE: FREQ is missing."
            : parts.ContainsKey("COUNT") && parts.ContainsKey("UNTIL") ? "RRULE: COUNT and UNTIL exclude each other."
            : parts.ContainsKey("BYWEEKNO") && frequency != "YEARLY" ? "RRULE: BYWEEKNO goes with FREQ=YEARLY only."
            : parts.ContainsKey("BYYEARDAY") && frequency is not ("YEARLY" or "HOURLY") ? "RRULE: BYYEARDAY goes with FREQ=YEARLY only."
            : parts.ContainsKey("BYMONTHDAY") && frequency == "WEEKLY" ? "RRULE: BYMONTHDAY does not go with FREQ=WEEKLY."
            : parts.TryGetValue("BYDAY", out var days) && days.Any(char.IsAsciiDigit) && frequency is not ("YEARLY" or "MONTHLY")
                ? "RRULE: a numbered day such as 2TU goes with FREQ=MONTHLY or YEARLY only."
            : parts.ContainsKey("BYSETPOS") && !parts.Keys.Any(k => k.StartsWith("BY", StringComparison.Ordinal) && k != "BYSETPOS")
                ? "RRULE: BYSETPOS needs another BY… beside it."
            : null;
    }

    private static string? Part(string name, string value)
    {
        switch (name)
        {
            case "FREQ":
                return value is "SECONDLY" or "MINUTELY" ? "A shift cannot repeat more often than hourly."
                    : value is "HOURLY" or "DAILY" or "WEEKLY" or "MONTHLY" or "YEARLY" ? null
                    : $"RRULE: FREQ={Cut(value)} is none of HOURLY, DAILY, WEEKLY, MONTHLY and YEARLY.";
            case "UNTIL":
                return Times(new CalendarProperty("EXDATE", "", value, 0)) is null ? null : $"RRULE: UNTIL={Cut(value)} is no time.";
            case "WKST":
                return value is "MO" or "TU" or "WE" or "TH" or "FR" or "SA" or "SU" ? null : $"RRULE: WKST={Cut(value)} is no day.";
            case "BYDAY":
                return value.Split(',') is { Length: <= 60 } days && days.All(d => WeekDayText().IsMatch(d))
                    ? null
                    : $"RRULE: BYDAY={Cut(value)} is no list of days such as MO,WE or 2TU.";
            case "RSCALE":
                return value == "GREGORIAN" ? null : "RRULE: only the Gregorian calendar is taken.";
        }

        if (!Numbers.TryGetValue(name, out var range))
        {
            return $"RRULE: '{Cut(name)}' is no part of a repetition (RFC 5545, 3.3.10).";
        }

        var several = name.StartsWith("BY", StringComparison.Ordinal) ? value.Split(',') : [value];
        return
            several.Length <= 400
            && several.All(v => int.TryParse(v, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number) && Within(number, range))
            ? null
            : $"RRULE: {name}={Cut(value)} is not from {range.Least} to {range.Most}{(range.FromEnd ? $" or -{range.Most} to -{range.Least}" : "")}.";
    }

    private static bool Within(int number, (int Least, int Most, bool FromEnd) range) =>
        (number >= range.Least && number <= range.Most) || (range.FromEnd && number >= -range.Most && number <= -range.Least);

    [GeneratedRegex("^[+]?P(?:([0-9]{1,4})W|(?:([0-9]{1,4})D)?(?:T(?:([0-9]{1,5})H)?(?:([0-9]{1,6})M)?(?:([0-9]{1,7})S)?)?)$", RegexOptions.NonBacktracking)]
    private static partial Regex LengthText();

    [GeneratedRegex("^[+-]?(?:[1-9]|[1-4][0-9]|5[0-3])?(?:MO|TU|WE|TH|FR|SA|SU)$", RegexOptions.NonBacktracking)]
    private static partial Regex WeekDayText();
}
