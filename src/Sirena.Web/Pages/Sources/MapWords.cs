using System.Text.Json.Nodes;

namespace Sirena.Web.Pages.Sources;

/// <summary>How a value is read, in a few words.</summary>
public static class MapWords
{
    /// <summary>In a few words.</summary>
    public static string How(JsonNode? value)
    {
        if (value is not JsonObject map)
        {
            return "";
        }

        string[] parts =
        [
            .. map["form"] is { } form
                ? [form is JsonArray several ? string.Join(" or ", several.Select(f => f?.ToString())) : form.ToString()]
                : Array.Empty<string>(),
            .. map["zone"] is { } zone ? [$"in {zone}"] : Array.Empty<string>(),
            .. map["decimal"] is { } point ? [point.ToString() == "," ? "decimal comma" : "decimal point"] : Array.Empty<string>(),
            .. map["minor"] is { } minor ? [$"{minor} decimals"] : Array.Empty<string>(),
            .. map["words"] is JsonObject words ? [words.Count == 1 ? "1 word" : $"{words.Count} words"] : Array.Empty<string>(),
            .. map["yes"] is not null ? ["yes or no"] : Array.Empty<string>(),
            .. map["trim"] is not null ? ["without space around"] : Array.Empty<string>(),
        ];
        return parts.Length == 0 ? "as it stands" : string.Join(", ", parts);
    }
}
