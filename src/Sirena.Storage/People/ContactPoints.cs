using NodaTime;
using Npgsql;
using Sirena.Core;
using Sirena.Core.Deliveries;

namespace Sirena.Storage.People;

/// <summary>What deliveries teach about contact points.</summary>
public sealed class ContactPoints(NpgsqlDataSource source)
{
    /// <summary>
    /// A permanent error: the address is marked broken with the far end's words, unless something landed there within the hour, and the message goes on to the
    /// person's next address of the
    /// channel, where there is one. One statement, so that neither is done without the other.
    /// </summary>
    /// <returns>Whether an address was marked.</returns>
    public async Task<bool> BrokeAsync(Guid delivery, string words, Instant now, CancellationToken cancel)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        return await BrokeAsync(connection, delivery, words, now, cancel);
    }

    /// <summary>The same on a connection, within its transaction.</summary>
    internal static async Task<bool> BrokeAsync(NpgsqlConnection connection, Guid delivery, string words, Instant now, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand(
            """
            with failed as (
                select * from deliveries where id = $1 and person is not null),
            broken as (
                update contact_points c set broken_at = $2, broken_because = $3, verified = false
                from failed f where c.person_id = f.person and c.channel = f.channel and lower(c.address) = lower(f."to") and c.broken_at is null
                  and not exists (select from deliveries l where l."to" = f."to" and l.landed_at > $2 - interval '1 hour')
                returning c.id),
            next as (
                select f.*, n.address from failed f
                join lateral (
                    select address from contact_points c
                    where c.person_id = f.person and c.channel = f.channel and c.broken_at is null and lower(c.address) <> lower(f."to")
                        and (c.verified or not c.pending)
                      and not exists (select from deliveries o where o.alert_id = f.alert_id and o.person = f.person and o.channel = f.channel
                          and lower(o."to") = lower(c.address))
                    order by c.verified desc, c.position, c.id limit 1) n on true),
            made as (
                insert into deliveries (id, alert_id, order_number, rule_id, step, person, channel, "to", state, reason, created_at, due_at, deadline, answered,
                    tries, urgent)
                select gen_random_uuid(), alert_id, order_number, rule_id, step, person, channel, address, 'waiting',
                    'the next address, because ' || "to" || ' failed', $2, $2, deadline, false, 0, urgent from next
                returning id),
            copied as (
                insert into messages (delivery_id, subject, text, html) select made.id, m.subject, m.text, m.html from made, messages m
                    where m.delivery_id = $1)
            select (select count(*) from broken), (select count(*) from made)
            """,
            connection
        );
        object[] values = [delivery, now, words];
        Array.ForEach(values, v => command.Parameters.Add(new NpgsqlParameter { Value = v }));
        await using var reader = await command.ExecuteReaderAsync(cancel);
        await reader.ReadAsync(cancel);
        return reader.GetInt64(1) > 0;
    }
}
