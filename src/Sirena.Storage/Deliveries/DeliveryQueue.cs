using NodaTime;
using Npgsql;
using NpgsqlTypes;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.People;

namespace Sirena.Storage.Deliveries;

/// <summary>A delivery that this node holds under a lease, with its message.</summary>
public sealed record Claimed(
    Guid Id,
    Guid Lease,
    string To,
    string? OrderNumber,
    int Attempt,
    Instant Deadline,
    string Subject,
    string Text,
    string? Html,
    bool MayArriveTwice,
    Channel Channel,
    bool Chained = false,
    Audience Audience = Audience.Staff,
    bool Packs = false
)
{
    /// <summary>Its alert is urgent.</summary>
    public bool Urgent { get; init; }

    /// <summary>The gateways that refused to send it.</summary>
    public IReadOnlyList<string> PassedOver { get; init; } = [];

    /// <summary>It goes without its documents.</summary>
    public bool Bare { get; init; }
}

/// <summary>How an attempt ended.</summary>
/// <param name="Claimed">The delivery.</param>
/// <param name="Result">What the far end said.</param>
/// <param name="Verdict">Where the delivery stands for it.</param>
/// <param name="At">When it ended.</param>
public sealed record Ended(Claimed Claimed, HandOver Result, Verdict Verdict, Instant At)
{
    /// <summary>The name of the gateway that tried it.</summary>
    public required string Gateway { get; init; }

    /// <summary>Its id.</summary>
    public string? GatewayId { get; init; }

    /// <summary>The gateway that is not to be asked again with it.</summary>
    public string? PassOver { get; init; }

    /// <summary>It goes on without its documents.</summary>
    public bool Bare { get; init; }
}

/// <summary>The deliveries that are due, as a queue: claims under a lease, outcomes only while the lease holds.</summary>
public sealed class DeliveryQueue(QueueSource queue)
{
    private readonly NpgsqlDataSource source = queue.Source;

    /// <summary>How long a lease lasts; it is renewed while the node works.</summary>
    public static readonly Duration LeaseTime = Duration.FromSeconds(10);

    /// <summary>
    /// Claims due deliveries, urgent ones first and by a count of their own, and notes the begin of an attempt for each, in one statement. Plan:
    /// ix_deliveries_due twice, rows that another node
    /// holds are skipped. A claim writes no column that an index holds, so that the row stays in its page (heap-only update). A delivery whose lease ran out
    /// was begun by a node that died: it
    /// is claimed again and marked.
    /// </summary>
    /// <param name="channel">The channel.</param>
    /// <param name="gateway">The gateway's name, for the attempt.</param>
    /// <param name="gatewayId">Its id.</param>
    /// <param name="atMost">How many that are not urgent.</param>
    /// <param name="urgent">How many urgent ones.</param>
    /// <param name="one">One in all: a failing gateway is tried.</param>
    /// <param name="now">Now.</param>
    public async Task<IReadOnlyList<Claimed>> ClaimAsync(
        Channel channel,
        string gateway,
        string? gatewayId,
        int atMost,
        int urgent,
        bool one,
        Instant now,
        CancellationToken cancel
    )
    {
        await using var command = source.CreateCommand(
            """
            with hot as (
                select id from deliveries
                where channel = $1 and urgent and state = 'waiting' and due_at <= $2 and (lease is null or lease_until < $2)
                order by due_at limit $7 for update skip locked),
            cool as (
                select id from deliveries
                where channel = $1 and not urgent and state = 'waiting' and due_at <= $2 and (lease is null or lease_until < $2)
                order by due_at limit case when $8 and exists (select from hot) then 0 else $3 end for update skip locked),
            due as (select id from hot union all select id from cool),
            claimed as (
                update deliveries d set lease = gen_random_uuid(), lease_until = $2 + $4, tries = tries + 1
                from due where d.id = due.id
                returning d.id, d.lease, d."to", d.order_number, d.tries, d.deadline, d.chain, d.audience, d.urgent, d.passed_over, d.bare),
            begun as (
                insert into attempts (delivery_id, number, at, gateway, gateway_id, outcome)
                select id, tries, $2, $5, $6, 'unknown' from claimed)
            select c.id, c.lease, c."to", c.order_number, c.tries, c.deadline, m.subject, m.text, m.html,
                exists (select from attempts a where a.delivery_id = c.id and a.outcome = 'unknown'), c.chain is not null, c.audience, m.files > 0
                    or m.attach is not null, c.urgent, c.passed_over, c.bare
            from claimed c join messages m on m.delivery_id = c.id order by c.urgent desc
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = channel.Name() });
        command.Parameters.Add(new NpgsqlParameter { Value = now });
        command.Parameters.Add(new NpgsqlParameter { Value = atMost });
        command.Parameters.Add(new NpgsqlParameter { Value = LeaseTime });
        command.Parameters.Add(new NpgsqlParameter { Value = gateway });
        command.Parameters.Add(new NpgsqlParameter { Value = (object?)gatewayId ?? DBNull.Value, NpgsqlDbType = NpgsqlDbType.Text });
        command.Parameters.Add(new NpgsqlParameter { Value = urgent });
        command.Parameters.Add(new NpgsqlParameter { Value = one });
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var claimed = new List<Claimed>();
        while (await reader.ReadAsync(cancel))
        {
            claimed.Add(
                new Claimed(
                    reader.GetGuid(0),
                    reader.GetGuid(1),
                    reader.GetString(2),
                    reader.IsDBNull(3) ? null : reader.GetString(3),
                    reader.GetInt32(4),
                    reader.GetFieldValue<Instant>(5),
                    reader.GetString(6),
                    reader.GetString(7),
                    reader.IsDBNull(8) ? null : reader.GetString(8),
                    reader.GetBoolean(9),
                    channel,
                    reader.GetBoolean(10),
                    Names.Parse<Audience>(reader.GetString(11)) ?? Audience.Staff,
                    reader.GetBoolean(12)
                )
                {
                    Urgent = reader.GetBoolean(13),
                    PassedOver = reader.GetFieldValue<string[]>(14),
                    Bare = reader.GetBoolean(15),
                }
            );
        }

        return claimed;
    }

    /// <summary>Makes what waits for another try due now: its gateway has changed its ways.</summary>
    public async Task HurryAsync(Channel channel, Instant now, CancellationToken cancel)
    {
        await using var command = source.CreateCommand(
            "update deliveries set due_at = $2 where channel = $1 and state = 'waiting' and tries > 0 and due_at > $2 and due_at < deadline and lease "
                + "is null and paused_by is null"
        );
        command.Parameters.Add(new NpgsqlParameter { Value = channel.Name() });
        command.Parameters.Add(new NpgsqlParameter { Value = now });
        await command.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>
    /// Takes back what a gateway refused that turned out to refuse everybody: the messages that have failed go again by others, and the addresses of all are
    /// not broken.
    /// </summary>
    public async Task ReviveAsync(IReadOnlyCollection<Guid> deliveries, string gateway, string reason, Instant now, CancellationToken cancel)
    {
        await using var command = source.CreateCommand(
            """
            with back as (
                update deliveries set state = 'waiting', reason = $3, due_at = $4, lease = null, lease_until = null, passed_over = array_append(passed_over, $2)
                where id = any($1) and state = 'failed' and deadline > $4)
            update contact_points c set broken_at = null, broken_because = null from deliveries d
            where d.id = any($1) and d.person = c.person_id and d.channel = c.channel and lower(d."to") = lower(c.address) and c.broken_at >= d.created_at
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = deliveries.ToArray() });
        command.Parameters.Add(new NpgsqlParameter { Value = gateway });
        command.Parameters.Add(new NpgsqlParameter { Value = reason });
        command.Parameters.Add(new NpgsqlParameter { Value = now });
        await command.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>Renews leases that still hold. A row that is locked is being written by its own outcome: waiting for it could end in a deadlock.</summary>
    public async Task RenewAsync(IReadOnlyCollection<(Guid Id, Guid Lease)> held, Instant now, CancellationToken cancel)
    {
        await using var command = source.CreateCommand(
            """
            with mine as (
                select d.id from deliveries d join unnest($1, $2) u(id, lease) on d.id = u.id and d.lease = u.lease where d.state = 'waiting'
                    for update of d skip locked)
            update deliveries d set lease_until = $3 + $4 from mine where d.id = mine.id
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = held.Select(h => h.Id).ToArray() });
        command.Parameters.Add(new NpgsqlParameter { Value = held.Select(h => h.Lease).ToArray() });
        command.Parameters.Add(new NpgsqlParameter { Value = now });
        command.Parameters.Add(new NpgsqlParameter { Value = LeaseTime });
        await command.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>Gives back deliveries that were claimed and not begun: they are due at once, as if they had not been claimed.</summary>
    /// <param name="claimed">The deliveries.</param>
    /// <param name="due">When they are due, or <see langword="null"/> for as before.</param>
    public async Task GiveBackAsync(IReadOnlyCollection<Claimed> claimed, Instant? due, CancellationToken cancel)
    {
        await using var command = source.CreateCommand(
            """
            with back as (
                update deliveries d set tries = tries - 1, lease = null, lease_until = null, due_at = coalesce($3, due_at)
                from unnest($1, $2) u(id, lease) where d.id = u.id and d.lease = u.lease and d.state = 'waiting' returning d.id, d.tries)
            delete from attempts a using back where a.delivery_id = back.id and a.number = back.tries + 1
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = claimed.Select(c => c.Id).ToArray() });
        command.Parameters.Add(new NpgsqlParameter { Value = claimed.Select(c => c.Lease).ToArray() });
        command.Parameters.Add(new NpgsqlParameter { Value = (object?)due ?? DBNull.Value, NpgsqlDbType = NpgsqlDbType.TimestampTz });
        await command.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>
    /// Writes how attempts ended, and where their deliveries stand for it, in one statement: each while its lease still matches. A late outcome is kept as
    /// evidence and changes nothing.
    /// </summary>
    /// <returns>The deliveries whose lease still held.</returns>
    public async Task<IReadOnlySet<Guid>> FinishAsync(IReadOnlyList<Ended> ended, CancellationToken cancel)
    {
        await using var command = source.CreateCommand(
            $"""
            with given as (
                select * from unnest($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16) g(id, lease, state, reason, due, at, outcome, code,
                    reply, number, far, gateway, gateway_id, pass_over, bare, twice)),
            mine as (
                update deliveries d set state = g.state, reason = g.reason, evidence = g.reply, due_at = g.due,
                    handed_over_at = case when g.state in ('handed-over', 'landed') then g.at else handed_over_at end,
                    landed_at = case when g.state = 'landed' then g.at else landed_at end, far_id = coalesce(g.far, far_id), lease = null, lease_until = null,
                    passed_over = case when g.pass_over is null then passed_over else array_append(passed_over, g.pass_over) end, bare = d.bare or g.bare,
                    twice_attempt = coalesce(twice_attempt, case when g.twice then (select max(a.number) from attempts a
                        where a.delivery_id = d.id and a.outcome = 'unknown' and a.number < g.number) end)
                from given g where d.id = g.id and d.lease = g.lease and d.state = 'waiting' returning d.id, d.chain, d.channel, g.state, g.at),
            landed as (select * from mine where state = 'landed' and chain is not null),
            lost as (select * from mine where state in ('failed', 'expired') and chain is not null),
            ended as ({DeliveryChain.Skip("landed")}),
            onward as ({DeliveryChain.Onward("lost", "lost.at")}),
            noted as (
                update attempts a set ended_at = g.at, outcome = g.outcome, code = g.code, reply = g.reply, gateway = g.gateway, gateway_id = g.gateway_id
                    from given g join mine on mine.id = g.id where a.delivery_id = g.id and a.number = g.number),
            kept as (
                insert into receipts (delivery_id, at, kind, text)
                select g.id, g.at, 'late-outcome', 'try ' || g.number || ': ' || coalesce(g.reply, '') from given g
                    where not exists (select from mine where mine.id = g.id))
            select id from mine
            """
        );
        void Add<T>(NpgsqlDbType type, Func<Ended, T> value) =>
            command.Parameters.Add(new NpgsqlParameter { Value = ended.Select(value).ToArray(), NpgsqlDbType = NpgsqlDbType.Array | type });
        Add(NpgsqlDbType.Uuid, e => e.Claimed.Id);
        Add(NpgsqlDbType.Uuid, e => e.Claimed.Lease);
        Add(NpgsqlDbType.Text, e => e.Verdict.State.Name());
        Add(NpgsqlDbType.Text, e => e.Verdict.Reason);
        Add(NpgsqlDbType.TimestampTz, e => e.Verdict.DueAt);
        Add(NpgsqlDbType.TimestampTz, e => e.At);
        Add(NpgsqlDbType.Text, e => e.Result.Outcome.Name());
        Add(NpgsqlDbType.Text, e => e.Result.Code);
        Add(NpgsqlDbType.Text, e => e.Result.Reply);
        Add(NpgsqlDbType.Integer, e => e.Claimed.Attempt);
        Add(NpgsqlDbType.Text, e => e.Result.FarId);
        Add(NpgsqlDbType.Text, e => e.Gateway);
        Add(NpgsqlDbType.Text, e => e.GatewayId);
        Add(NpgsqlDbType.Text, e => e.PassOver);
        Add(NpgsqlDbType.Boolean, e => e.Bare);
        Add(NpgsqlDbType.Boolean, e => e.Claimed.MayArriveTwice && e.Result.Outcome is AttemptOutcome.Accepted or AttemptOutcome.Unknown);
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var mine = new HashSet<Guid>();
        while (await reader.ReadAsync(cancel))
        {
            mine.Add(reader.GetGuid(0));
        }

        return mine;
    }
}
