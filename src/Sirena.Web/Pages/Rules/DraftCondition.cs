using System.Text.Json;
using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Core.Sources;
using Sirena.Formats.Rules;

namespace Sirena.Web.Pages.Rules;

/// <summary>A condition in the editor: a group with parts, or one question.</summary>
/// <param name="Map">It in the document.</param>
public sealed record DraftCondition(JsonObject Map)
{
    /// <summary>All, any or none for a group; <see langword="null"/> for a question.</summary>
    public Grouping? Group => Names.Parse<Grouping>(Names.All<Grouping>().FirstOrDefault(Map.ContainsKey));

    /// <summary>The parts of a group.</summary>
    public IReadOnlyList<DraftCondition> Parts => [.. List.OfType<JsonObject>().Select(p => new DraftCondition(p))];

    /// <summary>The parts of a group in the document.</summary>
    public JsonArray List => Group is { } grouping ? Map.List(grouping.Name()) : [];

    /// <summary>The field's path.</summary>
    public string Field => Map.Text("field");

    /// <summary>The operator's name.</summary>
    public string Is => Map.Text("is");

    /// <summary>The values as chosen or typed.</summary>
    public IReadOnlyList<string> Values
    {
        get
        {
            var type = FieldCatalogue.Find(Field)?.Type;
            JsonNode?[] all = Map["value"] is JsonArray list ? [.. list] : [Map["value"]];
            return [.. all.OfType<JsonNode>().Select(v => Words(JsonSerializer.SerializeToElement(v), type)).Where(w => w.Length > 0)];
        }
    }

    /// <summary>Text is compared letter by letter.</summary>
    public bool Exactly => (bool?)Map["exactly"] == true;

    /// <summary>A question to begin with.</summary>
    public static JsonObject First() => Leaf("order.total", Operator.AtLeast.Name(), [], exactly: false);

    /// <summary>Reads it from the form; <see langword="null"/> where the form has none at that place.</summary>
    /// <param name="form">The form.</param>
    /// <param name="place">The place: <c>c</c>, <c>k1.c.0</c>.</param>
    /// <param name="depth">How deep it is nested; what is deeper than any rule may be is left out, and the reader says that it is too deep.</param>
    public static JsonObject? Read(IFormCollection form, string place, int depth = 1)
    {
        if (Names.Parse<Grouping>(form[place + ".group"].ToString()) is { } grouping)
        {
            var parts = new JsonArray();
            for (var i = 0; depth <= ConditionReader.Deepest && Read(form, $"{place}.{i}", depth + 1) is { } part; i++)
            {
                parts.Add(part);
            }

            return new JsonObject { [grouping.Name()] = parts };
        }

        if (!form.ContainsKey(place + ".field"))
        {
            return null;
        }

        var (field, op, exactly) = (form[place + ".field"].ToString().Trim(), form[place + ".is"].ToString(), form[place + ".exactly"].ToString() == "true");
        string[] values =
        [
            .. form[place + ".value"].OfType<string>().Select(v => v.Trim()).Where(v => v.Length > 0),
            .. form[place + ".more"].ToString().Split([',', ';'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries),
        ];
        var another = form[place + ".was"].ToString() is { Length: > 0 } was && was != field;

        // Another field was chosen: what was compared with the old one means nothing for it.
        return another ? Leaf(field, Fitting(field, op, another), [], false) : Leaf(field, Fitting(field, op, another), values, exactly);
    }

    // An operator that does not work on a field gives way to its usual one.
    private static string Fitting(string path, string op, bool another) =>
        FieldCatalogue.Find(path) is { } field
        && Operators.For(field.Type) is var fitting
        && (another || Names.Parse<Operator>(op) is not { } known || !fitting.Contains(known))
            ? (field.Type is FieldType.Number or FieldType.Money or FieldType.Time or FieldType.Duration ? Operator.AtLeast : fitting[0]).Name()
            : op;

    private static JsonObject Leaf(string field, string op, IReadOnlyList<string> values, bool exactly)
    {
        var map = new JsonObject { ["field"] = field, ["is"] = op };
        var (type, known) = (FieldCatalogue.Find(field)?.Type ?? FieldType.Text, Names.Parse<Operator>(op));
        if (known?.TakesNothing() != true)
        {
            map["value"] =
                known?.TakesList() == true ? new JsonArray([.. values.Select(v => Value(v, type))]) : Value(values is [var one, ..] ? one : "", type);
        }

        if (exactly)
        {
            map["exactly"] = true;
        }

        return map;
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
        && (DecimalText.Read(value.GetString()!, '.') is not null || value.GetString() is "true" or "false" or "yes" or "no")
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

        if (
            type == FieldType.Money
            && text.Trim() is var money
            && money.LastIndexOf(' ') is > 0 and var end
            && money[(end + 1)..].All(char.IsAsciiLetter)
            && DecimalText.Typed(money[..end]) is { } amount
        )
        {
            return new JsonObject { ["amount"] = amount, ["currency"] = money[(end + 1)..].ToUpperInvariant() };
        }

        return type switch
        {
            FieldType.Any when text is ['"', .. var quoted, '"'] => quoted,
            FieldType.Number or FieldType.Money when DecimalText.Typed(text) is { } number => number,
            FieldType.Any when DecimalText.Read(text, '.') is { } number => number,
            FieldType.YesNo or FieldType.Any when text is "true" or "yes" => true,
            FieldType.YesNo or FieldType.Any when text is "false" or "no" => false,
            FieldType.Duration => RuleDraft.Span(text),
            _ => text,
        };
    }
}
