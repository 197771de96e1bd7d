namespace Sirena.Core.Orders;

/// <summary>An event of this business, beside those that Sirena knows, as the supervisor named it.</summary>
public sealed class EventKind
{
    /// <summary>CloudEvents <c>type</c>: <c>order.seal-broken</c>.</summary>
    public required string Type { get; init; }

    /// <summary>A short heading: Seal broken.</summary>
    public required string Name { get; set; }

    /// <summary>The clause after 'When': <c>an order's seal is broken</c>.</summary>
    public required string Phrase { get; set; }
}
