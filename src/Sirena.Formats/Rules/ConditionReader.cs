using Sirena.Core;
using Sirena.Core.Rules;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Rules;

/// <summary>Reads the conditions of a document.</summary>
public class ConditionReader : DocumentReader
{
    /// <summary>How deep conditions may be nested.</summary>
    public const int Deepest = 20;

    private protected ConditionReader() { }

    /// <summary>Reads a condition that stands by itself.</summary>
    public static (Condition? Condition, IReadOnlyList<DocumentError> Errors) ReadCondition(Node node, string path)
    {
        var reader = new ConditionReader();
        var condition = reader.ReadCondition(node, path, 1);
        return (reader.Errors.Count > 0 ? null : condition, reader.Errors);
    }

    /// <summary>A condition as a question that can be asked of an event.</summary>
    /// <param name="json">The condition, JSON, as it was checked when it was saved.</param>
    public static Func<Core.Orders.Fields.Facts, bool> Ask(string json)
    {
        if (DocumentText.Read(json, yaml: false).Node is not { } node || ReadCondition(node, "").Condition is not { } condition)
        {
            return _ => false;
        }

        var rule = new CompiledRule(
            new Rule
            {
                Id = "shows",
                Name = "shows",
                When = ["any"],
                OnlyIf = condition,
                Cases = [new RuleCase { Name = "always" }],
            },
            0
        );
        return facts => rule.Decide(facts).Outcome == Outcome.Matched;
    }

    protected Condition? ReadCondition(Node node, string path, int depth)
    {
        if (depth > Deepest)
        {
            Wrong(path, node, $"Conditions are nested more than {Deepest} deep.");
            return null;
        }

        if (node is not MapNode map)
        {
            Wrong(path, node, "A condition is { field, is, value }, or { all: [...] }, { any: [...] }, { none: [...] }.");
            return null;
        }

        foreach (var grouping in Enum.GetValues<Grouping>())
        {
            if (map[grouping.Name()] is not null)
            {
                return Group(map, path, grouping, depth);
            }
        }

        return Leaf(map, path);
    }

    private ConditionGroup? Group(MapNode map, string path, Grouping grouping, int depth)
    {
        Map(map, path, $"A group '{grouping.Name()}'", [grouping.Name()]);
        if (List(map, grouping.Name(), path) is not { } list)
        {
            return null;
        }

        if (list.Items.Count == 0)
        {
            Wrong(At(path, grouping.Name()), list, $"'{grouping.Name()}' is empty. Give it at least one condition, or leave it out.");
        }

        return new ConditionGroup(
            grouping,
            [.. list.Items.Select((c, i) => ReadCondition(c, $"{At(path, grouping.Name())}[{i}]", depth + 1)).OfType<Condition>()]
        );
    }

    private ConditionLeaf? Leaf(MapNode map, string path)
    {
        Map(map, path, "A condition", ["field", "is", "value", "exactly"]);
        var field = Text(map, "field", path, required: true);
        var word = Text(map, "is", path, required: true);
        if (field is null || word is null)
        {
            return null;
        }

        if (Names.Parse<Operator>(word) is not { } op)
        {
            Wrong(
                At(path, "is"),
                map["is"]!,
                $"There is no operator '{word}'.{Closest.Hint(word, Names.All<Operator>())} Known are {string.Join(", ", Names.All<Operator>())}."
            );
            return null;
        }

        var leaf = new ConditionLeaf(field, op, map["value"]?.ToJson() ?? default, Bool(map, "exactly", path) ?? false);
        if (Question.TryMake(leaf, out _) is { } mistake)
        {
            Wrong(At(path, mistake.Member), map[mistake.Member] ?? map, mistake.Problem);
        }

        return leaf;
    }
}
