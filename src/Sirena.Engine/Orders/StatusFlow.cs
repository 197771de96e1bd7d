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

/// <summary>Reads the flow of orders from their stored events, at most once a minute.</summary>
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
