using Microsoft.EntityFrameworkCore;
using Sirena.Core.Orders;

namespace Sirena.Storage.Orders;

/// <summary>The events that wait to be decided.</summary>
public static class UndecidedEvents
{
    /// <summary>
    /// Claims events within the caller's transaction, which holds them until it ends: a node that dies lets go of them at once. Never one that has a lower undecided
    /// one of its order before it. Plan: the partial index ix_events_undecided in order of id; for each the index (order_number, seq).
    /// </summary>
    public static Task<List<OrderEvent>> ClaimAsync(this SirenaDb db, int atMost, CancellationToken cancel) => db.Events.FromSql(
        $"""
        select e.* from events e
        where e.decided_at is null
          and not exists (select from events p where p.order_number = e.order_number and p.seq < e.seq and p.decided_at is null)
        order by e.id limit {atMost} for update of e skip locked
        """).ToListAsync(cancel);
}
