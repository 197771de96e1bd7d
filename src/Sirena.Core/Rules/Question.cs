using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;
using System.Text.RegularExpressions;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Rules;

/// <summary>A condition's leaf made ready: its field is known, its operator fits, its value is read. Asking it allocates little and never throws.</summary>
public sealed partial class Question
{
    // What never backtracks takes a time that grows with the text alone: its limit only ends what no text of an event should take.
    private static readonly TimeSpan BacktrackingLimit = TimeSpan.FromMilliseconds(50);
    private static readonly TimeSpan LinearLimit = TimeSpan.FromSeconds(1);

    // The limits are of the clock on the wall, and a busy machine may take as long for itself: only a pattern that is late each time is too dear.
    private const int MostTries = 3;
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
                $"There is no field '{leaf.Field}'.{Closest.Hint(leaf.Field, FieldCatalogue.All.Select(f => f.Path))} Members of your own are under "
                    + "order.extra and event.extra."
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

    private string Fold(string text, Facts facts) => leaf.Exactly ? text : facts.Folded(text);

    private static string Words(object value) => value is decimal d ? d.ToString("0.############", CultureInfo.InvariantCulture) : value.ToString() ?? "";

    private static bool Finds(Regex regex, string text, ref string? problem)
    {
        for (var tries = 1; ; tries++)
        {
            try
            {
                return regex.IsMatch(text);
            }
            catch (RegexMatchTimeoutException)
            {
                if (tries == MostTries)
                {
                    return Fail("time limit", ref problem);
                }
            }
        }
    }

    private static bool Fail(string what, ref string? problem)
    {
        problem = what;
        return false;
    }

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

    /// <summary>A regular expression for <c>matches</c>: without backtracking where the engine can, else under 50 ms a try.</summary>
    /// <exception cref="ArgumentException">The pattern does not parse.</exception>
    internal static Regex Pattern(string pattern, bool exactly)
    {
        var options = RegexOptions.CultureInvariant | (exactly ? RegexOptions.None : RegexOptions.IgnoreCase);
        try
        {
            return new Regex(pattern, options | RegexOptions.NonBacktracking, LinearLimit);
        }
        catch (NotSupportedException)
        {
            return new Regex(pattern, options, BacktrackingLimit);
        }
    }
}
