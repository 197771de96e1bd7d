using System.Globalization;
using Sirena.Engine;

namespace Sirena.Web.Live;

/// <summary>Tells every open page that something is different, once for many changes.</summary>
public sealed class LiveFeed
{
    private readonly string node = Guid.NewGuid().ToString("N")[..8];
    private TaskCompletionSource next = new(TaskCreationOptions.RunContinuationsAsynchronously);
    private long number;

    /// <summary>A feed of this node's and the other nodes' news.</summary>
    public LiveFeed(Signals signals) =>
        signals.Woken += topic =>
        {
            // That events wait or deliveries are due is nobody's news; what became of them is.
            if (topic is not (Topic.Pages or Topic.Setup))
            {
                return;
            }

            Interlocked.Increment(ref number);
            Interlocked.Exchange(ref next, new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously)).TrySetResult();
        };

    /// <summary>Ends at the next change.</summary>
    public Task Next => next.Task;

    /// <summary>How far the news are. A page carries the stamp of when it was drawn; one that differs from the stream's has missed something.</summary>
    public string Stamp => string.Create(CultureInfo.InvariantCulture, $"{node}.{Interlocked.Read(ref number)}");
}
