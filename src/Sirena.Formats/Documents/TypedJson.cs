using System.Text.Json;
using System.Text.Json.Nodes;

namespace Sirena.Formats.Documents;

/// <summary>JSON in a field of a form: typed by a person, or sent by a caller that no page has made.</summary>
public static class TypedJson
{
    private const int Deepest = 16;

    /// <summary>Reads it; <see langword="null"/> for what is no JSON, has a member twice, or is nested more than 16 deep.</summary>
    public static JsonNode? Read(string text)
    {
        try
        {
            return JsonNode.Parse(text, documentOptions: new JsonDocumentOptions { MaxDepth = Deepest, AllowDuplicateProperties = false });
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
