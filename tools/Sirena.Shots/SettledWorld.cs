using System.Collections.Concurrent;
using NodaTime;
using Npgsql;
using Sirena.Demo.World;

namespace Sirena.Shots;

/// <summary>
/// A settled database that nobody works in: the worlds of a process begin as copies of it, since settling takes longer than copying. Each then gets what is its
/// own (addresses, gateways) as a demo does that is begun again.
/// </summary>
internal sealed record SettledWorld(string Name, DemoFile Demo)
{
    /// <summary>The seed of all worlds.</summary>
    public const int Seed = 20_418;

    private static readonly ConcurrentDictionary<(string Server, int Days, int ADay), Lazy<Task<SettledWorld>>> Known = [];

    /// <summary>The settled database of that much history on that server; made by whoever asks first, and gone with the process.</summary>
    public static Task<SettledWorld> OfAsync(string server, int days, int aDay) =>
        Known.GetOrAdd((server, days, aDay), k => new Lazy<Task<SettledWorld>>(() => MakeAsync(k.Server, k.Days, k.ADay))).Value;

    private static async Task<SettledWorld> MakeAsync(string server, int days, int aDay)
    {
        var name = $"t_{Guid.NewGuid():N}";
        await World.ExecuteAsync(server, "postgres", $"create database {name}");
        AppDomain.CurrentDomain.ProcessExit += (_, _) =>
            World.ExecuteAsync(server, "postgres", $"drop database if exists {name} with (force)").GetAwaiter().GetResult();
        DemoFile demo;
        await using (var services = Settlement.Services($"{server};Database={name}", SystemClock.Instance))
        {
            var settlement = new Settlement(services, SystemClock.Instance);
            await settlement.SettleAsync("http://127.0.0.1:1", "127.0.0.1:1", days, aDay, Seed);
            demo = await settlement.OpenAsync(null, "", "", "", "");
        }

        // A database that somebody is connected with cannot be copied.
        NpgsqlConnection.ClearAllPools();
        return new SettledWorld(name, demo);
    }
}
