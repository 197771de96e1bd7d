using System.Collections.Concurrent;
using NodaTime;

namespace Sirena.Engine.Intake;

/// <summary>
/// Tells whether a request's events come as a crowd: a batch over 100, or batches that follow so close that they are as many. What comes alone never does.
/// </summary>
public sealed class Crowds(IClock clock)
{
    private const int Many = 100;
    private static readonly Duration Close = Duration.FromSeconds(10);
    private readonly ConcurrentDictionary<string, (Instant Since, int Count)> batches = [];

    /// <summary>Notes a request.</summary>
    /// <param name="source">Whose it is.</param>
    /// <param name="events">How many events it holds.</param>
    /// <returns>Whether they are a crowd's.</returns>
    public bool Note(string source, int events)
    {
        if (events <= 1)
        {
            return false;
        }

        var now = clock.GetCurrentInstant();
        return batches.AddOrUpdate(source, _ => (now, events), (_, old) => now - old.Since > Close ? (now, events) : (old.Since, old.Count + events)).Count
            > Many;
    }
}
