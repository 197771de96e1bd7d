using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using NodaTime;
using Duration = NodaTime.Duration;
using Period = NodaTime.Period;

namespace Sirena.Core.People;

/// <summary>When one VEVENT holds: its begin, how long, how it repeats, and what it stands in for.</summary>
public sealed class ShiftTimes
{
    private readonly CalendarEvent made;
    private readonly DateTimeZone own;
    private readonly LocalDateTime start;
    private readonly bool byWall;
    private readonly Recurrence? recurrence;
    private readonly HashSet<Instant> without;

    /// <summary>Reads a VEVENT.</summary>
    /// <param name="component">The VEVENT.</param>
    /// <param name="wallClock">It means the wall clock: its end is where the clock says, also in nights in which the clocks change.</param>
    /// <param name="business">The business's time zone, for times without one and whole days.</param>
    /// <exception cref="FormatException">It cannot be read, or lasts nothing.</exception>
    public ShiftTimes(CalendarEvent component, bool wallClock, DateTimeZone business)
    {
        made = component;
        var begin = made.Start ?? throw new FormatException("A shift has no DTSTART.");
        (own, start) = (ZoneOf(begin, business), Local(begin));
        byWall = wallClock || !begin.HasTime;
        Begin = At(start);
        recurrence = made.RecurrenceRule is { } rule ? new Recurrence(rule, start, rule.Until is { } until ? InOwn(until) : null) : null;
        without = [.. made.ExceptionDates.GetAllDates().SelectMany(Excepted)];
        Length = LengthOf();
        Replaces = made.RecurrenceIdentifier is { StartTime: { } id } ? Moment(id) : null;
        ReplacesDay = made.RecurrenceIdentifier is { StartTime.HasTime: false } && begin.HasTime ? Local(made.RecurrenceIdentifier.StartTime).Date : null;
        OnwardToo = made.RecurrenceIdentifier?.Range == RecurrenceRange.ThisAndFuture;
    }

    /// <summary>When the first of its times begins.</summary>
    public Instant Begin { get; }

    /// <summary>How long each of them lasts, as counted on the first.</summary>
    public Duration Length { get; }

    /// <summary>The begin of the time of its series that it stands in for (RECURRENCE-ID), or <see langword="null"/> for a series or a lone shift.</summary>
    public Instant? Replaces { get; }

    /// <summary>The day whose time it stands in for, where the calendar names only that.</summary>
    public LocalDate? ReplacesDay { get; }

    /// <summary>It stands in for all that come after as well (RANGE=THISANDFUTURE).</summary>
    public bool OnwardToo { get; }

    /// <summary>It repeats by a rule.</summary>
    public bool Repeats => recurrence is not null;

    /// <summary>It has further times by themselves (RDATE).</summary>
    public bool HasMore => made.RecurrenceDates.GetAllDates().Any() || made.RecurrenceDates.GetAllPeriods().Any();

    /// <summary>It is no shift (STATUS:CANCELLED).</summary>
    public bool Cancelled => string.Equals(made.Status, "CANCELLED", StringComparison.OrdinalIgnoreCase);

    /// <summary>Where it is served, or <see langword="null"/>.</summary>
    public string? Place => string.IsNullOrWhiteSpace(made.Location) ? null : made.Location.Trim();

    /// <summary>By how much it is later than what it stands in for, on the wall.</summary>
    public Period Moved => Replaces is { } id ? Period.Between(id.InZone(own).LocalDateTime, start, PeriodUnits.Ticks) : Period.Zero;

    /// <summary>The begins in a stretch of time, in no order, without those that are excepted.</summary>
    /// <param name="from">Its begin.</param>
    /// <param name="to">Its end, not included.</param>
    /// <param name="budget">What may be spent.</param>
    public IEnumerable<Instant> Between(Instant from, Instant to, StepBudget budget)
    {
        var begins = new HashSet<Instant>();
        if (recurrence is not null)
        {
            begins.UnionWith(recurrence.Between(from.InZone(own).LocalDateTime, to.InZone(own).LocalDateTime.PlusTicks(1), budget).Select(At));
        }
        else
        {
            begins.Add(Begin);
        }

        foreach (var more in made.RecurrenceDates.GetAllDates())
        {
            budget.Spend();
            begins.Add(Moment(more));
        }

        foreach (var more in made.RecurrenceDates.GetAllPeriods())
        {
            budget.Spend();
            begins.Add(Moment(more.StartTime));
        }

        return begins.Where(b => b >= from && b < to && !without.Contains(b));
    }

    /// <summary>The day on which a time begins, on this shift's wall.</summary>
    public LocalDate DayOf(Instant begin) => begin.InZone(own).Date;

    /// <summary>When the time that begins at an instant ends.</summary>
    public Instant EndOf(Instant begin)
    {
        if (made.RecurrenceDates.GetAllPeriods().FirstOrDefault(p => Moment(p.StartTime) == begin) is { } given)
        {
            return given.EndTime is { } end ? Moment(end) : begin + Span(given.Duration!.Value);
        }

        return byWall ? At(OnWall(begin) + Wall()) : begin + Length;
    }

    /// <summary>That time moved as this shift is moved from what it stands in for.</summary>
    public Instant Along(Instant begin) => At(begin.InZone(own).LocalDateTime + Moved);

    // What the wall says of a begin: also the time that it means in a night in which the clocks skip that.
    private LocalDateTime OnWall(Instant begin)
    {
        var local = begin.InZone(own).LocalDateTime;
        var meant = local.Date.At(start.TimeOfDay);
        return At(meant) == begin ? meant : local;
    }

    private Period Wall() =>
        made.End is { } end ? Period.Between(start, end.HasTime ? InOwn(end) : Local(end), PeriodUnits.Ticks)
        : made.Duration is { } d ? Period.FromTicks(d.ToTimeSpanUnspecified().Ticks)
        : Period.FromDays(1);

    private Duration LengthOf()
    {
        // A first shift that the clocks skip as a whole is one still in all other weeks: it lasts what the wall says.
        var length =
            byWall ? Duration.Max(At(start + Wall()) - Begin, Wall().ToDuration())
            : made.End is { } end ? Moment(end) - Begin
            : made.Duration is { } d ? Span(d)
            : Duration.Zero;
        return length > Duration.Zero ? length : throw new FormatException("A shift ends before it begins, or lasts nothing.");
    }

    // A day of a DURATION is a day on the wall (RFC 5545, 3.3.6); here it is counted on the first time.
    private static Duration Span(Ical.Net.DataTypes.Duration length) => Duration.FromTimeSpan(length.ToTimeSpanUnspecified());

    private IEnumerable<Instant> Excepted(CalDateTime at) => at.HasTime || !made.Start!.HasTime ? [Moment(at)] : [At(Local(at).Date.At(start.TimeOfDay))];

    private Instant At(LocalDateTime at) => own.AtLeniently(at).ToInstant();

    private LocalDateTime InOwn(CalDateTime at) =>
        at is { HasTime: true, TzId: not null } ? Moment(at).InZone(own).LocalDateTime
        : at.HasTime ? Local(at)
        : Local(at).Date.At(new LocalTime(23, 59, 59));

    private Instant Moment(CalDateTime at) => ZoneOf(at, own).AtLeniently(Local(at)).ToInstant();

    private static DateTimeZone ZoneOf(CalDateTime at, DateTimeZone unless) =>
        at.IsUtc ? DateTimeZone.Utc
        : at is not { HasTime: true, TzId: { } name } ? unless
        : DateTimeZoneProviders.Tzdb.GetZoneOrNull(name) ?? throw new FormatException($"The time zone '{name}' is not known.");

    private static LocalDateTime Local(CalDateTime at) => LocalDateTime.FromDateTime(at.Value);
}
