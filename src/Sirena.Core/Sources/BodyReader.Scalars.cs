using System.Globalization;
using System.Text.Json;

namespace Sirena.Core.Sources;

public sealed partial class BodyReader
{
    private static string? Mapped(System.Collections.Frozen.FrozenDictionary<string, string> words, string word) =>
        words.TryGetValue(word, out var meant) ? meant : words.FirstOrDefault(w => w.Key.Equals(word, StringComparison.OrdinalIgnoreCase)).Value;

    private static string? Scalar(JsonElement value) =>
        value.ValueKind switch
        {
            JsonValueKind.String => value.GetString(),
            JsonValueKind.Number => value.TryGetDecimal(out var number) && value.GetRawText().Contains('e', StringComparison.OrdinalIgnoreCase)
                ? number.ToString(CultureInfo.InvariantCulture)
                : value.GetRawText(),
            JsonValueKind.True => "true",
            JsonValueKind.False => "false",
            _ => null,
        };

    private static string? Quote(JsonElement value) => value.ValueKind == JsonValueKind.Undefined ? null : Scalar(value) ?? value.GetRawText();
}
