using System.Runtime.CompilerServices;
using NodaTime;
using Npgsql;
using Sirena.Core.Orders;

namespace Sirena.Storage.Orders;

/// <summary>Reads stored events one after another, without holding them: for rehearsals.</summary>
public sealed class PastEvents(NpgsqlDataSource source)
{
    /// <summary>How many events of each type were received since an instant.</summary>
    public async Task<Dictionary<string, int>> CountAsync(Instant since, CancellationToken cancel)
    {
        await using var command = source.CreateCommand("select type, count(*)::int from events where received >= $1 group by 1");
        command.Parameters.Add(new NpgsqlParameter { Value = since });
        var came = new Dictionary<string, int>();
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            came[reader.GetString(0)] = reader.GetInt32(1);
        }

        return came;
    }

    /// <summary>The events received in a period, in the order of intake.</summary>
    /// <param name="from">The begin.</param>
    /// <param name="to">The end, not included.</param>
    /// <param name="wants">Whether an event of that type and subject is to be read with its documents; the others come as <see langword="null"/>, to be
    /// counted.</param>
    /// <param name="cancel">Stops the reading.</param>
    public async IAsyncEnumerable<OrderEvent?> ReadAsync(
        Instant from,
        Instant to,
        Func<string, string?, bool> wants,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        await using var connection = await source.OpenConnectionAsync(cancel);

        // A month of events takes longer than a page may; the limit comes back with the connection.
        await using (var unlimited = new NpgsqlCommand("set statement_timeout = 0", connection))
        {
            await unlimited.ExecuteNonQueryAsync(cancel);
        }

        // Plan: the block range index on received gives the ends, the primary key the rows between them in their order; nothing is sorted.
        await using var command = new NpgsqlCommand(
            """
            select id, type, subject, event_id, source, order_number, seq, time, received, book, data, order_before, order_after from events
            where id between (select min(id) from events where received >= $1 and received < $2)
                and (select max(id) from events where received >= $1 and received < $2)
              and received >= $1 and received < $2 order by id
            """,
            connection
        )
        {
            CommandTimeout = 0,
        };
        command.Parameters.Add(new NpgsqlParameter { Value = from });
        command.Parameters.Add(new NpgsqlParameter { Value = to });
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            var (type, subject) = (reader.GetString(1), reader.IsDBNull(2) ? null : reader.GetString(2));
            yield return !wants(type, subject)
                ? null
                : new OrderEvent
                {
                    Id = reader.GetInt64(0),
                    Type = type,
                    Subject = subject,
                    EventId = reader.GetString(3),
                    Source = reader.GetString(4),
                    OrderNumber = reader.IsDBNull(5) ? null : reader.GetString(5),
                    Seq = reader.GetInt64(6),
                    Time = reader.GetFieldValue<Instant>(7),
                    Received = reader.GetFieldValue<Instant>(8),
                    Book = reader.GetInt64(9),
                    Data = reader.GetString(10),
                    OrderBefore = reader.IsDBNull(11) ? null : reader.GetString(11),
                    OrderAfter = reader.IsDBNull(12) ? null : reader.GetString(12),
                };
        }
    }
}
