using System.Text.Json.Nodes;
using NodaTime;
using Npgsql;
using Sirena.Core;
using Sirena.Core.Orders;

namespace Sirena.Storage.Orders;

/// <summary>
/// Puts events on disk: merges each into its order under the order's lock, numbers it, stamps it with the rule book's version. One transaction for all
/// that is given, so a request's events are all there or none.
/// </summary>
public sealed partial class EventIntake(NpgsqlDataSource source)
{
    private static readonly Duration Ahead = Duration.FromMinutes(5);

    /// <summary>How many events one transaction takes at most: each order's lock is one of the server's.</summary>
    public const int Together = 2_000;

    /// <summary>Stores the events in their order.</summary>
    /// <param name="arrivals">The events.</param>
    /// <param name="cancel">Breaks it off; nothing is stored then.</param>
    /// <param name="also">What is written in the same transaction, before the commit; it may be called again where the transaction is.</param>
    /// <returns>For each whether it was new; one that is known by source and id does nothing.</returns>
    public async Task<bool[]> StoreAsync(IReadOnlyList<Arrival> arrivals, CancellationToken cancel, Func<NpgsqlConnection, Task>? also = null)
    {
        string?[] numbers = [.. arrivals.Select(a => a.Event.OrderNumber is { } n ? a.Prefix + n : null)];
        for (var tries = 1; ; tries++)
        {
            try
            {
                return await TryStoreAsync(arrivals, numbers, also, cancel);
            }
            catch (PostgresException e)
                when (tries < 5
                    && e.SqlState is PostgresErrorCodes.DeadlockDetected or PostgresErrorCodes.SerializationFailure or PostgresErrorCodes.UniqueViolation
                )
            {
                // Another node was first; what it wrote is seen on the next try.
            }
        }
    }

    private async Task<bool[]> TryStoreAsync(IReadOnlyList<Arrival> arrivals, string?[] numbers, Func<NpgsqlConnection, Task>? also, CancellationToken cancel)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        var taken = await PutAsync(connection, arrivals, numbers, cancel);
        if (also is not null)
        {
            await also(connection);
        }

        if (also is not null || taken.Contains(true))
        {
            await transaction.CommitAsync(cancel);
        }

        return taken;
    }

    private static async Task<bool[]> PutAsync(NpgsqlConnection connection, IReadOnlyList<Arrival> arrivals, string?[] numbers, CancellationToken cancel)
    {
        if (arrivals.Count == 0)
        {
            return [];
        }

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

        if (rows.Count > 0)
        {
            await WriteAsync(connection, rows, orders.Values.Where(o => o.Touched), cancel);
        }

        return taken;
    }

    // Orders are locked by their number, in one order for everybody, so that two batches never wait for each other. The lock is an advisory one: a new order
    // has no row yet,
    // and making one only to lock it would write it twice.
    private static async Task<(Dictionary<string, Locked> Orders, HashSet<(string, string)> Known)> LockAsync(
        NpgsqlConnection connection,
        IReadOnlyList<Arrival> arrivals,
        string?[] numbers,
        CancellationToken cancel
    )
    {
        string[] keys = [.. numbers.OfType<string>().Distinct()];
        await using var batch = new NpgsqlBatch(connection);
        if (keys.Length > 0)
        {
            Add(batch, "select pg_advisory_xact_lock(k) from (select distinct hashtextextended(n, 0) k from unnest($1) n order by k) locks", [keys]);
            Add(batch, "select number, document, times, seq, changed_at, told_by from orders where number = any($1)", [keys]);
        }

        Add(
            batch,
            "select e.source, e.event_id from events e join unnest($1, $2) k(source, id) on e.source = k.source and e.event_id = k.id",
            arrivals.Select(a => a.Event.Source).ToArray(),
            arrivals.Select(a => a.Event.EventId).ToArray()
        );
        await using var reader = await batch.ExecuteReaderAsync(cancel);
        var orders = new Dictionary<string, Locked>(keys.Length);
        foreach (var key in keys)
        {
            orders[key] = new Locked(key, "{}", "{}", 0, Instant.MinValue, []);
        }

        if (keys.Length > 0)
        {
            await reader.NextResultAsync(cancel);
            while (await reader.ReadAsync(cancel))
            {
                orders[reader.GetString(0)] = new Locked(
                    reader.GetString(0),
                    reader.GetString(1),
                    reader.GetString(2),
                    reader.GetInt64(3),
                    reader.GetFieldValue<Instant>(4),
                    reader.GetFieldValue<string[]>(5)
                );
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
        var time = (future ? arrival.Received : happened.Time ?? arrival.Received).Micros();
        var (before, after, seq, late, change) = ((string?)null, (string?)null, 0L, false, (JsonObject?)null);
        if (number is not null)
        {
            var order = orders[number];
            happened.Order!["number"] = number;
            (before, late) = (order.Seq == 0 ? null : order.Document, order.Seq > 0 && time < order.ChangedAt);
            var was = order.State?.Document;
            order.Apply(happened.Order!, time, arrival.By);
            (after, seq) = (order.Document, order.Seq);
            change = happened.Data["change"] is JsonObject ? null : Change.Between(was, order.State!.Document);
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
            Crowd = arrival.Crowd,
            DecidedLate = arrival.Again,
            DecidedAt = arrival.Silent ? arrival.Received : null,
            Data = Change.Complete(happened.Data.ToJsonString(), change),
            OrderBefore = before,
            OrderAfter = after,
            CameBy = arrival.By,
        };
    }

    /// <summary>An order under lock, as it grows with the events of this batch.</summary>
    private sealed class Locked(string number, string document, string times, long seq, Instant changedAt, string[] toldBy)
    {
        public string Number => number;

        public bool Known { get; } = seq > 0;

        public string Document { get; private set; } = document;

        public long Seq { get; private set; } = seq;

        public Instant ChangedAt { get; private set; } = changedAt;

        public bool Touched { get; private set; }

        public string[] ToldBy { get; private set; } = toldBy;

        public OrderState? State { get; private set; } = seq == 0 ? null : OrderState.Read(document, times);

        public void Apply(JsonObject order, Instant time, string? by)
        {
            ToldBy = by is null || ToldBy.Contains(by) ? ToldBy : [.. ToldBy, by];
            State = State is null ? OrderState.First(order, time) : State.Merge(order, time);
            Document = State.Document.ToJsonString();
            ChangedAt = Instant.Max(ChangedAt, time);
            (Seq, Touched) = (Seq + 1, true);
        }
    }
}
