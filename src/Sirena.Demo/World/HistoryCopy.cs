using Npgsql;
using NpgsqlTypes;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Rules;
using Sirena.Storage.Ladders;

namespace Sirena.Demo.World;

/// <summary>Puts a made history into the database.</summary>
public static class HistoryCopy
{
    private const NpgsqlDbType Text = NpgsqlDbType.Text,
        At = NpgsqlDbType.TimestampTz,
        Id = NpgsqlDbType.Uuid,
        Json = NpgsqlDbType.Jsonb,
        Big = NpgsqlDbType.Bigint,
        Int = NpgsqlDbType.Integer,
        Yes = NpgsqlDbType.Boolean;

    /// <summary>Copies all of it, in one transaction.</summary>
    public static async Task WriteAsync(NpgsqlDataSource source, History history, IReadOnlyCollection<string> closed)
    {
        await using var connection = await source.OpenConnectionAsync();
        await using var transaction = await connection.BeginTransactionAsync();
        await OrdersAsync(connection, history, closed);
        var raised = history.Raised;
        await connection.CopyAsync(
            "matches",
            raised.Matches,
            C<Match>("event_id", Big, m => m.EventId),
            C<Match>("rule_id", Text, m => m.RuleId),
            C<Match>("version", Int, m => m.Version),
            C<Match>("case", Text, m => m.Case),
            C<Match>("outcome", Text, m => m.Outcome.Name()),
            C<Match>("alert_id", Id, m => m.AlertId),
            C<Match>("at", At, m => m.At)
        );
        await connection.CopyAsync(
            "alerts",
            raised.Alerts,
            C<Alert>("id", Id, a => a.Id),
            C<Alert>("event_id", Big, a => a.EventId),
            C<Alert>("order_number", Text, a => a.OrderNumber),
            C<Alert>("subject", Text, a => a.Subject),
            C<Alert>("rule_id", Text, a => a.RuleId),
            C<Alert>("version", Int, a => a.Version),
            C<Alert>("case", Text, a => a.Case),
            C<Alert>("urgency", Text, a => a.Urgency.Name()),
            C<Alert>("state", Text, a => a.State.Name()),
            C<Alert>("raised_at", At, a => a.RaisedAt),
            C<Alert>("began_at", At, a => a.BeganAt),
            C<Alert>("stood", NpgsqlDbType.Interval, a => a.Stood),
            C<Alert>("stopped_at", At, a => a.StoppedAt),
            C<Alert>("held_until", At, a => a.HeldUntil),
            C<Alert>("waits_until", At, a => a.WaitsUntil),
            C<Alert>("ended_at", At, a => a.EndedAt),
            C<Alert>("taken_by", Text, a => a.TakenBy),
            C<Alert>("taken_at", At, a => a.TakenAt),
            C<Alert>("unreached", NpgsqlDbType.Integer, a => a.Unreached),
            C<Alert>("reaches_somebody", Yes, a => a.ReachesSomebody)
        );
        await connection.CopyAsync(
            "alert_steps",
            raised.Steps,
            C<AlertStep>("alert_id", Id, s => s.AlertId),
            C<AlertStep>("index", Int, s => s.Index),
            C<AlertStep>("rung", Int, s => s.Rung),
            C<AlertStep>("due_at", At, s => s.DueAt),
            C<AlertStep>("fired_at", At, s => s.FiredAt),
            C<AlertStep>("cause", Text, s => s.Cause.Name()),
            C<AlertStep>("told", Json, s => Resolved.Write(s.Told)),
            C<AlertStep>("left", Json, s => Resolved.Write(s.Left))
        );
        await connection.CopyAsync(
            "answers",
            history.Answers,
            C<Answer>("alert_id", Id, a => a.AlertId),
            C<Answer>("person", Text, a => a.Person),
            C<Answer>("kind", Text, a => a.Kind.Name()),
            C<Answer>("at", At, a => a.At),
            C<Answer>("via", Text, a => a.Via)
        );
        await DeliveriesAsync(connection, history);
        await using (
            var sequence = new NpgsqlCommand("select setval(pg_get_serial_sequence('events', 'id'), greatest((select max(id) from events), 1))", connection)
        )
        {
            await sequence.ExecuteNonQueryAsync();
        }

        await transaction.CommitAsync();
    }

    private static async Task OrdersAsync(NpgsqlConnection connection, History history, IReadOnlyCollection<string> closed)
    {
        await connection.CopyAsync(
            "orders",
            history.Orders,
            C<Order>("number", Text, o => o.Number),
            C<Order>("document", NpgsqlDbType.Json, o => o.Document),
            C<Order>("times", NpgsqlDbType.Json, o => o.Times),
            C<Order>("seq", Big, o => o.Seq),
            C<Order>("status", Text, o => o.Status),
            C<Order>("open", Yes, o => !closed.Contains(o.Status ?? "")),
            C<Order>("customer", Text, o => o.Customer),
            C<Order>("due_at", At, o => o.DueAt),
            C<Order>("total", NpgsqlDbType.Numeric, o => o.Total),
            C<Order>("currency", Text, o => o.Currency),
            C<Order>("risk", NpgsqlDbType.Smallint, o => (short)o.Risk),
            C<Order>("risk_score", NpgsqlDbType.Numeric, o => o.RiskScore),
            C<Order>("hold_reason", Text, o => o.HoldReason),
            C<Order>("sites", NpgsqlDbType.Array | Text, o => o.Sites),
            C<Order>("salesperson", Text, o => o.Salesperson),
            C<Order>("told_by", NpgsqlDbType.Array | Text, o => o.ToldBy),
            C<Order>("changed_at", At, o => o.ChangedAt),
            C<Order>("search", Text, o => o.Search)
        );
        await connection.CopyAsync(
            "events",
            history.Events,
            C<OrderEvent>("id", Big, e => e.Id),
            C<OrderEvent>("event_id", Text, e => e.EventId),
            C<OrderEvent>("source", Text, e => e.Source),
            C<OrderEvent>("type", Text, e => e.Type),
            C<OrderEvent>("subject", Text, e => e.Subject),
            C<OrderEvent>("order_number", Text, e => e.OrderNumber),
            C<OrderEvent>("seq", Big, e => e.Seq),
            C<OrderEvent>("time", At, e => e.Time),
            C<OrderEvent>("received", At, e => e.Received),
            C<OrderEvent>("late", Yes, e => e.Late),
            C<OrderEvent>("from_the_future", Yes, e => e.FromTheFuture),
            C<OrderEvent>("data", NpgsqlDbType.Json, e => e.Data),
            C<OrderEvent>("order_before", NpgsqlDbType.Json, e => e.OrderBefore),
            C<OrderEvent>("order_after", NpgsqlDbType.Json, e => e.OrderAfter),
            C<OrderEvent>("book", Big, e => e.Book),
            C<OrderEvent>("decided_at", At, e => e.DecidedAt),
            C<OrderEvent>("tries", Int, e => e.Tries)
        );
    }

    private static async Task DeliveriesAsync(NpgsqlConnection connection, History history)
    {
        await connection.CopyAsync(
            "deliveries",
            history.Raised.Deliveries,
            C<Delivery>("id", Id, d => d.Id),
            C<Delivery>("alert_id", Id, d => d.AlertId),
            C<Delivery>("order_number", Text, d => d.OrderNumber),
            C<Delivery>("rule_id", Text, d => d.RuleId),
            C<Delivery>("step", Int, d => d.Step),
            C<Delivery>("person", Text, d => d.Person),
            C<Delivery>("channel", Text, d => d.Channel.Name()),
            C<Delivery>("to", Text, d => d.To),
            C<Delivery>("state", Text, d => d.State.Name()),
            C<Delivery>("reason", Text, d => d.Reason),
            C<Delivery>("evidence", Text, d => d.Evidence),
            C<Delivery>("created_at", At, d => d.CreatedAt),
            C<Delivery>("due_at", At, d => d.DueAt),
            C<Delivery>("deadline", At, d => d.Deadline),
            C<Delivery>("handed_over_at", At, d => d.HandedOverAt),
            C<Delivery>("landed_at", At, d => d.LandedAt),
            C<Delivery>("answered", Yes, d => d.Answered),
            C<Delivery>("far_id", Text, d => d.FarId),
            C<Delivery>("chain", Id, d => d.Chain),
            C<Delivery>("tries", Int, d => d.Tries),
            C<Delivery>("carried_by", Id, d => d.CarriedBy)
        );
        await connection.CopyAsync(
            "messages",
            history.Raised.Messages,
            C<Message>("delivery_id", Id, m => m.DeliveryId),
            C<Message>("subject", Text, m => m.Subject),
            C<Message>("text", Text, m => m.Text),
            C<Message>("html", Text, m => m.Html)
        );
        await connection.CopyAsync(
            "attempts",
            history.Attempts,
            C<Attempt>("delivery_id", Id, a => a.DeliveryId),
            C<Attempt>("number", Int, a => a.Number),
            C<Attempt>("at", At, a => a.At),
            C<Attempt>("ended_at", At, a => a.EndedAt),
            C<Attempt>("gateway", Text, a => a.Gateway),
            C<Attempt>("outcome", Text, a => a.Outcome.Name()),
            C<Attempt>("code", Text, a => a.Code),
            C<Attempt>("reply", Text, a => a.Reply)
        );
        await connection.CopyAsync(
            "receipts",
            history.Receipts,
            C<Receipt>("delivery_id", Id, r => r.DeliveryId),
            C<Receipt>("at", At, r => r.At),
            C<Receipt>("kind", Text, r => r.Kind),
            C<Receipt>("text", Text, r => r.Text)
        );
    }

    private static Column<T> C<T>(string name, NpgsqlDbType type, Func<T, object?> value) => new(name, type, value);
}
