using NodaTime;
using Npgsql;

namespace Sirena.Engine.Orders;

/// <summary>How many orders each filter holds, exact up to 10,000.</summary>
public sealed record OrderCounts(IReadOnlyDictionary<string, int> ByStatus, IReadOnlyDictionary<string, int> ByDue, int Open, int Held, int Medium, int High)
{
    /// <summary>Where counting stops.</summary>
    public const int Most = 10_000;

    /// <summary>A count in words: <c>148</c>, <c>10,000+</c>.</summary>
    public static string Words(int count) => count > Most ? "10,000+" : count.ToString("#,##0", System.Globalization.CultureInfo.InvariantCulture);

    /// <summary>
    /// Counts. Each part is an index-only scan that stops at 10,000: ix_orders_open_due by status and by due time, two small partial indexes for the rest.
    /// </summary>
    /// <param name="source">The database.</param>
    /// <param name="dues">The spans of due time that are counted, each from its begin to before its end.</param>
    /// <param name="cancel">Breaks it off.</param>
    public static async Task<OrderCounts> ReadAsync(
        NpgsqlDataSource source,
        IReadOnlyList<(string Name, Instant From, Instant To)> dues,
        CancellationToken cancel
    )
    {
        await using var command = source.CreateCommand(
            """
            select 's', status, count(*) from (select status from orders where open limit 10001) x where status is not null group by status
            union all select 'd', d.name, (select count(*) from (select from orders o where o.open and o.due_at >= d.since and o.due_at < d.until
                limit 10001) x) from unnest($1, $2, $3) d(name, since, until)
            union all select 'o', '', (select count(*) from (select from orders where open limit 10001) x)
            union all select 'h', '', (select count(*) from (select from orders where open and hold_reason is not null limit 10001) x)
            union all select 'r', risk::text, count(*) from (select risk from orders where open and risk >= 2 limit 10001) x group by risk
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = dues.Select(d => d.Name).ToArray() });
        command.Parameters.Add(new NpgsqlParameter { Value = dues.Select(d => d.From).ToArray() });
        command.Parameters.Add(new NpgsqlParameter { Value = dues.Select(d => d.To).ToArray() });
        var found = new Dictionary<(string, string), int>();
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            found[(reader.GetString(0), reader.GetString(1))] = (int)reader.GetInt64(2);
        }

        int One(string kind, string name) => found.GetValueOrDefault((kind, name));
        return new OrderCounts(
            found.Where(f => f.Key.Item1 == "s").ToDictionary(f => f.Key.Item2, f => f.Value),
            dues.ToDictionary(d => d.Name, d => One("d", d.Name)),
            One("o", ""),
            One("h", ""),
            One("r", "2"),
            One("r", "3")
        );
    }
}
