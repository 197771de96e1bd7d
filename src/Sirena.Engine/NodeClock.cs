using Microsoft.Extensions.Logging;
using NodaTime;
using Npgsql;

namespace Sirena.Engine;

/// <summary>The machine's clock, corrected by its measured offset to the database's: due times and leases are compared across nodes.</summary>
public sealed class NodeClock(IClock machine) : IClock
{
    private long offsetTicks;

    /// <summary>How far the machine's clock is behind the database's.</summary>
    public Duration Offset
    {
        get => Duration.FromTicks(Interlocked.Read(ref offsetTicks));
        set => Interlocked.Exchange(ref offsetTicks, value.BclCompatibleTicks);
    }

    /// <summary>Whether the clock is within two seconds, so that this node may work.</summary>
    public bool IsTrue => Offset < Duration.FromSeconds(2) && Offset > Duration.FromSeconds(-2);

    /// <inheritdoc/>
    public Instant GetCurrentInstant() => machine.GetCurrentInstant() + Offset;
}

/// <summary>Measures the offset each half minute. A fixed clock (for pictures) is left as it is.</summary>
public sealed class ClockWatch(NpgsqlDataSource source, NodeClock clock, IClock machine, ILogger<ClockWatch> log) : Worker(log)
{
    /// <inheritdoc/>
    protected override async Task RunAsync(CancellationToken stopping)
    {
        while (machine is SystemClock)
        {
            try
            {
                await using var command = source.CreateCommand("select clock_timestamp()");
                var begun = machine.GetCurrentInstant();
                var there = (Instant)(await command.ExecuteScalarAsync(stopping))!;
                var ended = machine.GetCurrentInstant();
                clock.Offset = there - (begun + ((ended - begun) / 2));
            }
            catch (Exception e) when (Sirena.Storage.DatabaseFault.OfSurroundings(e) && !stopping.IsCancellationRequested)
            {
                // Without a database nothing is compared anyway.
            }

            await Task.Delay(30_000, stopping);
        }
    }
}
