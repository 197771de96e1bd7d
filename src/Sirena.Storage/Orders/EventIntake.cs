using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;
using Npgsql;
using NpgsqlTypes;
using Sirena.Core.Orders;

namespace Sirena.Storage.Orders;

/// <summary>An event on its way in, with the prefix of its source's order numbers.</summary>
public sealed record Arrival(IncomingEvent Event, string Prefix, Instant Received);

/// <summary>
/// Puts events on disk: merges each into its order under the order's lock, numbers it, stamps it with the rule book's version. One transaction for all
/// that is given, so a request's events are all there or none.
/// </summary>
public sealed class EventIntake(NpgsqlDataSource source)
{
    private static readonly Duration Ahead = Duration.FromMinutes(5);

    /// <summary>Stores the events in their order.</summary>
    /// <returns>For each whether it was new; one that is known by source and id does nothing.</returns>
    public async Task<bool[]> StoreAsync(IReadOnlyList<Arrival> arrivals, CancellationToken cancel)
    {
        string?[] numbers = [.. arrivals.Select(a => a.Event.OrderNumber is { } n ? a.Prefix + n : null)];
        for (var tries = 1; ; tries++)
        {
            try
            {
                if (await TryStoreAsync(arrivals, numbers, cancel) is { } taken)
                {
                    return taken;
                }
            }
            catch (PostgresException e) when (tries < 5 && e.SqlState is PostgresErrorCodes.DeadlockDetected or PostgresErrorCodes.SerializationFailure or PostgresErrorCodes.UniqueViolation)
            {
                // Another node was first; what it wrote is seen on the next try.
            }

            if (tries >= 5)
            {
                throw new InvalidOperationException("The events could not be stored beside those of other nodes, five times over.");
            }
        }
    }

    private async Task<bool[]?> TryStoreAsync(IReadOnlyList<Arrival> arrivals, string?[] numbers, CancellationToken cancel)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        var (orders, known) = await LockAsync(connection, arrivals, numbers, cancel);

        var taken = new bool[arrivals.Count];
        var rows = new List<OrderEvent>(arrivals.Count);
        for (var i = 0; i < arrivals.Count; i++)
        {
            var arrival = arrivals[i];
            taken[i] = known.Add((arrival.Event.Source, arrival.Event.EventId));
            if (taken[i])
            {
                rows.Add(Merge(arrival, numbers[i], orders));
            }
        }

        if (rows.Count == 0)
        {
            return taken;
        }

        if (await WriteAsync(connection, rows, orders.Values.Where(o => o.Touched), cancel) < rows.Count)
        {
            return null;
        }

        await transaction.CommitAsync(cancel);
        return taken;
    }

    // Rows are locked in key order, so that two batches never wait for each other. A new order gets a row first, to have something to lock.
    private static async Task<(Dictionary<string, Locked> Orders, HashSet<(string, string)> Known)> LockAsync(
        NpgsqlConnection connection, IReadOnlyList<Arrival> arrivals, string?[] numbers, CancellationToken cancel)
    {
        string[] keys = [.. numbers.OfType<string>().Distinct().Order(StringComparer.Ordinal)];
        await using var batch = new NpgsqlBatch(connection);
        if (keys.Length > 0)
        {
            Add(batch, "insert into orders (number, document, times, seq, open, risk, sites, changed_at, search) select n, '{}', '{}', 0, true, 0, '{}', 'epoch', '' from unnest($1) n order by n on conflict do nothing", [keys]);
            Add(batch, "select number, document, times, seq, changed_at from orders where number = any($1) order by number for update", [keys]);
        }

        Add(batch, "select e.source, e.event_id from events e join unnest($1, $2) k(source, id) on e.source = k.source and e.event_id = k.id", arrivals.Select(a => a.Event.Source).ToArray(), arrivals.Select(a => a.Event.EventId).ToArray());
        await using var reader = await batch.ExecuteReaderAsync(cancel);
        var orders = new Dictionary<string, Locked>(keys.Length);
        if (keys.Length > 0)
        {
            while (await reader.ReadAsync(cancel))
            {
                orders[reader.GetString(0)] = new Locked(reader.GetString(0), reader.GetString(1), reader.GetString(2), reader.GetInt64(3), reader.GetFieldValue<Instant>(4));
            }

            await reader.NextResultAsync(cancel);
        }

        var known = new HashSet<(string, string)>();
        while (await reader.ReadAsync(cancel))
        {
            known.Add((reader.GetString(0), reader.GetString(1)));
        }

        return (orders, known);
    }

    private static OrderEvent Merge(Arrival arrival, string? number, Dictionary<string, Locked> orders)
    {
        var happened = arrival.Event;
        var future = happened.Time > arrival.Received + Ahead;
        var time = Micros(future ? arrival.Received : happened.Time ?? arrival.Received);
        var (before, after, seq, late, data) = ((string?)null, (string?)null, 0L, false, happened.Data);
        if (number is not null)
        {
            var order = orders[number];
            happened.Order!["number"] = number;
            (before, late) = (order.Seq == 0 ? null : order.Document, order.Seq > 0 && time < order.ChangedAt);
            var was = order.State?.Document;
            order.Apply(happened.Order!, time);
            (after, seq) = (order.Document, order.Seq);
            data = Change.Complete(happened.Data, was, order.State!.Document);
        }

        return new OrderEvent
        {
            EventId = happened.EventId,
            Source = happened.Source,
            Type = happened.Type,
            Subject = number ?? happened.Subject,
            OrderNumber = number,
            Seq = seq,
            Time = time,
            Received = arrival.Received,
            Late = late,
            FromTheFuture = future,
            Data = data.ToJsonString(),
            OrderBefore = before,
            OrderAfter = after,
        };
    }

    private static async Task<int> WriteAsync(NpgsqlConnection connection, List<OrderEvent> rows, IEnumerable<Locked> touched, CancellationToken cancel)
    {
        await using var batch = new NpgsqlBatch(connection);

        // Plan: one function scan over the arrays, one insert; the book's version comes from its single row in the same statement.
        var insert = Add(
            batch,
            """
            insert into events (event_id, source, type, subject, order_number, seq, time, received, late, from_the_future, data, order_before, order_after, tries, book)
            select u.*, 0, (select version from rule_book) from unnest($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13) u
            on conflict (source, event_id) do nothing
            """,
            rows.Select(r => r.EventId).ToArray(), rows.Select(r => r.Source).ToArray(), rows.Select(r => r.Type).ToArray(), rows.Select(r => r.Subject).ToArray(),
            rows.Select(r => r.OrderNumber).ToArray(), rows.Select(r => r.Seq).ToArray(), rows.Select(r => r.Time).ToArray(), rows.Select(r => r.Received).ToArray(),
            rows.Select(r => r.Late).ToArray(), rows.Select(r => r.FromTheFuture).ToArray());
        foreach (var documents in new[] { rows.Select(r => r.Data).ToArray(), rows.Select(r => r.OrderBefore).ToArray(), rows.Select(r => r.OrderAfter).ToArray() })
        {
            insert.Parameters.Add(new NpgsqlParameter { Value = documents, NpgsqlDbType = NpgsqlDbType.Array | NpgsqlDbType.Jsonb });
        }

        Order[] orders = [.. touched.Select(t => OrderColumns.From(t.Number, t.State!, t.Document, t.Seq, t.ChangedAt))];
        if (orders.Length > 0)
        {
            Update(batch, orders);
        }

        await batch.ExecuteNonQueryAsync(cancel);
        return (int)insert.RecordsAffected;
    }

    private static void Update(NpgsqlBatch batch, Order[] orders)
    {
        var update = Add(
            batch,
            """
            update orders o set seq = u.seq, status = u.status, customer = u.customer, place = u.place, due_at = u.due_at, total = u.total, currency = u.currency, risk = u.risk,
                risk_score = u.risk_score, hold_reason = u.hold_reason, sites = string_to_array(u.sites, ' '), salesperson = u.salesperson, changed_at = u.changed_at, search = u.search,
                document = u.document, times = u.times, open = not exists (select from statuses s where s.id = u.status and s.closed)
            from unnest($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17)
                u(number, seq, status, customer, place, due_at, total, currency, risk, risk_score, hold_reason, sites, salesperson, changed_at, search, document, times)
            where o.number = u.number
            """,
            orders.Select(o => o.Number).ToArray(), orders.Select(o => o.Seq).ToArray(), orders.Select(o => o.Status).ToArray(), orders.Select(o => o.Customer).ToArray(),
            orders.Select(o => o.Place).ToArray(), orders.Select(o => o.DueAt).ToArray(), orders.Select(o => o.Total).ToArray(), orders.Select(o => o.Currency).ToArray(),
            orders.Select(o => o.Risk).ToArray(), orders.Select(o => o.RiskScore).ToArray(), orders.Select(o => o.HoldReason).ToArray(),
            orders.Select(o => string.Join(' ', o.Sites.Select(s => s.Replace(' ', '-')))).ToArray(), orders.Select(o => o.Salesperson).ToArray(),
            orders.Select(o => o.ChangedAt).ToArray(), orders.Select(o => o.Search).ToArray());
        update.Parameters.Add(new NpgsqlParameter { Value = orders.Select(o => o.Document).ToArray(), NpgsqlDbType = NpgsqlDbType.Array | NpgsqlDbType.Jsonb });
        update.Parameters.Add(new NpgsqlParameter { Value = orders.Select(o => o.Times).ToArray(), NpgsqlDbType = NpgsqlDbType.Array | NpgsqlDbType.Jsonb });
    }

    private static NpgsqlBatchCommand Add(NpgsqlBatch batch, string sql, params object[] values)
    {
        var command = new NpgsqlBatchCommand(sql);
        foreach (var value in values)
        {
            command.Parameters.Add(new NpgsqlParameter { Value = value });
        }

        batch.BatchCommands.Add(command);
        return command;
    }

    // PostgreSQL keeps microseconds; what is decided and what is stored must be the same instant.
    private static Instant Micros(Instant at) => Instant.FromUnixTimeTicks(at.ToUnixTimeTicks() / 10 * 10);

    /// <summary>An order under lock, as it grows with the events of this batch.</summary>
    private sealed class Locked(string number, string document, string times, long seq, Instant changedAt)
    {
        public string Number => number;

        public string Document { get; private set; } = document;

        public long Seq { get; private set; } = seq;

        public Instant ChangedAt { get; private set; } = changedAt;

        public bool Touched { get; private set; }

        public OrderState? State { get; private set; } = seq == 0 ? null : OrderState.Read(document, times);

        public void Apply(JsonObject order, Instant time)
        {
            State = State is null ? OrderState.First(order, time) : State.Merge(order, time);
            Document = State.Document.ToJsonString();
            ChangedAt = Instant.Max(ChangedAt, time);
            (Seq, Touched) = (Seq + 1, true);
        }
    }
}
