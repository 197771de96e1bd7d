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

    private Question(ConditionLeaf leaf, Field field, ImmutableArray<object> wanted) => (this.leaf, this.field, this.wanted) = (leaf, field, wanted);

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
            return ("field", $"There is no field '{leaf.Field}'.{Closest.Hint(leaf.Field, FieldCatalogue.All.Select(f => f.Path))} Members of your own are under order.extra and event.extra.");
        }

        var fitting = Operators.For(field.Type);
        if (!fitting.Contains(leaf.Is))
        {
            return ("is", $"'{leaf.Is.Name()}' does not work on {field.Path}, which is {Noun(field.Type)}. Use {string.Join(", ", fitting.Select(o => o.Name()))}.");
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
            case Operator.Present: return true;
            case Operator.Missing: return false;
            case Operator.Empty: return found.ValueKind == JsonValueKind.Array && found.GetArrayLength() == 0;
        }

        if (found.ValueKind == JsonValueKind.Array)
        {
            return InList(found);
        }

        return Operand.Convert(found, field, facts.OrderCurrency) is { } value
            ? Compare(value, facts, ref problem)
            : Fail($"{field.Path} is '{Facts.InWords(found)}', which is not {Noun(field.Type)}", ref problem);
    }

    private bool InList(JsonElement found)
    {
        var has = found.EnumerateArray().Select(v => Fold(Facts.InWords(v))).ToHashSet();
        return leaf.Is switch
        {
            Operator.Contains or Operator.ContainsAny => wanted.Any(w => has.Contains(Fold(Words(w)))),
            Operator.ContainsAll => wanted.All(w => has.Contains(Fold(Words(w)))),
            _ => false,
        };
    }

    private bool Compare(object value, Facts facts, ref string? problem)
    {
        switch (leaf.Is)
        {
            case Operator.Contains: return Fold(Words(value)).Contains(Fold(Words(wanted[0])), StringComparison.Ordinal);
            case Operator.StartsWith: return Fold(Words(value)).StartsWith(Fold(Words(wanted[0])), StringComparison.Ordinal);
            case Operator.Matches: return Finds((Regex)wanted[0], Words(value), ref problem);
        }

        var answers = new int?[wanted.Length];
        for (var i = 0; i < answers.Length; i++)
        {
            if (Order(value, wanted[i], facts, ref problem) is not { } order)
            {
                return false;
            }

            answers[i] = order;
        }

        return leaf.Is switch
        {
            Operator.Equal => answers[0] == 0,
            Operator.NotEqual => answers[0] != 0,
            Operator.OneOf => answers.Contains(0),
            Operator.NoneOf => !answers.Contains(0),
            Operator.AtLeast => answers[0] >= 0,
            Operator.AtMost => answers[0] <= 0,
            Operator.MoreThan => answers[0] > 0,
            Operator.LessThan => answers[0] < 0,
            Operator.Between => answers[0] >= 0 && answers[1] <= 0,
            _ => Fail($"'{leaf.Is.Name()}' needs a list, and {field.Path} is '{value}'", ref problem),
        };
    }

    // How the found value stands to the wanted one: below 0, 0, above 0; null when they cannot be compared.
    private int? Order(object found, object want, Facts facts, ref string? problem)
    {
        switch (found, want)
        {
            case (Money a, decimal bare):
                return Order(a, new Money(bare, facts.Currency), facts, ref problem);
            case (Money a, Money b):
                if (a.Currency != b.Currency)
                {
                    problem = $"{field.Path} is in {a.Currency}, the rule asks in {b.Currency}: unlike currencies are not compared";
                    return null;
                }

                return a.Amount.CompareTo(b.Amount);
            case (string a, string b) when field.Type == FieldType.Any && IsOrdering && Facts.Time(a) is { } x && Facts.Time(b) is { } y:
                return x.CompareTo(y);
            case (string a, string b) when !IsOrdering:
                return Fold(a) == Fold(b) ? 0 : 1;
            case (decimal a, decimal b): return a.CompareTo(b);
            case (Instant a, Instant b): return a.CompareTo(b);
            case (Duration a, Duration b): return a.CompareTo(b);
            case (int a, int b): return a.CompareTo(b);
            case (bool a, bool b): return a.CompareTo(b);
        }

        if (!IsOrdering)
        {
            return 1;
        }

        problem = $"{field.Path} is '{Words(found)}', which does not compare with '{Words(want)}'";
        return null;
    }

    private bool IsOrdering => leaf.Is is Operator.AtLeast or Operator.AtMost or Operator.MoreThan or Operator.LessThan or Operator.Between;

    private string Fold(string text) => leaf.Exactly ? text : TextFolding.Fold(text);

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

    /// <summary>A type with its article: <c>an amount of money</c>.</summary>
    internal static string Noun(FieldType type) => type switch
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
