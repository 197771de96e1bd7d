using NodaTime;
using Npgsql;
using Sirena.Storage.Deliveries;

namespace Sirena.Storage.Instructions;

/// <summary>The instructions that are due, as a queue: of one order one after the other, claimed under a lease.</summary>
public sealed class InstructionQueue(QueueSource queue)
{
    /// <summary>
    /// Claims due instructions of some sources and notes the begin of an attempt for each, in one statement. Plan: ix_instructions_due, for each a look at
    /// ix_instructions_under_way. What waits for somebody's yes holds up nobody.
    /// </summary>
    /// <param name="sources">The sources that are called.</param>
    /// <param name="atMost">How many.</param>
    /// <param name="now">Now.</param>
    /// <returns>Their ids, with the lease and the number of the try. One of which an earlier try broke off is marked: it may arrive twice.</returns>
    public async Task<IReadOnlyList<(Guid Id, Guid Lease, int Attempt)>> ClaimAsync(string[] sources, int atMost, Instant now, CancellationToken cancel)
    {
        await using var command = queue.Source.CreateCommand(
            """
            with due as (
                select i.id from instructions i
                where i.state = 'asked' and i.waits is null and i.due_at <= $1 and (i.deadline > $1 or i.tries = 0) and (i.lease is null or i.lease_until < $1)
                    and i.source = any($2)
                    and not exists (select from instructions p where p.lane = i.lane and p.seq < i.seq and p.state in ('asked', 'taken') and p.waits is null)
                order by i.due_at limit $3 for update skip locked),
            claimed as (
                update instructions i set lease = gen_random_uuid(), lease_until = $1 + $4, tries = tries + 1, handed = true,
                    may_be_twice = may_be_twice or exists (select from instruction_attempts a where a.instruction_id = i.id and a.outcome = 'unknown') from due
                        where i.id = due.id returning i.id, i.lease, i.tries),
            begun as (
                insert into instruction_attempts (instruction_id, number, at, outcome) select id, tries, $1, 'unknown' from claimed)
            select id, lease, tries from claimed
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = now });
        command.Parameters.Add(new NpgsqlParameter { Value = sources });
        command.Parameters.Add(new NpgsqlParameter { Value = atMost });
        command.Parameters.Add(new NpgsqlParameter { Value = DeliveryQueue.LeaseTime });
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var claimed = new List<(Guid, Guid, int)>();
        while (await reader.ReadAsync(cancel))
        {
            claimed.Add((reader.GetGuid(0), reader.GetGuid(1), reader.GetInt32(2)));
        }

        return claimed;
    }

    /// <summary>Renews leases that still hold.</summary>
    public async Task RenewAsync(IReadOnlyCollection<(Guid Id, Guid Lease)> held, Instant now, CancellationToken cancel)
    {
        await using var command = queue.Source.CreateCommand(
            """
            with mine as (
                select i.id from instructions i join unnest($1, $2) u(id, lease) on i.id = u.id and i.lease = u.lease for update of i skip locked)
            update instructions i set lease_until = $3 + $4 from mine where i.id = mine.id
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = held.Select(h => h.Id).ToArray() });
        command.Parameters.Add(new NpgsqlParameter { Value = held.Select(h => h.Lease).ToArray() });
        command.Parameters.Add(new NpgsqlParameter { Value = now });
        command.Parameters.Add(new NpgsqlParameter { Value = DeliveryQueue.LeaseTime });
        await command.ExecuteNonQueryAsync(cancel);
    }
}
