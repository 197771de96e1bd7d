using System.Collections.Immutable;
using System.Text.Json;

namespace Sirena.Core.Rules;

/// <summary>What must hold for a rule or a case: one question to a field, or a group of conditions.</summary>
public abstract record Condition
{
    /// <summary>Every question in it, in reading order.</summary>
    public abstract IEnumerable<ConditionLeaf> Leaves { get; }
}

/// <summary>How a group makes one verdict of many.</summary>
public enum Grouping
{
    /// <summary>Every condition holds.</summary>
    All,

    /// <summary>At least one holds.</summary>
    Any,

    /// <summary>Not one holds.</summary>
    None,
}

/// <summary>Conditions that are taken together.</summary>
public sealed record ConditionGroup(Grouping Grouping, ImmutableArray<Condition> Items) : Condition
{
    /// <inheritdoc/>
    public override IEnumerable<ConditionLeaf> Leaves => Items.SelectMany(i => i.Leaves);
}

/// <summary>One question to one field.</summary>
/// <param name="Field">The field's path.</param>
/// <param name="Is">The operator.</param>
/// <param name="Value">The value it is compared with, JSON, or the field: <c>{ field: … }</c>; undefined where the operator takes none.</param>
/// <param name="Exactly">Text is compared letter by letter, with case and accents.</param>
public sealed record ConditionLeaf(string Field, Operator Is, JsonElement Value, bool Exactly = false) : Condition
{
    /// <inheritdoc/>
    public override IEnumerable<ConditionLeaf> Leaves => [this];

    /// <summary>
    /// The path of the field that it is compared with (<c>value: { field: stock.threshold }</c>), or <see langword="null"/> where the value stands in the rule.
    /// </summary>
    public string? With =>
        Value.ValueKind == JsonValueKind.Object
        && Value.TryGetProperty("field", out var other)
        && other.ValueKind == JsonValueKind.String
        && Value.EnumerateObject().Count() == 1
            ? other.GetString()
            : null;

    /// <summary>Whether the text is its value, or one of its values.</summary>
    public bool Wants(string text) => Value.ValueKind != JsonValueKind.Undefined && Value.GetRawText().Contains($"\"{text}\"", StringComparison.Ordinal);
}
