using Ical.Net;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using NodaTime;
using Sirena.Core.People;
using Period = NodaTime.Period;

namespace Sirena.Formats.Calendars;

/// <summary>Makes and changes shifts as the Rota page does: in the business's time zone, by the wall clock.</summary>
public static class ShiftText
{
    /// <summary>A new shift.</summary>
    /// <param name="team">The team's id.</param>
    /// <param name="person">Who is on duty, with the mail address that stands for them in calendars.</param>
    /// <param name="from">Its begin.</param>
    /// <param name="to">Its end, after the begin.</param>
    /// <param name="days">The days of the week on which it repeats; once when empty.</param>
    /// <param name="zone">The business's time zone.</param>
    /// <param name="place">The site at which it is served, or <see langword="null"/>.</param>
    /// <param name="now">When it is made.</param>
    public static Shift Make(
        string team,
        (string Id, string Name, string Address) person,
        LocalDateTime from,
        LocalDateTime to,
        IReadOnlyCollection<IsoDayOfWeek> days,
        DateTimeZone zone,
        string? place,
        Instant now
    )
    {
        if (to <= from)
        {
            throw new ArgumentException("A shift ends after its begin.", nameof(to));
        }

        var made = new CalendarEvent
        {
            Uid = Guid.CreateVersion7(now.ToDateTimeOffset()).ToString(),
            DtStamp = new CalDateTime(now.ToDateTimeUtc(), "UTC"),
            Start = At(from, zone),
            End = At(to, zone),
            Summary = person.Name,
            Location = place,
        };
        made.Attendees.Add(new Attendee($"mailto:{person.Address}") { CommonName = person.Name });
        if (days.Count > 0)
        {
            made.RecurrenceRule = new RecurrenceRule(FrequencyType.Weekly, 1) { ByDay = [.. days.Order().Select(d => new WeekDay((DayOfWeek)((int)d % 7)))] };
        }

        return new Shift
        {
            Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
            Team = team,
            Uid = made.Uid,
            People = [person.Id],
            Component = RotaCalendar.Text(made),
            WallClock = true,
        };
    }

    /// <summary>The series without one of its times.</summary>
    public static string Without(string component, Instant occurrence, DateTimeZone zone)
    {
        var made = Rota.Component(component);
        made.ExceptionDates.Add(InSeries(made, occurrence, zone));
        return RotaCalendar.Text(made);
    }

    /// <summary>One time of a series that differs from it: an entry of the same uid with the RECURRENCE-ID of the time that it stands for.</summary>
    public static Shift Instead(
        Shift series,
        Instant occurrence,
        (string Id, string Name, string Address) person,
        LocalDateTime from,
        LocalDateTime to,
        DateTimeZone zone,
        Instant now
    )
    {
        var made = Rota.Component(series.Component);
        made.RecurrenceIdentifier = new RecurrenceIdentifier(InSeries(made, occurrence, zone));
        made.RecurrenceRule = null;
        made.ExceptionDates.Clear();
        made.RecurrenceDates.Clear();
        Set(made, At(from, zone), At(to, zone));
        return new Shift
        {
            Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
            Team = series.Team,
            Uid = series.Uid,
            People = [person.Id],
            WallClock = true,
            Component = With(RotaCalendar.Text(made), person.Name, person.Address),
        };
    }

    private static CalDateTime InSeries(CalendarEvent series, Instant occurrence, DateTimeZone zone) =>
        series.Start!.IsUtc ? new CalDateTime(occurrence.ToDateTimeUtc(), "UTC")
        : !series.Start.HasTime ? new CalDateTime(DateOnly.FromDateTime(occurrence.InZone(zone).LocalDateTime.ToDateTimeUnspecified()))
        : series.Start.TzId is { } own && DateTimeZoneProviders.Tzdb.GetZoneOrNull(own) is { } ownZone ? At(occurrence.InZone(ownZone).LocalDateTime, ownZone)
        : new CalDateTime(occurrence.InZone(zone).LocalDateTime.ToDateTimeUnspecified());

    /// <summary>The whole shift at other times: begin and end are moved by as much as the one that was taken hold of.</summary>
    public static string Moved(string component, Period begin, Period end)
    {
        var made = Rota.Component(component);
        var start = LocalDateTime.FromDateTime(made.Start!.Value);
        var stop = made.End is { } given
            ? LocalDateTime.FromDateTime(given.Value)
            : start.PlusTicks(made.Duration is { } length ? length.ToTimeSpanUnspecified().Ticks : TimeSpan.TicksPerDay);
        Set(
            made,
            new CalDateTime((start + begin).ToDateTimeUnspecified(), made.Start.TzId),
            new CalDateTime((stop + end).ToDateTimeUnspecified(), made.End?.TzId ?? made.Start.TzId)
        );
        var days = Period.DaysBetween(start.Date, (start + begin).Date);
        if (days != 0 && made.RecurrenceRule is { } rule && rule.ByDay.Count > 0)
        {
            rule.ByDay = [.. rule.ByDay.Select(d => new WeekDay((DayOfWeek)((((int)d.DayOfWeek + days) % 7 + 7) % 7)))];
        }

        return RotaCalendar.Text(made);
    }

    /// <summary>The shift with somebody else on duty.</summary>
    public static string With(string component, string name, string address)
    {
        var made = Rota.Component(component);
        made.Attendees.Clear();
        made.Attendees.Add(new Attendee($"mailto:{address}") { CommonName = name });
        made.Summary = name;
        return RotaCalendar.Text(made);
    }

    // The package refuses a DTEND beside a DURATION, even to take one away that is not there.
    private static void Set(CalendarEvent made, CalDateTime from, CalDateTime to)
    {
        if (made.Duration is not null)
        {
            made.Properties.Remove("DURATION");
        }

        (made.Start, made.End) = (from, to);
    }

    private static CalDateTime At(LocalDateTime at, DateTimeZone zone) => new(at.ToDateTimeUnspecified(), zone.Id);
}
