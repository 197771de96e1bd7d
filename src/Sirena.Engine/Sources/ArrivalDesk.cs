using Microsoft.Extensions.Logging;
using Sirena.Core.Sources;
using Sirena.Storage.Sources;

namespace Sirena.Engine.Sources;

/// <summary>Puts bodies on disk, gathered; a call is answered after the commit that holds its body.</summary>
public sealed class ArrivalDesk : Worker
{
    private const int Writers = 2;
    private const int Together = 200;
    private readonly Gathering<ArrivedBody, long> gathering;

    /// <summary>A desk on a queue.</summary>
    public ArrivalDesk(ArrivalQueue queue, Signals signals, ILogger<ArrivalDesk> log)
        : base(log) => gathering = new Gathering<ArrivedBody, long>(
            Writers, Together, _ => 1, async (bodies, cancel) =>
            {
                var ids = await queue.StoreAsync(bodies, cancel);
                signals.Raise(Topic.Arrivals);
                return ids;
            }, log);

    /// <summary>Stores a body.</summary>
    /// <returns>Its number.</returns>
    /// <exception cref="Npgsql.NpgsqlException">The database did not take it.</exception>
    public Task<long> StoreAsync(ArrivedBody body, CancellationToken cancel) => gathering.TakeAsync(body, cancel);

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping) => gathering.RunAsync(stopping);
}
