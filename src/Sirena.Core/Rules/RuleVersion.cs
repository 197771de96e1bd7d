using NodaTime;

namespace Sirena.Core.Rules;

/// <summary>A rule's document as it was saved, and the versions of the rule book in which it is in force.</summary>
public sealed class RuleVersion
{
    /// <summary>The rule's id.</summary>
    public required string RuleId { get; init; }

    /// <summary>From 1.</summary>
    public int Version { get; init; }

    /// <summary>The rule's name in it.</summary>
    public required string Name { get; init; }

    /// <summary>The document, JSON as in the contract.</summary>
    public required string Document { get; init; }

    /// <summary>The first version of the book that has it.</summary>
    public long BookFrom { get; init; }

    /// <summary>The first version of the book that has it no more, or <see langword="null"/> while it is in force.</summary>
    public long? BookTo { get; set; }

    /// <summary>When it was saved.</summary>
    public Instant SavedAt { get; init; }

    /// <summary>The name of whoever saved it.</summary>
    public required string SavedBy { get; init; }

    /// <summary>Why, in their words, or <see langword="null"/>.</summary>
    public string? Note { get; init; }

    /// <summary>Until when the rule is off in this version; then it goes on by itself. <see langword="null"/> when it is on, or off for good.</summary>
    public Instant? OffUntil { get; init; }
}

/// <summary>A rule's verdict on an event that it matched; those that did not match are computed again when somebody asks.</summary>
public sealed class Match
{
    /// <summary>The event.</summary>
    public long EventId { get; init; }

    /// <summary>The rule's id.</summary>
    public required string RuleId { get; init; }

    /// <summary>Its version.</summary>
    public int Version { get; init; }

    /// <summary>The case used.</summary>
    public required string Case { get; init; }

    /// <summary>Matched, joined, resting or too late.</summary>
    public Outcome Outcome { get; init; }

    /// <summary>The alert that it raised or joined, or <see langword="null"/>.</summary>
    public Guid? AlertId { get; init; }

    /// <summary>When it was decided.</summary>
    public Instant At { get; init; }

    /// <summary>When a match that came too late was told to the supervisors, gathered with others.</summary>
    public Instant? NoticedAt { get; set; }
}
