using System.Collections.Concurrent;
using Ical.Net;
using Ical.Net.CalendarComponents;
using NodaTime;
using Duration = NodaTime.Duration;

namespace Sirena.Core.People;

/// <summary>
/// Who is on duty when. Repetition, exceptions and time zones are those of RFC 5545; a time without a zone and a whole day are those of the business's time
/// zone. Safe for
/// use by several threads; each team's time is worked out once for every four weeks that are asked for.
/// </summary>
public sealed class Rota
{
    /// <summary>How many shifts a team may have in any 28 days.</summary>
    public const int MostInBlock = 2_000;

    private const int StepsOfBlock = 200_000;

    /// <summary>Duty is worked out for so long at a time.</summary>
    public static Duration Block { get; } = Duration.FromDays(28);

    private readonly DateTimeZone zone;
    private readonly ILookup<string, Shift> shifts;
    private readonly ConcurrentDictionary<string, TeamPlan> plans = [];
    private readonly ConcurrentDictionary<string, string> faults = [];
    private readonly ConcurrentDictionary<(string Team, long Block), Duty[]> blocks = [];

    /// <summary>Makes a rota.</summary>
    /// <param name="shifts">The shifts of all teams.</param>
    /// <param name="zone">The business's time zone.</param>
    public Rota(IEnumerable<Shift> shifts, DateTimeZone zone) => (this.zone, this.shifts) = (zone, shifts.ToLookup(s => s.Team));

    /// <summary>A rota on which nobody stands.</summary>
    public static Rota Empty { get; } = new([], DateTimeZone.Utc);

    /// <summary>The team has shifts at all.</summary>
    public bool Has(string team) => shifts.Contains(team);

    /// <summary>
    /// Why a team's rota cannot be read or worked out, or <see langword="null"/> while it can. Nobody of such a team is on duty; other teams are as they are.
    /// </summary>
    public string? Fault(string team)
    {
        Of(team);
        return faults.GetValueOrDefault(team);
    }

    /// <summary>When each of a team's shifts begins for the first time.</summary>
    public IReadOnlyList<Instant> Begins(string team) => Of(team)?.Begins ?? [];

    /// <summary>The shifts of a team as they are kept.</summary>
    public IEnumerable<Shift> Shifts(string team) => shifts[team];

    /// <summary>Whoever of a team is on duty at an instant; at one place, where it is given and the shift names one.</summary>
    public IEnumerable<Duty> OnDuty(string team, Instant at, Site? place = null)
    {
        foreach (var duty in InBlock(team, BlockOf(at)))
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
        for (var block = BlockOf(from); block <= BlockOf(to); block++)
        {
            found.UnionWith(InBlock(team, block).Where(d => d.From < to && d.To > from));
        }

        return [.. found.OrderBy(d => d.From).ThenBy(d => d.Person, StringComparer.Ordinal)];
    }

    /// <summary>
    /// The next time at which anybody of a team (or one person of it) comes on duty after an instant, within eight weeks; else <see langword="null"/>.
    /// </summary>
    public Duty? Next(string team, Instant at, string? person = null)
    {
        for (var i = 0; i < 3; i++)
        {
            if (InBlock(team, BlockOf(at) + i).FirstOrDefault(d => d.From > at && (person is null || d.Person == person)) is { } next)
            {
                return next;
            }
        }

        return null;
    }

    private static bool At(Duty duty, Site? place) =>
        place is null
        || duty.Place is null
        || duty.Place.Equals(place.Id, StringComparison.OrdinalIgnoreCase)
        || duty.Place.Equals(place.Name, StringComparison.OrdinalIgnoreCase);

    /// <summary>The number of the block in which an instant lies, counted from 1970.</summary>
    public static long BlockOf(Instant at) => (long)Math.Floor(KnownTime.Nearest(at).ToUnixTimeSeconds() / Block.TotalSeconds);

    private Duty[] InBlock(string team, long number) => blocks.TryGetValue((team, number), out var known) ? known : blocks.GetOrAdd((team, number), WorkedOut);

    // What is stored may be older than the door that it came through: one team's bad calendar is that team's alone.
    private Duty[] WorkedOut((string Team, long Number) block)
    {
        var begin = NodaConstants.UnixEpoch + (Block * block.Number);
        try
        {
            return begin >= KnownTime.Latest || Of(block.Team) is not { } plan ? [] : plan.Between(begin, begin + Block, new StepBudget(StepsOfBlock));
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            faults[block.Team] = e.Message;
            return [];
        }
    }

    private TeamPlan? Of(string team)
    {
        if (plans.TryGetValue(team, out var plan) || faults.ContainsKey(team))
        {
            return plan;
        }

        try
        {
            return plans.GetOrAdd(team, new TeamPlan([.. shifts[team]], zone));
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            faults[team] = e.Message;
            return null;
        }
    }

    /// <summary>Reads one VEVENT.</summary>
    /// <exception cref="FormatException">The text holds none.</exception>
    public static CalendarEvent Component(string text) =>
        Calendar.Load($"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Sirena//EN\r\n{text}\r\nEND:VCALENDAR\r\n")?.Events.FirstOrDefault()
        ?? throw new FormatException("The text holds no VEVENT.");
}
