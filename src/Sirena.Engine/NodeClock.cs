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

/// <summary>One look at another clock: between two readings of one's own it showed a time.</summary>
/// <param name="Begun">One's own clock before.</param>
/// <param name="There">The other clock, to the microsecond below.</param>
/// <param name="Ended">One's own clock after.</param>
public readonly record struct ClockLook(Instant Begun, Instant There, Instant Ended)
{
    private static readonly Duration Resolution = Duration.FromTicks(10);

    /// <summary>
    /// How far one's own clock is behind the other: whatever all looks allow that is nearest to what was held for true until now, so that a slow line moves no
    /// clock. A look bounds the offset by the time that it took (F. Cristian, Probabilistic clock synchronization, 1989); where the looks contradict each
    /// other, a clock was set meanwhile, and the middle of the last one counts.
    /// </summary>
    /// <param name="until">What was held for true until now.</param>
    /// <param name="looks">At least one, in their order.</param>
    public static Duration Offset(Duration until, IReadOnlyList<ClockLook> looks)
    {
        var (least, most) = (looks.Max(l => l.There - l.Ended), looks.Min(l => l.There + Resolution - l.Begun));
        return least <= most ? Duration.Max(least, Duration.Min(until, most)) : looks[^1].There - (looks[^1].Begun + ((looks[^1].Ended - looks[^1].Begun) / 2));
    }
}

/// <summary>Measures the offset each half minute. A fixed clock (for pictures) is left as it is.</summary>
public sealed class ClockWatch(NpgsqlDataSource source, NodeClock clock, IClock machine, ILogger<ClockWatch> log) : Worker(log)
{
    private const int Looks = 4;

    /// <inheritdoc/>
    protected override async Task RunAsync(CancellationToken stopping)
    {
        while (machine is SystemClock)
        {
            try
            {
                // The line is there before it is looked: what it takes to come by one is no part of the way there.
                await using var connection = await source.OpenConnectionAsync(stopping);
                await using var command = new NpgsqlCommand("select clock_timestamp()", connection);
                var looks = new List<ClockLook>();
                while (looks.Count < Looks)
                {
                    var begun = machine.GetCurrentInstant();
                    var there = (Instant)(await command.ExecuteScalarAsync(stopping))!;
                    looks.Add(new ClockLook(begun, there, machine.GetCurrentInstant()));
                }

                clock.Offset = ClockLook.Offset(clock.Offset, looks);
            }
            catch (Exception e) when (Sirena.Storage.DatabaseFault.OfSurroundings(e) && !stopping.IsCancellationRequested)
            {
                // Without a database nothing is compared anyway.
            }

            await Task.Delay(30_000, stopping);
        }
    }
}
