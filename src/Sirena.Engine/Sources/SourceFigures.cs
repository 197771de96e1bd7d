using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Sources;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Engine.Sources;

/// <summary>A source and its day.</summary>
/// <param name="Source">The source.</param>
/// <param name="Rhythm">What is usual.</param>
/// <param name="Today">Events by the hour of the business's day.</param>
/// <param name="Usual">The usual ones; empty where the rhythm is not known.</param>
/// <param name="RefusedBy">Refused calls by the hour.</param>
/// <param name="Last">The event that it brought last, or <see langword="null"/>.</param>
public sealed record SourceDay(Source Source, Rhythm Rhythm, int[] Today, double[] Usual, int[] RefusedBy, OrderEvent? Last)
{
    /// <summary>Events of today, and bodies that were understood.</summary>
    public int Understood { get; init; }

    /// <summary>Bodies that are kept because they cannot be read, whenever they came.</summary>
    public int NotUnderstood { get; init; }

    /// <summary>Calls of today that proved nothing.</summary>
    public int Refused => RefusedBy.Sum();

    /// <summary>It needs somebody.</summary>
    public bool IsTrouble => IsSilent || NotUnderstood > 0;

    /// <summary>It is silent, and something is expected of it.</summary>
    public bool IsSilent { get; init; }
}

/// <summary>What the page Sources shows.</summary>
public sealed class SourceFigures(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, IClock clock)
{
    /// <summary>All sources with their day, those that need somebody first.</summary>
    public async Task<IReadOnlyList<SourceDay>> AllAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var around = await surroundings.GetAsync(cancel);
        var (now, zone) = (clock.GetCurrentInstant(), around.Business.Zone);
        var midnight = zone.AtStartOfDay(now.InZone(zone).Date).ToInstant();
        var kept = (
            await db
                .Arrivals.AsNoTracking()
                .Where(a => a.State == ArrivalState.NotUnderstood)
                .GroupBy(a => a.Source)
                .Select(g => new { g.Key, Count = g.Count() })
                .ToListAsync(cancel)
        ).ToDictionary(g => g.Key, g => g.Count);
        var refused = (
            await db
                .Arrivals.AsNoTracking()
                .Where(a => a.State == ArrivalState.Refused && a.At >= midnight)
                .Select(a => new { a.Source, a.At })
                .ToListAsync(cancel)
        ).ToLookup(a => a.Source, a => a.At);
        var days = new List<SourceDay>();
        foreach (var source in await db.Sources.AsNoTracking().Where(s => s.RemovedAt == null).OrderBy(s => s.CreatedAt).ToListAsync(cancel))
        {
            var rhythm = await SilenceWatch.RhythmOfAsync(db, source, around.Business, now, cancel);
            var hours = await db.SourceHours.AsNoTracking().Where(h => h.Source == source.Id && h.Hour >= midnight).ToListAsync(cancel);
            var today = new int[24];
            foreach (var hour in hours)
            {
                today[hour.Hour.InZone(zone).Hour] += hour.Events;
            }

            var bad = new int[24];
            foreach (var at in refused[source.Id])
            {
                bad[at.InZone(zone).Hour]++;
            }

            days.Add(
                new SourceDay(source, rhythm, today, UsualOf(rhythm, midnight), bad, await LastAsync(db, source, cancel))
                {
                    Understood = today.Sum(),
                    NotUnderstood = kept.GetValueOrDefault(source.Id),
                    IsSilent = source.IsSilent(now),
                }
            );
        }

        return [.. days.OrderByDescending(d => d.IsTrouble).ThenByDescending(d => d.Rhythm.EventsAWeek)];
    }

    /// <summary>The usual events of a day by its hours; empty where the rhythm is not known.</summary>
    /// <param name="rhythm">The rhythm.</param>
    /// <param name="midnight">The day's begin.</param>
    public static double[] UsualOf(Rhythm rhythm, Instant midnight) =>
        rhythm.IsKnown ? [.. Enumerable.Range(0, 24).Select(h => rhythm.Usual(midnight + Duration.FromHours(h)))] : [];

    /// <summary>A source's keys, those that work first.</summary>
    public async Task<IReadOnlyList<SourceKey>> KeysAsync(string source, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return await db
            .SourceKeys.AsNoTracking()
            .Where(k => k.Source == source)
            .OrderBy(k => k.RevokedAt != null)
            .ThenByDescending(k => k.CreatedAt)
            .Take(10)
            .ToListAsync(cancel);
    }

    /// <summary>What arrived last, without the bodies.</summary>
    public async Task<(IReadOnlyList<ArrivedBody> Arrivals, IReadOnlyDictionary<ArrivalState, int> Counts)> ArrivalsAsync(
        string source,
        ArrivalState? state,
        int most,
        CancellationToken cancel
    )
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var all = db.Arrivals.AsNoTracking().Where(a => a.Source == source);
        var counts = await all.GroupBy(a => a.State).Select(g => new { g.Key, Count = g.Count() }).ToDictionaryAsync(g => g.Key, g => g.Count, cancel);
        var found = await (state is { } one ? all.Where(a => a.State == one) : all)
            .OrderByDescending(a => a.Id)
            .Take(most)
            .Select(a => new ArrivedBody
            {
                Id = a.Id,
                Source = a.Source,
                At = a.At,
                Size = a.Size,
                State = a.State,
                Problem = a.Problem,
                Events = a.Events,
                ReadingVersion = a.ReadingVersion,
                Again = a.Again,
                Address = a.Address,
            })
            .ToListAsync(cancel);
        return (found, counts);
    }

    /// <summary>The events that bodies made, by their id.</summary>
    public async Task<IReadOnlyDictionary<string, OrderEvent>> EventsAsync(Source source, IEnumerable<ArrivedBody> arrivals, CancellationToken cancel)
    {
        string[] ids = [.. arrivals.SelectMany(a => a.Events.Take(1))];
        await using var db = await factory.CreateDbContextAsync(cancel);
        return await db.Events.AsNoTracking().Where(e => e.Source == source.EventSource && ids.Contains(e.EventId)).ToDictionaryAsync(e => e.EventId, cancel);
    }

    /// <summary>A kept body with its content, or <see langword="null"/>.</summary>
    public async Task<ArrivedBody?> BodyAsync(string source, long id, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return await db.Arrivals.AsNoTracking().FirstOrDefaultAsync(a => a.Source == source && a.Id == id && a.Content != null, cancel);
    }

    /// <summary>The last runs of a list, without their files.</summary>
    public async Task<IReadOnlyList<ListingRun>> RunsAsync(string source, int most, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return await db
            .ListingRuns.AsNoTracking()
            .Where(r => r.Source == source)
            .OrderByDescending(r => r.At)
            .Take(most)
            .Select(r => new ListingRun
            {
                Id = r.Id,
                Source = r.Source,
                At = r.At,
                By = r.By,
                State = r.State,
                Rows = r.Rows,
                New = r.New,
                Changed = r.Changed,
                Gone = r.Gone,
                Bad = r.Bad,
                Baseline = r.Baseline,
                Reason = r.Reason,
                EndedAt = r.EndedAt,
            })
            .ToListAsync(cancel);
    }

    /// <summary>Some orders as they are known, by their numbers.</summary>
    public async Task<IReadOnlyDictionary<string, Order>> OrdersAsync(IReadOnlyList<string> numbers, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return numbers.Count == 0
            ? new Dictionary<string, Order>()
            : await db.Orders.AsNoTracking().Where(o => numbers.Contains(o.Number)).ToDictionaryAsync(o => o.Number, cancel);
    }

    /// <summary>The lists that are compared with what is known, and when each last was.</summary>
    public async Task<IReadOnlyList<(Source Source, Instant? At)>> ChecksAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var checks = (
            await db.Sources.AsNoTracking().Where(s => s.RemovedAt == null && s.Kind == SourceKind.Listing).OrderBy(s => s.Id).ToListAsync(cancel)
        ).Where(s => s.Listing?.Role == ListingRole.Check);
        var runs = await db
            .ListingRuns.AsNoTracking()
            .Where(r => r.State == RunState.Taken)
            .GroupBy(r => r.Source)
            .Select(g => new { g.Key, At = g.Max(r => r.At) })
            .ToDictionaryAsync(g => g.Key, g => g.At, cancel);
        return [.. checks.Select(s => (s, runs.TryGetValue(s.Id, out var at) ? at : (Instant?)null))];
    }

    private static async Task<OrderEvent?> LastAsync(SirenaDb db, Source source, CancellationToken cancel)
    {
        if (source.Kind == SourceKind.Events)
        {
            return null;
        }

        var ids = await db
            .Arrivals.AsNoTracking()
            .Where(a => a.Source == source.Id && a.State == ArrivalState.Understood)
            .OrderByDescending(a => a.Id)
            .Select(a => a.Events)
            .FirstOrDefaultAsync(cancel);
        return ids is { Length: > 0 } && ids[0] is var first
            ? await db.Events.AsNoTracking().FirstOrDefaultAsync(e => e.Source == source.EventSource && e.EventId == first, cancel)
            : null;
    }
}
