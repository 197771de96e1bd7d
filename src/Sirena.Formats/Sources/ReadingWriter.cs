using System.Text.Json;
using System.Text.Json.Nodes;
using Sirena.Core.Sources;

namespace Sirena.Formats.Sources;

/// <summary>Writes a reading as the document that <see cref="ReadingReader"/> reads.</summary>
public static class ReadingWriter
{
    /// <summary>The document; members with their usual value are left out.</summary>
    public static JsonObject Write(Reading reading)
    {
        var map = new JsonObject();
        Put(map, "source", reading.Source);
        Put(map, "id", Value(reading.Id));
        if (Value(reading.Event) is { } said)
        {
            said["otherwise"] = reading.Otherwise;
            map["event"] = said;
        }

        Put(map, "time", Value(reading.Time));
        Put(map, "each", reading.Each?.Text);
        foreach (var (field, value) in reading.Fields)
        {
            var at = map;
            foreach (var name in field.Members[..^1])
            {
                at = at[name] as JsonObject ?? (JsonObject)(at[name] = new JsonObject());
            }

            at[field.Members[^1]] = Value(value);
        }

        if (reading.Lines is { } lines)
        {
            var made = new JsonObject { ["each"] = lines.Each.Text };
            foreach (var (field, value) in lines.Fields)
            {
                made[field.Path] = Value(value);
            }

            (map["order"] as JsonObject ?? (JsonObject)(map["order"] = new JsonObject()))["lines"] = made;
        }

        map["keep"] = reading.KeepRest ? "rest" : "none";
        return map;
    }

    /// <summary>One value's document.</summary>
    public static JsonObject? Value(ValueReading? value)
    {
        if (value is null)
        {
            return null;
        }

        var map = new JsonObject();
        Put(map, "path", value.Column is null ? value.Path?.Text : null);
        Put(map, "column", value.Column);
        Put(map, "header", value.Header);
        if (value.Always.ValueKind != JsonValueKind.Undefined)
        {
            map["always"] = JsonValue.Create(value.Always);
        }

        if (value.Join.Count > 0)
        {
            map["join"] = new JsonArray([.. value.Join.Select(j => (JsonNode?)Value(j))]);
            map["between"] = value.Between;
        }

        Put(
            map,
            "form",
            value.Forms.Count switch
            {
                0 => null,
                1 => JsonValue.Create(value.Forms[0].Text),
                _ => new JsonArray([.. value.Forms.Select(f => JsonValue.Create(f.Text))]),
            }
        );
        Put(map, "zone", value.Zone?.Id);
        Put(map, "decimal", value.Decimal?.ToString());
        Put(map, "minor", value.Minor == 0 ? null : JsonValue.Create(value.Minor));
        if (value.Words is { } words)
        {
            map["words"] = new JsonObject(
                words.OrderBy(w => w.Key, StringComparer.Ordinal).Select(w => KeyValuePair.Create(w.Key, (JsonNode?)JsonValue.Create(w.Value)))
            );
        }

        Put(map, "else", value.Else);
        Put(map, "yes", value.Yes.Count == 0 ? null : new JsonArray([.. value.Yes.Select(y => JsonValue.Create(y))]));
        Put(map, "trim", value.Trim ? JsonValue.Create(true) : null);
        return map;
    }

    private static void Put(JsonObject map, string name, JsonNode? value)
    {
        if (value is not null)
        {
            map[name] = value;
        }
    }
}
