using System.Collections.Concurrent;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Engine.Intake;
using Sirena.Storage;

namespace Sirena.Engine.Dispatch;

/// <summary>Counts what text messages cost, by gateway and calendar month, and warns once when four fifths of a budget are spent.</summary>
public sealed class Spending(
    IDbContextFactory<SirenaDb> factory,
    SurroundingsCache surroundings,
    IntakeDesk desk,
    Signals signals,
    IClock clock,
    ILogger<Spending> log
) : Worker(log)
{
    private const decimal WarnAt = .8m;
    private static readonly TimeSpan Turn = TimeSpan.FromSeconds(1);
    private readonly ConcurrentDictionary<string, (int Segments, decimal Cost)> fresh = [];
    private ConcurrentDictionary<string, decimal> spent = [];
    private LocalDate month;

    /// <summary>Why a gateway may not take a text, or <see langword="null"/> when its budget allows it.</summary>
    public string? Refuses(Gateway gateway, string text)
    {
        if (gateway is not { SegmentCost: { } price, MonthlyBudget: { } budget })
        {
            return null;
        }

        var known = spent.GetValueOrDefault(gateway.Id) + fresh.GetValueOrDefault(gateway.Id).Cost;
        return known + SmsText.Of(text).Cost(price) <= budget ? null : $"this month's budget of {budget:0.00} is used up: {known:0.00} is spent";
    }

    /// <summary>Notes a text that was taken.</summary>
    public void Note(Gateway gateway, string text)
    {
        if (gateway.Channel == Channel.Sms)
        {
            var segments = SmsText.Of(text).Segments;
            fresh.AddOrUpdate(gateway.Id, (segments, segments * (gateway.SegmentCost ?? 0)), (_, old) =>
                (old.Segments + segments, old.Cost + (segments * (gateway.SegmentCost ?? 0)))
            );
        }
    }

    /// <inheritdoc/>
    protected override async Task RunAsync(CancellationToken stopping)
    {
        try
        {
            var turn = 0;
            await TurnsAsync(
                Turn,
                async () =>
                {
                    if (turn++ % 5 == 0 || !fresh.IsEmpty)
                    {
                        await WriteAsync(stopping);
                    }
                },
                stopping
            );
        }
        finally
        {
            try
            {
                await WriteAsync(CancellationToken.None);
            }
            catch (Exception e) when (DatabaseFault.OfSurroundings(e))
            {
                log.LogWarning("What the last text messages cost could not be noted: {Problem}", e.Message);
            }
        }
    }

    private async Task WriteAsync(CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var today = clock.GetCurrentInstant().InZone(around.Business.Zone).Date;
        var first = new LocalDate(today.Year, today.Month, 1);
        await using var db = await factory.CreateDbContextAsync(cancel);
        foreach (var id in fresh.Keys)
        {
            fresh.TryRemove(id, out var one);
            try
            {
                await db.Database.ExecuteSqlAsync(
                    $"""
                    insert into gateway_spend (gateway, month, segments, cost, warned) values ({id}, {first}, {one.Segments}, {one.Cost}, false)
                        on conflict (gateway, month) do update set segments = gateway_spend.segments + excluded.segments,
                        cost = gateway_spend.cost + excluded.cost
                    """,
                    cancel
                );
            }
            catch
            {
                fresh.AddOrUpdate(id, one, (_, old) => (old.Segments + one.Segments, old.Cost + one.Cost));
                throw;
            }
        }

        var all = await db.GatewaySpend.AsNoTracking().Where(s => s.Month == first).ToListAsync(cancel);
        (spent, month) = (new ConcurrentDictionary<string, decimal>(all.Select(s => KeyValuePair.Create(s.Gateway, s.Cost))), first);
        foreach (
            var gateway in around.Gateways.Where(g =>
                g.MonthlyBudget > 0 && spent.GetValueOrDefault(g.Id) >= g.MonthlyBudget * WarnAt && !all.Exists(s => s.Gateway == g.Id && s.Warned)
            )
        )
        {
            await WarnAsync(db, gateway, around.Business, cancel);
        }
    }

    // One node of several gets the row: only it tells of it.
    private async Task WarnAsync(SirenaDb db, Gateway gateway, Business business, CancellationToken cancel)
    {
        if (
            await db.Database.ExecuteSqlAsync($"update gateway_spend set warned = true where gateway = {gateway.Id} and month = {month} and not warned", cancel)
            == 1
        )
        {
            var data = new JsonObject
            {
                ["gateway"] = new JsonObject
                {
                    ["id"] = gateway.Id,
                    ["name"] = gateway.Name,
                    ["channel"] = gateway.Channel.Name(),
                    ["spent"] = spent.GetValueOrDefault(gateway.Id),
                    ["budget"] = gateway.MonthlyBudget,
                    ["currency"] = business.Currency,
                },
            };
            await desk.TakeAsync(
                [OwnEvents.Make($"gateway.budget-low-{gateway.Id}-{month}", "gateway.budget-low", gateway.Id, data, clock.GetCurrentInstant())],
                cancel
            );
            signals.Raise(Topic.Setup);
        }
    }
}
