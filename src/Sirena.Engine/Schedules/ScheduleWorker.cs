using Cronos;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Storage;

namespace Sirena.Engine.Schedules;

/// <summary>Does what is due again and again. A row is claimed under a lease, done, and moved to its next time, by one node at a time.</summary>
public sealed class ScheduleWorker(
    IDbContextFactory<SirenaDb> factory,
    SurroundingsCache surroundings,
    Echo echo,
    Upkeep upkeep,
    Summaries summaries,
    IClock clock,
    ILogger<ScheduleWorker> log
) : Worker(log)
{
    private static readonly Duration Lease = Duration.FromMinutes(2);
    private static readonly TimeSpan Turn = TimeSpan.FromSeconds(5);

    // What every business has: upkeep in small bites all day long, and a look every minute at which echoes are due.
    private static readonly (string Id, string Cron)[] Standing = [("echo", "* * * * *"), ("upkeep", "*/5 * * * *")];

    /// <summary>The next time of an expression after a moment, in the business's time zone.</summary>
    /// <exception cref="CronFormatException">It is none.</exception>
    public static Instant Next(string cron, Instant after, DateTimeZone zone) =>
        CronExpression.Parse(cron).GetNextOccurrence(after.ToDateTimeOffset(), TimeZoneInfo.FindSystemTimeZoneById(zone.Id)) is { } next
            ? Instant.FromDateTimeOffset(next)
            : Instant.MaxValue;

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping)
    {
        var first = true;
        return TurnsAsync(
            Turn,
            async () =>
            {
                if (first)
                {
                    first = false;
                    await StandAsync(stopping);
                }

                while (await OneAsync(stopping))
                {
                    // Another may be due.
                }
            },
            stopping
        );
    }

    private async Task StandAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        foreach (var (id, cron) in Standing)
        {
            await db.Database.ExecuteSqlAsync(
                $"insert into schedules (id, cron, next_at) values ({id}, {cron}, {clock.GetCurrentInstant()}) on conflict (id) do nothing",
                cancel
            );
        }
    }

    private async Task<bool> OneAsync(CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        var claimed = await db
            .Schedules.FromSql(
                $"""
                update schedules set lease_until = {now + Lease} where id = (
                    select id from schedules where next_at <= {now} and (lease_until is null or lease_until < {now}) order by next_at limit 1
                        for update skip locked)
                returning *
                """
            )
            .AsNoTracking()
            .ToListAsync(cancel);
        if (claimed is not [var due])
        {
            return false;
        }

        try
        {
            await DoAsync(due, cancel);
        }
        catch (Exception e) when (!cancel.IsCancellationRequested)
        {
            log.LogError(e, "'{Schedule}' broke off; it comes again at its next time.", due.Id);
        }

        var zone = (await surroundings.GetAsync(cancel)).Business.Zone;
        var next = Next(due.Cron, clock.GetCurrentInstant(), zone);
        await db
            .Schedules.Where(s => s.Id == due.Id)
            .ExecuteUpdateAsync(s => s.SetProperty(x => x.NextAt, next).SetProperty(x => x.LastAt, now).SetProperty(x => x.LeaseUntil, (Instant?)null), cancel);
        return true;
    }

    private Task DoAsync(Schedule due, CancellationToken cancel) =>
        due.Id.Split(':') switch
        {
            ["echo"] => echo.SendAsync(cancel),
            ["upkeep"] => upkeep.RunAsync(cancel),
            ["summary", var span, var to] => summaries.SendAsync(span, to, due.NextAt, cancel),
            _ => Task.CompletedTask,
        };
}
