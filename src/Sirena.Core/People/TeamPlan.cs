using NodaTime;

namespace Sirena.Core.People;

/// <summary>A team's calendar, read once: each series with the nights that differ from it.</summary>
internal sealed class TeamPlan
{
    // A door keeps to 2,000 shifts in any 28 days; what is older than it, and shifts of several people, get room.
    private const int MostDuties = 5 * Rota.MostInBlock;
    private static readonly Duration Slack = Duration.FromDays(1);
    private readonly List<(Shift Shift, ShiftTimes Times)> series = [];
    private readonly ILookup<string, (Shift Shift, ShiftTimes Times)> instead;
    private readonly Duration longest = Duration.FromDays(2);

    /// <summary>Reads the shifts of a team.</summary>
    /// <exception cref="FormatException">One of them cannot be read.</exception>
    public TeamPlan(IReadOnlyList<Shift> shifts, DateTimeZone zone)
    {
        var differing = new List<(Shift Shift, ShiftTimes Times)>();
        foreach (var shift in shifts)
        {
            var times = new ShiftTimes(Rota.Component(shift.Component), shift.WallClock, zone);
            (times.Replaces is null ? series : differing).Add((shift, times));
            longest = Duration.Max(longest, times.Length);
        }

        instead = differing.ToLookup(d => d.Shift.Uid);
    }

    /// <summary>When each of the shifts begins for the first time.</summary>
    public IReadOnlyList<Instant> Begins => [.. series.Select(s => s.Times.Begin), .. instead.SelectMany(g => g).Select(d => d.Times.Begin)];

    /// <summary>The duty that touches a stretch of time, by begin and person.</summary>
    /// <exception cref="BudgetSpentException">It cannot be worked out with what may be spent.</exception>
    public Duty[] Between(Instant from, Instant to, StepBudget budget)
    {
        var found = new List<Duty>();
        foreach (var (shift, times) in series)
        {
            (Shift Shift, ShiftTimes Times)[] nights = [.. instead[shift.Uid]];
            (Shift Shift, ShiftTimes Times)[] onward = [.. nights.Where(n => n.Times.OnwardToo).OrderBy(n => n.Times.Replaces)];
            var replaced = nights.Select(n => n.Times.Replaces).ToHashSet();
            var days = nights.Select(n => n.Times.ReplacesDay).OfType<LocalDate>().ToHashSet();
            if (!times.Repeats && nights.Length == 0 && !times.HasMore && (times.Begin >= to || times.Begin + times.Length + Slack <= from))
            {
                continue;
            }

            var reach =
                longest
                + Slack
                + onward.Select(n => Duration.FromTicks(Math.Abs((n.Times.Begin - n.Times.Replaces!.Value).TotalTicks))).DefaultIfEmpty(Duration.Zero).Max();
            foreach (var begin in times.Between(from - reach, to + reach, budget))
            {
                budget.Spend();
                if (replaced.Contains(begin) || (days.Count > 0 && days.Contains(times.DayOf(begin))))
                {
                    continue;
                }

                // The latest change of this and all that follow holds, where there is one.
                var (kept, meant) = onward.LastOrDefault(n => n.Times.Replaces < begin) is { Shift: not null } change ? change : (shift, times);
                var at = ReferenceEquals(meant, times) ? begin : meant.Along(begin);
                Add(found, meant, at, kept, shift, times.Repeats || times.HasMore, from, to);
            }
        }

        foreach (var (shift, times) in instead.SelectMany(g => g))
        {
            Add(found, times, times.Begin, shift, series.Find(s => s.Shift.Uid == shift.Uid).Shift ?? shift, repeats: false, from, to);
        }

        return found.Count <= MostDuties
            ? [.. found.OrderBy(d => d.From).ThenBy(d => d.Person, StringComparer.Ordinal)]
            : throw new FormatException($"There are more than {Rota.MostInBlock:N0} shifts in 28 days.");
    }

    private static void Add(List<Duty> found, ShiftTimes times, Instant begin, Shift shift, Shift series, bool repeats, Instant from, Instant to)
    {
        if (times.Cancelled || begin >= to || times.EndOf(begin) is var end && (end <= from || end <= begin))
        {
            return;
        }

        found.AddRange((shift.People.Count > 0 ? shift.People : series.People).Select(p => new Duty(p, begin, end, shift.Id, times.Place, repeats)));
    }
}
