using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using NodaTime.Text;
using Sirena.Core;
using Sirena.Core.Sources;
using Sirena.Engine.Intake;
using Sirena.Storage;

namespace Sirena.Engine.Sources;

/// <summary>
/// Hears when a source says nothing for longer than is usual at that hour of the week, and when it speaks again: <c>source.silent</c> and <c>source.back</c>,
/// each once. Several nodes may look; the events have ids of
/// their own silence.
/// </summary>
public sealed class SilenceWatch(
    IDbContextFactory<SirenaDb> factory,
    SurroundingsCache surroundings,
    IntakeDesk intake,
    Signals signals,
    IClock clock,
    ILogger<SilenceWatch> log
) : Worker(log)
{
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(10);
    private readonly Dictionary<string, (Instant Hour, Rhythm Rhythm)> rhythms = [];

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping) => TurnsAsync(Pause, () => LookAsync(stopping), stopping);

    /// <summary>Looks at each source once.</summary>
    public async Task LookAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var now = clock.GetCurrentInstant();
        foreach (
            var source in await db
                .Sources.AsNoTracking()
                .Where(s => s.RemovedAt == null && s.On && s.LastAt != null && (s.Kind == SourceKind.Events || s.Kind == SourceKind.Calls))
                .ToListAsync(cancel)
        )
        {
            if (source.SilentSince is { } since && source.LastAt > since)
            {
                await SayAsync(source, "source.back", since, null, now, cancel);
                await db
                    .Sources.Where(s => s.Id == source.Id && s.SilentSince == since)
                    .ExecuteUpdateAsync(u => u.SetProperty(s => s.SilentSince, (Instant?)null), cancel);
                signals.Raise(Topic.Pages);
            }
            else if (source.SilentSince is null && source.Silence.Watch)
            {
                var last = source.LastAt!.Value;
                var rhythm = await RhythmAsync(db, source, now, cancel);
                if (IsSilent(source, rhythm, now))
                {
                    await SayAsync(source, "source.silent", last, rhythm, now, cancel);
                    await db
                        .Sources.Where(s => s.Id == source.Id && s.LastAt == last && s.SilentSince == null)
                        .ExecuteUpdateAsync(u => u.SetProperty(s => s.SilentSince, last), cancel);
                    signals.Raise(Topic.Pages);
                }
            }
        }
    }

    /// <summary>
    /// Whether a source is silent beyond what is usual, since something was expected of it; before its rhythm is known, for longer than the minutes that are
    /// set.
    /// </summary>
    public static bool IsSilent(Source source, Rhythm rhythm, Instant now) =>
        source.LastAt is { } last
        && source.Silence.ExpectedFrom(last) is var from
        && from <= now
        && (
            rhythm.IsKnown
                ? rhythm.Surprise(from, now) >= rhythm.Threshold((double)source.Silence.Threshold)
                : source.Silence.Minutes is { } minutes && now - from >= Duration.FromMinutes(minutes)
        );

    /// <summary>A source's rhythm as of an instant.</summary>
    public static async Task<Rhythm> RhythmOfAsync(SirenaDb db, Source source, Business business, Instant now, CancellationToken cancel)
    {
        var from = now - Duration.FromDays(7 * Rhythm.Weeks);
        var hours = await db.SourceHours.AsNoTracking().Where(h => h.Source == source.Id && h.Hour >= from).OrderBy(h => h.Hour).ToListAsync(cancel);
        var begin = hours.Count > 0 ? Instant.Min(hours[0].Hour, source.CreatedAt) : source.CreatedAt;
        return Rhythm.Of(hours.Select(h => new HourCount(h.Hour, h.Events)), begin, now, business.Zone, [.. business.Holidays.Select(h => h.Date)]);
    }

    // It changes by the hour.
    private async Task<Rhythm> RhythmAsync(SirenaDb db, Source source, Instant now, CancellationToken cancel)
    {
        var hour = now.Hour();
        if (!rhythms.TryGetValue(source.Id, out var known) || known.Hour != hour)
        {
            rhythms[source.Id] = known = (hour, await RhythmOfAsync(db, source, (await surroundings.GetAsync(cancel)).Business, now, cancel));
        }

        return known.Rhythm;
    }

    private Task SayAsync(Source source, string type, Instant since, Rhythm? rhythm, Instant now, CancellationToken cancel) =>
        intake.TakeAsync(
            [
                OwnEvents.OfSource(
                    $"{type}-{source.Id}-{since.ToUnixTimeMilliseconds()}",
                    type,
                    source,
                    now,
                    ("since", InstantPattern.ExtendedIso.Format(since)),
                    ("minutes", (int)(now - since).TotalMinutes),
                    ("expected", rhythm is { IsKnown: true } ? Math.Round(rhythm.Expected(since, now), 1) : null)
                ),
            ],
            cancel
        );
}
