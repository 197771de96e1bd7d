using System.Diagnostics;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using Sirena.Storage;

namespace Sirena.Engine;

/// <summary>
/// Work that goes on as long as the node does. Whatever breaks it off, it is begun again with a growing pause: no fault of it ends the node. One that keeps
/// breaking off for a minute makes the node not ready.
/// </summary>
public abstract class Worker(ILogger log) : BackgroundService
{
    private static readonly TimeSpan[] Pauses =
    [
        TimeSpan.FromMilliseconds(200),
        TimeSpan.FromSeconds(1),
        TimeSpan.FromSeconds(5),
        TimeSpan.FromSeconds(15),
        TimeSpan.FromSeconds(30),
    ];

    // A database that is back is worked with soon: to look for it costs nothing.
    private static readonly TimeSpan LongestForSurroundings = TimeSpan.FromSeconds(5);
    private static readonly TimeSpan Steady = TimeSpan.FromSeconds(35);
    private static readonly TimeSpan TooLong = TimeSpan.FromMinutes(1);
    private readonly Lock gate = new();
    private long? brokenSince;
    private long brokeLast;
    private int inARow;

    /// <summary>What it is called in the log and when the node is not ready.</summary>
    public string Name => GetType().Name;

    /// <summary>How often it was begun again.</summary>
    public int Restarts { get; private set; }

    /// <summary>It keeps breaking off for longer than a minute.</summary>
    public bool Stuck
    {
        get
        {
            lock (gate)
            {
                return brokenSince is { } since && Stopwatch.GetElapsedTime(brokeLast) < Steady && Stopwatch.GetElapsedTime(since) > TooLong;
            }
        }
    }

    /// <summary>The work. It ends only when the node does.</summary>
    protected abstract Task RunAsync(CancellationToken stopping);

    /// <inheritdoc/>
    protected sealed override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await RunAsync(stoppingToken);
                return;
            }
            catch (Exception) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e)
            {
                await Task.Delay(Broke(e), stoppingToken).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            }
        }
    }

    /// <summary>Work in turns, with a pause after each. A turn that breaks off is noted, and the next one comes.</summary>
    /// <param name="pause">The pause.</param>
    /// <param name="turn">A turn.</param>
    protected async Task TurnsAsync(TimeSpan pause, Func<Task> turn, CancellationToken stopping)
    {
        while (true)
        {
            try
            {
                await turn();
            }
            catch (Exception e) when (!stopping.IsCancellationRequested)
            {
                await Task.Delay(Broke(e), stopping);
            }

            await Task.Delay(pause, stopping);
        }
    }

    /// <summary>Notes a turn that broke off, for work that goes on by itself.</summary>
    /// <returns>How long to wait before the next.</returns>
    protected TimeSpan Broke(Exception problem)
    {
        int turn;
        lock (gate)
        {
            if (brokenSince is null || Stopwatch.GetElapsedTime(brokeLast) > Steady)
            {
                (brokenSince, inARow) = (Stopwatch.GetTimestamp(), 0);
            }

            (brokeLast, turn) = (Stopwatch.GetTimestamp(), inARow++);
            Restarts++;
        }

        NodeFigures.Broken(Name);

        var pause = Pauses[Math.Min(turn, Pauses.Length - 1)];
        if (DatabaseFault.OfSurroundings(problem))
        {
            log.LogWarning("{Worker} waits for the database and goes on: {Problem}", Name, problem.GetBaseException().Message);
            return pause < LongestForSurroundings ? pause : LongestForSurroundings;
        }

        log.LogError(problem, "{Worker} broke off and is begun again.", Name);
        return pause;
    }
}
