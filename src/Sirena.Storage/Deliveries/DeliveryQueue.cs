using NodaTime;
using Npgsql;
using NpgsqlTypes;
using Sirena.Core;
using Sirena.Core.Deliveries;

namespace Sirena.Storage.Deliveries;

/// <summary>A delivery that this node holds under a lease, with its message.</summary>
public sealed record Claimed(Guid Id, Guid Lease, string To, string? OrderNumber, int Attempt, Instant Deadline, string Subject, string Text, string? Html, bool MayArriveTwice, Channel Channel, bool Chained = false);

/// <summary>The deliveries that are due, as a queue: claims under a lease, outcomes only while the lease holds.</summary>
public sealed class DeliveryQueue(NpgsqlDataSource source)
{
    /// <summary>How long a lease lasts; it is renewed while the node works.</summary>
    public static readonly Duration LeaseTime = Duration.FromSeconds(10);

    /// <summary>
    /// Claims due deliveries and notes the begin of an attempt for each, in one statement. Plan: ix_deliveries_due, rows that another node holds are skipped.
    /// A delivery whose lease ran out was begun by a node that died: it is claimed again and marked.
    /// </summary>
    public async Task<IReadOnlyList<Claimed>> ClaimAsync(Channel channel, string gateway, int atMost, Instant now, CancellationToken cancel)
    {
        await using var command = source.CreateCommand(
            """
            with due as (
                select id from deliveries
                where channel = $1 and state in ('waiting', 'sending') and due_at <= $2 and (state = 'waiting' or lease_until < $2)
                order by due_at limit $3 for update skip locked),
            claimed as (
                update deliveries d set state = 'sending', lease = gen_random_uuid(), lease_until = $2 + $4, tries = tries + 1
                from due where d.id = due.id
                returning d.id, d.lease, d."to", d.order_number, d.tries, d.deadline, d.chain),
            begun as (
                insert into attempts (delivery_id, number, at, gateway, outcome)
                select id, tries, $2, $5, 'unknown' from claimed)
            select c.id, c.lease, c."to", c.order_number, c.tries, c.deadline, m.subject, m.text, m.html,
                exists (select from attempts a where a.delivery_id = c.id and a.outcome = 'unknown'), c.chain is not null
            from claimed c join messages m on m.delivery_id = c.id
            """);
        command.Parameters.Add(new NpgsqlParameter { Value = channel.Name() });
        command.Parameters.Add(new NpgsqlParameter { Value = now });
        command.Parameters.Add(new NpgsqlParameter { Value = atMost });
        command.Parameters.Add(new NpgsqlParameter { Value = LeaseTime });
        command.Parameters.Add(new NpgsqlParameter { Value = gateway });
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var claimed = new List<Claimed>();
        while (await reader.ReadAsync(cancel))
        {
            claimed.Add(new Claimed(
                reader.GetGuid(0), reader.GetGuid(1), reader.GetString(2), reader.IsDBNull(3) ? null : reader.GetString(3), reader.GetInt32(4), reader.GetFieldValue<Instant>(5),
                reader.GetString(6), reader.GetString(7), reader.IsDBNull(8) ? null : reader.GetString(8), reader.GetBoolean(9), channel, reader.GetBoolean(10)));
        }

        return claimed;
    }

    /// <summary>Renews leases that still hold.</summary>
    public async Task RenewAsync(IReadOnlyCollection<(Guid Id, Guid Lease)> held, Instant now, CancellationToken cancel)
    {
        await using var command = source.CreateCommand(
            "update deliveries d set lease_until = $3 + $4 from unnest($1, $2) u(id, lease) where d.id = u.id and d.lease = u.lease and d.state = 'sending'");
        command.Parameters.Add(new NpgsqlParameter { Value = held.Select(h => h.Id).ToArray() });
        command.Parameters.Add(new NpgsqlParameter { Value = held.Select(h => h.Lease).ToArray() });
        command.Parameters.Add(new NpgsqlParameter { Value = now });
        command.Parameters.Add(new NpgsqlParameter { Value = LeaseTime });
        await command.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>
    /// Writes how an attempt ended, and where the delivery stands for it, while the lease still matches. A late outcome is kept as evidence and changes nothing.
    /// </summary>
    /// <returns>Whether the lease still held.</returns>
    public async Task<bool> FinishAsync(Claimed claimed, HandOver result, Verdict verdict, Instant now, CancellationToken cancel)
    {
        await using var command = source.CreateCommand(
            $"""
            with mine as (
                update deliveries set state = $3, reason = $4, evidence = $5, due_at = $6, handed_over_at = case when $3 in ('handed-over', 'landed') then $7 else handed_over_at end,
                    landed_at = case when $3 = 'landed' then $7 else landed_at end, far_id = coalesce($12, far_id), lease = null, lease_until = null
                where id = $1 and lease = $2 and state = 'sending' returning id, chain, channel),
            ended as ({DeliveryChain.Skip("mine")} and $3 = 'landed'),
            onward as ({DeliveryChain.Onward("mine", "$7")} and $3 in ('failed', 'expired')),
            noted as (
                update attempts set ended_at = $7, outcome = $8, code = $9, reply = $10 where delivery_id = $1 and number = $11 and exists (select from mine)),
            kept as (
                insert into receipts (delivery_id, at, kind, text)
                select $1, $7, 'late-outcome', 'try ' || $11 || ': ' || coalesce($10, '') where not exists (select from mine))
            select count(*) from mine
            """);
        object?[] values =
        [
            claimed.Id, claimed.Lease, verdict.State.Name(), verdict.Reason, result.Reply, verdict.DueAt, now, result.Outcome.Name(), result.Code, result.Reply, claimed.Attempt, result.FarId,
        ];
        NpgsqlDbType[] types =
        [
            NpgsqlDbType.Uuid, NpgsqlDbType.Uuid, NpgsqlDbType.Text, NpgsqlDbType.Text, NpgsqlDbType.Text, NpgsqlDbType.TimestampTz,
            NpgsqlDbType.TimestampTz, NpgsqlDbType.Text, NpgsqlDbType.Text, NpgsqlDbType.Text, NpgsqlDbType.Integer, NpgsqlDbType.Text,
        ];
        for (var i = 0; i < values.Length; i++)
        {
            command.Parameters.Add(new NpgsqlParameter { Value = values[i] ?? DBNull.Value, NpgsqlDbType = types[i] });
        }

        return (long)(await command.ExecuteScalarAsync(cancel))! == 1;
    }
}
