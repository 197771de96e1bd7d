using NodaTime;

namespace Sirena.Core.Deliveries;

/// <summary>Something that is done again and again: upkeep, an echo, a summary. A row that nodes claim like a step.</summary>
public sealed class Schedule
{
    /// <summary>What is done, and for what, joined by a colon: <c>upkeep</c>, <c>echo</c>, <c>summary:weekly:odile.varga@averilquay.example</c>.</summary>
    public required string Id { get; init; }

    /// <summary>When, as a cron expression in the business's time zone; five members.</summary>
    public required string Cron { get; set; }

    /// <summary>When it is due.</summary>
    public Instant NextAt { get; set; }

    /// <summary>When it was last done.</summary>
    public Instant? LastAt { get; set; }

    /// <summary>Until when a node holds it.</summary>
    public Instant? LeaseUntil { get; set; }
}
