using System.Collections.Immutable;

namespace Sirena.Core.Orders.Fields;

/// <summary>A named, typed value of an event or its order.</summary>
/// <param name="Path">Its path in rules and wordings: <c>order.customer.group</c>.</param>
/// <param name="Type">What it holds.</param>
/// <param name="Name">Its name in a sentence: <c>the customer's group</c>.</param>
/// <param name="Choices">The words of a <see cref="FieldType.Choice"/> from low to high; else empty.</param>
public sealed record Field(string Path, FieldType Type, string Name, ImmutableArray<string> Choices)
{
    /// <summary>How a field of the lines is quantified; <see langword="null"/> for any other field.</summary>
    public LineQuantifier? Lines { get; init; }

    /// <summary>The member names from the root of the event's data (or from a line) to the value.</summary>
    public ImmutableArray<string> Members { get; init; } = [];
}

/// <summary>How the lines of an order make one value or one verdict.</summary>
public enum LineQuantifier
{
    /// <summary>At least one line holds; fails over no lines.</summary>
    Any,

    /// <summary>Every line holds; fails over no lines.</summary>
    All,

    /// <summary>No line holds; holds over no lines.</summary>
    None,

    /// <summary>The number of lines; 0 over no lines.</summary>
    Count,

    /// <summary>Σ quantity, or Σ quantity × unitPrice; 0 over no lines.</summary>
    Sum,
}
