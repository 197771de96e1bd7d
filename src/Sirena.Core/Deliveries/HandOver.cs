using NodaTime;

namespace Sirena.Core.Deliveries;

/// <summary>What the far end said to a try.</summary>
/// <param name="Outcome">What it means.</param>
/// <param name="Code">Its code, the enhanced one after a space where given (RFC 3463), or <see langword="null"/> when nothing was said.</param>
/// <param name="Reply">Its words, or ours where it said nothing.</param>
/// <param name="FarId">The far end's id of the message, by which its receipts name it; <see langword="null"/> when it gave none.</param>
/// <param name="Landed">The far end confirmed on the same connection that it reached its reader.</param>
public sealed record HandOver(AttemptOutcome Outcome, string? Code, string Reply, string? FarId = null, bool Landed = false)
{
    /// <summary>Whose fault it is that it was not taken.</summary>
    public Blame Blame { get; init; } =
        Outcome switch
        {
            AttemptOutcome.Gateway => Blame.Gateway,
            AttemptOutcome.Permanent => Blame.Address,
            AttemptOutcome.Temporary => Blame.Mailbox,
            _ => Blame.None,
        };

    /// <summary>How long the far end asks to wait before the next try (RFC 9110, 10.2.3), or <see langword="null"/>.</summary>
    public Duration? RetryAfter { get; init; }

    /// <summary>The verdict: where the delivery stands after this try.</summary>
    /// <param name="tries">Tries so far, this one included; at least 1.</param>
    /// <param name="endedAt">When the try ended.</param>
    /// <param name="deadline">From when on the message would be of no use.</param>
    /// <param name="spread">Where in the jitter this delivery falls, from -1 to 1.</param>
    public Verdict After(int tries, Instant endedAt, Instant deadline, double spread)
    {
        switch (Outcome)
        {
            case AttemptOutcome.Accepted:
                return new Verdict(Landed ? DeliveryState.Landed : DeliveryState.HandedOver, null, endedAt);
            case AttemptOutcome.Permanent:
                return new Verdict(DeliveryState.Failed, $"refused for good: {Reply}", endedAt);
            default:
                var usual = RetrySchedule.Default.NextTry(tries, endedAt, deadline, spread);
                var asked = RetryAfter is { } wait ? Instant.Min(endedAt + wait, deadline - Duration.FromSeconds(1)) : (Instant?)null;
                return (usual is { } soon && asked is { } later ? Instant.Max(soon, later) : usual) is { } next
                    ? new Verdict(DeliveryState.Waiting, $"{(Outcome == AttemptOutcome.Gateway ? "the gateway could not be used" : "not now")}: {Reply}", next)
                    : new Verdict(DeliveryState.Expired, $"gave up after {tries} {(tries == 1 ? "try" : "tries")}: {Reply}", endedAt);
        }
    }
}

/// <summary>Where a delivery stands after a try.</summary>
/// <param name="State">Handed over, failed, expired, or waiting for another try.</param>
/// <param name="Reason">Why, in plain words with the far end's own behind them.</param>
/// <param name="DueAt">When it is tried next, where it waits.</param>
public sealed record Verdict(DeliveryState State, string? Reason, Instant DueAt);
