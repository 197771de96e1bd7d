using System.Text.Json.Nodes;
using Sirena.Core.Orders;
using Sirena.Core.Sources;

namespace Sirena.Formats.Sources;

/// <summary>The JSON Schema (draft 2020-12) of a reading's document, made from the same tables by which it is read.</summary>
public static class ReadingSchema
{
    /// <summary>The schema.</summary>
    public static JsonObject Make()
    {
        var schema = Closed(
            new JsonObject
            {
                ["$schema"] = Type("string"),
                ["source"] = Type("string"),
                ["id"] = Value(),
                ["event"] = Event(),
                ["time"] = Value(),
                ["each"] = Path(),
            }
        );
        var members = (JsonObject)schema["properties"]!;
        foreach (var field in ReadingField.All)
        {
            var at = members;
            foreach (var name in field.Members[..^1])
            {
                var group = at[name] as JsonObject ?? (JsonObject)(at[name] = Closed([]));
                at = (JsonObject)group["properties"]!;
            }

            at[field.Members[^1]] = Value(field.Name);
        }

        var order = (JsonObject)members["order"]!["properties"]!;
        order["lines"] = Lines();
        order["extra"] = new JsonObject { ["type"] = "object", ["additionalProperties"] = Value() };
        members["keep"] = new JsonObject { ["enum"] = new JsonArray("rest", "none") };
        schema["$schema"] = "https://json-schema.org/draft/2020-12/schema";
        schema["$id"] = "/schemas/reading.json";
        schema["title"] = "A reading of Sirena: how the bodies of a source become events";
        schema["$defs"] = new JsonObject
        {
            ["value"] = ValueShape(),
            ["path"] = new JsonObject
            {
                ["type"] = "string",
                ["pattern"] = "^\\$",
                ["description"] = "A normalized path of RFC 9535, or with [*]",
            },
        };
        return schema;
    }

    private static JsonObject Event()
    {
        var said = ValueShape();
        ((JsonObject)said["properties"]!)["otherwise"] = new JsonObject
        {
            ["type"] = "string",
            ["examples"] = new JsonArray([Reading.NotUnderstood, Reading.Ignore, .. EventTypes.All.Take(4)]),
        };
        return said;
    }

    private static JsonObject Lines()
    {
        var lines = Closed(new JsonObject { ["each"] = Path() });
        foreach (var field in ReadingField.Line)
        {
            ((JsonObject)lines["properties"]!)[field.Path] = Value(field.Name);
        }

        lines["required"] = new JsonArray("each");
        return lines;
    }

    private static JsonObject ValueShape()
    {
        var text = Type("string");
        var shape = Closed(
            new JsonObject
            {
                ["path"] = Path(),
                ["column"] = text.DeepClone(),
                ["field"] = text.DeepClone(),
                ["header"] = text.DeepClone(),
                ["always"] = new JsonObject { ["type"] = new JsonArray("string", "number", "boolean") },
                ["join"] = new JsonObject
                {
                    ["type"] = "array",
                    ["maxItems"] = 10,
                    ["items"] = new JsonObject { ["anyOf"] = new JsonArray(text.DeepClone(), Value()) },
                },
                ["between"] = text.DeepClone(),
                ["form"] = new JsonObject
                {
                    ["anyOf"] = new JsonArray(text.DeepClone(), new JsonObject { ["type"] = "array", ["items"] = text.DeepClone() }),
                    ["description"] = "A date pattern of Unicode LDML, epoch-seconds or epoch-milliseconds",
                },
                ["zone"] = text.DeepClone(),
                ["decimal"] = new JsonObject { ["enum"] = new JsonArray(",", ".") },
                ["minor"] = new JsonObject
                {
                    ["type"] = "integer",
                    ["minimum"] = 0,
                    ["maximum"] = 6,
                },
                ["words"] = new JsonObject
                {
                    ["type"] = "object",
                    ["additionalProperties"] = new JsonObject { ["type"] = new JsonArray("string", "number", "boolean") },
                },
                ["else"] = text.DeepClone(),
                ["yes"] = new JsonObject { ["anyOf"] = new JsonArray(text.DeepClone(), new JsonObject { ["type"] = "array", ["items"] = text.DeepClone() }) },
                ["trim"] = Type("boolean"),
            }
        );
        shape["oneOf"] = new JsonArray([
            .. new[] { "path", "column", "field", "header", "always", "join" }.Select(m => (JsonNode)new JsonObject { ["required"] = new JsonArray(m) }),
        ]);
        return shape;
    }

    private static JsonObject Value(string? name = null)
    {
        var value = new JsonObject { ["$ref"] = "#/$defs/value" };
        if (name is not null)
        {
            value["description"] = name;
        }

        return value;
    }

    private static JsonObject Path() => new() { ["$ref"] = "#/$defs/path" };

    private static JsonObject Type(string type) => new() { ["type"] = type };

    private static JsonObject Closed(JsonObject members) =>
        new()
        {
            ["type"] = "object",
            ["properties"] = members,
            ["additionalProperties"] = false,
        };
}
