using NodaTime;
using Sirena.Core.Deliveries;

namespace Sirena.Core.Instructions;

/// <summary>A try to hand an instruction over.</summary>
public sealed class InstructionAttempt
{
    /// <summary>The instruction.</summary>
    public Guid InstructionId { get; init; }

    /// <summary>From 1.</summary>
    public int Number { get; init; }

    /// <summary>When it began.</summary>
    public Instant At { get; init; }

    /// <summary>When it ended, or <see langword="null"/> while it has not.</summary>
    public Instant? EndedAt { get; set; }

    /// <summary>What it came to.</summary>
    public AttemptOutcome Outcome { get; set; }

    /// <summary>The HTTP status.</summary>
    public string? Code { get; set; }

    /// <summary>The far end's words, or ours.</summary>
    public string? Reply { get; set; }
}
