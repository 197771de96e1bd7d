using NodaTime;

namespace Sirena.Engine;

/// <summary>What was read of the settings: kept for a span, and never past a change that this node made or heard of.</summary>
/// <typeparam name="T">What was read.</typeparam>
public sealed class SetupKept<T>
    where T : class
{
    private readonly Lock gate = new();
    private readonly IClock clock;
    private readonly Duration age;
    private Kept? kept;
    private int changes;

    /// <summary>Nothing is kept yet.</summary>
    /// <param name="signals">It forgets on every signal of <see cref="Topic.Setup"/>.</param>
    /// <param name="clock">The clock.</param>
    /// <param name="age">How long it counts as fresh.</param>
    public SetupKept(Signals signals, IClock clock, Duration age)
    {
        (this.clock, this.age) = (clock, age);
        signals.Woken += Forget;
    }

    /// <summary>What was read last, however long ago; <see langword="null"/> where nothing was read since the last change.</summary>
    public T? Last => kept?.Value;

    /// <summary>The same while it is fresh.</summary>
    public T? Fresh => kept is { } last && clock.GetCurrentInstant() - last.At < age ? last.Value : null;

    /// <summary>The moment at which a reading begins.</summary>
    public (int Changes, Instant At) Begin() => (Volatile.Read(ref changes), clock.GetCurrentInstant());

    /// <summary>Keeps what was read, unless something was changed since the reading began.</summary>
    /// <returns>What was read.</returns>
    public T Keep(T value, (int Changes, Instant At) begun)
    {
        lock (gate)
        {
            kept = changes == begun.Changes ? new Kept(value, begun.At) : kept;
        }

        return value;
    }

    private void Forget(Topic topic)
    {
        if (topic != Topic.Setup)
        {
            return;
        }

        lock (gate)
        {
            changes++;
            kept = null;
        }
    }

    private sealed record Kept(T Value, Instant At);
}
