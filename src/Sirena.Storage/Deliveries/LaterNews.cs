using NodaTime;
using Npgsql;
using NpgsqlTypes;
using Sirena.Core.Deliveries;

namespace Sirena.Storage.Deliveries;

/// <summary>What becomes known of a delivery after it was handed over: it landed, it failed after all, somebody answered. Each is kept as a receipt.</summary>
public sealed class LaterNews(QueueSource queue)
{
    // The call that brings the news: a repeat of it finds itself here and changes nothing.
    private const string Seen = """
        with seen as (
            insert into seen_calls (gateway, call_id, at) select $6, $7, $2 where $6 is not null on conflict do nothing returning 1),

        """;

    private readonly NpgsqlDataSource source = queue.Source;

    /// <summary>It landed: the others of its chain that wait are not needed, and its address is known to work.</summary>
    /// <param name="delivery">The delivery.</param>
    /// <param name="kind">The receipt's kind.</param>
    /// <param name="words">The far end's words.</param>
    /// <param name="answered">The reader answered by it.</param>
    /// <param name="now">When it became known.</param>
    /// <param name="call">The call that says so, remembered in the same statement; it does nothing the second time.</param>
    public Task LandedAsync(Guid delivery, string kind, string words, bool answered, Instant now, CancellationToken cancel, SeenCall? call = null) =>
        RunAsync(
            Seen
                + """
                landed as (
                    update deliveries set state = 'landed', landed_at = coalesce(landed_at, $2), answered = answered
                        or $5, reason = null, lease = null, lease_until = null
                    where id = $1 and ($6 is null or exists (select from seen)) and (state <> 'landed' or ($5 and not answered))
                        returning id, person, channel, "to", chain),
                noted as (insert into receipts (delivery_id, at, kind, text) select id, $2, $3, $4 from landed),
                verified as (
                    update contact_points c set verified = true, broken_at = null, broken_because = null from landed l
                    where c.person_id = l.person and c.channel = l.channel and lower(c.address) = lower(l."to") and not c.verified)
                """
                + DeliveryChain.Skip("landed"),
            delivery,
            kind,
            words,
            answered,
            now,
            call,
            cancel
        );

    /// <summary>
    /// It failed after it was handed over: the next of its chain goes at once, and its address is marked (<see cref="People.ContactPoints"/>). One that landed
    /// stays landed; the news is kept. All of it in one
    /// transaction with the call's id: a call that comes again finds either nothing of it, or everything.
    /// </summary>
    public async Task FailedAsync(Guid delivery, string kind, string words, Instant now, CancellationToken cancel, SeenCall? call = null)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        if (call is not null)
        {
            await using var seen = new NpgsqlCommand("select exists (select from seen_calls where gateway = $1 and call_id = $2)", connection)
            {
                Parameters =
                {
                    new() { Value = call.Gateway },
                    new() { Value = call.CallId },
                },
            };
            if (await seen.ExecuteScalarAsync(cancel) is true)
            {
                return;
            }
        }

        await RunAsync(connection, Failed, delivery, kind, words, false, now, call, cancel);
        await People.ContactPoints.BrokeAsync(connection, delivery, FarText.Clean(words), now, cancel);
        await transaction.CommitAsync(cancel);
    }

    private static readonly string Failed =
        Seen
        + """
            failed as (
                update deliveries set state = 'failed', reason = $4, lease = null, lease_until = null
                    where id = $1 and not $5 and ($6 is null or exists (select from seen)) and state in ('waiting', 'handed-over') returning id, chain),
            noted as (insert into receipts (delivery_id, at, kind, text) select $1, $2, $3, $4 where $6 is null or exists (select from seen))
            """
        + DeliveryChain.Onward("failed", "$2");

    private async Task RunAsync(string sql, Guid delivery, string kind, string words, bool flag, Instant now, SeenCall? call, CancellationToken cancel)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        await RunAsync(connection, sql, delivery, kind, words, flag, now, call, cancel);
    }

    private static async Task RunAsync(
        NpgsqlConnection connection,
        string sql,
        Guid delivery,
        string kind,
        string words,
        bool flag,
        Instant now,
        SeenCall? call,
        CancellationToken cancel
    )
    {
        await using var command = new NpgsqlCommand(sql, connection);
        command.Parameters.Add(new NpgsqlParameter { Value = delivery });
        command.Parameters.Add(new NpgsqlParameter { Value = now });
        command.Parameters.Add(new NpgsqlParameter { Value = kind, NpgsqlDbType = NpgsqlDbType.Text });
        command.Parameters.Add(new NpgsqlParameter { Value = FarText.Clean(words), NpgsqlDbType = NpgsqlDbType.Text });
        command.Parameters.Add(new NpgsqlParameter { Value = flag });
        command.Parameters.Add(new NpgsqlParameter { Value = (object?)call?.Gateway ?? DBNull.Value, NpgsqlDbType = NpgsqlDbType.Text });
        command.Parameters.Add(new NpgsqlParameter { Value = (object?)call?.CallId ?? DBNull.Value, NpgsqlDbType = NpgsqlDbType.Text });
        await command.ExecuteNonQueryAsync(cancel);
    }
}
