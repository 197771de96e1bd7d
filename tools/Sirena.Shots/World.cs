using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Builder;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Npgsql;
using Sirena.Demo.StandIns;
using Sirena.Demo.World;
using Sirena.Storage;
using Sirena.Web;

namespace Sirena.Shots;

/// <summary>
/// The demo in one process against a database of its own: the application, the stand-ins, Averil Quay's data. For pictures, tests and benchmarks.
/// </summary>
public sealed class World : IAsyncDisposable
{
    private readonly string server;

    private World(string server, string name, string keyFile) => (this.server, Name, KeyFile) = (server, name, keyFile);

    /// <summary>The file of the key that wraps its secrets.</summary>
    public string KeyFile { get; }

    /// <summary>The database's name.</summary>
    public string Name { get; }

    /// <summary>Its connection string.</summary>
    public string Database => $"{server};Database={Name}";

    /// <summary>The application's nodes; the first answers at <see cref="Url"/>.</summary>
    public List<WebApplication> Nodes { get; } = [];

    /// <summary>Where the application answers.</summary>
    public string Url => Nodes[0].Urls.First();

    /// <summary>The stand-ins.</summary>
    public StandInHost StandIns { get; private set; } = null!;

    /// <summary>The ways in.</summary>
    public DemoFile Demo { get; private set; } = null!;

    /// <summary>Makes a world.</summary>
    /// <param name="server">A connection string to a server, without a database.</param>
    /// <param name="days">Days of history.</param>
    /// <param name="aDay">Orders on a weekday.</param>
    /// <param name="reports">The first node takes reports about mail, and the mail carrier sends them.</param>
    /// <param name="at">A fixed clock, or <see langword="null"/> for the real one.</param>
    public static async Task<World> MakeAsync(string server, int days, int aDay, Instant? at = null, bool reports = false)
    {
        IClock clock = at is { } fixedAt ? new StillClock(fixedAt) : SystemClock.Instance;
        var settled = at is null ? await SettledWorld.OfAsync(server, days, aDay) : null;
        var world = await BeginAsync(server, reports, settled?.Name);
        var port = StandInHost.FreePort();
        var url = $"http://127.0.0.1:{port}";
        await using (var services = Settlement.Services(world.Database, clock))
        {
            var settlement = new Settlement(services, clock);
            await settlement.SettleAsync(url, $"127.0.0.1:{world.StandIns.SmtpPort}", days, aDay, SettledWorld.Seed);
            world.Demo = await settlement.OpenAsync(settled?.Demo, url, "", $"127.0.0.1:{world.StandIns.SmtpPort}", world.Database);
        }

        await world.StartNodeAsync(port, clock);
        await using (var services = Settlement.Services(world.Database, clock))
        await using (var db = await services.GetRequiredService<IDbContextFactory<SirenaDb>>().CreateDbContextAsync())
        {
            await GatewaySetup.ConnectAsync(url, world.Demo.Token, world.StandIns, db, whole: at is not null && days > 0, CancellationToken.None);
            await SourceSetup.ConnectAsync(world.Demo, db, CancellationToken.None);
        }

        return world;
    }

    /// <summary>Makes an installation of which nobody has set anything up: an empty database, one node, the stand-ins beside it.</summary>
    public static async Task<World> EmptyAsync(string server)
    {
        var world = await BeginAsync(server, reports: false, template: null);
        await world.StartNodeAsync(StandInHost.FreePort());
        return world;
    }

    // An empty database or a copy of one, a key, the stand-ins.
    private static async Task<World> BeginAsync(string server, bool reports, string? template)
    {
        var keyFile = Path.GetTempFileName();
        await File.WriteAllTextAsync(keyFile, Convert.ToBase64String(System.Security.Cryptography.RandomNumberGenerator.GetBytes(32)));
        var world = new World(server, $"w_{Guid.NewGuid():N}", keyFile) { Reports = reports };
        await world.ExecuteAsync("postgres", $"create database {world.Name} template {template ?? "template1"}");
        world.StandIns = await StandInHost.StartAsync(0, 0);
        return world;
    }

    /// <summary>The first node takes reports about mail.</summary>
    public bool Reports { get; init; }

    /// <summary>Starts a node against the world's database.</summary>
    public async Task<WebApplication> StartNodeAsync(int port = 0, IClock? clock = null)
    {
        var settings = new ServeSettings(
            Database,
            Sirena.Web.Access.KeyFile.Read(KeyFile).Key!,
            clock ?? SystemClock.Instance,
            Reports && Nodes.Count == 0 ? StandIns.Mail.ReportsTo = new System.Net.IPEndPoint(System.Net.IPAddress.Loopback, StandInHost.FreePort()) : null
        )
        {
            Inside = ["127.0.0.1", "localhost"],
            NameServer = StandIns.Names.Endpoint,
        };
        var app = SirenaApp.Build(["--urls", $"http://127.0.0.1:{port}"], settings);
        await SirenaApp.PrepareAsync(app, settings);
        await app.StartAsync();
        Nodes.Add(app);
        return app;
    }

    /// <summary>Runs a statement in the world's database.</summary>
    public Task ExecuteAsync(string sql) => ExecuteAsync(Name, sql);

    /// <summary>What a statement in the world's database counts.</summary>
    public async Task<long> CountAsync(string sql)
    {
        await using var connection = new NpgsqlConnection($"{Database};Pooling=false");
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        return (long)(await command.ExecuteScalarAsync())!;
    }

    /// <summary>The token against forged requests that the forms of a page carry.</summary>
    public static string FormToken(string page) => Regex.Match(page, "__RequestVerificationToken[^>]*value=\"([^\"]+)\"").Groups[1].Value;

    /// <summary>How many times longer than on a quiet machine something may take before it counts as not coming.</summary>
    public const int Patience = 4;

    /// <summary>Waits until a statement answers true.</summary>
    /// <exception cref="TimeoutException">It did not in that time.</exception>
    public async Task UntilAsync(string sql, int seconds)
    {
        await using var connection = new NpgsqlConnection($"{Database};Pooling=false");
        await connection.OpenAsync();
        for (var end = DateTime.UtcNow.AddSeconds(seconds * Patience); ; await Task.Delay(50))
        {
            await using var command = new NpgsqlCommand(sql, connection);
            if (await command.ExecuteScalarAsync() is true)
            {
                return;
            }

            if (DateTime.UtcNow > end)
            {
                throw new TimeoutException($"Waited {seconds} s in vain for: {sql}");
            }
        }
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        foreach (var node in Nodes)
        {
            await node.StopAsync();
            await node.DisposeAsync();
        }

        await StandIns.DisposeAsync();
        NpgsqlConnection.ClearAllPools();
        await ExecuteAsync("postgres", $"drop database if exists {Name} with (force)");
        File.Delete(KeyFile);
    }

    private Task ExecuteAsync(string database, string sql) => ExecuteAsync(server, database, sql);

    internal static async Task ExecuteAsync(string server, string database, string sql)
    {
        await using var connection = new NpgsqlConnection($"{server};Database={database};Pooling=false");
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection) { CommandTimeout = 300 };
        await command.ExecuteNonQueryAsync();
    }

    private sealed class StillClock(Instant at) : IClock
    {
        public Instant GetCurrentInstant() => at;
    }
}
