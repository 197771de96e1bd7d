using System.Text.Json.Nodes;
using NodaTime;
using Sirena.Core.Rules;

namespace Sirena.Core.Instructions;

/// <summary>Where an instruction stands. Only <see cref="Seen"/> is done.</summary>
public enum InstructionState
{
    /// <summary>It is to go, or goes.</summary>
    Asked,

    /// <summary>The order system took it.</summary>
    Taken,

    /// <summary>An event shows that it was done.</summary>
    Seen,

    /// <summary>The order system would not.</summary>
    Refused,

    /// <summary>It was taken, and nothing showed it in time; it may be seen still.</summary>
    Unseen,

    /// <summary>The order system could not be reached by its deadline.</summary>
    Failed,

    /// <summary>It was stopped before it went.</summary>
    Dropped,
}

/// <summary>For what an instruction waits before it goes.</summary>
public enum InstructionWait
{
    /// <summary>A second person's yes.</summary>
    SecondYes,

    /// <summary>A supervisor's yes, because its rule asked too often.</summary>
    Limit,

    /// <summary>The end of a pause.</summary>
    Pause,
}

/// <summary>What an order system is asked to do to one order, or to itself.</summary>
public sealed class Instruction
{
    /// <summary>How long it is tried where the source says nothing.</summary>
    public static Duration UsualDeadline { get; } = Duration.FromMinutes(15);

    /// <summary>How long an event may take to show it where the source says nothing.</summary>
    public static Duration UsualSight { get; } = Duration.FromMinutes(5);

    /// <summary>How long it waits for somebody's yes.</summary>
    public static Duration UsualPatience { get; } = Duration.FromMinutes(30);

    /// <summary>How many instructions by rules may follow from one another for one order within an hour.</summary>
    public const int LongestChain = 3;

    /// <summary>Its id, a version 7 UUID: the order system knows a repeat by it.</summary>
    public Guid Id { get; init; }

    /// <summary>Its place among all; instructions of one <see cref="Lane"/> go in this order.</summary>
    public long Seq { get; init; }

    /// <summary>The order's number, or <see langword="null"/> for one that goes to the source itself.</summary>
    public string? OrderNumber { get; init; }

    /// <summary>The source whose order system is asked.</summary>
    public required string Source { get; init; }

    /// <summary>One after the other goes what has the same: the order, or the source.</summary>
    public required string Lane { get; init; }

    /// <summary>Its kind.</summary>
    public required string Kind { get; init; }

    /// <summary>Its members, JSON.</summary>
    public required string With { get; init; }

    /// <summary>Where it stands.</summary>
    public InstructionState State { get; set; }

    /// <summary>For what it waits before it goes, or <see langword="null"/>.</summary>
    public InstructionWait? Waits { get; set; }

    /// <summary>Who asks: a person's or a rule's name, as it reads.</summary>
    public required string By { get; init; }

    /// <summary>The id of the person who asks, or <see langword="null"/> for a rule.</summary>
    public string? Person { get; init; }

    /// <summary>The rule that asks, or <see langword="null"/>.</summary>
    public string? RuleId { get; init; }

    /// <summary>Its version.</summary>
    public int? RuleVersion { get; init; }

    /// <summary>The alert from which it is asked, or <see langword="null"/>.</summary>
    public Guid? AlertId { get; init; }

    /// <summary>The event because of which it is asked, or <see langword="null"/>.</summary>
    public long? EventId { get; init; }

    /// <summary>How many instructions by rules led to it, itself among them; 0 for one by a person.</summary>
    public int Depth { get; init; }

    /// <summary>How urgent what asks for it is.</summary>
    public Urgency Urgency { get; init; }

    /// <summary>Why, in words.</summary>
    public string? Because { get; init; }

    /// <summary>Whom the event that shows it is to tell; <see langword="null"/> for whom the rules say.</summary>
    public TellChoice? Tell { get; init; }

    /// <summary>The rule only tries: it was not asked.</summary>
    public bool Trial { get; init; }

    /// <summary>When it was asked for.</summary>
    public Instant AskedAt { get; init; }

    /// <summary>The place of the order's newest event when it was asked for: only a later one can show it.</summary>
    public long OrderSeq { get; init; }

    /// <summary>When it is to go next.</summary>
    public Instant DueAt { get; set; }

    /// <summary>Until when it is tried.</summary>
    public Instant Deadline { get; set; }

    /// <summary>How long it may take to be seen.</summary>
    public Duration Sight { get; init; } = UsualSight;

    /// <summary>How long it is tried.</summary>
    public Duration Patience { get; init; } = UsualDeadline;

    /// <summary>The lease of the node that holds it.</summary>
    public Guid? Lease { get; set; }

    /// <summary>Until when.</summary>
    public Instant? LeaseUntil { get; set; }

    /// <summary>How often it was tried.</summary>
    public int Tries { get; set; }

    /// <summary>A try broke off without an end: it may have arrived twice, with the same id.</summary>
    public bool MayBeTwice { get; set; }

    /// <summary>It was given out: to a push, or to whoever fetches.</summary>
    public bool Handed { get; set; }

    /// <summary>When it was taken.</summary>
    public Instant? TakenAt { get; set; }

    /// <summary>When an event showed it.</summary>
    public Instant? SeenAt { get; set; }

    /// <summary>The event that showed it.</summary>
    public long? SeenEvent { get; set; }

    /// <summary>When it ended otherwise: refused, unseen, failed, dropped.</summary>
    public Instant? EndedAt { get; set; }

    /// <summary>The order system's words, or ours.</summary>
    public string? Words { get; set; }

    /// <summary>Who said the second yes.</summary>
    public string? ApprovedBy { get; set; }

    /// <summary>The news of its state that was made into an event last, or <see langword="null"/>.</summary>
    public InstructionState? Told { get; set; }

    /// <summary>Its members, parsed.</summary>
    public JsonObject Members => JsonNode.Parse(With) as JsonObject ?? [];

    /// <summary>It is on its way: the next of its lane waits.</summary>
    public bool UnderWay => State is InstructionState.Asked or InstructionState.Taken;

    // What the order system or an event says of it may still change how it stands.
    private bool Open => Waits is null && State is InstructionState.Asked or InstructionState.Taken or InstructionState.Unseen or InstructionState.Failed;

    /// <summary>By when it counts as unseen.</summary>
    public Instant? SightUntil => TakenAt + Sight;

    /// <summary>The event's type that tells of its state, or <see langword="null"/> for a state that needs no news.</summary>
    public string? News =>
        Trial ? null
        : State is InstructionState.Refused or InstructionState.Unseen or InstructionState.Failed or InstructionState.Dropped ? "instruction." + State.Name()
        : null;

    /// <summary>The order system took it.</summary>
    /// <returns>Whether that says anything new.</returns>
    public bool Take(Instant now, string? words)
    {
        if (Waits is not null)
        {
            return false;
        }

        var isNew = TakenAt is null && State is InstructionState.Asked or InstructionState.Failed or InstructionState.Seen;
        TakenAt ??= now;
        if (State is InstructionState.Asked or InstructionState.Failed)
        {
            (State, EndedAt, Words) = (InstructionState.Taken, null, words ?? Words);
        }

        return isNew;
    }

    /// <summary>The order system would not. What was seen was done all the same.</summary>
    /// <returns>Whether it counts.</returns>
    public bool Refuse(Instant now, string words)
    {
        if (!Open)
        {
            return false;
        }

        (State, EndedAt, Words) = (InstructionState.Refused, now, words);
        return true;
    }

    /// <summary>
    /// An event shows it, or the order system says that it is done. An event that comes before the answer counts too; what was dropped or refused was not done
    /// by this instruction.
    /// </summary>
    /// <returns>Whether it counts.</returns>
    public bool See(Instant now, long? happened)
    {
        if (!Open || (State == InstructionState.Asked && !Handed && happened is not null))
        {
            return false;
        }

        (State, SeenAt, SeenEvent, EndedAt) = (InstructionState.Seen, now, happened, null);
        return true;
    }

    /// <summary>Nothing showed it in time.</summary>
    /// <returns>Whether it counts.</returns>
    public bool Unsee(Instant now)
    {
        if (State != InstructionState.Taken || SightUntil > now)
        {
            return false;
        }

        (State, EndedAt) = (InstructionState.Unseen, now);
        return true;
    }

    /// <summary>It could not be handed over by its deadline.</summary>
    /// <returns>Whether it counts.</returns>
    public bool Fail(Instant now, string words)
    {
        if (State != InstructionState.Asked || Waits is not null)
        {
            return false;
        }

        (State, EndedAt, Words) = (InstructionState.Failed, now, words);
        return true;
    }

    /// <summary>It is stopped before it went.</summary>
    /// <returns>Whether it counts.</returns>
    public bool Drop(Instant now, string words)
    {
        if (State != InstructionState.Asked || (Waits is null && Handed))
        {
            return false;
        }

        (State, Waits, EndedAt, Words) = (InstructionState.Dropped, null, now, words);
        return true;
    }

    /// <summary>What it waited for is there: it goes.</summary>
    /// <param name="by">Who said yes, or <see langword="null"/> where a pause ended.</param>
    public bool Go(Instant now, string? by)
    {
        if (State != InstructionState.Asked || Waits is null)
        {
            return false;
        }

        (Waits, ApprovedBy, DueAt, Deadline) = (null, by, now, now + Patience);
        return true;
    }

    /// <summary>Whether another asks for the same: the same kind, and the same of what tells two of a kind apart.</summary>
    public bool Same(InstructionKind kind, JsonObject with) => Kind == kind.Name && Array.TrueForAll(kind.Tells, t => JsonNode.DeepEquals(Members[t], with[t]));
}

/// <summary>How often a rule may ask; above that an instruction waits for a supervisor's yes.</summary>
/// <param name="Times">So often.</param>
/// <param name="Within">In this span.</param>
public sealed record DoLimit(int Times, Duration Within);
