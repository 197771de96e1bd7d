using NodaTime;

namespace Sirena.Engine;

/// <summary>What has changed and who may want to wake up.</summary>
public enum Topic
{
    /// <summary>Events were taken in.</summary>
    Events,

    /// <summary>Bodies of calls wait to be read.</summary>
    Arrivals,

    /// <summary>Deliveries are due.</summary>
    Deliveries,

    /// <summary>Instructions are due.</summary>
    Instructions,

    /// <summary>Rules, people or settings were changed.</summary>
    Setup,

    /// <summary>Something on the pages is different.</summary>
    Pages,
}

/// <summary>Wakes up this node's workers at once, and through <see cref="NodeNews"/> those of other nodes a little later.</summary>
public sealed class Signals
{
    private readonly Lock gate = new();
    private readonly Dictionary<Topic, TaskCompletionSource> waiting = [];
    private readonly HashSet<Topic> fresh = [];

    /// <summary>Raised on every signal of this node, not on those that came from others.</summary>
    public event Action<Topic>? Raised;

    /// <summary>Raised on every signal, whichever node it came from.</summary>
    public event Action<Topic>? Woken;

    /// <summary>Something of this node's doing: wakes up own workers and tells the other nodes.</summary>
    public void Raise(Topic topic)
    {
        Wake(topic);
        Raised?.Invoke(topic);
    }

    /// <summary>Wakes up own workers only.</summary>
    public void Wake(Topic topic)
    {
        Woken?.Invoke(topic);
        lock (gate)
        {
            if (waiting.Remove(topic, out var source))
            {
                source.TrySetResult();
            }
            else
            {
                fresh.Add(topic);
            }
        }
    }

    /// <summary>Waits for a signal or for the span to pass. One that came since the last wait ends it at once. A topic has one waiter.</summary>
    public async Task WaitAsync(Topic topic, Duration atMost, CancellationToken cancel)
    {
        TaskCompletionSource source;
        lock (gate)
        {
            if (fresh.Remove(topic))
            {
                return;
            }

            source = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
            waiting[topic] = source;
        }

        await Task.WhenAny(source.Task, Task.Delay(atMost.ToTimeSpan(), cancel));
        cancel.ThrowIfCancellationRequested();
    }
}
