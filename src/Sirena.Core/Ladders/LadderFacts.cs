using NodaTime;

namespace Sirena.Core.Ladders;

/// <summary>What the times of an alert's steps are computed from.</summary>
/// <param name="Ladder">The steps of its case.</param>
/// <param name="Due">When its order is due, or <see langword="null"/>.</param>
/// <param name="Pull">Its rule pulls steps forward to the due time.</param>
/// <param name="Hours">The hours of work that hold for a step.</param>
public sealed record LadderFacts(IReadOnlyList<LadderStep> Ladder, Instant? Due, bool Pull, Func<LadderStep, WorkingHours> Hours)
{
    /// <summary>No ladder: nothing is timed by it.</summary>
    public static LadderFacts None { get; } = new([], null, true, _ => throw new InvalidOperationException("Without a ladder no step has hours."));
}
