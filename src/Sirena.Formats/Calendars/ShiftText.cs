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
        ShiftPerson person,
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
        IReadOnlyList<ShiftPerson> people,
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
            People = [.. people.Select(p => p.Id)],
            WallClock = true,
            Component = people.Count == 1 ? Called(With(RotaCalendar.Text(made), people), people[0].Name) : With(RotaCalendar.Text(made), people),
        };
    }

    private static CalDateTime InSeries(CalendarEvent series, Instant occurrence, DateTimeZone zone) =>
        series.Start!.IsUtc ? new CalDateTime(occurrence.ToDateTimeUtc(), "UTC")
        : !series.Start.HasTime ? new CalDateTime(DateOnly.FromDateTime(occurrence.InZone(zone).LocalDateTime.ToDateTimeUnspecified()))
        : series.Start.TzId is { } own && DateTimeZoneProviders.Tzdb.GetZoneOrNull(own) is { } ownZone ? At(occurrence.InZone(ownZone).LocalDateTime, ownZone)
        : new CalDateTime(occurrence.InZone(zone).LocalDateTime.ToDateTimeUnspecified());

    /// <summary>
    /// The whole shift at other times: begin and end are moved by as much as the one that was taken hold of, and with them its last time, the times that are
    /// left out and those that it has besides.
    /// </summary>
    public static string Moved(string component, Period begin, Period end)
    {
        var made = Rota.Component(component);
        var start = LocalDateTime.FromDateTime(made.Start!.Value);
        var stop = made.End is { } given
            ? LocalDateTime.FromDateTime(given.Value)
            : start.PlusTicks(made.Duration is { } length ? length.ToTimeSpanUnspecified().Ticks : TimeSpan.TicksPerDay);
        var days = Days(made.Start, begin);
        CalDateTime Along(CalDateTime at) => Later(at, begin, days, made.Start!.HasTime);
        if (made.RecurrenceRule?.Until is { } until)
        {
            made.RecurrenceRule.Until = Along(until);
        }

        CalDateTime[] without = [.. made.ExceptionDates.GetAllDates().Select(Along)];
        CalDateTime[] besides = [.. made.RecurrenceDates.GetAllDates().Select(Along)];
        Ical.Net.DataTypes.Period[] spans = [.. made.RecurrenceDates.GetAllPeriods().Select(p => Later(p, begin, end))];
        made.ExceptionDates.Clear();
        made.RecurrenceDates.Clear();
        Array.ForEach(without, at => made.ExceptionDates.Add(at));
        Array.ForEach(besides, at => made.RecurrenceDates.Add(at));
        Array.ForEach(spans, at => made.RecurrenceDates.Add(at));
        Set(made, Later(made.Start, begin), new CalDateTime((stop + end).ToDateTimeUnspecified(), made.End?.TzId ?? made.Start.TzId));
        if (days != 0 && made.RecurrenceRule is { } rule && rule.ByDay.Count > 0)
        {
            rule.ByDay = [.. rule.ByDay.Select(d => new WeekDay((DayOfWeek)((((int)d.DayOfWeek + days) % 7 + 7) % 7)))];
        }

        return RotaCalendar.Text(made);
    }

    /// <summary>A night that differs from its series, once the series is moved: it is as it was, and stands for the same night.</summary>
    /// <param name="component">The night's VEVENT.</param>
    /// <param name="series">That of its series, before it is moved.</param>
    /// <param name="begin">By how much the begin of the series is moved.</param>
    public static string InsteadOfMoved(string component, string series, Period begin)
    {
        var (made, start) = (Rota.Component(component), Rota.Component(series).Start!);
        var of = made.RecurrenceIdentifier!;
        made.RecurrenceIdentifier = new RecurrenceIdentifier(Later(of.StartTime, begin, Days(start, begin), start.HasTime), of.Range);
        return RotaCalendar.Text(made);
    }

    /// <summary>The shift with other people on duty. Whoever was on it before keeps what the calendar says of them.</summary>
    /// <param name="component">The VEVENT.</param>
    /// <param name="people">Whoever is on duty.</param>
    /// <param name="named">The id of the person whom a mail address names, or <see langword="null"/>; without it nobody is known.</param>
    public static string With(string component, IReadOnlyList<ShiftPerson> people, Func<string, string?>? named = null)
    {
        var made = Rota.Component(component);
        var before = made.Attendees.ToLookup(a => named?.Invoke(RotaReader.Address(a.Value?.OriginalString ?? "")));
        made.Attendees.Clear();
        foreach (var one in people)
        {
            made.Attendees.Add(before[one.Id].FirstOrDefault() ?? new Attendee($"mailto:{one.Address}") { CommonName = one.Name });
        }

        return RotaCalendar.Text(made);
    }

    /// <summary>The shift by another name.</summary>
    public static string Called(string component, string name)
    {
        var made = Rota.Component(component);
        made.Summary = name;
        return RotaCalendar.Text(made);
    }

    /// <summary>A night of a series at which nobody is on duty.</summary>
    public static string Cancelled(string component)
    {
        var made = Rota.Component(component);
        made.Status = "CANCELLED";
        return RotaCalendar.Text(made);
    }

    // How many days later the wall says it begins.
    private static int Days(CalDateTime start, Period by)
    {
        var wall = LocalDateTime.FromDateTime(start.Value);
        return Period.DaysBetween(wall.Date, (wall + by).Date);
    }

    // A day alone goes by days; what has a time, or belongs to a shift of whole days that gets times, by as much as the shift.
    private static CalDateTime Later(CalDateTime at, Period by, int days, bool timed) =>
        timed && !at.HasTime ? new CalDateTime(DateOnly.FromDateTime(at.Value).AddDays(days)) : Later(at, by);

    private static CalDateTime Later(CalDateTime at, Period by) => new((LocalDateTime.FromDateTime(at.Value) + by).ToDateTimeUnspecified(), at.TzId);

    private static Ical.Net.DataTypes.Period Later(Ical.Net.DataTypes.Period span, Period begin, Period end) =>
        span.EndTime is { } stop
            ? new Ical.Net.DataTypes.Period(Later(span.StartTime, begin), Later(stop, end))
            : new Ical.Net.DataTypes.Period(Later(span.StartTime, begin), span.Duration!.Value);

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
