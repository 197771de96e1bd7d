using Sirena.Engine;

namespace Sirena.Web.Live;

/// <summary>Tells every open page that something is different, once for many changes.</summary>
public sealed class LiveFeed
{
    private TaskCompletionSource next = new(TaskCreationOptions.RunContinuationsAsynchronously);

    /// <summary>A feed of this node's and the other nodes' news.</summary>
    public LiveFeed(Signals signals) => signals.Woken += _ => Interlocked.Exchange(ref next, new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously)).TrySetResult();

    /// <summary>Ends at the next change.</summary>
    public Task Next => next.Task;
}
