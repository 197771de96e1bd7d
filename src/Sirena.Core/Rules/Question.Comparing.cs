using System.Text.Json;
using System.Text.RegularExpressions;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Rules;

public sealed partial class Question
{
    private bool Compare(object value, Facts facts, ref string? problem)
    {
        switch (leaf.Is)
        {
            case Operator.Contains:
                return Fold(Words(value), facts).Contains(texts[0]!, StringComparison.Ordinal);
            case Operator.StartsWith:
                return Fold(Words(value), facts).StartsWith(texts[0]!, StringComparison.Ordinal);
            case Operator.Matches:
                return Finds((Regex)wanted[0], Words(value), ref problem);
            case Operator.ContainsAny or Operator.ContainsAll:
                return Fail($"'{leaf.Is.Name()}' needs a list, and {field.Path} is '{value}'", ref problem);
        }

        if (other is not null)
        {
            return CompareWith(value, facts, ref problem);
        }

        var some = false;
        for (var i = 0; i < wanted.Length; i++)
        {
            if (Order(value, wanted[i], texts[i], facts, ref problem) is not { } order)
            {
                return false;
            }

            if (Single(order) is { } verdict)
            {
                return verdict;
            }

            if (leaf.Is == Operator.Between && (i == 0 ? order < 0 : order > 0))
            {
                return false;
            }

            some |= order == 0;
        }

        return leaf.Is switch
        {
            Operator.OneOf => some,
            Operator.NoneOf => !some,
            _ => true,
        };
    }

    // The verdict of an operator that takes one value.
    private bool? Single(int order) =>
        leaf.Is switch
        {
            Operator.Equal => order == 0,
            Operator.NotEqual => order != 0,
            Operator.AtLeast => order >= 0,
            Operator.AtMost => order <= 0,
            Operator.MoreThan => order > 0,
            Operator.LessThan => order < 0,
            _ => null,
        };

    // Two fields of one event: where the other is not there nothing is compared, and the condition says so.
    private bool CompareWith(object value, Facts facts, ref string? problem)
    {
        var there = facts.Read(other!);
        if (there.ValueKind == JsonValueKind.Undefined)
        {
            return Fail($"{other!.Path} is missing, so {field.Path} is compared with nothing", ref problem);
        }

        return facts.Value(other!, Operand.Convert) is { } want
            ? Order(value, want, want is string text ? Fold(text, facts) : null, facts, ref problem) is { } order && Single(order) == true
            : Fail($"{other!.Path} is '{Facts.InWords(there)}', which is not {Noun(other.Type)}", ref problem);
    }

    // How the found value stands to the wanted one: below 0, 0, above 0; null when they cannot be compared.
    private int? Order(object found, object against, string? folded, Facts facts, ref string? problem)
    {
        // A bare number beside an amount is in the order's currency: of a rule the business's, of an event the order's.
        var want =
            found is Money && against is decimal bare ? new Money(bare, facts.Currency)
            : found is decimal && against is Money amount ? amount.Amount
            : against;
        switch (found, want)
        {
            case (Money a, Money b):
                if (a.Currency != b.Currency)
                {
                    problem = $"{field.Path} is in {a.Currency}, the rule asks in {b.Currency}: unlike currencies are not compared";
                    return null;
                }

                return a.Amount.CompareTo(b.Amount);
            case (string a, string b) when field.Type == FieldType.Any && IsOrdering && Facts.Time(a) is { } x && Facts.Time(b) is { } y:
                return x.CompareTo(y);
            case (string a, string) when !IsOrdering:
                return Fold(a, facts) == folded ? 0 : 1;
            case (decimal a, decimal b):
                return a.CompareTo(b);
            case (Instant a, Instant b):
                return a.CompareTo(b);
            case (Duration a, Duration b):
                return a.CompareTo(b);
            case (int a, int b):
                return a.CompareTo(b);
            case (bool a, bool b):
                return a.CompareTo(b);
        }

        if (!IsOrdering)
        {
            return 1;
        }

        problem = $"{field.Path} is '{Words(found)}', which does not compare with '{Words(want)}'";
        return null;
    }

    private bool IsOrdering => leaf.Is is Operator.AtLeast or Operator.AtMost or Operator.MoreThan or Operator.LessThan or Operator.Between;
}
