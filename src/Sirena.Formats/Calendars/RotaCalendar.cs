using Ical.Net;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using Ical.Net.Serialization;
using NodaTime;
using Sirena.Core.People;
using Sirena.Formats.Documents;
using Duration = NodaTime.Duration;

namespace Sirena.Formats.Calendars;

/// <summary>A rota as iCalendar (RFC 5545): each VEVENT a shift, its ATTENDEE whoever is on duty.</summary>
public static class RotaCalendar
{
    private const int MostShifts = 5_000;
    private const int LongestText = 4 * 1024 * 1024;

    /// <summary>Reads a calendar.</summary>
    /// <param name="text">The calendar.</param>
    /// <param name="team">The team's id.</param>
    /// <param name="person">The id of the person whom a mail address names, or <see langword="null"/>.</param>
    /// <returns>The shifts, or every mistake with its line; never both.</returns>
    public static (IReadOnlyList<Shift> Shifts, IReadOnlyList<DocumentError> Errors) Read(string text, string team, Func<string, string?> person)
    {
        if (text.Length > LongestText)
        {
            return ([], [new DocumentError("", null, null, "The calendar is longer than 4 MB.")]);
        }

        var errors = new List<DocumentError>();
        var shifts = new List<Shift>();
        var blocks = Blocks(text, errors);
        if (blocks.Count > MostShifts)
        {
            return ([], [new DocumentError("", null, null, $"The calendar holds {blocks.Count} entries; a team's rota holds at most {MostShifts}.")]);
        }

        foreach (var (block, line) in blocks)
        {
            if (Parse(block, line, errors) is { } made && Check(made, block, line, errors))
            {
                shifts.Add(Shift(made, block, line, team, person, errors));
            }
        }

        foreach (var twice in shifts.GroupBy(s => (s.Uid, Recurrence(s.Component))).Where(g => g.Count() > 1))
        {
            errors.Add(new DocumentError("UID", null, null, $"The UID '{twice.Key.Uid}' stands {twice.Count()} times. Give each shift a UID of its own; a night that differs has a RECURRENCE-ID."));
        }

        if (blocks.Count == 0 && errors.Count == 0 && !text.Contains("BEGIN:VCALENDAR", StringComparison.OrdinalIgnoreCase))
        {
            errors.Add(new DocumentError("", 1, 1, "The text is no calendar: BEGIN:VCALENDAR is expected."));
        }

        return errors.Count > 0 ? ([], errors) : (shifts, []);
    }

    /// <summary>Writes a team's rota. A shift that means the wall clock is written with the nights that differ because the clocks change as exceptions of their own.</summary>
    /// <param name="name">The calendar's name.</param>
    /// <param name="shifts">The shifts.</param>
    /// <param name="zone">The business's time zone.</param>
    /// <param name="until">Up to when exceptions for changes of the clock are written.</param>
    public static string Write(string name, IEnumerable<Shift> shifts, DateTimeZone zone, Instant until)
    {
        var calendar = new Calendar { ProductId = "-//Sirena//Rota//EN", Version = "2.0" };
        calendar.AddProperty("X-WR-CALNAME", name);
        foreach (var shift in shifts)
        {
            calendar.Events.Add(Rota.Component(shift.Component));
            if (shift.WallClock)
            {
                calendar.Events.AddRange(ClockNights(shift, zone, until));
            }
        }

        return Serialized(calendar);
    }

    /// <summary>Writes duty as plain entries without addresses, for a calendar program that subscribes.</summary>
    /// <param name="name">The calendar's name.</param>
    /// <param name="duties">The duty, with what each entry is called.</param>
    /// <param name="now">When it was written.</param>
    public static string Feed(string name, IEnumerable<(Duty Duty, string Summary)> duties, Instant now)
    {
        var calendar = new Calendar { ProductId = "-//Sirena//Rota//EN", Version = "2.0" };
        calendar.AddProperty("X-WR-CALNAME", name);
        calendar.AddProperty("METHOD", "PUBLISH");
        foreach (var (duty, summary) in duties)
        {
            calendar.Events.Add(new CalendarEvent
            {
                Uid = $"{duty.Shift:N}-{duty.Person}-{duty.From.ToUnixTimeSeconds()}",
                DtStamp = Utc(now),
                Start = Utc(duty.From),
                End = Utc(duty.To),
                Summary = summary,
                Location = duty.Place,
            });
        }

        return new CalendarSerializer().SerializeToString(calendar) ?? "";
    }

    private static CalDateTime Utc(Instant at) => new(at.ToDateTimeUtc(), "UTC");

    /// <summary>One VEVENT as it is kept.</summary>
    public static string Text(CalendarEvent made)
    {
        var text = new CalendarSerializer().SerializeToString(new Calendar { Events = { made } }) ?? "";
        var from = text.IndexOf("BEGIN:VEVENT", StringComparison.Ordinal);
        return text[from..(text.LastIndexOf("END:VEVENT", StringComparison.Ordinal) + "END:VEVENT".Length)];
    }

    private static string Serialized(Calendar calendar)
    {
        foreach (var zone in calendar.Events.SelectMany(e => new[] { e.Start?.TzId, e.End?.TzId }).OfType<string>().Where(z => z != "UTC").Distinct().Order(StringComparer.Ordinal))
        {
            if (DateTimeZoneProviders.Tzdb.GetZoneOrNull(zone) is not null)
            {
                calendar.AddTimeZone(VTimeZone.FromDateTimeZone(zone, new DateTime(2020, 1, 1, 0, 0, 0, DateTimeKind.Utc), includeHistoricalData: false));
            }
        }

        return new CalendarSerializer().SerializeToString(calendar) ?? "";
    }

    // The nights in which the hours counted from the begin do not end where the clock on the wall says.
    private static IEnumerable<CalendarEvent> ClockNights(Shift shift, DateTimeZone zone, Instant until)
    {
        var series = Rota.Component(shift.Component);
        var begin = Instant.FromDateTimeUtc(DateTime.SpecifyKind(series.Start!.AsUtc, DateTimeKind.Utc));
        if (begin >= until)
        {
            yield break;
        }

        var hours = new Rota([new Shift { Id = shift.Id, Team = shift.Team, Uid = shift.Uid, People = [""], Component = shift.Component }], zone);
        var wall = new Rota([new Shift { Id = shift.Id, Team = shift.Team, Uid = shift.Uid, People = [""], Component = shift.Component, WallClock = true }], zone);
        foreach (var change in zone.GetZoneIntervals(begin, until).Where(z => z.HasEnd && z.End < until))
        {
            var (from, to) = (change.End - Duration.FromDays(1), change.End + Duration.FromDays(1));
            foreach (var (counted, meant) in hours.Between(shift.Team, from, to).Zip(wall.Between(shift.Team, from, to)).Where(x => x.First.To != x.Second.To))
            {
                var night = Rota.Component(shift.Component);
                night.RecurrenceRule = null;
                night.ExceptionDates.Clear();
                night.RecurrenceIdentifier = new RecurrenceIdentifier(Local(counted.From, series.Start.TzId!, zone));
                night.Start = Local(meant.From, series.Start.TzId!, zone);
                night.End = Local(meant.To, series.Start.TzId!, zone);
                yield return night;
            }
        }
    }

    private static CalDateTime Local(Instant at, string tzId, DateTimeZone zone) => new(at.InZone(zone).LocalDateTime.ToDateTimeUnspecified(), tzId);

    private static string? Recurrence(string component) => component.Split("\r\n").FirstOrDefault(l => l.StartsWith("RECURRENCE-ID", StringComparison.Ordinal));

    private static CalendarEvent? Parse(string block, int line, List<DocumentError> errors)
    {
        try
        {
            return Rota.Component(block);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            errors.Add(new DocumentError("VEVENT", line, 1, $"This entry cannot be read: {e.Message.Split('\n')[0].TrimEnd('.')}."));
            return null;
        }
    }

    private static bool Check(CalendarEvent made, string block, int line, List<DocumentError> errors)
    {
        var before = errors.Count;
        void Wrong(string property, string problem) => errors.Add(new DocumentError(property, Place(block, property, line), 1, problem));
        if (made.Start is null)
        {
            Wrong("DTSTART", "DTSTART is missing or no date of RFC 5545, such as 20261124T080000.");
            return false;
        }

        foreach (var (at, property) in new[] { (made.Start, "DTSTART"), (made.End, "DTEND") })
        {
            if (at?.TzId is { } zone && zone != "UTC" && DateTimeZoneProviders.Tzdb.GetZoneOrNull(zone) is null)
            {
                Wrong(property, $"The time zone '{zone}' is not known. Use a name of the IANA list, such as Europe/Lisbon.");
            }
        }

        if (errors.Count > before)
        {
            return false;
        }

        try
        {
            if (made.End is { } end && end.AsUtc <= made.Start.AsUtc)
            {
                Wrong("DTEND", "The shift ends before it begins.");
            }

            if (made.RecurrenceRule is { } rule)
            {
                if (rule.Frequency is FrequencyType.Secondly or FrequencyType.Minutely)
                {
                    Wrong("RRULE", "A shift cannot repeat more often than hourly.");
                }
                else
                {
                    _ = new Calendar { Events = { made } }.GetOccurrences<CalendarEvent>(made.Start).FirstOrDefault();
                }
            }
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            Wrong("RRULE", $"The repetition cannot be worked out: {e.Message.Split('\n')[0].TrimEnd('.')}.");
        }

        return errors.Count == before;
    }

    private static Shift Shift(CalendarEvent made, string block, int line, string team, Func<string, string?> person, List<DocumentError> errors)
    {
        var people = new List<string>();
        foreach (var attendee in made.Attendees)
        {
            var address = attendee.Value?.OriginalString ?? "";
            address = address.StartsWith("mailto:", StringComparison.OrdinalIgnoreCase) ? Uri.UnescapeDataString(address[7..]) : address;
            if (person(address) is { } id)
            {
                people.Add(id);
            }
            else
            {
                errors.Add(new DocumentError("ATTENDEE", Place(block, address, line), 1, $"Nobody has the mail address '{address}'. Add it to a person first."));
            }
        }

        if (people.Count == 0 && made.RecurrenceIdentifier is null && errors.Count == 0 && made.Attendees.Count == 0)
        {
            errors.Add(new DocumentError("ATTENDEE", line, 1, "The shift names nobody: ATTENDEE:mailto:… is missing."));
        }

        made.Uid = string.IsNullOrWhiteSpace(made.Uid) ? Guid.CreateVersion7().ToString() : made.Uid;
        return new Shift { Id = Guid.CreateVersion7(), Team = team, Uid = made.Uid, People = [.. people.Distinct()], Component = Text(made) };
    }

    private static int Place(string block, string what, int line) =>
        Math.Max(0, Array.FindIndex(block.Split("\r\n"), l => l.Contains(what, StringComparison.OrdinalIgnoreCase))) + line;

    // The VEVENTs, each with the line at which it begins; one bad entry must not hide the others.
    private static List<(string Block, int Line)> Blocks(string text, List<DocumentError> errors)
    {
        var found = new List<(string, int)>();
        var lines = text.Split('\n');
        var begin = -1;
        for (var i = 0; i < lines.Length; i++)
        {
            var line = lines[i].TrimEnd('\r');
            if (line.Equals("BEGIN:VEVENT", StringComparison.OrdinalIgnoreCase))
            {
                if (begin >= 0)
                {
                    errors.Add(new DocumentError("VEVENT", begin + 1, 1, "This entry has no END:VEVENT."));
                }

                begin = i;
            }
            else if (line.Equals("END:VEVENT", StringComparison.OrdinalIgnoreCase) && begin >= 0)
            {
                found.Add((string.Join("\r\n", lines[begin..(i + 1)].Select(l => l.TrimEnd('\r'))), begin + 1));
                begin = -1;
            }
        }

        if (begin >= 0)
        {
            errors.Add(new DocumentError("VEVENT", begin + 1, 1, "This entry has no END:VEVENT."));
        }

        return found;
    }
}
