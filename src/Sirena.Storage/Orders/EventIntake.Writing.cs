using Npgsql;
using NpgsqlTypes;
using Sirena.Core.Orders;

namespace Sirena.Storage.Orders;

public sealed partial class EventIntake
{
    private static async Task WriteAsync(NpgsqlConnection connection, List<OrderEvent> rows, IEnumerable<Locked> touched, CancellationToken cancel)
    {
        await using var batch = new NpgsqlBatch(connection);

        // Plan: one function scan over the arrays, one insert; the book's version comes from its single row in the same statement. No 'on conflict': its
        // speculative insert costs a second
        // descent of each unique index, and what another node stored meanwhile shows as a unique violation, after which all is tried again.
        var insert = Add(
            batch,
            """
            insert into events (event_id, source, type, subject, order_number, seq, time, received, late, from_the_future, crowd, decided_late, decided_at,
                came_by, data, order_before, order_after, tries, book)
            select u.*, 0, (select version from rule_book) from unnest($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17) u
            """,
            rows.Select(r => r.EventId).ToArray(),
            rows.Select(r => r.Source).ToArray(),
            rows.Select(r => r.Type).ToArray(),
            rows.Select(r => r.Subject).ToArray(),
            rows.Select(r => r.OrderNumber).ToArray(),
            rows.Select(r => r.Seq).ToArray(),
            rows.Select(r => r.Time).ToArray(),
            rows.Select(r => r.Received).ToArray(),
            rows.Select(r => r.Late).ToArray(),
            rows.Select(r => r.FromTheFuture).ToArray(),
            rows.Select(r => r.Crowd).ToArray(),
            rows.Select(r => r.DecidedLate).ToArray(),
            rows.Select(r => r.DecidedAt).ToArray(),
            rows.Select(r => r.CameBy).ToArray()
        );
        foreach (
            var documents in new[] { rows.Select(r => r.Data).ToArray(), rows.Select(r => r.OrderBefore).ToArray(), rows.Select(r => r.OrderAfter).ToArray() }
        )
        {
            insert.Parameters.Add(new NpgsqlParameter { Value = documents, NpgsqlDbType = NpgsqlDbType.Array | NpgsqlDbType.Json });
        }

        var all = touched.ToLookup(t => t.Known, t => OrderColumns.From(t.Number, t.State!, t.Document, t.Seq, t.ChangedAt, t.ToldBy));
        Put(
            batch,
            [.. all[false]],
            $"insert into orders ({string.Join(", ", Columns.Select(c => c.Name))}, open) select {string.Join(", ", Columns.Select(c => c.Value))}, "
                + $"{Open} from {Rows}"
        );
        Put(
            batch,
            [.. all[true]],
            $"update orders o set {string.Join(", ", Columns.Skip(1).Select(c => $"{c.Name} = {c.Value}"))}, open = {Open} from {Rows} where o.number "
                + "= u.number"
        );
        await batch.ExecuteNonQueryAsync(cancel);
    }

    private static readonly (string Name, string Value)[] Columns =
    [
        .. new[]
        {
            "number",
            "seq",
            "status",
            "customer",
            "due_at",
            "total",
            "currency",
            "risk",
            "risk_score",
            "hold_reason",
            "sites",
            "salesperson",
            "changed_at",
            "search",
            "told_by",
            "document",
            "times",
        }.Select(c => (c, c is "sites" or "told_by" ? $"string_to_array(u.{c}, ' ')" : "u." + c)),
    ];

    private const string Open = "not exists (select from statuses s where s.id = u.status and s.kind <> 'open')";

    private static readonly string Rows =
        $"unnest({string.Join(", ", Columns.Select((_, i) => $"${i + 1}"))}) u({string.Join(", ", Columns.Select(c => c.Name))})";

    // New orders are inserted and known ones updated, each plainly: the lock on their numbers makes sure that nobody else does it meanwhile.
    private static void Put(NpgsqlBatch batch, Order[] orders, string sql)
    {
        if (orders.Length == 0)
        {
            return;
        }

        var command = Add(
            batch,
            sql,
            orders.Select(o => o.Number).ToArray(),
            orders.Select(o => o.Seq).ToArray(),
            orders.Select(o => o.Status).ToArray(),
            orders.Select(o => o.Customer).ToArray(),
            orders.Select(o => o.DueAt).ToArray(),
            orders.Select(o => o.Total).ToArray(),
            orders.Select(o => o.Currency).ToArray(),
            orders.Select(o => (short)o.Risk).ToArray(),
            orders.Select(o => o.RiskScore).ToArray(),
            orders.Select(o => o.HoldReason).ToArray(),
            orders.Select(o => string.Join(' ', o.Sites.Select(s => s.Replace(' ', '-')))).ToArray(),
            orders.Select(o => o.Salesperson).ToArray(),
            orders.Select(o => o.ChangedAt).ToArray(),
            orders.Select(o => o.Search).ToArray(),
            orders.Select(o => string.Join(' ', o.ToldBy)).ToArray()
        );
        foreach (var documents in new[] { orders.Select(o => o.Document).ToArray(), orders.Select(o => o.Times).ToArray() })
        {
            command.Parameters.Add(new NpgsqlParameter { Value = documents, NpgsqlDbType = NpgsqlDbType.Array | NpgsqlDbType.Json });
        }
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
}
