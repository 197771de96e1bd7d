using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Sirena.Core.Sources;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Sources;

/// <summary>
/// What came in a call, as values: JSON (RFC 8259), or a form (<c>application/x-www-form-urlencoded</c>) as an object of its fields. The same budgets hold as
/// for documents.
/// </summary>
public static class BodyText
{
    private const int Deepest = 32;
    private const int MostFields = 2_000;

    /// <summary>Reads a body.</summary>
    /// <param name="bytes">What came.</param>
    /// <param name="mediaType">Its content type as it was declared, or <see langword="null"/>.</param>
    /// <returns>The values, or what keeps it from being read.</returns>
    public static (JsonElement Root, BodyProblem? Problem) Read(byte[] bytes, string? mediaType)
    {
        var media = mediaType?.Split(';')[0].Trim().ToLowerInvariant();
        if (bytes.Length == 0)
        {
            return (default, new BodyProblem("$", null, "a body in JSON, or a form"));
        }

        if (media == "application/x-www-form-urlencoded")
        {
            return Form(bytes);
        }

        // JSON is UTF-8; what says that it is something else is turned into it.
        var (text, error) = TextBytes.Read(bytes, CharsetOf(mediaType));
        if (error is not null)
        {
            return (default, new BodyProblem("$", null, $"text that can be read: {error.Problem.TrimEnd('.')}"));
        }

        try
        {
            using var document = JsonDocument.Parse(
                BrokenCharacters.Mend(Encoding.UTF8.GetBytes(text!)),
                new JsonDocumentOptions { MaxDepth = Deepest, AllowDuplicateProperties = false }
            );
            return (document.RootElement.Clone(), null);
        }
        catch (JsonException e)
        {
            return (default, new BodyProblem("$", Core.Deliveries.FarText.Clean(text, 60), $"JSON ({JsonMistake.InWords(e)})"));
        }
    }

    private static (JsonElement Root, BodyProblem? Problem) Form(byte[] bytes)
    {
        var map = new JsonObject();
        var pairs = Encoding.Latin1.GetString(bytes).Split('&', StringSplitOptions.RemoveEmptyEntries);
        if (pairs.Length > MostFields)
        {
            return (default, new BodyProblem("$", $"{pairs.Length} fields", $"a form with at most {MostFields} fields"));
        }

        foreach (var pair in pairs)
        {
            var (name, value) = pair.IndexOf('=', StringComparison.Ordinal) is >= 0 and var at
                ? (Plain(pair[..at]), Plain(pair[(at + 1)..]))
                : (Plain(pair), "");
            if (map[name] is JsonArray several)
            {
                several.Add(value);
            }
            else
            {
                map[name] = map[name] is { } one ? new JsonArray(one.DeepClone(), value) : value;
            }
        }

        return (JsonSerializer.SerializeToElement(map), null);
    }

    private static string Plain(string text) => Uri.UnescapeDataString(text.Replace('+', ' ')).Replace('\0', '\uFFFD');

    private static string? CharsetOf(string? mediaType) =>
        mediaType?.Split(';').Select(p => p.Trim()).FirstOrDefault(p => p.StartsWith("charset=", StringComparison.OrdinalIgnoreCase))?["charset=".Length..];
}
