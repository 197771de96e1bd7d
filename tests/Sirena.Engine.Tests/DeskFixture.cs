using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using NodaTime;
using Npgsql;
using Sirena.Channels.Http;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Demo.StandIns;
using Sirena.Demo.World;
using Sirena.Engine.Intake;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Storage.Orders;

// What is tested here mostly waits, for clocks and far ends: more classes at a time than there are cores.
[assembly: Xunit.v3.Parallelization(MaxThreads = 6)]

namespace Sirena.Engine.Tests;

/// <summary>Averil Quay in a database of its own, with the stand-ins and one node at work.</summary>
public sealed class DeskFixture : IAsyncLifetime
{
    private readonly string server = Environment.GetEnvironmentVariable("SIRENA_TEST_SERVER")
        ?? throw new InvalidOperationException("SIRENA_TEST_SERVER is not set; run './sirena test'.");
    private readonly string name = $"e_{Guid.NewGuid():N}";
    private static readonly Microsoft.AspNetCore.DataProtection.EphemeralDataProtectionProvider Sealing = new();
    private readonly List<IHost> nodes = [];
    private int number;

    public string Database => $"{server};Database={name}";

    public StandInHost StandIns { get; private set; } = null!;

    public IServiceProvider Services => nodes[0].Services;

    public async ValueTask InitializeAsync()
    {
        await ExecuteAsync($"create database {name}");
        StandIns = await StandInHost.StartAsync(0, 0);
        await using (var services = Settlement.Services(Database, SystemClock.Instance))
        {
            await new Settlement(services, SystemClock.Instance).SettleAsync("http://127.0.0.1:1", $"127.0.0.1:{StandIns.SmtpPort}", days: 0, aDay: 0, seed: 1);
        }

        await StartNodeAsync();
    }

    public async Task<IHost> StartNodeAsync()
    {
        var builder = Host.CreateEmptyApplicationBuilder(null);
        builder.Logging.ClearProviders();
        builder.Services.AddSingleton(new OutsideHosts(["127.0.0.1"]));
        builder.Services.AddSingleton(new Sirena.Engine.Sources.SourceFolders([Path.GetTempPath()]));
        builder.Services.AddSingleton<Microsoft.AspNetCore.DataProtection.IDataProtectionProvider>(Sealing);
        builder.Services.AddSirenaEngine(Database, SystemClock.Instance);
        var host = builder.Build();
        await host.StartAsync();
        nodes.Add(host);
        return host;
    }

    public async Task StopNodeAsync(IHost node)
    {
        nodes.Remove(node);
        await node.StopAsync();
        node.Dispose();
    }

    public async ValueTask DisposeAsync()
    {
        foreach (var node in nodes.ToArray())
        {
            await StopNodeAsync(node);
        }

        await StandIns.DisposeAsync();
        NpgsqlConnection.ClearAllPools();
        await ExecuteAsync($"drop database if exists {name} with (force)");
    }

    public string NextOrder() => $"T-{Interlocked.Increment(ref number):0000}";

    public Task<SirenaDb> DbAsync() => Services.GetRequiredService<IDbContextFactory<SirenaDb>>().CreateDbContextAsync(TestContext.Current.CancellationToken);

    /// <summary>Reads the database until what is found is good. A connection that is cut under it, as the tests of faults do, is one look less.</summary>
    public async Task<T> UntilAsync<T>(Func<SirenaDb, Task<T>> read, Func<T, bool> good, Func<T, string> vain, int seconds = 40)
    {
        T? found = default;
        for (var end = DateTime.UtcNow.AddSeconds(seconds); DateTime.UtcNow < end; await Task.Delay(40))
        {
            try
            {
                await using var db = await DbAsync();
                found = await read(db);
            }
            catch (Exception e) when (DatabaseFault.OfSurroundings(e))
            {
                continue;
            }

            if (good(found))
            {
                return found;
            }
        }

        Assert.Fail($"Waited {seconds} s in vain: {(found is null ? "there is nothing" : vain(found))}.");
        return found;
    }

    /// <summary>Waits until something holds in the database.</summary>
    public Task UntilAsync(Func<SirenaDb, Task<bool>> holds, string awaited, int seconds = 40) =>
        UntilAsync(holds, held => held, _ => $"until {awaited}", seconds);

    public async Task<Alert> AlertAsync(string order, Func<Alert, bool>? until = null) =>
        (
            await UntilAsync(
                db => db.Alerts.AsNoTracking().FirstOrDefaultAsync(a => a.OrderNumber == order),
                alert => alert is not null && (until is null || until(alert)),
                alert => $"the alert of {order} is {alert!.State}",
                45
            )
        )!;

    public Task<string> RuleAsync(string yaml) => RuleAsync(null, yaml);

    public async Task<string> RuleAsync(string? id, string yaml)
    {
        var saved = await Services.GetRequiredService<RuleDesk>().SaveAsync(yaml, yaml: true, id, "the test", TestContext.Current.CancellationToken);
        Assert.Empty(saved.Errors);
        return saved.Saved!.RuleId;
    }

    public async Task<bool[]> PostAsync(params IEnumerable<(string Id, string Type, string Order, Instant? Time)> events)
    {
        var now = SystemClock.Instance.GetCurrentInstant();
        Arrival[] arrivals =
        [
            .. events.Select(e => new Arrival(
                new IncomingEvent(e.Id, "/test", e.Type, null, e.Time, new JsonObject { ["order"] = JsonNode.Parse(e.Order) }),
                "",
                now
            )),
        ];
        return await Services.GetRequiredService<IntakeDesk>().TakeAsync(arrivals, TestContext.Current.CancellationToken);
    }

    public Task PostAsync(string type, string order) => PostAsync((Guid.NewGuid().ToString(), type, order, null));

    public Task<List<Delivery>> DeliveriesAsync(string order, Func<List<Delivery>, bool> until, int seconds = 40) =>
        UntilAsync(
            db => db.Deliveries.AsNoTracking().Where(d => d.OrderNumber == order).OrderBy(d => d.CreatedAt).ThenBy(d => d.Id).ToListAsync(),
            found => found.Count > 0 && until(found),
            found => $"{order} has {string.Join(", ", found.Select(d => $"{d.To} {d.State} {d.Reason}"))}",
            seconds
        );

    /// <summary>Every ladder is looked at once from now on: a step that is due only now fires, and those that were due before it would have.</summary>
    public async Task LaddersAsync()
    {
        var order = NextOrder();
        await RuleAsync(
            "marks",
            "id: marks\nname: marks\nwhen: [test.marks]\nurgency: urgent\ntell: [ { person: ines.calder } ]\nby: { allAtOnce: [screen] }\n"
                + "ladder: [ { after: PT0.1S, tell: [ { person: odile.varga } ] } ]"
        );
        await PostAsync("test.marks", $$"""{"number":"{{order}}"}""");
        await DeliveriesAsync(order, d => d.Count == 2);
    }

    /// <summary>The steps of an alert that have not fired are due by now. The alert is locked before its steps, as everybody else does it.</summary>
    public async Task DueAsync(Guid alert)
    {
        var cancel = TestContext.Current.CancellationToken;
        await using var db = await DbAsync();
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        await db.Database.ExecuteSqlAsync($"select from alerts where id = {alert} for update", cancel);
        await db.Database.ExecuteSqlAsync($"update alert_steps set due_at = now() - interval '1 second' where alert_id = {alert} and fired_at is null", cancel);
        await transaction.CommitAsync(cancel);
    }

    private async Task ExecuteAsync(string sql)
    {
        await using var connection = new NpgsqlConnection($"{server};Database=postgres;Pooling=false");
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }
}
