using System.Text.Json;
using Sirena.Core.Rules;

namespace Sirena.Core.Sources;

/// <summary>A value's place, and what stood there in the bodies.</summary>
internal sealed class BodyLeaf(BodyPath path)
{
    /// <summary>How many items of a list are looked at.</summary>
    public const int MostItems = 100;

    private string[][]? names;

    public BodyPath Path => path;

    public List<JsonElement> Values { get; } = [];

    public List<string> Texts { get; } = [];

    public HashSet<string> Distinct { get; } = [];

    public bool Used { get; set; }

    /// <summary>The words of its own name, and of the name above.</summary>
    public string[][] Names => names ??= [.. path.Steps.Where(s => s.Name is not null).Select(s => Words(s.Name!)).Reverse().Take(2)];

    public void Add(JsonElement value)
    {
        Values.Add(value);
        var text = value.ValueKind switch
        {
            JsonValueKind.String => value.GetString()!.Trim(),
            JsonValueKind.Number => value.GetRawText(),
            _ => "",
        };
        if (text.Length > 0)
        {
            Texts.Add(text);
            Distinct.Add(text);
        }
    }

    /// <summary>Finds every value below a place, each with the values that stood there before.</summary>
    public static void Walk(JsonElement value, BodyPath at, Dictionary<string, BodyLeaf> found)
    {
        switch (value.ValueKind)
        {
            case JsonValueKind.Object:
                foreach (var member in value.EnumerateObject())
                {
                    Walk(member.Value, at.Then(new PathStep(member.Name, null)), found);
                }

                break;
            case JsonValueKind.Array:
                foreach (var item in value.EnumerateArray().Take(MostItems))
                {
                    Walk(item, at.Then(new PathStep(null, null)), found);
                }

                break;
            default:
                if (at.Steps.Length is > 0 and <= 12 && (found.Count < 2_000 || found.ContainsKey(at.Text)))
                {
                    if (!found.TryGetValue(at.Text, out var leaf))
                    {
                        found[at.Text] = leaf = new BodyLeaf(at);
                    }

                    leaf.Add(value);
                }

                break;
        }
    }

    /// <summary>The words of a name, folded: of <c>dueAt</c>, <c>due_at</c> and <c>Due at</c> the same two.</summary>
    public static string[] Words(string name)
    {
        var spaced = new System.Text.StringBuilder();
        for (var i = 0; i < name.Length; i++)
        {
            spaced.Append(i > 0 && char.IsUpper(name[i]) && char.IsLower(name[i - 1]) ? " " : "").Append(char.IsLetterOrDigit(name[i]) ? name[i] : ' ');
        }

        return TextFolding.Fold(spaced.ToString()).Split(' ', StringSplitOptions.RemoveEmptyEntries);
    }
}
