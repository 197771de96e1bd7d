using Ical.Net.DataTypes;
using NodaTime;
using Sirena.Core.People;
using Period = NodaTime.Period;

namespace Sirena.Formats.Calendars;

/// <summary>Somebody as calendars name them.</summary>
/// <param name="Id">The person's id.</param>
/// <param name="Name">Their name.</param>
/// <param name="Address">The mail address that stands for them.</param>
public sealed record ShiftPerson(string Id, string Name, string Address);

/// <summary>
/// A shift with all that belongs to it, the series and the nights that differ from it, as the Rota page changes it: one time, or all of them. Of several who
/// serve it together only the one whose duty it is changes; the others keep theirs.
/// </summary>
/// <param name="entries">All entries of the shift's UID.</param>
/// <param name="person">The person of an id; for one who is no longer there their id alone.</param>
/// <param name="named">The id of the person whom a mail address names, or <see langword="null"/>.</param>
/// <param name="zone">The business's time zone.</param>
/// <param name="now">When it is changed.</param>
public sealed class ShiftChange(IReadOnlyList<Shift> entries, Func<string, ShiftPerson> person, Func<string, string?> named, DateTimeZone zone, Instant now)
{
    /// <summary>The entries that are new.</summary>
    public List<Shift> Added { get; } = [];

    /// <summary>The entries that are no more.</summary>
    public List<Shift> Gone { get; } = [];

    private Shift Series => entries.FirstOrDefault(e => Rota.Component(e.Component).RecurrenceIdentifier is null) ?? entries[0];

    /// <summary>Puts somebody's duty to another time, or gives it to somebody else.</summary>
    /// <param name="duty">The duty.</param>
    /// <param name="who">The id of whoever has it from now on.</param>
    /// <param name="from">Its new begin, wall clock.</param>
    /// <param name="to">Its new end, after the begin.</param>
    /// <param name="all">All times of a repeated one, not this one alone.</param>
    public void Move(Duty duty, string who, LocalDateTime from, LocalDateTime to, bool all)
    {
        var (shift, served) = (Entry(duty), person(who));
        var (begin, end) = (from - Wall(duty.From), to - Wall(duty.To));
        if (People(shift).Count > 1)
        {
            Added.Add(duty.Repeats && all ? Apart(shift, duty, served, begin, end) : ShiftText.Make(shift.Team, served, from, to, [], zone, duty.Place, now));
            Leave(duty, all);
        }
        else if (duty.Repeats && !all)
        {
            Added.Add(ShiftText.Instead(shift, duty.From, [served], from, to, zone, now));
        }
        else
        {
            foreach (var night in duty.Repeats ? Nights(shift) : [])
            {
                night.Component = ShiftText.InsteadOfMoved(night.Component, shift.Component, begin);
            }

            shift.Component = ShiftText.Moved(shift.Component, begin, end);

            if (who != duty.Person)
            {
                Serve(shift, [who]);
                shift.Component = ShiftText.Called(shift.Component, served.Name);
            }
        }
    }

    /// <summary>Takes somebody's duty away.</summary>
    /// <param name="duty">The duty.</param>
    /// <param name="all">All times of a repeated one, not this one alone.</param>
    public void Remove(Duty duty, bool all)
    {
        var shift = Entry(duty);
        if (People(shift).Count > 1)
        {
            Leave(duty, all);
        }
        else if (duty.Repeats && !all)
        {
            shift.Component = ShiftText.Without(shift.Component, duty.From, zone);
        }
        else if (duty.Repeats)
        {
            Gone.AddRange(entries);
        }
        else
        {
            // A night that differs leaves its series without that night.
            Gone.Add(shift);
            if (Rota.Component(shift.Component).RecurrenceIdentifier is { } night && Series is var series && series != shift)
            {
                var at = Instant.FromDateTimeUtc(DateTime.SpecifyKind(night.StartTime.AsUtc, DateTimeKind.Utc));
                series.Component = ShiftText.Without(series.Component, at, zone);
            }
        }
    }

    // A series of one's own beside that of the others, which goes on as it is. The nights that differ stay where they are, with whoever has the duty now.
    private Shift Apart(Shift shift, Duty duty, ShiftPerson who, Period begin, Period end)
    {
        var made = Rota.Component(shift.Component);
        made.Uid = Guid.CreateVersion7(now.ToDateTimeOffset()).ToString();
        foreach (var night in Nights(shift))
        {
            made.ExceptionDates.Add(Rota.Component(night.Component).RecurrenceIdentifier!.StartTime);
            if (night.People.Count == 0)
            {
                Serve(night, [.. People(shift).Where(p => p != duty.Person && p != who.Id), who.Id]);
            }
        }

        var apart = new Shift
        {
            Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
            Team = shift.Team,
            Uid = made.Uid,
            WallClock = shift.WallClock,
            Component = ShiftText.Called(ShiftText.Moved(RotaCalendar.Text(made), begin, end), who.Name),
        };
        Serve(apart, [who.Id]);
        return apart;
    }

    // Takes one of several off a shift, or off one time of it.
    private void Leave(Duty duty, bool all)
    {
        var shift = Entry(duty);
        string[] others = [.. People(shift).Where(p => p != duty.Person)];
        if (duty.Repeats && !all)
        {
            Added.Add(ShiftText.Instead(shift, duty.From, [.. others.Select(person)], Wall(duty.From), Wall(duty.To), zone, now));
            return;
        }

        foreach (var night in duty.Repeats ? Nights(shift).Where(n => n.People.Contains(duty.Person)) : [])
        {
            if (night.People.Count > 1)
            {
                Serve(night, [.. night.People.Where(p => p != duty.Person)]);
            }
            else
            {
                night.Component = ShiftText.Cancelled(night.Component);
            }
        }

        Serve(shift, others);
    }

    private Shift Entry(Duty duty) => entries.First(e => e.Id == duty.Shift);

    private IEnumerable<Shift> Nights(Shift series) => entries.Where(e => e != series && Rota.Component(e.Component).RecurrenceIdentifier is not null);

    // A night that names nobody keeps the people of its series.
    private List<string> People(Shift shift) => shift.People.Count > 0 ? shift.People : Series.People;

    private void Serve(Shift shift, IReadOnlyList<string> people) =>
        (shift.People, shift.Component) = ([.. people], ShiftText.With(shift.Component, [.. people.Select(person)], named));

    private LocalDateTime Wall(Instant at) => at.InZone(zone).LocalDateTime;
}
