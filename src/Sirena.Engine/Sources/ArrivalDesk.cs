using Microsoft.Extensions.Logging;
using Sirena.Core.Sources;
using Sirena.Storage.Sources;

namespace Sirena.Engine.Sources;

/// <summary>Puts bodies on disk, gathered; a call is answered after the commit that holds its body.</summary>
public sealed class ArrivalDesk : Worker
{
    private const int Writers = 2;
    private const int Together = 200;
    private const int CrowdASecond = 300;
    private readonly Gathering<ArrivedBody, long> gathering;
    private readonly Lock counting = new();
    private (long Second, int Now, int Before) stored;

    /// <summary>A desk on a queue.</summary>
    public ArrivalDesk(ArrivalQueue queue, Signals signals, ILogger<ArrivalDesk> log)
        : base(log) =>
        gathering = new Gathering<ArrivedBody, long>(
            Writers,
            Together,
            _ => 1,
            async (bodies, cancel) =>
            {
                var ids = await queue.StoreAsync(bodies, cancel);
                Count(bodies.Count);
                signals.Raise(Topic.Arrivals);
                return ids;
            },
            log
        );

    /// <summary>Stores a body.</summary>
    /// <returns>Its number.</returns>
    /// <exception cref="Npgsql.NpgsqlException">The database did not take it.</exception>
    public Task<long> StoreAsync(ArrivedBody body, CancellationToken cancel) => gathering.TakeAsync(body, cancel);

    /// <summary>Calls come by the hundred a second: taking them in goes before reading them.</summary>
    public bool IsCrowded
    {
        get
        {
            lock (counting)
            {
                Turn();
                return Math.Max(stored.Now, stored.Before) >= CrowdASecond;
            }
        }
    }

    private void Count(int bodies)
    {
        lock (counting)
        {
            Turn();
            stored.Now += bodies;
        }
    }

    private void Turn()
    {
        var second = Environment.TickCount64 / 1_000;
        if (second != stored.Second)
        {
            stored = (second, 0, second == stored.Second + 1 ? stored.Now : 0);
        }
    }

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping) => gathering.RunAsync(stopping);
}
