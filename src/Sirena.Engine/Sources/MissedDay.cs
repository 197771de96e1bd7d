using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Sources;
using Sirena.Storage;

namespace Sirena.Engine.Sources;

/// <summary>A time in which a source said nothing, beyond what is usual.</summary>
/// <param name="From">The event before it.</param>
/// <param name="To">The event after it, or now.</param>
/// <param name="Lasts">It lasts still.</param>
/// <param name="Expected">The events that usually come in that time.</param>
public sealed record SilentSpan(Instant From, Instant To, bool Lasts, double Expected);

/// <summary>The day of the source beside a check: what came, what is usual, when it was silent.</summary>
/// <param name="Source">The source whose events the check is held against.</param>
/// <param name="Counts">Events of orders with its numbers, today, by five minutes, 288 of them.</param>
/// <param name="Usual">The usual events by the hour; empty where the rhythm is not known.</param>
/// <param name="Silences">Its silences of today, in their order.</param>
public sealed record MissedDay(Source Source, int[] Counts, double[] Usual, IReadOnlyList<SilentSpan> Silences)
{
    /// <summary>The parts of a day in which events are counted.</summary>
    public const int Parts = 288;

    /// <summary>The silence in which an instant lies, or <see langword="null"/>.</summary>
    public SilentSpan? SilenceAt(Instant at) => Silences.FirstOrDefault(s => at >= s.From && at <= s.To);
}

/// <summary>Reads the day of the source that a check stands beside.</summary>
public sealed class MissedDays(IDbContextFactory<SirenaDb> factory, SourceFigures figures, SurroundingsCache surroundings, IClock clock)
{
    private const int Sample = 300;

    /// <summary>The day beside a check: of the source that told most of the open orders with its numbers.</summary>
    /// <returns><see langword="null"/> where no such source brings orders.</returns>
    public async Task<MissedDay?> OfAsync(Source check, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var toldBy = (
            await db
                .Orders.AsNoTracking()
                .Where(o => o.Open && o.Number.StartsWith(check.Prefix))
                .OrderByDescending(o => o.ChangedAt)
                .Take(Sample)
                .Select(o => o.ToldBy)
                .ToListAsync(cancel)
        )
            .SelectMany(t => t)
            .CountBy(t => t)
            .ToDictionary();
        var able = (await figures.AllAsync(cancel)).Where(d =>
            d.Source.Kind is SourceKind.Calls or SourceKind.Events && (toldBy.ContainsKey(d.Source.Id) || d.Source.Prefix == check.Prefix)
        );
        if (able.OrderByDescending(d => toldBy.GetValueOrDefault(d.Source.Id)).ThenByDescending(d => d.Understood).FirstOrDefault() is not { } beside)
        {
            return null;
        }

        var zone = (await surroundings.GetAsync(cancel)).Business.Zone;
        var now = clock.GetCurrentInstant();
        var midnight = zone.AtStartOfDay(now.InZone(zone).Date).ToInstant();
        var source = beside.Source;
        var came = db.Events.AsNoTracking().Where(e => e.Received >= midnight);
        came = came.Where(e => e.OrderNumber!.StartsWith(check.Prefix) && e.Source != check.EventSource);
        var counts = new int[MissedDay.Parts];
        foreach (var at in await came.OrderBy(e => e.Id).Select(e => e.Received).Take(200_000).ToListAsync(cancel))
        {
            counts[Math.Clamp((int)((at - midnight).TotalMinutes / 5), 0, MissedDay.Parts - 1)]++;
        }

        return new MissedDay(source, counts, beside.Usual, await SilencesAsync(db, beside, midnight, now, cancel));
    }

    private static async Task<IReadOnlyList<SilentSpan>> SilencesAsync(SirenaDb db, SourceDay beside, Instant midnight, Instant now, CancellationToken cancel)
    {
        var id = beside.Source.Id;
        var backs = await db
            .Events.AsNoTracking()
            .Where(e => e.Type == "source.back" && e.Subject == id && e.Received >= midnight)
            .OrderBy(e => e.Id)
            .Select(e => new { e.Received, e.Data })
            .ToListAsync(cancel);
        var spans = new List<(Instant From, Instant To, bool Lasts)>();
        foreach (var back in backs)
        {
            if (Core.Orders.Fields.Facts.Time(JsonNode.Parse(back.Data)?["source"]?["since"]?.ToString()) is { } since)
            {
                // The event that ended it came before the watch heard of it.
                var first = await db
                    .Events.AsNoTracking()
                    .Where(e => e.Source == beside.Source.EventSource && e.Received > since && e.Received <= back.Received)
                    .OrderBy(e => e.Id)
                    .Select(e => (Instant?)e.Received)
                    .FirstOrDefaultAsync(cancel);
                spans.Add((since, first ?? back.Received, false));
            }
        }

        if (beside.Source.SilentSince is { } silent && silent < now && beside.Source.LastAt <= silent)
        {
            spans.Add((silent, now, true));
        }

        return [.. spans.Select(s => new SilentSpan(s.From, s.To, s.Lasts, beside.Rhythm.IsKnown ? beside.Rhythm.Expected(s.From, s.To) : 0))];
    }
}
