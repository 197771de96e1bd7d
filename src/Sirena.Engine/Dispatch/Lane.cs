using System.Collections.Concurrent;
using Sirena.Storage.Deliveries;

namespace Sirena.Engine.Dispatch;

/// <summary>
/// A gateway's messages in this node: those that were claimed and wait for a hand, and as many hands at work as the gateway is wide. A part of the hands is for
/// urgent messages alone, so that no
/// crowd holds them up.
/// </summary>
internal sealed class Lane(Func<Line, Claimed, Task> send)
{
    private const int MostAhead = 1024;
    private readonly ConcurrentQueue<(Line Line, Claimed Claimed)> urgent = [];
    private readonly ConcurrentQueue<(Line Line, Claimed Claimed)> others = [];
    private readonly Lock counting = new();
    private long paceSince = System.Diagnostics.Stopwatch.GetTimestamp();
    private double pace;
    private int done;
    private int hands;
    private int handsOfOthers;
    private int width = 1;
    private int held;
    private int heldUrgent;
    private int reserved;

    /// <summary>Messages that are held, those that are about to be stored as claimed included.</summary>
    public int Held => Volatile.Read(ref held) + Volatile.Read(ref reserved);

    /// <summary>Urgent messages among them.</summary>
    public int HeldUrgent => Volatile.Read(ref heldUrgent);

    /// <summary>
    /// How many messages to hold: a quarter of a second's work at the pace of late, at least two rounds of the gateway's width. What waits longer is better
    /// left to other nodes.
    /// </summary>
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

    /// <summary>How many of a gateway's hands are for urgent messages alone: a quarter, none where there is but one.</summary>
    public static int ForUrgent(int width) => width < 2 ? 0 : Math.Max(1, width / 4);

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
        Volatile.Write(ref width, line.Gateway.Width);
        Interlocked.Increment(ref held);
        if (claimed.Urgent)
        {
            Interlocked.Increment(ref heldUrgent);
        }

        (claimed.Urgent ? urgent : others).Enqueue((line, claimed));
        _ = Begin();
    }

    /// <summary>Takes out what has not been begun.</summary>
    public IReadOnlyList<Claimed> Drain()
    {
        var left = new List<Claimed>();
        while (urgent.TryDequeue(out var next) || others.TryDequeue(out next))
        {
            Let(next.Claimed);
            left.Add(next.Claimed);
        }

        return left;
    }

    // A hand that is free takes an urgent message first; the last hands take nothing else.
    private bool Begin()
    {
        (Line Line, Claimed Claimed) next;
        lock (counting)
        {
            var wide = Volatile.Read(ref width);
            if (hands >= wide || !(urgent.TryDequeue(out next) || (handsOfOthers < wide - ForUrgent(wide) && others.TryDequeue(out next))))
            {
                return false;
            }

            hands++;
            handsOfOthers += next.Claimed.Urgent ? 0 : 1;
        }

        _ = Task.Run(() => WorkAsync(next.Line, next.Claimed));
        return true;
    }

    private async Task WorkAsync(Line line, Claimed claimed)
    {
        await send(line, claimed);
        Let(claimed);
        Interlocked.Increment(ref done);
        lock (counting)
        {
            hands--;
            handsOfOthers -= claimed.Urgent ? 0 : 1;
        }

        while (Begin()) { }
    }

    private void Let(Claimed claimed)
    {
        Interlocked.Decrement(ref held);
        if (claimed.Urgent)
        {
            Interlocked.Decrement(ref heldUrgent);
        }
    }
}
