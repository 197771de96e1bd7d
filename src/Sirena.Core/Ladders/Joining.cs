using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Rules;

namespace Sirena.Core.Ladders;

/// <summary>What a match becomes beside the alerts that its rule and order already have.</summary>
/// <param name="Outcome">Matched, joined, resting or too late.</param>
/// <param name="Tells">Somebody is told now: always for a match, and for a join whose case changed or whose urgency rose.</param>
/// <param name="Alert">The alert that is joined, or <see langword="null"/>.</param>
public sealed record Joining(Outcome Outcome, bool Tells, Alert? Alert)
{
    /// <summary>Decides it.</summary>
    /// <param name="match">A decision whose outcome is matched.</param>
    /// <param name="happened">The event.</param>
    /// <param name="latest">The newest alert of the same rule and order, or <see langword="null"/>.</param>
    /// <param name="now">The moment of deciding.</param>
    public static Joining Of(Decision match, OrderEvent happened, Alert? latest, Instant now)
    {
        var limit = match.Case!.NotOlderThan ?? match.Rule.Urgency.NotOlderThan();
        if (now - happened.Time > limit)
        {
            return new Joining(Outcome.TooLate, false, null);
        }

        // One that lapsed is open again: a new reason is a new chance.
        if (latest is { Ended: false })
        {
            return new Joining(
                Outcome.Joined,
                latest.State == AlertState.Lapsed || latest.Case != match.Case.Name || match.Rule.Urgency > latest.Urgency,
                latest
            );
        }

        return latest?.EndedAt is { } ended && now - ended < match.Rule.Rest
            ? new Joining(Outcome.Resting, false, null)
            : new Joining(Outcome.Matched, true, null);
    }
}
