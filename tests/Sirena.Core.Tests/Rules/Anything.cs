using CsCheck;
using Sirena.Core.Rules;

namespace Sirena.Core.Tests.Rules;

/// <summary>Any conditions, orders and rules over a few fields, for properties that must hold for all of them.</summary>
internal static class Anything
{
    private static readonly Gen<string> Word = Pick("n3", "S1", "ólaf", "Olaf", "x");

    private static readonly Gen<Condition> Leaf = Gen.OneOf<Condition>(
        Word.Select(w => (Condition)Build.Leaf("order.via", "equal", $"\"{w}\"")),
        Word.Select(w => (Condition)Build.Leaf("order.via", "equal", $"\"{w}\"", exactly: true)),
        Gen.Select(Word, Word, (a, b) => (Condition)Build.Leaf("order.customer.group", "one-of", $"[\"{a}\",\"{b}\"]")),
        Word.Select(w => (Condition)Build.Leaf("order.customer.group", "none-of", $"[\"{w}\"]")),
        Pick("low", "medium", "high").Select(c => (Condition)Build.Leaf("order.risk.level", "equal", $"\"{c}\"")),
        Pick("low", "medium", "high").Select(c => (Condition)Build.Leaf("order.risk.level", "at-least", $"\"{c}\"")),
        Gen.Int[0, 4].Select(n => (Condition)Build.Leaf("order.lines.count", "equal", $"{n}")),
        Gen.Int[0, 4].Select(n => (Condition)Build.Leaf("order.total", "less-than", $"{n}")),
        Word.Select(w => (Condition)Build.Leaf("order.lines.any.tags", "contains", $"\"{w}\"")),
        Word.Select(w => (Condition)Build.Leaf("order.lines.none.sku", "equal", $"\"{w}\"")),
        Gen.Select(Word, Word, (a, b) => (Condition)Build.Leaf("order.tags", "contains-all", $"[\"{a}\",\"{b}\"]")),
        Word.Select(w => (Condition)Build.Leaf("order.extra.berth", "equal", $"\"{w}\"")),
        Pick("true", "5", "\"5\"").Select(v => (Condition)Build.Leaf("order.extra.berth", "one-of", $"[{v}]")),
        Gen.Const((Condition)Build.Leaf("order.extra.berth", "missing")),
        Gen.Const((Condition)Build.Leaf("order.total", "changed"))
    );

    /// <summary>Conditions up to three groups deep.</summary>
    public static readonly Gen<Condition> Condition = Nest(Nest(Nest(Leaf)));

    /// <summary>An order, with members missing, of a wrong type, or in another case.</summary>
    public static readonly Gen<string> Order = Gen.Select(
        Member("via", Word),
        Member("group", Word),
        Pick("", "\"risk\":{\"level\":\"high\"},", "\"risk\":{\"level\":\"LOW\"},", "\"risk\":{\"level\":7},"),
        Gen.Int[0, 4],
        Gen.OneOf(Word.Select(w => $"[\"{w}\",\"x\"]"), Word.Select(w => $"\"{w}\""), Gen.Const("[]")),
        Gen.OneOf(Word.Select(w => $"\"{w}\""), Pick("5", "true", "null", "[\"n3\"]")),
        Gen.Select(Word, Word).List[0, 3],
        (via, group, risk, total, tags, berth, lines) =>
            $$"""{ {{via}}{{risk}}"customer":{ {{group}}"code":"C"},"total":{{total}},"tags":{{tags}},"extra":{"berth":{{berth}}},"lines":[{{string.Join(',', lines.Select(l => $$"""{"sku":"{{l.Item1}}","tags":["{{l.Item2}}"]}"""))}}] }"""
    );

    /// <summary>A rule with conditions of its own, of its cases, or none.</summary>
    public static readonly Gen<Rule> Rule = Gen.Select(Gen.Null(Condition), Gen.Null(Condition), Gen.Bool, Gen.Int[0, 100_000], (own, ofCase, otherwise, id) =>
        Build.Rule(
            $"r{id}",
            own,
            cases: otherwise
                ? [new RuleCase { Name = "first", OnlyIf = ofCase }, new RuleCase { Name = "otherwise" }]
                : [new RuleCase { Name = "first", OnlyIf = ofCase }]
        )
    );

    private static Gen<string> Pick(params string[] words) => Gen.Int[0, words.Length - 1].Select(i => words[i]);

    private static Gen<string> Member(string name, Gen<string> value) =>
        Gen.OneOf(Gen.Const(""), value.Select(v => $"\"{name}\":\"{v}\","), value.Select(v => $"\"{name}\":\"{v.ToUpperInvariant()}\","));

    private static Gen<Condition> Nest(Gen<Condition> inner) =>
        Gen.Frequency((2, inner), (3, Gen.Select(Gen.Enum<Grouping>(), inner.Array[1, 4], (g, items) => (Condition)new ConditionGroup(g, [.. items]))));
}
