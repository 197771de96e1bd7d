using System.Collections.Concurrent;
using Sirena.Core.Deliveries;
using Sirena.Storage.Deliveries;

namespace Sirena.Engine.Dispatch;

/// <summary>A channel's messages in this node: those that were claimed and wait for a hand, and as many hands at work as the gateway is wide.</summary>
internal sealed class Lane(Channel channel, Func<Line, Claimed, Task> send)
{
    private readonly ConcurrentQueue<(Line Line, Claimed Claimed)> queue = [];
    private const int MostAhead = 1024;
    private long paceSince = System.Diagnostics.Stopwatch.GetTimestamp();
    private double pace;
    private int done;
    private int hands;
    private int width = 1;
    private int held;
    private int reserved;

    /// <summary>The channel.</summary>
    public Channel Channel => channel;

    /// <summary>Messages that are held, those that are about to be stored as claimed included.</summary>
    public int Held => Volatile.Read(ref held) + Volatile.Read(ref reserved);

    /// <summary>How many messages to hold: a quarter of a second's work at the pace of late, at least two rounds of the gateway's width. What waits longer is better left to other nodes.</summary>
    public int Ahead(int width)
    {
        var span = System.Diagnostics.Stopwatch.GetElapsedTime(paceSince);
        if (span.TotalMilliseconds > 50)
        {
            pace = ((pace * .5) + (Interlocked.Exchange(ref done, 0) / span.TotalSeconds)) / 1.5;
            paceSince = System.Diagnostics.Stopwatch.GetTimestamp();
        }

        return Math.Clamp((int)(pace / 4), 2 * width, MostAhead);
    }

    /// <summary>The last claim took all that was asked for: more may be due.</summary>
    public bool MoreMayWait { get; set; }

    /// <summary>At how many messages the next claim is worth its while.</summary>
    public int Refill { get; set; }

    /// <summary>Keeps a place for a message that is about to be stored as claimed, unless that many are held.</summary>
    public bool Reserve(int most)
    {
        if (Interlocked.Increment(ref reserved) + Volatile.Read(ref held) <= most)
        {
            return true;
        }

        Release();
        return false;
    }

    /// <summary>Frees a place that was kept.</summary>
    public void Release() => Interlocked.Decrement(ref reserved);

    /// <summary>Takes a claimed message; it is begun as soon as a hand is free.</summary>
    public void Add(Line line, Claimed claimed)
    {
        width = line.Gateway.Width;
        Interlocked.Increment(ref held);
        queue.Enqueue((line, claimed));
        if (TakeHand())
        {
            _ = Task.Run(WorkAsync);
        }
    }

    /// <summary>Takes out what has not been begun.</summary>
    public IReadOnlyList<Claimed> Drain()
    {
        var left = new List<Claimed>();
        while (queue.TryDequeue(out var one))
        {
            Interlocked.Decrement(ref held);
            left.Add(one.Claimed);
        }

        return left;
    }

    private async Task WorkAsync()
    {
        do
        {
            while (queue.TryDequeue(out var next))
            {
                await send(next.Line, next.Claimed);
                Interlocked.Decrement(ref held);
                Interlocked.Increment(ref done);
            }

            Interlocked.Decrement(ref hands);
        }
        while (!queue.IsEmpty && TakeHand()); // One may have come between the last look and laying down the hand.
    }

    private bool TakeHand()
    {
        if (Interlocked.Increment(ref hands) <= width)
        {
            return true;
        }

        Interlocked.Decrement(ref hands);
        return false;
    }
}
