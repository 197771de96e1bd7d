using System.Collections.Concurrent;
using NodaTime;

namespace Sirena.Engine.Intake;

/// <summary>A call to the door for events that was not taken.</summary>
/// <param name="At">When it came.</param>
/// <param name="From">From which address.</param>
/// <param name="Status">What it was answered, such as 401.</param>
/// <param name="Problem">What was wrong.</param>
/// <param name="Way">The way out.</param>
/// <param name="Body">The begin of what came with a key that is known; empty for any other.</param>
public sealed record RefusedCall(Instant At, string From, int Status, string Problem, string Way, string Body);

/// <summary>The last calls to the door for events that this node did not take, for whoever connects an order system. They are kept in memory only.</summary>
public sealed class RefusedCalls
{
    /// <summary>How many are kept.</summary>
    public const int Most = 12;

    /// <summary>How many characters of a body are kept.</summary>
    public const int MostBody = 600;

    private readonly ConcurrentQueue<RefusedCall> calls = new();

    /// <summary>The newest first.</summary>
    public IReadOnlyList<RefusedCall> Newest => [.. calls.Reverse()];

    /// <summary>Notes one; the oldest beyond <see cref="Most"/> is forgotten.</summary>
    public void Note(RefusedCall call)
    {
        calls.Enqueue(call);
        while (calls.Count > Most)
        {
            calls.TryDequeue(out _);
        }
    }
}
