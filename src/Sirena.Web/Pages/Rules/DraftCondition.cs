using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;

namespace Sirena.Web.Pages.Rules;

/// <summary>A condition in the editor: a group with parts, or one question.</summary>
public sealed class DraftCondition
{
    /// <summary>All, any or none for a group; <see langword="null"/> for a question.</summary>
    public Grouping? Group { get; set; }

    /// <summary>The parts of a group.</summary>
    public List<DraftCondition> Parts { get; } = [];

    /// <summary>The field's path.</summary>
    public string Field { get; set; } = "";

    /// <summary>The operator's name.</summary>
    public string Is { get; set; } = "equal";

    /// <summary>The values as chosen or typed.</summary>
    public List<string> Values { get; } = [];

    /// <summary>Text is compared letter by letter.</summary>
    public bool Exactly { get; set; }

    /// <summary>An empty group: every such event fits.</summary>
    public static DraftCondition Everything => new() { Group = Grouping.All };

    /// <summary>A question to begin with.</summary>
    public static DraftCondition First => new() { Field = "order.total", Is = "at-least" };

    /// <summary>What a document's condition shows.</summary>
    public static DraftCondition Of(Condition? condition) =>
        condition switch
        {
            null => Everything,
            ConditionGroup group => Inner(group),
            var leaf => new DraftCondition { Group = Grouping.All, Parts = { Inner(leaf) } },
        };

    /// <summary>Reads it from the form; <see langword="null"/> where the form has none at that place.</summary>
    public static DraftCondition? Read(IFormCollection form, string place)
    {
        if (Names.Parse<Grouping>(form[place + ".group"].ToString()) is { } grouping)
        {
            var group = new DraftCondition { Group = grouping };
            for (var i = 0; Read(form, $"{place}.{i}") is { } part; i++)
            {
                group.Parts.Add(part);
            }

            return group;
        }

        if (!form.ContainsKey(place + ".field"))
        {
            return null;
        }

        var leaf = new DraftCondition
        {
            Field = form[place + ".field"].ToString().Trim(),
            Is = form[place + ".is"].ToString(),
            Exactly = form[place + ".exactly"].ToString() == "true",
        };
        leaf.Values.AddRange(form[place + ".value"].OfType<string>().Select(v => v.Trim()).Where(v => v.Length > 0));
        leaf.Values.AddRange(form[place + ".more"].ToString().Split([',', ';'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries));
        leaf.Settle(form[place + ".was"].ToString() is { Length: > 0 } was && was != leaf.Field);
        return leaf;
    }

    /// <summary>The part at indices.</summary>
    public DraftCondition? At(IEnumerable<string> indices)
    {
        var at = this;
        foreach (var index in indices)
        {
            if (!int.TryParse(index, out var i) || i < 0 || i >= at.Parts.Count)
            {
                return null;
            }

            at = at.Parts[i];
        }

        return at;
    }

    /// <summary>The document's <c>onlyIf</c>: one question stands alone, without a group around it.</summary>
    public JsonObject WriteWhole() => Group == Grouping.All && Parts is [{ Group: null } one] ? one.Write() : Write();

    /// <summary>The document's condition.</summary>
    public JsonObject Write()
    {
        if (Group is { } grouping)
        {
            return new JsonObject { [grouping.Name()] = new JsonArray([.. Parts.Select(p => p.Write())]) };
        }

        var document = new JsonObject { ["field"] = Field, ["is"] = Is };
        var (type, op) = (FieldCatalogue.Find(Field)?.Type ?? FieldType.Text, Names.Parse<Operator>(Is));
        if (op?.TakesNothing() != true)
        {
            document["value"] = op?.TakesList() == true ? new JsonArray([.. Values.Select(v => Value(v, type))]) : Value(Values.FirstOrDefault() ?? "", type);
        }

        if (Exactly)
        {
            document["exactly"] = true;
        }

        return document;
    }

    // Another field was chosen: what was compared with the old one means nothing for it. An operator that does not work on a field gives way to its usual one.
    private void Settle(bool another)
    {
        if (another)
        {
            Values.Clear();
            Exactly = false;
        }

        if (
            FieldCatalogue.Find(Field) is { } field
            && Operators.For(field.Type) is var fitting
            && (another || Names.Parse<Operator>(Is) is not { } op || !fitting.Contains(op))
        )
        {
            Is = (field.Type is FieldType.Number or FieldType.Money or FieldType.Time or FieldType.Duration ? Operator.AtLeast : fitting[0]).Name();
        }
    }

    private static DraftCondition Inner(Condition condition)
    {
        if (condition is ConditionGroup group)
        {
            var made = new DraftCondition { Group = group.Grouping };
            made.Parts.AddRange(group.Items.Select(Inner));
            return made;
        }

        var leaf = (ConditionLeaf)condition;
        var one = new DraftCondition
        {
            Field = leaf.Field,
            Is = leaf.Is.Name(),
            Exactly = leaf.Exactly,
        };
        var type = FieldCatalogue.Find(leaf.Field)?.Type;
        one.Values.AddRange(
            leaf.Value.ValueKind switch
            {
                JsonValueKind.Undefined => [],
                JsonValueKind.Array => leaf.Value.EnumerateArray().Select(v => Words(v, type)),
                _ => [Words(leaf.Value, type)],
            }
        );
        return one;
    }

    private static string Words(JsonElement value, FieldType? type) =>
        value.ValueKind == JsonValueKind.Object && value.TryGetProperty("field", out var other) ? "@" + other
        : value.ValueKind == JsonValueKind.Object ? $"{Facts.InWords(value.GetProperty("amount"))} {value.GetProperty("currency")}"
        : type == FieldType.Duration
        && value.ValueKind == JsonValueKind.String
        && Durations.Parse(value.GetString()!) is { } span
        && span > NodaTime.Duration.Zero
            ? span.ExactWords()
        : type == FieldType.Any
        && value.ValueKind == JsonValueKind.String
        && (
            decimal.TryParse(value.GetString(), NumberStyles.Number, CultureInfo.InvariantCulture, out _)
            || value.GetString() is "true" or "false" or "yes" or "no"
        )
            ? $"\"{value.GetString()}\""
        : value.ValueKind is JsonValueKind.True or JsonValueKind.False ? value.GetRawText()
        : Facts.InWords(value);

    // What is typed becomes what the field's type wants, where it can; the reader says the rest. A text that looks like a number stands in quotes.
    private static JsonNode Value(string text, FieldType type)
    {
        if (text is ['@', .. var other] && FieldCatalogue.Find(other) is not null)
        {
            // Another field of the same event.
            return new JsonObject { ["field"] = other };
        }

        var plain = text.Replace(",", "", StringComparison.Ordinal);
        if (
            type == FieldType.Money
            && plain.Split(' ', StringSplitOptions.RemoveEmptyEntries) is [var amount, var currency]
            && decimal.TryParse(amount, NumberStyles.Number, CultureInfo.InvariantCulture, out var money)
        )
        {
            return new JsonObject { ["amount"] = money, ["currency"] = currency.ToUpperInvariant() };
        }

        return type switch
        {
            FieldType.Any when text is ['"', .. var quoted, '"'] => quoted,
            FieldType.Number
            or FieldType.Money
            or FieldType.Any when decimal.TryParse(plain, NumberStyles.Number, CultureInfo.InvariantCulture, out var number) => number,
            FieldType.YesNo or FieldType.Any when text is "true" or "yes" => true,
            FieldType.YesNo or FieldType.Any when text is "false" or "no" => false,
            FieldType.Duration => RuleDraft.Span(text),
            _ => text,
        };
    }
}
