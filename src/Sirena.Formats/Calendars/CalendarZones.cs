using System.Globalization;
using System.Text.RegularExpressions;
using Ical.Net.DataTypes;
using NodaTime;
using NodaTime.TimeZones;
using Sirena.Core.People;
using Duration = NodaTime.Duration;

namespace Sirena.Formats.Calendars;

/// <summary>
/// The time zones of a calendar by their IANA names, whatever the program that wrote it calls them: names of Windows by CLDR's table, names with a path before
/// them, others by what
/// their own VTIMEZONE says.
/// </summary>
public sealed partial class CalendarZones(IEnumerable<CalendarComponent> calendars, DateTimeZone business)
{
    private static readonly Instant From = Instant.FromUtc(2025, 1, 1, 0, 0);
    private static readonly Instant To = Instant.FromUtc(2037, 1, 1, 0, 0);
    private static readonly IReadOnlyList<string> Known = [.. (TzdbDateTimeZoneSource.Default.Zone1970Locations ?? []).Select(z => z.ZoneId)];
    private readonly Dictionary<string, string?> found = [];
    private readonly List<CalendarComponent> own = [.. calendars.SelectMany(c => c.Children).Where(c => c.Name == "VTIMEZONE")];

    /// <summary>The IANA name, or <see langword="null"/> when neither the name nor the calendar says which zone it is.</summary>
    public string? Find(string name)
    {
        if (!found.TryGetValue(name, out var known))
        {
            found[name] = known = Look(name.Trim());
        }

        return known;
    }

    private string? Look(string name)
    {
        if (ByName(name) is { } id)
        {
            return id;
        }

        return own.Find(z => z["TZID"]?.Value.Trim().Trim('"') == name) is not { } zone ? null
            : zone["X-LIC-LOCATION"] is { } place && ByName(place.Value.Trim()) is { } located ? located
            : Like(zone);
    }

    private static string? ByName(string name)
    {
        if (name is "UTC" or "Z" or "GMT" or "Etc/UTC")
        {
            return "UTC";
        }

        if (DateTimeZoneProviders.Tzdb.GetZoneOrNull(name) is not null)
        {
            return name;
        }

        if (TzdbDateTimeZoneSource.Default.WindowsMapping.PrimaryMapping.TryGetValue(name, out var mapped))
        {
            return mapped;
        }

        for (var at = name.IndexOf('/', StringComparison.Ordinal); at >= 0; at = name.IndexOf('/', at + 1))
        {
            if (DateTimeZoneProviders.Tzdb.GetZoneOrNull(name[(at + 1)..]) is not null)
            {
                return name[(at + 1)..];
            }
        }

        return null;
    }

    // The zone that changes its clocks as the calendar says, the business's own before others; one that never changes them is an offset.
    private string? Like(CalendarComponent zone)
    {
        var changes = Changes(zone);
        if (changes is null)
        {
            return null;
        }

        if (changes.All(c => c.To == changes[0].To))
        {
            var offset = changes[0].To;
            return business.GetZoneIntervals(From, To).All(i => i.WallOffset == offset) ? business.Id
                : offset == Offset.Zero ? "UTC"
                : $"UTC{offset.ToString("+HH:mm", CultureInfo.InvariantCulture)}";
        }

        var wanted = changes.Where(c => c.At >= From && c.At < To).ToList();
        return Known
            .Prepend(business.Id)
            .FirstOrDefault(id =>
                DateTimeZoneProviders.Tzdb.GetZoneOrNull(id) is { } candidate
                && candidate.GetZoneIntervals(From, To).Where(i => i.HasStart && i.Start >= From).Select(i => (i.Start, i.WallOffset)).SequenceEqual(wanted)
            );
    }

    private static List<(Instant At, Offset To)>? Changes(CalendarComponent zone)
    {
        var changes = new List<(Instant, Offset)>();
        foreach (var part in zone.Children.Where(c => c.Name is "STANDARD" or "DAYLIGHT"))
        {
            if (
                part["DTSTART"] is not { } start
                || !DateTime.TryParseExact(start.Value, "yyyyMMdd'T'HHmmss", CultureInfo.InvariantCulture, DateTimeStyles.None, out var begin)
                || OffsetOf(part["TZOFFSETFROM"]?.Value) is not { } before
                || OffsetOf(part["TZOFFSETTO"]?.Value) is not { } after
            )
            {
                return null;
            }

            var first = LocalDateTime.FromDateTime(begin);
            IEnumerable<LocalDateTime> all = [first];
            if (part["RRULE"] is { } rule)
            {
                if (ShiftCheck.Rule(rule.Value) is not null)
                {
                    return null;
                }

                var read = new RecurrenceRule(rule.Value);
                LocalDateTime? until = read.Until is { } u ? LocalDateTime.FromDateTime(u.Value) : null;
                all = new Recurrence(read, first, until).Between(From.InUtc().LocalDateTime.PlusYears(-1), To.InUtc().LocalDateTime, new StepBudget(20_000));
            }

            changes.AddRange(all.Select(at => (at.WithOffset(before).ToInstant(), after)));
        }

        return changes.Count == 0 ? null : [.. changes.OrderBy(c => c.Item1)];
    }

    private static Offset? OffsetOf(string? text)
    {
        if (text is null || !OffsetText().IsMatch(text.Trim()))
        {
            return null;
        }

        var (sign, digits) = (text.Trim()[0] == '-' ? -1 : 1, text.Trim()[1..]);
        var span =
            Duration.FromHours(int.Parse(digits[..2], CultureInfo.InvariantCulture))
            + Duration.FromMinutes(int.Parse(digits[2..4], CultureInfo.InvariantCulture));
        return span.TotalHours < 18 ? Offset.FromSeconds(sign * (int)span.TotalSeconds) : null;
    }

    [GeneratedRegex("^[+-][0-9]{4}([0-9]{2})?$", RegexOptions.NonBacktracking)]
    private static partial Regex OffsetText();
}
