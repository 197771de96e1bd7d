using Ical.Net;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using Ical.Net.Serialization;
using NodaTime;
using Sirena.Core.People;
using Duration = NodaTime.Duration;

namespace Sirena.Formats.Calendars;

/// <summary>Writes a rota as iCalendar (RFC 5545): each VEVENT a shift, its ATTENDEE whoever is on duty. <see cref="RotaFile"/> reads one.</summary>
public static class RotaCalendar
{
    /// <summary>
    /// Writes a team's rota. A shift that means the wall clock is written with the nights that differ because the clocks change as exceptions of their own.
    /// </summary>
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
            calendar.Events.Add(
                new CalendarEvent
                {
                    Uid = $"{duty.Shift:N}-{duty.Person}-{duty.From.ToUnixTimeSeconds()}",
                    DtStamp = Utc(now),
                    Start = Utc(duty.From),
                    End = Utc(duty.To),
                    Summary = summary,
                    Location = duty.Place,
                }
            );
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
        foreach (
            var zone in calendar
                .Events.SelectMany(e => new[] { e.Start?.TzId, e.End?.TzId })
                .OfType<string>()
                .Where(z => z != "UTC")
                .Distinct()
                .Order(StringComparer.Ordinal)
        )
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

        var hours = new Rota(
            [
                new Shift
                {
                    Id = shift.Id,
                    Team = shift.Team,
                    Uid = shift.Uid,
                    People = [""],
                    Component = shift.Component,
                },
            ],
            zone
        );
        var wall = new Rota(
            [
                new Shift
                {
                    Id = shift.Id,
                    Team = shift.Team,
                    Uid = shift.Uid,
                    People = [""],
                    Component = shift.Component,
                    WallClock = true,
                },
            ],
            zone
        );
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
}
