using System.Collections.Concurrent;
using Ical.Net;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using Ical.Net.Evaluation;
using NodaTime;
using Duration = NodaTime.Duration;

namespace Sirena.Core.People;

/// <summary>
/// Who is on duty when. Repetition, exceptions and time zones are those of RFC 5545; a time without a zone and a whole day are those of the business's time zone. Safe for
/// use by several threads; each team's time is worked out once for every four weeks that are asked for.
/// </summary>
public sealed class Rota
{
    private static readonly Duration Block = Duration.FromDays(28);
    private readonly DateTimeZone zone;
    private readonly ILookup<string, Shift> shifts;
    private readonly ConcurrentDictionary<string, Plan> plans = [];
    private readonly ConcurrentDictionary<(string Team, long Block), Duty[]> blocks = [];

    /// <summary>Makes a rota.</summary>
    /// <param name="shifts">The shifts of all teams.</param>
    /// <param name="zone">The business's time zone.</param>
    public Rota(IEnumerable<Shift> shifts, DateTimeZone zone) => (this.zone, this.shifts) = (zone, shifts.ToLookup(s => s.Team));

    /// <summary>A rota on which nobody stands.</summary>
    public static Rota Empty { get; } = new([], DateTimeZone.Utc);

    /// <summary>The team has shifts at all.</summary>
    public bool Has(string team) => shifts.Contains(team);

    /// <summary>The shifts of a team as they are kept.</summary>
    public IEnumerable<Shift> Shifts(string team) => shifts[team];

    /// <summary>Whoever of a team is on duty at an instant; at one place, where it is given and the shift names one.</summary>
    public IEnumerable<Duty> OnDuty(string team, Instant at, Site? place = null)
    {
        foreach (var duty in InBlock(team, at))
        {
            if (duty.From > at)
            {
                yield break;
            }

            if (at < duty.To && At(duty, place))
            {
                yield return duty;
            }
        }
    }

    /// <summary>All duty that touches a time, by begin and person. The time is not longer than a year.</summary>
    public IReadOnlyList<Duty> Between(string team, Instant from, Instant to)
    {
        var found = new HashSet<Duty>();
        for (var at = from; at < to + Block; at += Block)
        {
            found.UnionWith(InBlock(team, at).Where(d => d.From < to && d.To > from));
        }

        return [.. found.OrderBy(d => d.From).ThenBy(d => d.Person, StringComparer.Ordinal)];
    }

    /// <summary>The next time at which anybody of a team (or one person of it) comes on duty after an instant, within eight weeks; else <see langword="null"/>.</summary>
    public Duty? Next(string team, Instant at, string? person = null)
    {
        for (var i = 0; i < 3; i++)
        {
            if (InBlock(team, at + (Block * i)).FirstOrDefault(d => d.From > at && (person is null || d.Person == person)) is { } next)
            {
                return next;
            }
        }

        return null;
    }

    private static bool At(Duty duty, Site? place) =>
        place is null || duty.Place is null || duty.Place.Equals(place.Id, StringComparison.OrdinalIgnoreCase) || duty.Place.Equals(place.Name, StringComparison.OrdinalIgnoreCase);

    private Duty[] InBlock(string team, Instant at)
    {
        var number = (long)Math.Floor((at - NodaConstants.UnixEpoch) / Block);
        return blocks.TryGetValue((team, number), out var known) ? known
            : blocks.GetOrAdd((team, number), key => plans.GetOrAdd(key.Team, t => new Plan([.. shifts[t]], zone)).Between(NodaConstants.UnixEpoch + (Block * number), NodaConstants.UnixEpoch + (Block * (number + 1))));
    }

    /// <summary>A team's calendar, read once.</summary>
    private sealed class Plan
    {
        private readonly Calendar calendar = new();
        private readonly Dictionary<CalendarEvent, Shift> own = new(ReferenceEqualityComparer.Instance);
        private readonly Dictionary<string, Shift> series = [];
        private readonly Duration longest = Duration.FromDays(2);
        private readonly DateTimeZone zone;

        public Plan(IReadOnlyList<Shift> shifts, DateTimeZone zone)
        {
            this.zone = zone;
            foreach (var shift in shifts)
            {
                var made = Component(shift.Component);
                calendar.Events.Add(made);
                own[made] = shift;
                if (made.RecurrenceIdentifier is null)
                {
                    series[shift.Uid] = shift;
                }

                var length = Length(made);
                longest = length > longest ? length : longest;
            }
        }

        public Duty[] Between(Instant from, Instant to)
        {
            lock (calendar)
            {
                var begin = new CalDateTime((from - longest).ToDateTimeUtc(), "UTC");
                var found = new List<Duty>();
                foreach (var occurrence in calendar.GetOccurrences<CalendarEvent>(begin).TakeWhileBefore(new CalDateTime((to + Duration.FromDays(1)).ToDateTimeUtc(), "UTC")))
                {
                    var made = (CalendarEvent)occurrence.Source;
                    var shift = own[made];
                    if (string.Equals(made.Status, "CANCELLED", StringComparison.OrdinalIgnoreCase))
                    {
                        continue;
                    }

                    var start = Instant(occurrence.Period.StartTime);
                    var end = shift.WallClock ? WallEnd(made, occurrence) : occurrence.Period.EffectiveEndTime is { } e ? Instant(e) : start;
                    if (start >= to || end <= from || end <= start)
                    {
                        continue;
                    }

                    var people = shift.People.Count > 0 ? shift.People : series.GetValueOrDefault(shift.Uid)?.People ?? [];
                    found.AddRange(people.Select(p => new Duty(p, start, end, shift.Id, string.IsNullOrWhiteSpace(made.Location) ? null : made.Location.Trim(), made.RecurrenceRule is not null)));
                }

                return [.. found.OrderBy(d => d.From).ThenBy(d => d.Person, StringComparer.Ordinal)];
            }
        }

        private Instant WallEnd(CalendarEvent made, Occurrence occurrence)
        {
            var wall = Local(made.End!) - Local(made.Start!);
            return zone.AtLeniently(Local(occurrence.Period.StartTime) + wall).ToInstant();
        }

        private Duration Length(CalendarEvent made) => made.End is { } end ? Instant(end) - Instant(made.Start!) : made.Duration is { } d ? Duration.FromTimeSpan(d.ToTimeSpanUnspecified()) : Duration.FromDays(1);

        private Instant Instant(CalDateTime at) =>
            at.IsUtc || at.TzId is not null ? NodaTime.Instant.FromDateTimeUtc(DateTime.SpecifyKind(at.AsUtc, DateTimeKind.Utc)) : zone.AtLeniently(Local(at)).ToInstant();

        private static LocalDateTime Local(CalDateTime at) => LocalDateTime.FromDateTime(at.Value);
    }

    /// <summary>Reads one VEVENT.</summary>
    /// <exception cref="FormatException">The text holds none.</exception>
    public static CalendarEvent Component(string text) =>
        Calendar.Load($"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Sirena//EN\r\n{text}\r\nEND:VCALENDAR\r\n")?.Events.FirstOrDefault() ?? throw new FormatException("The text holds no VEVENT.");
}
