using NodaTime;
using Npgsql;

namespace Sirena.Engine.Orders;

/// <summary>How orders moved between statuses over a period, and how long they stayed.</summary>
/// <param name="Orders">How many orders moved.</param>
/// <param name="Moves">How often from one status to another; an empty text stands for an order that was not known before.</param>
/// <param name="Stays">The median and the 90th percentile of the stay in a status, minutes.</param>
public sealed record StatusFlow(
    int Orders,
    IReadOnlyDictionary<(string From, string To), int> Moves,
    IReadOnlyDictionary<string, (double Median, double Most)> Stays
);

/// <summary>Where open orders stand now.</summary>
/// <param name="Standing">How many stand in each status.</param>
/// <param name="Over">How many of these stand longer than allowed.</param>
/// <param name="Strange">Words that came and belong to no status, with how many orders stand under them.</param>
public sealed record StatusStanding(
    IReadOnlyDictionary<string, int> Standing,
    IReadOnlyDictionary<string, int> Over,
    IReadOnlyList<(string Word, int Orders)> Strange
);

/// <summary>Reads where open orders stand now, and from their stored events, at most once a minute, how they moved.</summary>
public sealed class StatusFlows(NpgsqlDataSource source, IClock clock) : IDisposable
{
    private static readonly Duration Age = Duration.FromMinutes(1);
    private readonly SemaphoreSlim one = new(1);
    private (StatusFlow Flow, Instant At)? kept;

    /// <summary>The flow since an instant.</summary>
    public async Task<StatusFlow> SinceAsync(Instant since, CancellationToken cancel)
    {
        await one.WaitAsync(cancel);
        try
        {
            if (kept is not { } fresh || clock.GetCurrentInstant() - fresh.At > Age)
            {
                kept = fresh = (await ReadAsync(since, cancel), clock.GetCurrentInstant());
            }

            return fresh.Flow;
        }
        finally
        {
            one.Release();
        }
    }

    /// <summary>How many open orders stand in each status, and for how many of them that is longer than allowed.</summary>
    public async Task<StatusStanding> StandingAsync(Instant now, CancellationToken cancel)
    {
        await using var command = source.CreateCommand(
            $"""
            select o.status, count(*)::int, count(*) filter (where {OrderWatch.EnteredAt} < $1 - s.allowed_minutes * interval '1 minute')::int, s.id is null
            from orders o left join statuses s on s.id = o.status where o.open and o.status is not null group by o.status, s.id
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = now });
        var (standing, over, strange) = (new Dictionary<string, int>(), new Dictionary<string, int>(), new List<(string, int)>());
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            if (reader.GetBoolean(3))
            {
                strange.Add((reader.GetString(0), reader.GetInt32(1)));
                continue;
            }

            standing[reader.GetString(0)] = reader.GetInt32(1);
            over[reader.GetString(0)] = reader.GetInt32(2);
        }

        return new StatusStanding(standing, over, strange);
    }

    /// <summary>How many open orders stand in a status, and how many of them since before an instant.</summary>
    public async Task<(int All, int Over)> SinceBeforeAsync(string status, Instant since, CancellationToken cancel)
    {
        await using var command = source.CreateCommand(
            $"select count(*)::int, count(*) filter (where {OrderWatch.EnteredAt} < $2)::int from orders where open and status = $1"
        );
        command.Parameters.AddWithValue(status);
        command.Parameters.Add(new NpgsqlParameter { Value = since });
        await using var reader = await command.ExecuteReaderAsync(cancel);
        await reader.ReadAsync(cancel);
        return (reader.GetInt32(0), reader.GetInt32(1));
    }

    /// <inheritdoc/>
    public void Dispose() => one.Dispose();

    private async Task<StatusFlow> ReadAsync(Instant since, CancellationToken cancel)
    {
        // Plan: the block range index on received, one sort by order and place; each event's two small members are read once.
        await using var command = source.CreateCommand(
            """
            with moved as materialized (
              select order_number, seq, time, coalesce(order_before ->> 'status', '') was, order_after ->> 'status' is_now from events
                  where received >= $1 and order_number is not null),
            changed as (select *, lead(time) over (partition by order_number order by seq) - time as stay from moved where is_now is not null and was <> is_now)
            select was, is_now, count(*)::int, null::float8, null::float8 from changed group by 1, 2
            union all select null, is_now, 0, percentile_cont(.5) within group (order by extract(epoch from stay) / 60),
                percentile_cont(.9) within group (order by extract(epoch from stay) / 60) from changed where stay is not null group by 2
            union all select null, null, count(distinct order_number)::int, null, null from changed
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = since });
        var (orders, moves, stays) = (0, new Dictionary<(string, string), int>(), new Dictionary<string, (double, double)>());
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            if (reader.IsDBNull(1))
            {
                orders = reader.GetInt32(2);
            }
            else if (reader.IsDBNull(0))
            {
                stays[reader.GetString(1)] = (reader.GetDouble(3), reader.GetDouble(4));
            }
            else
            {
                moves[(reader.GetString(0), reader.GetString(1))] = reader.GetInt32(2);
            }
        }

        return new StatusFlow(orders, moves, stays);
    }
}
