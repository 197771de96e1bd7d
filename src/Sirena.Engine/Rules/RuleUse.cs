using NodaTime;
using Npgsql;

namespace Sirena.Engine.Rules;

/// <summary>What rules did over some days, by their ids.</summary>
/// <param name="Counts">How often each matched on each day, and how many of its alerts nobody answered.</param>
/// <param name="Last">When it matched last.</param>
/// <param name="Missed">How many of its alerts missed somebody.</param>
public sealed record RuleUse(
    IReadOnlyDictionary<string, (int[] Days, int[] Unanswered)> Counts,
    IReadOnlyDictionary<string, Instant> Last,
    IReadOnlyDictionary<string, int> Missed
)
{
    /// <summary>Reads it: three passes over narrow indexes, (rule_id, at) of matches and (rule_id, raised_at) of alerts.</summary>
    /// <param name="source">The database.</param>
    /// <param name="first">The begin of the first day.</param>
    /// <param name="days">How many days, of 24 hours each; what is later counts to the last.</param>
    /// <param name="cancel">Breaks it off.</param>
    public static async Task<RuleUse> ReadAsync(NpgsqlDataSource source, Instant first, int days, CancellationToken cancel)
    {
        await using var command = source.CreateCommand(
            """
            select rule_id, floor(extract(epoch from at - $1) / 86400)::int, count(*)::int, 0, max(at) from matches where at >= $1 group by 1, 2
            union all
            select rule_id, floor(extract(epoch from raised_at - $1) / 86400)::int, 0, count(*)::int, null from alerts
                where raised_at >= $1 and state = 'lapsed' group by 1, 2
            union all
            select rule_id, -1, count(*)::int, 0, null from alerts where raised_at >= $1 and unreached > 0 group by 1
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = first });
        var counts = new Dictionary<string, (int[] Days, int[] Unanswered)>();
        var (last, missed) = (new Dictionary<string, Instant>(), new Dictionary<string, int>());
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            var id = reader.GetString(0);
            if (reader.GetInt32(1) < 0)
            {
                missed[id] = reader.GetInt32(2);
                continue;
            }

            var day = Math.Clamp(reader.GetInt32(1), 0, days - 1);
            var (matched, unanswered) = counts.TryGetValue(id, out var known) ? known : counts[id] = (new int[days], new int[days]);
            matched[day] += reader.GetInt32(2);
            unanswered[day] += reader.GetInt32(3);
            if (!reader.IsDBNull(4) && (!last.TryGetValue(id, out var at) || reader.GetFieldValue<Instant>(4) > at))
            {
                last[id] = reader.GetFieldValue<Instant>(4);
            }
        }

        return new RuleUse(counts, last, missed);
    }
}
