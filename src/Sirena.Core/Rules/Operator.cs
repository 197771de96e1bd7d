using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Rules;

/// <summary>What a condition asks of a field.</summary>
public enum Operator
{
    /// <summary>The same value.</summary>
    Equal,

    /// <summary>There, and another value.</summary>
    NotEqual,

    /// <summary>Text: a part of it. List: one of its members.</summary>
    Contains,

    /// <summary>Text that begins so.</summary>
    StartsWith,

    /// <summary>One of the given values.</summary>
    OneOf,

    /// <summary>There, and none of the given values.</summary>
    NoneOf,

    /// <summary>A regular expression finds something; 50 ms at most.</summary>
    Matches,

    /// <summary>≥.</summary>
    AtLeast,

    /// <summary>≤.</summary>
    AtMost,

    /// <summary>&gt;.</summary>
    MoreThan,

    /// <summary>&lt;.</summary>
    LessThan,

    /// <summary>From the first value to the second, both included.</summary>
    Between,

    /// <summary>A list that has one of the given texts.</summary>
    ContainsAny,

    /// <summary>A list that has all of the given texts.</summary>
    ContainsAll,

    /// <summary>A list with no members.</summary>
    Empty,

    /// <summary>The field is there.</summary>
    Present,

    /// <summary>The field is not there.</summary>
    Missing,

    /// <summary>The field is another one than before the event.</summary>
    Changed,
}

/// <summary>Which operators work on which type, and what they take.</summary>
public static class Operators
{
    private static readonly Operator[] Always = [Operator.Present, Operator.Missing, Operator.Changed];

    private static readonly Operator[] Text =
    [
        Operator.Equal,
        Operator.NotEqual,
        Operator.Contains,
        Operator.StartsWith,
        Operator.OneOf,
        Operator.NoneOf,
        Operator.Matches,
    ];

    private static readonly Operator[] Ordered =
    [
        Operator.Equal,
        Operator.NotEqual,
        Operator.AtLeast,
        Operator.AtMost,
        Operator.MoreThan,
        Operator.LessThan,
        Operator.Between,
        Operator.OneOf,
    ];

    private static readonly Operator[] Lists = [Operator.Contains, Operator.ContainsAny, Operator.ContainsAll, Operator.Empty];

    /// <summary>The operators of a type, the common ones last.</summary>
    public static IReadOnlyList<Operator> For(FieldType type) =>
        type switch
        {
            FieldType.Text => [.. Text, .. Always],
            FieldType.Number or FieldType.Money or FieldType.Time or FieldType.Duration or FieldType.Choice => [.. Ordered, .. Always],
            FieldType.YesNo => [Operator.Equal, Operator.NotEqual, .. Always],
            FieldType.List => [.. Lists, .. Always],
            FieldType.Thing => Always,
            _ => [.. Text.Union(Ordered).Union(Lists), .. Always],
        };

    /// <summary>The operator takes no value.</summary>
    public static bool TakesNothing(this Operator op) => op is Operator.Present or Operator.Missing or Operator.Changed or Operator.Empty;

    /// <summary>The operator takes a list of values.</summary>
    public static bool TakesList(this Operator op) =>
        op is Operator.OneOf or Operator.NoneOf or Operator.ContainsAny or Operator.ContainsAll or Operator.Between;

    /// <summary>How a sentence says it: <c>is at least</c>.</summary>
    public static string Phrase(this Operator op) =>
        op switch
        {
            Operator.Equal => "is",
            Operator.NotEqual => "is not",
            Operator.Contains => "contains",
            Operator.StartsWith => "starts with",
            Operator.OneOf => "is one of",
            Operator.NoneOf => "is none of",
            Operator.Matches => "matches",
            Operator.AtLeast => "is at least",
            Operator.AtMost => "is at most",
            Operator.MoreThan => "is more than",
            Operator.LessThan => "is less than",
            Operator.Between => "is between",
            Operator.ContainsAny => "contains any of",
            Operator.ContainsAll => "contains all of",
            Operator.Empty => "is empty",
            Operator.Present => "is there",
            Operator.Missing => "is missing",
            _ => "has changed",
        };
}
