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
public sealed class MissedDays(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, IClock clock)
{
    private const int Sample = 300;

    /// <summary>The day beside a check: of the source that told most of the open orders with its numbers.</summary>
    /// <returns><see langword="null"/> where no such source brings orders.</returns>
    public async Task<MissedDay?> OfAsync(Source check, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        if (await BesideAsync(db, check, cancel) is not { } source)
        {
            return null;
        }

        var business = (await surroundings.GetAsync(cancel)).Business;
        var now = clock.GetCurrentInstant();
        var midnight = business.Zone.AtStartOfDay(now.InZone(business.Zone).Date).ToInstant();
        var counts = new int[MissedDay.Parts];
        var came = db.Events.AsNoTracking().Where(e => e.Received >= midnight && e.OrderNumber!.StartsWith(check.Prefix) && e.Source != check.EventSource);
        foreach (var at in await came.OrderBy(e => e.Id).Select(e => e.Received).Take(200_000).ToListAsync(cancel))
        {
            counts[Math.Clamp((int)((at - midnight).TotalMinutes / 5), 0, MissedDay.Parts - 1)]++;
        }

        var rhythm = await SilenceWatch.RhythmOfAsync(db, source, business, now, cancel);
        return new MissedDay(source, counts, SourceFigures.UsualOf(rhythm, midnight), await SilencesAsync(db, source, rhythm, midnight, now, cancel));
    }

    private static async Task<Source?> BesideAsync(SirenaDb db, Source check, CancellationToken cancel)
    {
        var told = await db
            .Orders.AsNoTracking()
            .Where(o => o.Open && o.Number.StartsWith(check.Prefix))
            .OrderByDescending(o => o.ChangedAt)
            .Take(Sample)
            .Select(o => o.ToldBy)
            .ToListAsync(cancel);
        var toldBy = told.SelectMany(t => t).CountBy(t => t).ToDictionary();
        var sources = await db
            .Sources.AsNoTracking()
            .Where(s => s.RemovedAt == null && (s.Kind == SourceKind.Calls || s.Kind == SourceKind.Events))
            .OrderBy(s => s.CreatedAt)
            .ToListAsync(cancel);
        return sources.Where(s => toldBy.ContainsKey(s.Id) || s.Prefix == check.Prefix).MaxBy(s => toldBy.GetValueOrDefault(s.Id));
    }

    private static async Task<IReadOnlyList<SilentSpan>> SilencesAsync(
        SirenaDb db,
        Source source,
        Rhythm rhythm,
        Instant midnight,
        Instant now,
        CancellationToken cancel
    )
    {
        var backs = await db
            .Events.AsNoTracking()
            .Where(e => e.Type == "source.back" && e.Subject == source.Id && e.Received >= midnight)
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
                    .Where(e => e.Source == source.EventSource && e.Received > since && e.Received <= back.Received)
                    .OrderBy(e => e.Id)
                    .Select(e => (Instant?)e.Received)
                    .FirstOrDefaultAsync(cancel);
                spans.Add((since, first ?? back.Received, false));
            }
        }

        if (source.SilentSince is { } silent && source.LastAt <= silent)
        {
            spans.Add((silent, now, true));
        }

        return [.. spans.Select(s => new SilentSpan(s.From, s.To, s.Lasts, rhythm.IsKnown ? rhythm.Expected(s.From, s.To) : 0))];
    }
}
