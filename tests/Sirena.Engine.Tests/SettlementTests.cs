using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Npgsql;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Demo.OrderSystem;
using Sirena.Demo.World;
using Sirena.Engine.Intake;
using Sirena.Storage;

namespace Sirena.Engine.Tests;

public sealed class SettlementTests : IAsyncLifetime
{
    private readonly string server = Environment.GetEnvironmentVariable("SIRENA_TEST_SERVER")
        ?? throw new InvalidOperationException("SIRENA_TEST_SERVER is not set; run './sirena test'.");
    private readonly string name = $"s_{Guid.NewGuid():N}";

    public async ValueTask InitializeAsync() => await ExecuteAsync($"create database {name}");

    public async ValueTask DisposeAsync()
    {
        NpgsqlConnection.ClearAllPools();
        await ExecuteAsync($"drop database if exists {name} with (force)");
    }

    [Fact]
    public async Task A_demo_that_stood_still_for_days_closes_its_stale_alerts_and_fills_the_gap()
    {
        var begin = Instant.FromUtc(2026, 11, 20, 14, 0);
        await SettleAsync(begin);
        var (events, newest, _) = await CountAsync(begin);
        var later = begin + Duration.FromDays(3);
        await SettleAsync(later);
        var (more, last, stale) = await CountAsync(later);
        Assert.True(more > events + 60, $"{events} events became {more}");
        Assert.InRange((later - last).TotalHours, 0, 3);
        Assert.True(newest <= begin);
        Assert.Equal(0, stale);
        await SettleAsync(later + Duration.FromMinutes(10));
        Assert.Equal(more, (await CountAsync(later)).Events);
    }

    [Fact]
    public async Task The_demo_s_order_system_leaves_orders_alone_of_which_somebody_else_has_told()
    {
        var begin = Instant.FromUtc(2026, 11, 20, 14, 0);
        await SettleAsync(begin);
        await using var services = Settlement.Services($"{server};Database={name}", new At(begin));
        await using var db = await services.GetRequiredService<IDbContextFactory<SirenaDb>>().CreateDbContextAsync(TestContext.Current.CancellationToken);
        var own = await OrderSystem.Own(db).Select(o => o.Number).ToListAsync(TestContext.Current.CancellationToken);
        Assert.Equal(await db.Orders.CountAsync(TestContext.Current.CancellationToken), own.Count);
        foreach (var (source, number) in new[] { ("/visitor", own[0]), (OwnEvents.Source, own[1]), ("/visitor", "AQ-90001") })
        {
            db.Events.Add(
                new OrderEvent
                {
                    EventId = $"{source} {number}",
                    Source = source,
                    Type = "order.changed",
                    Subject = number,
                    OrderNumber = number,
                    Seq = 99,
                    Time = begin,
                    Received = begin,
                    Data = "{}",
                }
            );
        }

        await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        Assert.Equal(own.Skip(1).Order(), (await OrderSystem.Own(db).Select(o => o.Number).ToListAsync(TestContext.Current.CancellationToken)).Order());
    }

    private async Task SettleAsync(Instant at)
    {
        var clock = new At(at);
        await using var services = Settlement.Services($"{server};Database={name}", clock);
        await new Settlement(services, clock).SettleAsync("http://127.0.0.1:1", "127.0.0.1:2", days: 2, aDay: 20, seed: 3);
    }

    private async Task<(int Events, Instant Newest, int Stale)> CountAsync(Instant now)
    {
        await using var services = Settlement.Services($"{server};Database={name}", new At(now));
        await using var db = await services.GetRequiredService<IDbContextFactory<SirenaDb>>().CreateDbContextAsync(TestContext.Current.CancellationToken);
        var dayAgo = now - Duration.FromDays(1);
        return (
            await db.Events.CountAsync(),
            await db.Events.MaxAsync(e => e.Received),
            await db.Alerts.CountAsync(a => a.State == AlertState.Open && a.RaisedAt < dayAgo)
        );
    }

    private async Task ExecuteAsync(string sql)
    {
        await using var connection = new NpgsqlConnection($"{server};Database=postgres;Pooling=false");
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }

    private sealed class At(Instant at) : IClock
    {
        public Instant GetCurrentInstant() => at;
    }
}
