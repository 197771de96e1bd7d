using NodaTime;
using Sirena.Core.People;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Calendars;

/// <summary>Works a rota out before it is stored, within bounds, so that what is stored can be worked out later.</summary>
internal static class RotaWork
{
    /// <summary>What is wrong with the shifts of one team taken together, or <see langword="null"/>.</summary>
    public static DocumentError? Problem(IReadOnlyList<Shift> shifts, DateTimeZone zone, Instant now)
    {
        if (shifts.Count == 0)
        {
            return null;
        }

        var rota = new Rota(shifts, zone);
        var team = shifts[0].Team;
        if (rota.Fault(team) is { } unreadable)
        {
            return Wrong(unreadable);
        }

        var starts = rota.Begins(team);
        var first = starts.Min();
        var blocks = new HashSet<long>();
        void Look(Instant from, Instant to)
        {
            for (var at = from; at < to; at += Rota.Block)
            {
                blocks.Add(Rota.BlockOf(at));
            }
        }

        Look(first, first + Duration.FromDays(366));
        Look(now - Rota.Block, now + Duration.FromDays(2 * 366));
        blocks.UnionWith(starts.SelectMany(s => new[] { Rota.BlockOf(s), Rota.BlockOf(s) + 1 }));
        var begins = new SortedSet<(Instant, Guid)>();
        foreach (var block in blocks.Where(b => b >= 0))
        {
            var from = NodaConstants.UnixEpoch + (Rota.Block * block);
            begins.UnionWith(rota.Between(team, from, from + Rota.Block).Select(d => (d.From, d.Shift)));
            if (rota.Fault(team) is { } problem)
            {
                return Wrong(problem);
            }
        }

        return TooMany([.. begins.Select(b => b.Item1)]);
    }

    private static DocumentError? TooMany(Instant[] begins)
    {
        for (var i = 0; i + Rota.MostInBlock < begins.Length; i++)
        {
            if (begins[i + Rota.MostInBlock] - begins[i] < Rota.Block)
            {
                return new DocumentError(
                    "RRULE",
                    null,
                    null,
                    $"From {begins[i].InUtc().Date:uuuu-MM-dd} on there are more than {Rota.MostInBlock:N0} shifts in 28 days. A team may have that many."
                );
            }
        }

        return null;
    }

    private static DocumentError Wrong(string problem) => new("VEVENT", null, null, $"The rota cannot be worked out: {problem.TrimEnd('.')}.");
}
