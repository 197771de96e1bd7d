using System.Text.Json;
using System.Text.Json.Nodes;

namespace Sirena.Core.Orders;

/// <summary>What an event changed, where its source does not say.</summary>
public static class Change
{
    /// <summary>
    /// The first difference between the order before and after as <c>{ field, before, after }</c>; the status goes before all else, the order
    /// of members decides otherwise. <see langword="null"/> when nothing differs.
    /// </summary>
    public static JsonObject? Between(JsonObject? before, JsonObject after)
    {
        string[] names = ["status", .. after.Select(m => m.Key), .. before?.Select(m => m.Key) ?? []];
        var field = names.FirstOrDefault(n => n != "number" && !JsonNode.DeepEquals(before?[n], after[n]));
        return field is null
            ? null
            : new JsonObject
            {
                ["field"] = field,
                ["before"] = before?[field]?.DeepClone(),
                ["after"] = after[field]?.DeepClone(),
            };
    }

    /// <summary>The event's data, a JSON object with members, with a change put into it; the same text where there is none.</summary>
    public static string Complete(string data, JsonObject? change) =>
        change is null ? data : $"{data[..^1]}{(data.Length > 2 ? "," : "")}\"change\":{change.ToJsonString()}}}";

    /// <summary>Whether two JSON values say the same, numbers by their value.</summary>
    public static bool Same(JsonElement a, JsonElement b) =>
        a.ValueKind == b.ValueKind && (a.ValueKind == JsonValueKind.Undefined || JsonElement.DeepEquals(a, b));
}
