using NodaTime;
using Npgsql;

namespace Sirena.Engine.Dispatch;

/// <summary>What went through a gateway since midnight.</summary>
/// <param name="Hours">Tries by the hour.</param>
/// <param name="LastGood">When it last took a message.</param>
/// <param name="LastProof">When something that went through it was last confirmed by the far end.</param>
public sealed record GatewayUse(int[] Hours, Instant? LastGood, Instant? LastProof)
{
    /// <summary>What went through each gateway since midnight, by its name.</summary>
    public static async Task<IReadOnlyDictionary<string, GatewayUse>> SinceAsync(
        NpgsqlDataSource source,
        Instant midnight,
        DateTimeZone zone,
        CancellationToken cancel
    )
    {
        // Plan: today's deliveries by ix_deliveries_ledger, their attempts by the primary key.
        await using var command = source.CreateCommand(
            """
            select a.gateway, extract(hour from (a.at at time zone $2))::int, count(*)::int, max(a.at) filter (where a.outcome = 'accepted'), max(d.landed_at)
            from deliveries d join attempts a on a.delivery_id = d.id where d.created_at >= $1 group by 1, 2
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = midnight });
        command.Parameters.Add(new NpgsqlParameter { Value = zone.Id });
        var use = new Dictionary<string, GatewayUse>();
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            Instant? Later(Instant? a, int i) =>
                reader.IsDBNull(i) ? a
                : a is { } x && x > reader.GetFieldValue<Instant>(i) ? a
                : reader.GetFieldValue<Instant>(i);
            var one = use.GetValueOrDefault(reader.GetString(0)) ?? new GatewayUse(new int[24], null, null);
            one.Hours[reader.GetInt32(1)] += reader.GetInt32(2);
            use[reader.GetString(0)] = one with { LastGood = Later(one.LastGood, 3), LastProof = Later(one.LastProof, 4) };
        }

        return use;
    }
}
