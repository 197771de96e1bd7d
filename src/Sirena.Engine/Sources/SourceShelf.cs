using System.Collections.Concurrent;
using System.Collections.Frozen;
using System.Threading.RateLimiting;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Sources;
using Sirena.Formats.Sources;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Engine.Sources;

/// <summary>A source as it is in force.</summary>
/// <param name="Source">The source.</param>
/// <param name="Secrets">The secrets that are valid, in plain.</param>
/// <param name="Reading">Its reading, or <see langword="null"/>.</param>
/// <param name="Reader">Reads by it.</param>
public sealed record LiveSource(Source Source, IReadOnlyList<string> Secrets, Reading? Reading, BodyReader? Reader)
{
    /// <summary>The business's zone.</summary>
    public DateTimeZone Zone { get; init; } = DateTimeZone.Utc;

    /// <summary>It has keys of its own; else any source key opens it, where a key is its proof.</summary>
    public bool OwnKeys { get; init; }
}

/// <summary>
/// The sources in force with their secrets and readings, kept for a few seconds and never past a change that this node made or heard of; and each one's limit
/// of calls.
/// </summary>
public sealed class SourceShelf : IAsyncDisposable
{
    private readonly IDbContextFactory<SirenaDb> factory;
    private readonly SurroundingsCache surroundings;
    private readonly SourceSecrets secrets;
    private readonly IClock clock;
    private readonly ConcurrentDictionary<(string Id, int Limit), TokenBucketRateLimiter> limits = [];
    private readonly SetupKept<Known> kept;

    /// <summary>A shelf that forgets when settings change.</summary>
    public SourceShelf(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, SourceSecrets secrets, Signals signals, IClock clock)
    {
        (this.factory, this.surroundings, this.secrets, this.clock) = (factory, surroundings, secrets, clock);
        kept = new SetupKept<Known>(signals, clock, Duration.FromSeconds(2));
    }

    /// <summary>The source of an id, or <see langword="null"/> where there is none.</summary>
    public async ValueTask<LiveSource?> FindAsync(string id, CancellationToken cancel) => (await GetAsync(cancel)).Sources.GetValueOrDefault(id);

    /// <summary>All sources by id.</summary>
    public async ValueTask<IReadOnlyDictionary<string, LiveSource>> AllAsync(CancellationToken cancel) => (await GetAsync(cancel)).Sources;

    /// <summary>The source that a key opens, or <see langword="null"/> when it is not known, no longer works, or its source is off.</summary>
    public async ValueTask<LiveSource?> OfKeyAsync(string? key, CancellationToken cancel)
    {
        if (key is null)
        {
            return null;
        }

        var shelf = await GetAsync(cancel);
        return shelf.Keys.GetValueOrDefault(Convert.ToHexString(Secrets.Hash(key))) is { } found && !(found.RevokedAt <= clock.GetCurrentInstant())
            ? shelf.Sources.GetValueOrDefault(found.Source)
            : null;
    }

    /// <summary>Takes that many calls or events off the source's second.</summary>
    /// <returns><see langword="null"/> when they fit, else how long to wait.</returns>
    public TimeSpan? Over(Source source, int count)
    {
        var most = Math.Max(source.Limit, 1);
        var limit = limits.GetOrAdd((source.Id, most), _ => new TokenBucketRateLimiter(
            new TokenBucketRateLimiterOptions
            {
                TokenLimit = most,
                TokensPerPeriod = most,
                ReplenishmentPeriod = TimeSpan.FromSeconds(1),
                QueueLimit = 0,
                AutoReplenishment = true,
            }
        ));
        using var lease = limit.AttemptAcquire(Math.Min(count, most));
        return lease.IsAcquired ? null
            : lease.TryGetMetadata(MetadataName.RetryAfter, out var wait) && wait > TimeSpan.Zero ? wait
            : TimeSpan.FromSeconds(1);
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        foreach (var limit in limits.Values)
        {
            await limit.DisposeAsync();
        }
    }

    private async ValueTask<Known> GetAsync(CancellationToken cancel)
    {
        if (kept.Fresh is { } fresh)
        {
            return fresh;
        }

        var begun = kept.Begin();
        await using var db = await factory.CreateDbContextAsync(cancel);
        var zone = (await surroundings.GetAsync(cancel)).Business.Zone;
        var keys = await db.SourceKeys.AsNoTracking().ToListAsync(cancel);
        var sources = await db.Sources.AsNoTracking().Where(s => s.RemovedAt == null).ToListAsync(cancel);
        var made = new Known(
            sources.ToFrozenDictionary(
                s => s.Id,
                s => Live(s, zone, begun.At) with { OwnKeys = keys.Any(k => k.Source == s.Id && !(k.RevokedAt <= begun.At)) }
            ),
            keys.ToFrozenDictionary(k => Convert.ToHexString(k.Hash))
        );
        return kept.Keep(made, begun);
    }

    private LiveSource Live(Source source, DateTimeZone zone, Instant now)
    {
        var reading = source.Reading is { } text ? ReadingReader.Read(text, yaml: false, source.Kind).Reading : null;
        string?[] valid = [source.Secret, source.OldSecretUntil > now ? source.OldSecret : null];
        return new LiveSource(source, [.. valid.OfType<string>().Select(secrets.Open)], reading, reading is null ? null : new BodyReader(reading, zone))
        {
            Zone = zone,
        };
    }

    private sealed record Known(FrozenDictionary<string, LiveSource> Sources, FrozenDictionary<string, SourceKey> Keys);
}
