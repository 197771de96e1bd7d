using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;
using System.Text.RegularExpressions;
using NodaTime;
using NodaTime.Text;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Rules;

/// <summary>A condition's leaf made ready: its field is known, its operator fits, its value is read. Asking it allocates little and never throws.</summary>
public sealed class Question
{
    private static readonly TimeSpan RegexLimit = TimeSpan.FromMilliseconds(50);
    private readonly ConditionLeaf leaf;
    private readonly Field field;
    private readonly ImmutableArray<object> wanted;

    // The field that it is compared with, where the value is not the rule's own.
    private readonly Field? other;

    // The wanted texts as they are compared: without case and accents unless the leaf minds them. Null for what is no text.
    private readonly string?[] texts;

    private Question(ConditionLeaf leaf, Field field, ImmutableArray<object> wanted, Field? other = null)
    {
        (this.leaf, this.field, this.wanted, this.other) = (leaf, field, wanted, other);
        texts =
        [
            .. wanted.Select(w =>
                w is Regex ? null
                : w is string || leaf.Is is Operator.Contains or Operator.StartsWith or Operator.ContainsAny or Operator.ContainsAll
                    ? leaf.Exactly ? Words(w)
                        : TextFolding.Fold(Words(w))
                : null
            ),
        ];
    }

    /// <summary>The leaf it was made from.</summary>
    public ConditionLeaf Leaf => leaf;

    /// <summary>Makes a leaf ready.</summary>
    /// <param name="leaf">The leaf as written.</param>
    /// <param name="question">The question, when the answer is <see langword="null"/>.</param>
    /// <returns>Else one sentence on the mistake, and the member of the leaf that it concerns.</returns>
    public static (string Member, string Problem)? TryMake(ConditionLeaf leaf, out Question? question)
    {
        question = null;
        if (FieldCatalogue.Find(leaf.Field) is not { } field)
        {
            return (
                "field",
                $"There is no field '{leaf.Field}'.{Closest.Hint(leaf.Field, FieldCatalogue.All.Select(f => f.Path))} Members of your own are under order.extra and event.extra."
            );
        }

        var fitting = Operators.For(field.Type);
        if (!fitting.Contains(leaf.Is))
        {
            return (
                "is",
                $"'{leaf.Is.Name()}' does not work on {field.Path}, which is {Noun(field.Type)}. Use {string.Join(", ", fitting.Select(o => o.Name()))}."
            );
        }

        if (leaf.With is { } with)
        {
            var (other, mistake) = Operand.Other(leaf, field, with);
            question = other is null ? null : new Question(leaf, field, [], other);
            return mistake is null ? null : ("value", mistake);
        }

        if (Operand.Read(leaf, field, out var wanted) is { } problem)
        {
            return ("value", problem);
        }

        question = new Question(leaf, field, wanted);
        return null;
    }

    /// <summary>Asks it.</summary>
    /// <param name="facts">The event.</param>
    /// <param name="problem">Why the value could not be compared, or <see langword="null"/>.</param>
    public bool Holds(Facts facts, out string? problem)
    {
        problem = null;
        if (leaf.Is == Operator.Changed)
        {
            return !Change.Same(facts.ReadBefore(field), facts.Read(field));
        }

        if (field.Lines is not (LineQuantifier.Any or LineQuantifier.All or LineQuantifier.None))
        {
            return HoldsFor(facts.Read(field), facts, ref problem);
        }

        var (all, any, some) = (true, false, false);
        foreach (var line in facts.Lines)
        {
            some = true;
            var one = HoldsFor(Facts.Member(line, field.Members[0]), facts, ref problem);
            (all, any) = (all && one, any || one);
        }

        return field.Lines switch
        {
            LineQuantifier.Any => any,
            LineQuantifier.All => some && all,
            _ => !any && problem is null,
        };
    }

    /// <summary>Asks it and says what was found.</summary>
    public ConditionTrace Explain(Facts facts, string? ofCase)
    {
        var holds = Holds(facts, out var problem);
        var found = facts.Read(field);
        return new ConditionTrace(leaf.Field, leaf.Is, leaf.Value, found, holds, problem, ofCase);
    }

    private bool HoldsFor(JsonElement found, Facts facts, ref string? problem)
    {
        if (found.ValueKind == JsonValueKind.Undefined)
        {
            return leaf.Is == Operator.Missing;
        }

        switch (leaf.Is)
        {
            case Operator.Present:
                return true;
            case Operator.Missing:
                return false;
            case Operator.Empty:
                return found.ValueKind == JsonValueKind.Array && found.GetArrayLength() == 0;
        }

        if (found.ValueKind == JsonValueKind.Array)
        {
            return InList(found, facts);
        }

        return (field.Lines is null ? facts.Value(field, Operand.Convert) : Operand.Convert(found, field, facts.OrderCurrency)) is { } value
            ? Compare(value, facts, ref problem)
            : Fail($"{field.Path} is '{Facts.InWords(found)}', which is not {Noun(field.Type)}", ref problem);
    }

    private bool InList(JsonElement found, Facts facts)
    {
        var has = found.EnumerateArray().Select(v => Fold(Facts.InWords(v), facts)).ToHashSet();
        return leaf.Is switch
        {
            Operator.Contains or Operator.ContainsAny => Array.Exists(texts, has.Contains!),
            Operator.ContainsAll => Array.TrueForAll(texts, has.Contains!),
            _ => false,
        };
    }

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

    private string Fold(string text, Facts facts) => leaf.Exactly ? text : facts.Folded(text);

    private static string Words(object value) => value is decimal d ? d.ToString("0.############", CultureInfo.InvariantCulture) : value.ToString() ?? "";

    private static bool Finds(Regex regex, string text, ref string? problem)
    {
        try
        {
            return regex.IsMatch(text);
        }
        catch (RegexMatchTimeoutException)
        {
            return Fail("time limit", ref problem);
        }
    }

    private static bool Fail(string what, ref string? problem)
    {
        problem = what;
        return false;
    }

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

    /// <summary>A type as a sentence names it: <c>a number</c>, <c>money</c>.</summary>
    internal static string Noun(FieldType type) =>
        type switch
        {
            FieldType.Text => "text",
            FieldType.Number => "a number",
            FieldType.Money => "money",
            FieldType.Time => "a time",
            FieldType.Duration => "a duration",
            FieldType.YesNo => "yes or no",
            FieldType.Choice => "a choice",
            FieldType.List => "a list",
            FieldType.Thing => "a group of fields",
            _ => "whatever the event carries",
        };

    /// <summary>A regular expression for <c>matches</c>: without backtracking where the engine can, else under 50 ms.</summary>
    /// <exception cref="ArgumentException">The pattern does not parse.</exception>
    internal static Regex Pattern(string pattern, bool exactly)
    {
        var options = RegexOptions.CultureInvariant | (exactly ? RegexOptions.None : RegexOptions.IgnoreCase);
        try
        {
            return new Regex(pattern, options | RegexOptions.NonBacktracking, RegexLimit);
        }
        catch (NotSupportedException)
        {
            return new Regex(pattern, options, RegexLimit);
        }
    }
}
