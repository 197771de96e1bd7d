using System.Text.Json;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Rules;

public sealed partial class Question
{
    /// <summary>
    /// The values of which the field must have one for the question to hold, for an index: folded texts, numbers, yes or no, places in a choice.
    /// <see langword="null"/> where the
    /// operator asks for no equality. A field that has none of them fails the question; one that has some may still fail it.
    /// </summary>
    internal (Field Field, IReadOnlyCollection<object> Keys)? Equalities()
    {
        var asks = field.Type switch
        {
            _ when other is not null => false,
            _ when field.Lines is not (null or LineQuantifier.Any or LineQuantifier.Count) => false,
            FieldType.Text or FieldType.Choice or FieldType.YesNo or FieldType.Number or FieldType.Any => leaf.Is is Operator.Equal or Operator.OneOf,
            FieldType.List => leaf.Is is Operator.Contains or Operator.ContainsAny or Operator.ContainsAll,
            _ => false,
        };
        return asks
            ? (field, [.. wanted.Take(leaf.Is == Operator.ContainsAll ? 1 : int.MaxValue).Select(w => w is string text ? TextFolding.Fold(text) : w)])
            : null;
    }

    /// <summary>
    /// The keys that a field of the event has, in the shape of <see cref="Equalities"/>; <see langword="null"/> where its value is of a shape that no key
    /// stands for, so that every rule must be asked.
    /// </summary>
    internal static IEnumerable<object>? KeysOf(Field field, Facts facts)
    {
        if (field.Lines == LineQuantifier.Any)
        {
            var keys = new HashSet<object>();
            foreach (var member in facts.Lines.Select(l => Facts.Member(l, field.Members[0])).Where(m => m.ValueKind != JsonValueKind.Undefined))
            {
                if (KeysOf(member, Operand.Convert(member, field, facts.OrderCurrency), field, facts) is not { } some)
                {
                    return null;
                }

                keys.UnionWith(some);
            }

            return keys;
        }

        return KeysOf(facts.Read(field), facts.Value(field, Operand.Convert), field, facts);
    }

    private static IEnumerable<object>? KeysOf(JsonElement found, object? value, Field field, Facts facts) =>
        (found.ValueKind, field.Type) switch
        {
            (JsonValueKind.Undefined, _) => [],
            (JsonValueKind.Array, FieldType.List) => found.EnumerateArray().Select(v => (object)facts.Folded(Facts.InWords(v))).Distinct(),
            (_, FieldType.List) => null,
            _ => value is null ? [] : [value is string text ? facts.Folded(text) : value],
        };
}
