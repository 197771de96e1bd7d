using System.Text.Json;
using Sirena.Core.Deliveries;
using Sirena.Core.Sources;

namespace Sirena.Web.Pages.Sources;

/// <summary>One line of a body as it is shown.</summary>
/// <param name="Depth">How far it stands in.</param>
/// <param name="Name">The member's name, or <see langword="null"/> in a list.</param>
/// <param name="Text">A value as JSON writes it, or a bracket.</param>
/// <param name="Place">Where the value stands; <see langword="null"/> for a bracket.</param>
/// <param name="Comma">Another one follows.</param>
public sealed record BodyLine(int Depth, string? Name, string Text, BodyPath? Place, bool Comma);

/// <summary>A body as lines, each value with its place.</summary>
public static class BodyLines
{
    private const int Most = 600;

    /// <summary>The lines; a body of more than 600 is cut.</summary>
    public static IReadOnlyList<BodyLine> Of(JsonElement root)
    {
        var lines = new List<BodyLine>();
        Add(lines, root, 0, null, BodyPath.Root, false);
        return lines.Count > Most ? [.. lines.Take(Most), new BodyLine(0, null, "… and more", null, false)] : lines;
    }

    private static void Add(List<BodyLine> lines, JsonElement value, int depth, string? name, BodyPath at, bool comma)
    {
        if (lines.Count > Most)
        {
            return;
        }

        if (value.ValueKind is not (JsonValueKind.Object or JsonValueKind.Array))
        {
            lines.Add(
                new BodyLine(
                    depth,
                    name,
                    value.ValueKind == JsonValueKind.String ? $"\"{FarText.Clean(value.GetString(), 160)}\"" : value.GetRawText(),
                    at,
                    comma
                )
            );
            return;
        }

        var (open, close) = value.ValueKind == JsonValueKind.Object ? ("{", "}") : ("[", "]");
        (string? Name, PathStep Step, JsonElement Value)[] inner =
            value.ValueKind == JsonValueKind.Object
                ? [.. value.EnumerateObject().Select(m => (m.Name, new PathStep(m.Name, null), m.Value))]
                : [.. value.EnumerateArray().Select((v, i) => ((string?)null, new PathStep(null, i), v))];
        if (inner.Length == 0)
        {
            lines.Add(new BodyLine(depth, name, open + close, null, comma));
            return;
        }

        lines.Add(new BodyLine(depth, name, open, null, false));
        for (var i = 0; i < inner.Length; i++)
        {
            Add(lines, inner[i].Value, depth + 1, inner[i].Name, at.Then(inner[i].Step), i < inner.Length - 1);
        }

        lines.Add(new BodyLine(depth, null, close, null, comma));
    }
}
