namespace Sirena.Engine.Orders;

/// <summary>A change to a status, or a new one, as it was typed.</summary>
/// <param name="Id">The status's id, or <see langword="null"/> for a new one.</param>
/// <param name="Name">Its name.</param>
/// <param name="Mark">Its mark in the design's own set.</param>
/// <param name="Kind"><c>open</c>, <c>closed</c>, <c>final</c>, or <c>void</c> for a final one in which the order came to nothing.</param>
/// <param name="Words">The order system's words, with commas, semicolons or line breaks between.</param>
/// <param name="CustomerSees">What the customer reads; empty for an internal one.</param>
/// <param name="AllowedMinutes">How long an order may stand in it, minutes as typed; empty for no limit.</param>
/// <param name="BacklogLimit">How many may stand in it that nobody has accepted, as typed; empty for no limit.</param>
public sealed record StatusEdit(
    string? Id,
    string? Name,
    string? Mark,
    string? Kind,
    string? Words,
    string? CustomerSees,
    string? AllowedMinutes,
    string? BacklogLimit = null
)
{
    /// <summary>The id of a new one; made from its name where it is <see langword="null"/>.</summary>
    public string? NewId { get; init; }

    /// <summary>The tone of its mark; empty for the one of its kind, <see langword="null"/> to leave it as it is.</summary>
    public string? Tone { get; init; }

    /// <summary>The ids of the statuses that may follow it; empty for any, <see langword="null"/> to leave them as they are.</summary>
    public string[]? Follows { get; init; }
}
