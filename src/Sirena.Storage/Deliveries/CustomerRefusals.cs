using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;

namespace Sirena.Storage.Deliveries;

/// <summary>Customers who said that they want no more by a channel.</summary>
public static class CustomerRefusals
{
    /// <summary>Notes one; said twice it counts from the first time.</summary>
    public static Task RefuseAsync(this SirenaDb db, Channel channel, string address, Instant now, CancellationToken cancel) =>
        db.Database.ExecuteSqlAsync(
            $"insert into customer_refusals (channel, address, since) values ({channel.Name()}, {address.ToLowerInvariant()}, {now}) on conflict do nothing",
            cancel
        );
}
