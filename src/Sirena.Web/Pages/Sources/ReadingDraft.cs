using System.Text.Json.Nodes;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Sources;
using Sirena.Formats.Documents;

namespace Sirena.Web.Pages.Sources;

/// <summary>A reading while it is put together: the document itself, in which values are set and taken away by the paths of their fields.</summary>
public sealed class ReadingDraft(JsonObject document)
{
    /// <summary>The document.</summary>
    public JsonObject Document => document;

    /// <summary>It is of a list: its values are columns.</summary>
    public bool Columns { get; init; }

    /// <summary>A draft of a text, or an empty one where it is no object.</summary>
    public static ReadingDraft Parse(string? text, bool columns) => new(TypedJson.Read(text ?? "") as JsonObject ?? []) { Columns = columns };

    /// <summary>What fills a field, or <see langword="null"/>.</summary>
    public JsonNode? Get(string field)
    {
        JsonNode? at = document;
        foreach (var name in field.Split('.'))
        {
            at = (at as JsonObject)?[name];
        }

        return at;
    }

    /// <summary>The path that fills a field, or <see langword="null"/>.</summary>
    public BodyPath? PathOf(string field) => PathIn(Get(field) as JsonObject);

    /// <summary>Where the value of a field is taken from, to be read; empty for a field that is not filled.</summary>
    public string FromOf(string field) => From(Get(field));

    /// <summary>Fills a field.</summary>
    public void Set(string field, JsonNode value)
    {
        var names = field.Split('.');
        var at = document;
        foreach (var name in names[..^1])
        {
            at = at[name] as JsonObject ?? (JsonObject)(at[name] = new JsonObject());
        }

        at[names[^1]] = value;
    }

    /// <summary>Leaves a field unfilled; a group that is empty then goes with it.</summary>
    public void Remove(string field)
    {
        if (field.LastIndexOf('.') is var dot && dot < 0)
        {
            document.Remove(field);
            return;
        }

        if (Get(field[..dot]) is JsonObject group)
        {
            group.Remove(field[(dot + 1)..]);
            if (group.Count == 0)
            {
                Remove(field[..dot]);
            }
        }
    }

    /// <summary>The list whose items are an event each.</summary>
    public BodyPath? Each => document["each"]?.ToString() is { } text ? BodyPath.Parse(text).Path : null;

    /// <summary>The list of lines, from the item.</summary>
    public BodyPath? Lines => Get("order.lines.each")?.ToString() is { } text ? BodyPath.Parse(text).Path : null;

    /// <summary>
    /// Fills a field with the value at a place of a body. The place is made one of its list where the field belongs to a list's items; a field of lines that
    /// have no list yet makes the nearest list theirs.
    /// </summary>
    public void Use(string field, BodyPath place)
    {
        var begin = Each is { } each && Generalised(place, each) ? each.Steps.Length : 0;
        if (field.StartsWith("order.lines.", StringComparison.Ordinal))
        {
            var last = Enumerable.Range(begin, place.Steps.Length - begin).LastOrDefault(i => place.Steps[i].Index is not null, -1);
            if (last < 0)
            {
                return;
            }

            var list = Relative(place.First(last), begin).Then(new PathStep(null, null));
            if (Lines?.Equals(list) != true)
            {
                Set("order.lines.each", list.Text);
            }

            Put(field, Relative(place, last + 1));
            return;
        }

        // The event, its id and its time stand in the whole body as well as in an item.
        Put(field, Relative(place, begin));
    }

    /// <summary>The fields that a place of a body fills.</summary>
    public IReadOnlyList<string> UsedBy(BodyPath place) => [.. Filled().Where(f => Matches(f.Path, f.InLines, place)).Select(f => f.Field)];

    /// <summary>Each field that is filled by a path; by each of several that are joined.</summary>
    public IEnumerable<(string Field, BodyPath Path, bool InLines)> Filled()
    {
        foreach (var field in Fields.Concat(Extras))
        {
            var value = Get(field) as JsonObject;
            foreach (var path in (value?["join"] is JsonArray joined ? joined.Select(PathIn) : [PathIn(value)]).OfType<BodyPath>())
            {
                yield return (field, path, field.StartsWith("order.lines.", StringComparison.Ordinal));
            }
        }
    }

    /// <summary>The business's own fields that are filled: <c>order.extra.vessel</c>.</summary>
    public IEnumerable<string> Extras => (Get("order.extra") as JsonObject ?? []).Select(m => FieldCatalogue.OrderExtra + m.Key);

    /// <summary>Whether a text names a field that can be filled.</summary>
    public static bool IsField(string field) => Fields.Contains(field) || (FieldCatalogue.IsOrderExtra(field) && ReadingField.Find(field) is not null);

    /// <summary>Every field that can be filled, in the order in which it is shown.</summary>
    public static IReadOnlyList<string> Fields { get; } =
    ["event", "time", "id", .. ReadingField.All.Select(f => f.Path), .. ReadingField.Line.Select(f => "order.lines." + f.Path)];

    /// <summary>What a person calls a field.</summary>
    public static string NameOf(string field) =>
        field switch
        {
            "event" => "Which event",
            "time" => "Time of the event",
            "id" => "Id of the event",
            _ when field.StartsWith("order.lines.", StringComparison.Ordinal) => "Line: "
                + ReadingField.Line.First(f => f.Path == field["order.lines.".Length..]).Name,
            _ => Core.Sentences.Capital(ReadingField.Find(field)?.Name ?? field),
        };

    /// <summary>How a field is read.</summary>
    public static ReadAs HowOf(string field) =>
        field switch
        {
            "time" => ReadAs.Time,
            "event" or "id" => ReadAs.Text,
            _ when field.StartsWith("order.lines.", StringComparison.Ordinal) => ReadingField.Line.First(f => f.Path == field["order.lines.".Length..]).As,
            _ => ReadingField.Find(field)?.As ?? ReadAs.Text,
        };

    // A part of what is joined may be the path alone.
    private static BodyPath? PathIn(JsonNode? value) =>
        value switch
        {
            JsonObject map when map["path"]?.ToString() is { } path => BodyPath.Parse(path).Path,
            JsonObject map when map["column"]?.ToString() is { } column => BodyPath.Of(column),
            JsonValue text => text.ToString() is ['$', ..] path ? BodyPath.Parse(path).Path : BodyPath.Of(text.ToString()),
            _ => null,
        };

    private static string From(JsonNode? value) =>
        value switch
        {
            JsonObject map when (map["path"] ?? map["column"]) is { } place => place.ToString(),
            JsonObject map when map["header"] is { } header => $"header {header}",
            JsonObject map when map["always"] is { } always => $"always {always}",
            JsonObject map when map["join"] is JsonArray parts => string.Join(" + ", parts.Select(From)),
            JsonValue text => text.ToString(),
            _ => "",
        };

    private void Put(string field, BodyPath path)
    {
        var value = Get(field) as JsonObject ?? [];
        foreach (var other in new[] { "column", "header", "always", "join", "between" })
        {
            value.Remove(other);
        }

        value.Remove("path");
        value[Columns ? "column" : "path"] = Columns ? path.LastName : path.Text;
        Set(field, value.DeepClone());
        if (field == "event" && value["otherwise"] is null)
        {
            Set("event.otherwise", Reading.NotUnderstood);
        }
    }

    private bool Matches(BodyPath path, bool inLines, BodyPath place)
    {
        var whole =
            Each is { } each ? Joined(each, inLines && Lines is { } l ? Joined(l, path) : path)
            : inLines && Lines is { } lines ? Joined(lines, path)
            : path;
        return Same(whole, place) || (!inLines && Each is not null && Same(path, place));
    }

    private static bool Same(BodyPath path, BodyPath place) => path.Steps.Length == place.Steps.Length && Generalised(place, path);

    private static bool Generalised(BodyPath place, BodyPath begin) =>
        place.Steps.Length >= begin.Steps.Length
        && Enumerable.Range(0, begin.Steps.Length).All(i => begin.Steps[i] == place.Steps[i] || (begin.Steps[i].IsAll && place.Steps[i].Index is not null));

    private static BodyPath Relative(BodyPath place, int from) => place.Steps.Skip(from).Aggregate(BodyPath.Root, (p, s) => p.Then(s));

    private static BodyPath Joined(BodyPath begin, BodyPath rest) => rest.Steps.Aggregate(begin, (p, s) => p.Then(s));
}
