using System.Collections.Immutable;
using NodaTime;

namespace Sirena.Core.Deliveries;

/// <summary>
/// What is known of a gateway from how its last messages went: whether it works, and when it is tried again. It fails when it says so itself, when it puts off
/// three different messages or one for a minute,
/// refuses three different addresses, or breaks off twice, with nothing taken in between.
/// </summary>
public sealed record GatewayHealth
{
    private const int SeveralMessages = 3;
    private const int BrokenOff = 2;
    private static readonly Duration LongestRest = Duration.FromDays(1);
    private static readonly Duration LongPutOff = Duration.FromSeconds(60);
    private static readonly ImmutableArray<Duration> Pauses =
    [
        Duration.FromSeconds(5),
        Duration.FromSeconds(20),
        Duration.FromMinutes(1),
        Duration.FromMinutes(5),
    ];

    /// <summary>How many different messages try it when a pause is over.</summary>
    public const int TrialsAtOnce = 3;

    /// <summary>A gateway of which nothing is known yet.</summary>
    public static GatewayHealth New { get; } = new();

    /// <summary>Since when it fails, or <see langword="null"/> while it works.</summary>
    public Instant? FailingSince { get; init; }

    /// <summary>Why, in its own words where it had any.</summary>
    public string? Because { get; init; }

    /// <summary>When it is tried again, while it fails.</summary>
    public Instant RetryAt { get; init; }

    /// <summary>Until when it asked to be left alone (Retry-After); other gateways are used meanwhile.</summary>
    public Instant RestsUntil { get; init; }

    /// <summary>It has taken a message since its settings last changed.</summary>
    public bool Passes { get; init; }

    /// <summary>Messages that may still try it before the next pause.</summary>
    public int TrialsLeft { get; init; }

    /// <summary>
    /// The messages whose addresses it refused since it last took one, by address: they were believed, and are sent again when it turns out to refuse
    /// everybody.
    /// </summary>
    public ImmutableDictionary<string, Guid> Refused { get; init; } = ImmutableDictionary<string, Guid>.Empty;

    /// <summary>Since when it puts a message off with nothing taken in between, or <see langword="null"/>.</summary>
    public Instant? PutOffSince(Guid message) => PutOff.TryGetValue(message, out var since) ? since : null;

    private ImmutableDictionary<Guid, Instant> PutOff { get; init; } = ImmutableDictionary<Guid, Instant>.Empty;

    private int Breaks { get; init; }

    private int Failures { get; init; }

    /// <summary>It works, as far as is known.</summary>
    public bool Works => FailingSince is null;

    /// <summary>Whether a refused address is to be believed: it has taken messages, and this is the first that it refuses since.</summary>
    public bool Believed(string address) => Passes && (Refused.IsEmpty || (Refused.Count == 1 && Refused.ContainsKey(Key(address))));

    /// <summary>It failed and the pause is over: up to three messages try it, the others go on to the next.</summary>
    /// <returns>The health after one more has gone to try it; <see langword="null"/> when none may.</returns>
    public GatewayHealth? Tried(Instant now) =>
        Works ? null
        : now >= RetryAt ? this with { TrialsLeft = TrialsAtOnce - 1, RetryAt = now + Pause(Failures) }
        : TrialsLeft > 0 ? this with { TrialsLeft = TrialsLeft - 1 }
        : null;

    /// <summary>Its settings changed: it is tried at once, and what it refused before says nothing.</summary>
    public GatewayHealth Changed() =>
        this with
        {
            RetryAt = Instant.MinValue,
            TrialsLeft = 0,
            Passes = false,
            Refused = Refused.Clear(),
            PutOff = PutOff.Clear(),
            Breaks = 0,
        };

    /// <summary>After a message.</summary>
    /// <param name="message">The message.</param>
    /// <param name="address">Its address.</param>
    /// <param name="result">What the far end said.</param>
    /// <param name="now">When.</param>
    public GatewayHealth After(Guid message, string address, HandOver result, Instant now)
    {
        if (result.Outcome == AttemptOutcome.Accepted)
        {
            return New with { Passes = true };
        }

        if (result.RetryAfter is { } wait)
        {
            // It works, and says when it will take more.
            return this with { RestsUntil = now + Duration.Min(wait, LongestRest) };
        }

        switch (result.Blame)
        {
            case Blame.Gateway:
                return Fails(result.Reply, now);
            case Blame.Size or Blame.Content or Blame.Policy:
                // It answers as one that works: what it does not like is this message.
                return Works ? this : New with { Passes = Passes };
            case Blame.Address:
                var refused = this with { Refused = Refused.SetItem(Key(address), message) };
                return refused.Refused.Count < SeveralMessages
                    ? (Works || !Passes ? refused : refused with { FailingSince = null, Because = null, Failures = 0 })
                    : refused.Fails($"it refuses everybody: {result.Reply}", now);
            case Blame.Mailbox:
                var putOff = PutOff.TryGetValue(message, out var since) ? PutOff : PutOff.Add(message, since = now);
                var waited = this with { PutOff = putOff };
                return putOff.Count >= SeveralMessages || now - since >= LongPutOff ? waited.Fails($"it puts messages off: {result.Reply}", now)
                    : Works ? waited
                    : waited.Fails(Because ?? result.Reply, now);
        }

        // It broke off while the message went over: whether it arrived is not known.
        return Works && Breaks + 1 < BrokenOff ? this with { Breaks = Breaks + 1 } : Fails(result.Reply, now);
    }

    private GatewayHealth Fails(string because, Instant now)
    {
        // Three messages that try it at once are one failure.
        var failures = Works || TrialsLeft < TrialsAtOnce - 1 || Failures == 0 ? Failures + 1 : Failures;
        return this with { FailingSince = FailingSince ?? now, Because = because, Failures = failures, RetryAt = now + Pause(failures), Breaks = 0 };
    }

    private static Duration Pause(int failures) => Pauses[Math.Clamp(failures, 1, Pauses.Length) - 1];

    private static string Key(string address) => address.ToLowerInvariant();
}
