using System.Collections.Immutable;
using System.Text.Json;
using NodaTime;
using NodaTime.Text;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Rules;

/// <summary>The value side of a condition: reads what the rule wants and what the event has into the same types.</summary>
internal static class Operand
{
    /// <summary>Reads a leaf's value for a field.</summary>
    /// <returns>One sentence on the mistake, or <see langword="null"/>.</returns>
    public static string? Read(ConditionLeaf leaf, Field field, out ImmutableArray<object> wanted)
    {
        wanted = [];
        var op = leaf.Is;
        if (op.TakesNothing())
        {
            return leaf.Value.ValueKind == JsonValueKind.Undefined ? null : $"'{op.Name()}' takes no value.";
        }

        if (leaf.Value.ValueKind is JsonValueKind.Undefined or JsonValueKind.Null)
        {
            return $"'{op.Name()}' needs a value. To ask whether a field is there, use present or missing.";
        }

        if (op.TakesList() != (leaf.Value.ValueKind == JsonValueKind.Array))
        {
            return op.TakesList() ? $"'{op.Name()}' needs a list of values: [a, b]." : $"'{op.Name()}' takes one value, not a list.";
        }

        var values = op.TakesList() ? leaf.Value.EnumerateArray().ToArray() : [leaf.Value];
        if (values.Length == 0 || (op == Operator.Between && values.Length != 2))
        {
            return op == Operator.Between ? "'between' needs two values: [from, to]." : $"'{op.Name()}' needs at least one value.";
        }

        return ReadAll(leaf, field, values, out wanted);
    }

    /// <summary>The field that a leaf compares its own with.</summary>
    /// <returns>The field, or one sentence on the mistake.</returns>
    public static (Field? Field, string? Problem) Other(ConditionLeaf leaf, Field field, string with)
    {
        if (leaf.Is is not (Operator.Equal or Operator.NotEqual or Operator.AtLeast or Operator.AtMost or Operator.MoreThan or Operator.LessThan))
        {
            return (null, $"'{leaf.Is.Name()}' takes no field to compare with: use equal, not-equal, at-least, at-most, more-than or less-than.");
        }

        if (FieldCatalogue.Find(with) is not { } other)
        {
            return (
                null,
                $"There is no field '{with}'.{Closest.Hint(with, FieldCatalogue.All.Select(f => f.Path))} Members of your own are under order.extra "
                    + "and event.extra."
            );
        }

        var single =
            other.Lines is not (LineQuantifier.Any or LineQuantifier.All or LineQuantifier.None) && other.Type is not (FieldType.List or FieldType.Thing);
        var fits =
            other.Type == field.Type
            || other.Type == FieldType.Any
            || field.Type == FieldType.Any
            || (other.Type is FieldType.Text or FieldType.Choice && field.Type == FieldType.Text);
        return single && fits
            ? (other, null)
            : (null, $"{field.Path} is {Question.Noun(field.Type)} and {other.Path} is {Question.Noun(other.Type)}: these two are not compared.");
    }

    private static string? ReadAll(ConditionLeaf leaf, Field field, JsonElement[] values, out ImmutableArray<object> wanted)
    {
        wanted = [];
        var made = ImmutableArray.CreateBuilder<object>(values.Length);
        foreach (var value in values)
        {
            if (leaf.Is == Operator.Matches)
            {
                try
                {
                    made.Add(Question.Pattern(value.ToString(), leaf.Exactly));
                    continue;
                }
                catch (ArgumentException e)
                {
                    return $"'{value}' is not a regular expression: {e.Message}";
                }
            }

            if (Convert(value, field, currency: null) is not { } one)
            {
                return $"'{Facts.InWords(value)}' is not {Shape(field)}, which {field.Path} is compared with.";
            }

            made.Add(one);
        }

        wanted = made.ToImmutable();
        return null;
    }

    /// <summary>A JSON value as the field's type, or <see langword="null"/> when it is none. Money without a currency of its own stays a bare number.</summary>
    public static object? Convert(JsonElement value, Field field, string? currency) =>
        field.Type switch
        {
            FieldType.Text or FieldType.List => value.ValueKind is JsonValueKind.String or JsonValueKind.Number or JsonValueKind.True or JsonValueKind.False
                ? Facts.InWords(value)
                : null,
            FieldType.Number => Facts.Decimal(value),
            FieldType.Money => Money(value, currency),
            FieldType.Time => value.ValueKind == JsonValueKind.String ? Facts.Time(value.GetString()) : null,
            FieldType.Duration => Duration(value),
            FieldType.YesNo => value.ValueKind is JsonValueKind.True or JsonValueKind.False ? value.GetBoolean() : null,
            FieldType.Choice => Choice(value, field),
            _ => value.ValueKind switch
            {
                JsonValueKind.String => value.GetString(),
                JsonValueKind.Number => Facts.Decimal(value),
                JsonValueKind.True or JsonValueKind.False => value.GetBoolean(),
                _ => null,
            },
        };

    private static object? Money(JsonElement value, string? currency)
    {
        if (value.ValueKind == JsonValueKind.Object)
        {
            return
                Facts.Decimal(Facts.Member(value, "amount")) is { } amount
                && Facts.Member(value, "currency") is { ValueKind: JsonValueKind.String } c
                && Orders.Money.IsCurrency(c.GetString())
                ? new Money(amount, c.GetString()!)
                : null;
        }

        return Facts.Decimal(value) is { } bare
            ? currency is null
                ? bare
                : new Money(bare, currency)
            : null;
    }

    private static object? Duration(JsonElement value) => value.ValueKind == JsonValueKind.String ? Durations.Parse(value.GetString()!) : null;

    private static object? Choice(JsonElement value, Field field)
    {
        var index = value.ValueKind == JsonValueKind.String ? field.Choices.IndexOf(value.GetString()!.Trim().ToLowerInvariant()) : -1;
        return index < 0 ? null : index;
    }

    private static string Shape(Field field) =>
        field.Type switch
        {
            FieldType.Choice => $"one of {string.Join(", ", field.Choices)}",
            FieldType.Time => "a time such as 2026-11-24T15:30:00Z",
            FieldType.Duration => "a duration such as PT2H",
            FieldType.Money => "an amount such as 500 or { amount: 500, currency: EUR }",
            var other => Question.Noun(other),
        };
}
