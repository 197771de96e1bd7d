using System.Net;
using System.Net.Http.Headers;
using Cronos;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Channels.Http;
using Sirena.Core.Deliveries;
using Sirena.Core.Sources;
using Sirena.Engine.Intake;
using Sirena.Formats.Sources;
using Sirena.Storage;

namespace Sirena.Engine.Sources;

/// <summary>
/// Fetches lists over HTTPS when they are due. <c>ETag</c> and <c>Last-Modified</c> are heeded, no redirect is followed, and the whole exchange has a limit.
/// The third failure in a row raises <c>source.failing</c>, the next
/// success <c>source.restored</c>.
/// </summary>
public sealed class ListFetch(
    IDbContextFactory<SirenaDb> factory,
    ListingDesk desk,
    IntakeDesk intake,
    OutsideHosts hosts,
    SurroundingsCache surroundings,
    Signals signals,
    IClock clock,
    ILogger<ListFetch> log
) : Worker(log), IDisposable
{
    private const int Failing = 3;
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(5);
    private static readonly TimeSpan MostTime = TimeSpan.FromSeconds(60);
    private static readonly Duration AgainAfter = Duration.FromMinutes(5);
    private readonly HttpClient http = new(hosts.Handler()) { Timeout = Timeout.InfiniteTimeSpan };

    /// <summary>Why a schedule is none; <see langword="null"/> where it is one, or none is named.</summary>
    public static string? Problem(string? schedule)
    {
        try
        {
            return schedule is null || CronExpression.Parse(schedule) is not null ? null : "";
        }
        catch (CronFormatException e)
        {
            return $"The schedule '{schedule}' is no cron expression: {e.Message.TrimEnd('.')}. Five fields are expected: minute, hour, day, month, weekday.";
        }
    }

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping) => TurnsAsync(Pause, () => LookAsync(stopping), stopping);

    /// <summary>Fetches what is due.</summary>
    public async Task LookAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var now = clock.GetCurrentInstant();
        var zone = (await surroundings.GetAsync(cancel)).Business.Zone;
        foreach (var source in await db.Sources.AsNoTracking().Where(s => s.RemovedAt == null && s.On && s.Kind == SourceKind.Listing).ToListAsync(cancel))
        {
            if (source.Listing is not { Url: { } url, Schedule: { } schedule } || !Due(source, schedule, zone, now))
            {
                continue;
            }

            // One node fetches: whoever marks it first.
            var marked = await db
                .Sources.Where(s => s.Id == source.Id && s.FetchedAt == source.FetchedAt)
                .ExecuteUpdateAsync(u => u.SetProperty(s => s.FetchedAt, now), cancel);
            if (marked == 1)
            {
                await FetchAsync(db, source, url, cancel);
            }
        }
    }

    // A fetch that failed is tried again after five minutes; a success is due when the schedule says so.
    private static bool Due(Source source, string schedule, DateTimeZone zone, Instant now)
    {
        var from = source.FetchedAt ?? source.CreatedAt;
        return (source.FetchFailures > 0 && now - from >= AgainAfter) || Schedules.ScheduleWorker.Next(schedule, from, zone) <= now;
    }

    private async Task FetchAsync(SirenaDb db, Source source, string url, CancellationToken cancel)
    {
        var (bytes, tag, modified, problem) = await GetAsync(source, url, cancel);
        if (problem is null && bytes is not null)
        {
            var result = await desk.RunAsync(source.Id, bytes, null, only: false, "schedule", cancel);
            problem = result is null ? ListingDesk.NoList : result.Problem;
        }

        var failures = problem is null ? 0 : source.FetchFailures + 1;
        await db
            .Sources.Where(s => s.Id == source.Id)
            .ExecuteUpdateAsync(
                u =>
                    u.SetProperty(s => s.FetchFailures, failures)
                        .SetProperty(s => s.FetchProblem, problem)
                        .SetProperty(s => s.FetchTag, problem is null ? tag ?? source.FetchTag : source.FetchTag)
                        .SetProperty(s => s.FetchModified, problem is null ? modified ?? source.FetchModified : source.FetchModified),
                cancel
            );
        if (failures == Failing || (failures == 0 && source.FetchFailures >= Failing))
        {
            await intake.TakeAsync([OwnEvents.OfReach(source, problem, clock.GetCurrentInstant())], cancel);
        }

        signals.Raise(Topic.Pages);
    }

    // Nothing and no problem: it did not change.
    private async Task<(byte[]? Bytes, string? Tag, string? Modified, string? Problem)> GetAsync(Source source, string url, CancellationToken cancel)
    {
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(MostTime);
        try
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, url);
            if (source.FetchTag is { } tag && EntityTagHeaderValue.TryParse(tag, out var known))
            {
                request.Headers.IfNoneMatch.Add(known);
            }

            if (source.FetchModified is { } modified)
            {
                request.Headers.TryAddWithoutValidation("If-Modified-Since", modified);
            }

            using var answer = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, limit.Token);
            if (answer.StatusCode == HttpStatusCode.NotModified)
            {
                return (null, null, null, null);
            }

            if (answer.StatusCode != HttpStatusCode.OK)
            {
                return (
                    null,
                    null,
                    null,
                    answer.Headers.Location is { } to
                        ? $"The server answered {(int)answer.StatusCode} and passes on to {FarText.Clean(to.ToString(), 200)}: set that address, if it "
                            + "is the right one."
                        : $"The server answered {(int)answer.StatusCode}."
                );
            }

            await using var stream = await answer.Content.ReadAsStreamAsync(limit.Token);
            using var kept = new MemoryStream();
            var buffer = new byte[81_920];
            for (int read; (read = await stream.ReadAsync(buffer, limit.Token)) > 0;)
            {
                kept.Write(buffer, 0, read);
                if (kept.Length > ListingFile.Largest)
                {
                    return (null, null, null, "The list is larger than 50 MB.");
                }
            }

            return (
                kept.ToArray(),
                answer.Headers.ETag?.ToString(),
                answer.Content.Headers.LastModified?.ToString("R", System.Globalization.CultureInfo.InvariantCulture),
                null
            );
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            return (null, null, null, "It took longer than a minute.");
        }
        catch (Exception e) when (e is HttpRequestException or IOException)
        {
            return (null, null, null, FarText.Clean(e.InnerException?.Message ?? e.Message, 300));
        }
    }

    /// <inheritdoc/>
    public override void Dispose()
    {
        http.Dispose();
        base.Dispose();
    }
}
