using System.Text.Json;

namespace Sirena.Formats.Documents;

/// <summary>What keeps a text from being JSON, in words.</summary>
public static class JsonMistake
{
    /// <summary>The place and the mistake, without a full stop: <c>line 1, column 7: …</c>. Of a member that stands twice the parser knows no place.</summary>
    /// <param name="mistake">What the parser said.</param>
    public static string InWords(JsonException mistake)
    {
        var words = mistake.Message.Split(" LineNumber:")[0].Split(" Path:")[0].TrimEnd('.');
        return mistake.LineNumber is { } line ? $"line {line + 1}, column {mistake.BytePositionInLine + 1}: {words}" : words;
    }
}
