using NodaTime;

namespace Sirena.Core.Ladders;

/// <summary>The link and the reply code in one message, by which its reader answers the alert.</summary>
public sealed class AnswerLink
{
    /// <summary>How long a link works: 72 hours.</summary>
    public static Duration Lifetime { get; } = Duration.FromHours(72);

    /// <summary>SHA-256 of the link's 128 random bits.</summary>
    public required byte[] Hash { get; init; }

    /// <summary>The alert.</summary>
    public Guid AlertId { get; init; }

    /// <summary>The delivery whose message holds it.</summary>
    public Guid DeliveryId { get; init; }

    /// <summary>The reader's id, or <see langword="null"/> for one outside.</summary>
    public string? Person { get; init; }

    /// <summary>The address that the message went to; a reply code counts only from there.</summary>
    public required string Contact { get; init; }

    /// <summary>Four digits for a reply.</summary>
    public required string Code { get; init; }

    /// <summary>Until when it works.</summary>
    public Instant ExpiresAt { get; init; }
}
