using Ical.Net.CalendarComponents;
using NodaTime;
using Sirena.Core.People;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Calendars;

/// <summary>Reads the entries of calendars as shifts, and collects what is wrong or left out with its line.</summary>
internal sealed class RotaReader(string team, Func<string, string?> person, CalendarZones zones)
{
    private static readonly string[] WithTimes = ["DTSTART", "DTEND", "RECURRENCE-ID", "RDATE", "EXDATE"];
    private readonly HashSet<(string Uid, string? Night)> known = [];

    /// <summary>The shifts.</summary>
    public List<Shift> Shifts { get; } = [];

    /// <summary>What is no shift.</summary>
    public List<LeftOutOfRota> LeftOut { get; } = [];

    /// <summary>What is wrong.</summary>
    public List<DocumentError> Errors { get; } = [];

    /// <summary>Reads a calendar's entries.</summary>
    public void Read(CalendarComponent calendar)
    {
        var cancels = calendar["METHOD"]?.Value.Trim().Equals("CANCEL", StringComparison.OrdinalIgnoreCase) == true;
        foreach (var entry in calendar.Children.Where(c => c.Name == "VEVENT"))
        {
            var night = entry["RECURRENCE-ID"] is not null;
            var cancelled = cancels || entry["STATUS"]?.Value.Trim().Equals("CANCELLED", StringComparison.OrdinalIgnoreCase) == true;
            if (cancelled && !(night && !cancels))
            {
                Leave(entry, cancels ? "the calendar cancels it (METHOD:CANCEL)" : "it is cancelled");
            }
            else if (Checked(entry) is { } good)
            {
                Add(entry, good, cancelled);
            }
        }
    }

    // The entry's own properties with zones by their IANA names; null when something is wrong with them.
    private List<CalendarProperty>? Checked(CalendarComponent entry)
    {
        var before = Errors.Count;
        if (ShiftCheck.Crowded(entry) is var (crowd, crowded))
        {
            Wrong(crowd, crowded);
        }

        var good = new List<CalendarProperty>();
        foreach (var property in entry.Properties)
        {
            var problem =
                WithTimes.Contains(property.Name) ? ShiftCheck.Times(property)
                : property.Name == "DURATION" ? ShiftCheck.Length(property.Value)
                : property.Name == "RRULE" ? ShiftCheck.Rule(property.Value)
                : null;
            var zone = WithTimes.Contains(property.Name) && property.Parameter("TZID") is { } name ? (Name: name, Known: zones.Find(name)) : default;
            problem ??=
                zone.Name is not null && zone.Known is null
                    ? $"The time zone '{zone.Name}' is not known. Use a name of the IANA list, such as Europe/Lisbon."
                    : null;
            if (problem is not null)
            {
                Wrong(property, problem);
            }

            good.Add(
                zone.Known is not null ? property.With("TZID", zone.Known)
                : property.Name == "RRULE" ? property with { Value = Bounded(property.Value) }
                : property
            );
        }

        if (entry["DTSTART"] is null)
        {
            Errors.Add(new DocumentError("DTSTART", entry.Line, 1, "DTSTART is missing or no date of RFC 5545, such as 20261124T080000."));
        }

        return Errors.Count == before ? good : null;
    }

    // 'Until the year 9999' is how some programs write 'for ever'.
    private static string Bounded(string rule) =>
        string.Join(
            ';',
            rule.Trim()
                .TrimEnd(';')
                .Split(';')
                .Where(p => !(p.StartsWith("UNTIL=", StringComparison.OrdinalIgnoreCase) && string.CompareOrdinal(p[6..], "2200") >= 0))
        );

    private void Add(CalendarComponent entry, List<CalendarProperty> properties, bool cancelled)
    {
        CalendarEvent made;
        try
        {
            made = Rota.Component(
                $"BEGIN:VEVENT\r\n{string.Join("\r\n", properties.Where(p => p.Name is not ("ATTACH" or "GEO")).Select(p => p.Text))}\r\nEND:VEVENT"
            );
            var times = new ShiftTimes(made, wallClock: false, DateTimeZone.Utc);
            if (times.Length > ShiftCheck.Longest)
            {
                Wrong(entry["DTEND"] ?? entry["DTSTART"]!, ShiftCheck.TooLong);
                return;
            }
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            var place = e is FormatException ? entry["DTEND"] ?? entry["DTSTART"]! : entry.Properties[0];
            Wrong(
                place,
                e is FormatException
                    ? "The shift ends before it begins, or lasts nothing."
                    : $"This entry cannot be read: {e.Message.Split('\n')[0].Split(" (Parameter")[0].TrimEnd('.')}."
            );
            return;
        }

        var uid = string.IsNullOrWhiteSpace(made.Uid) ? Guid.CreateVersion7().ToString() : made.Uid.Trim();
        made.Uid = uid;
        if (!known.Add((uid, entry["RECURRENCE-ID"]?.Value.Trim())))
        {
            Wrong(entry["UID"]!, $"The UID '{uid}' stands twice. Give each shift a UID of its own; a night that differs has a RECURRENCE-ID.");
            return;
        }

        var people = People(entry, uid);
        if (people.Count == 0 && !cancelled)
        {
            if (made.RecurrenceIdentifier is null)
            {
                if (entry["ATTENDEE"] is null)
                {
                    Leave(entry, "it names nobody on duty: ATTENDEE:mailto:… is missing");
                }

                return;
            }

            // A night whose people have all declined, or are nobody of the house, is a night without anybody; one that names nobody keeps the people of its
            // series.
            made.Status = entry["ATTENDEE"] is not null ? "CANCELLED" : made.Status;
        }

        made.Attendees.Where(a => person(Address(a.Value?.OriginalString ?? "")) is not { } id || !people.Contains(id))
            .ToList()
            .ForEach(a => made.Attendees.Remove(a));
        Shifts.Add(
            new Shift
            {
                Id = Guid.CreateVersion7(),
                Team = team,
                Uid = uid,
                People = people,
                Component = RotaCalendar.Text(made),
            }
        );
    }

    private List<string> People(CalendarComponent entry, string uid)
    {
        var people = new List<string>();
        foreach (var attendee in entry.Properties.Where(p => p.Name == "ATTENDEE"))
        {
            var address = Address(attendee.Value.Trim());
            var because =
                attendee.Parameter("CUTYPE")?.ToUpperInvariant() is "ROOM" or "RESOURCE" ? "it is a room or a thing, not a person"
                : person(address) is not { } id ? "nobody has this mail address; add it to a person first"
                : attendee.Parameter("PARTSTAT")?.Equals("DECLINED", StringComparison.OrdinalIgnoreCase) == true ? "declined"
                : people.Contains(id) ? null
                : Add(id);
            if (because is not null)
            {
                LeftOut.Add(new LeftOutOfRota(attendee.Line, uid, address, because));
            }
        }

        return people;

        string? Add(string id)
        {
            people.Add(id);
            return null;
        }
    }

    /// <summary>The mail address that an ATTENDEE names.</summary>
    public static string Address(string value) => value.StartsWith("mailto:", StringComparison.OrdinalIgnoreCase) ? Uri.UnescapeDataString(value[7..]) : value;

    private void Leave(CalendarComponent entry, string because) =>
        LeftOut.Add(
            new LeftOutOfRota(
                entry.Line,
                entry["UID"]?.Value.Trim() ?? "",
                entry["SUMMARY"]?.Value.Trim() is { Length: > 0 } name ? name : entry["ORGANIZER"]?.Value.Trim() ?? "an entry without a name",
                because
            )
        );

    private void Wrong(CalendarProperty at, string problem) => Errors.Add(new DocumentError(at.Name, at.Line, 1, problem));
}
