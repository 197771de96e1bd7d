using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Orders;

namespace Sirena.Storage.Orders;

/// <summary>The events that wait to be decided.</summary>
public static class UndecidedEvents
{
    // What has waited for longer is a backlog and takes its turn with the crowd.
    private static readonly Duration OfLate = Duration.FromMinutes(1);

    private const string First = "select e.* from events e where e.decided_at is null";
    private const string Lone = " and not e.crowd and e.received >= {1}";
    private const string Next = """

          and not exists (select from events p where p.order_number = e.order_number and p.seq < e.seq and p.decided_at is null)
          and not exists (select from events p where e.order_number is null and p.order_number is null and p.subject = e.subject and p.id < e.id
              and p.decided_at is null)
        order by e.id limit {0} for update of e skip locked
        """;

    /// <summary>
    /// Claims events within the caller's transaction, which holds them until it ends: a node that dies lets go of them at once. Never one that has a lower
    /// undecided one of its order, or of its subject
    /// where it has no order, before it. Plan: the partial index ix_events_undecided (or ix_events_lone) in order of id; for each the index (order_number,
    /// seq), or ix_events_undecided_subject.
    /// </summary>
    /// <param name="atMost">How many.</param>
    /// <param name="crowd">Those that came as a crowd and what has waited for long; else those that came alone of late; <see langword="null"/> for all.</param>
    /// <param name="now">Now.</param>
    public static Task<List<OrderEvent>> ClaimAsync(this SirenaDb db, int atMost, bool? crowd, Instant now, CancellationToken cancel) =>
        (crowd == false ? db.Events.FromSqlRaw(First + Lone + Next, atMost, now - OfLate) : db.Events.FromSqlRaw(First + Next, atMost)).ToListAsync(cancel);

    /// <summary>Claims one event that waits.</summary>
    public static Task<List<OrderEvent>> ClaimOneAsync(this SirenaDb db, long id, CancellationToken cancel) =>
        db.Events.FromSql($"select e.* from events e where e.id = {id} and e.decided_at is null for update of e skip locked").ToListAsync(cancel);

    /// <summary>Claims one event that was set aside.</summary>
    public static Task<List<OrderEvent>> ClaimAsideAsync(this SirenaDb db, long id, CancellationToken cancel) =>
        db.Events.FromSql($"select e.* from events e where e.id = {id} and e.set_aside_at is not null for update of e").ToListAsync(cancel);
}
