namespace Sirena.Core.Orders.Fields;

/// <summary>What a field holds; decides which operators work on it.</summary>
public enum FieldType
{
    /// <summary>Words; compared without regard to case or accents unless asked.</summary>
    Text,

    /// <summary>A decimal number.</summary>
    Number,

    /// <summary>A decimal amount in the order's currency.</summary>
    Money,

    /// <summary>An instant, RFC 3339.</summary>
    Time,

    /// <summary>A length of time, ISO 8601.</summary>
    Duration,

    /// <summary>True or false.</summary>
    YesNo,

    /// <summary>One of a few words that have an order: low, medium, high.</summary>
    Choice,

    /// <summary>Several texts.</summary>
    List,

    /// <summary>A member with members of its own; it is there or not.</summary>
    Thing,

    /// <summary>Whatever the event carries; the value itself says its type.</summary>
    Any,
}
