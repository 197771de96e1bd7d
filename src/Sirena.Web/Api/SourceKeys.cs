using System.Collections.Concurrent;
using System.Threading.RateLimiting;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Engine;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Web.Api;

/// <summary>The keys of order systems, kept for a few seconds, each with its limit of events a minute.</summary>
public sealed class SourceKeys : IAsyncDisposable
{
    private static readonly Duration Age = Duration.FromSeconds(2);
    private readonly IDbContextFactory<SirenaDb> factory;
    private readonly IClock clock;
    private readonly ConcurrentDictionary<(Guid Id, int PerMinute), TokenBucketRateLimiter> limits = [];
    private (Dictionary<string, SourceKey> ByHash, Instant At)? kept;

    /// <summary>Keys that are forgotten when settings change.</summary>
    public SourceKeys(IDbContextFactory<SirenaDb> factory, Signals signals, IClock clock)
    {
        (this.factory, this.clock) = (factory, clock);
        signals.Woken += topic => kept = topic == Topic.Setup ? null : kept;
    }

    /// <summary>The key of a secret, or <see langword="null"/> when it is not known or no longer works.</summary>
    public async ValueTask<SourceKey?> FindAsync(string? secret, CancellationToken cancel)
    {
        if (secret is null)
        {
            return null;
        }

        var now = clock.GetCurrentInstant();
        if (kept is not { } fresh || now - fresh.At > Age)
        {
            await using var db = await factory.CreateDbContextAsync(cancel);
            fresh = ((await db.SourceKeys.AsNoTracking().ToListAsync(cancel)).ToDictionary(k => Convert.ToHexString(k.Hash)), now);
            kept = fresh;
        }

        return fresh.ByHash.TryGetValue(Convert.ToHexString(Secrets.Hash(secret)), out var key) && !(key.RevokedAt <= now) ? key : null;
    }

    /// <summary>Takes that many events off the key's minute.</summary>
    /// <returns><see langword="null"/> when they fit, else how long to wait.</returns>
    public TimeSpan? Over(SourceKey key, int events)
    {
        var limit = limits.GetOrAdd((key.Id, key.PerMinute), k => new TokenBucketRateLimiter(new TokenBucketRateLimiterOptions
        {
            TokenLimit = Math.Max(k.PerMinute, 1),
            TokensPerPeriod = Math.Max(k.PerMinute / 60, 1),
            ReplenishmentPeriod = TimeSpan.FromSeconds(1),
            QueueLimit = 0,
            AutoReplenishment = true,
        }));
        using var lease = limit.AttemptAcquire(Math.Min(events, Math.Max(key.PerMinute, 1)));
        return lease.IsAcquired ? null : lease.TryGetMetadata(MetadataName.RetryAfter, out var wait) && wait > TimeSpan.Zero ? wait : TimeSpan.FromSeconds(1);
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        foreach (var limit in limits.Values)
        {
            await limit.DisposeAsync();
        }
    }
}
