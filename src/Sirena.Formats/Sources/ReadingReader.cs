using System.Text.Json;
using Sirena.Core;
using Sirena.Core.Orders;
using Sirena.Core.Sources;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Sources;

/// <summary>Reads a reading's document. Every mistake is collected with its place; unknown members are mistakes.</summary>
public sealed partial class ReadingReader : DocumentReader
{
    /// <summary>The members of a value.</summary>
    internal static readonly string[] ValueMembers =
    [
        "path",
        "column",
        "field",
        "header",
        "always",
        "join",
        "between",
        "form",
        "zone",
        "decimal",
        "minor",
        "words",
        "else",
        "yes",
        "trim",
    ];

    /// <summary>The members of a reading.</summary>
    internal static readonly string[] Members = ["source", "id", "event", "time", "each", "order", "stock", "note", "contact", "keep"];

    private const int MostWords = 500;

    private ReadingReader() { }

    /// <summary>Reads a text.</summary>
    /// <param name="text">JSON or YAML.</param>
    /// <param name="yaml">It is YAML.</param>
    /// <param name="kind">The kind of source that it is for.</param>
    /// <returns>The reading, or the mistakes; never both.</returns>
    public static (Reading? Reading, IReadOnlyList<DocumentError> Errors) Read(string text, bool yaml, SourceKind kind = SourceKind.Calls)
    {
        var (node, error) = DocumentText.Read(text, yaml);
        return error is not null ? (null, [error]) : Read(node!, "", kind);
    }

    /// <summary>Reads a part of another document.</summary>
    public static (Reading? Reading, IReadOnlyList<DocumentError> Errors) Read(Node node, string path, SourceKind kind)
    {
        var reader = new ReadingReader();
        var reading = reader.One(node, path, kind);
        return reader.Errors.Count > 0 ? (null, reader.Errors) : (reading, []);
    }

    private Reading? One(Node node, string path, SourceKind kind)
    {
        if (Map(node, path, "A reading", Members) is not { } map)
        {
            return null;
        }

        var fields = new List<FieldReading>();
        LinesReading? lines = null;
        foreach (var part in new[] { "order", "stock", "note", "contact" })
        {
            if (map[part] is { } group)
            {
                Group(group, path, part, fields, ref lines);
            }
        }

        var (said, otherwise) = EventOf(map, path, kind);
        if (fields.Count == 0 && Errors.Count == 0)
        {
            Wrong(At(path, "order"), map, "A reading says where at least one value is, such as order: { number: { path: $.number } }.");
        }

        var needed = said?.Words?.Values.FirstOrDefault(EventTypes.NeedsOrder)
            ?? (EventTypes.NeedsOrder(otherwise) ? otherwise : null)
            ?? (said is { Always: { ValueKind: JsonValueKind.String } always } && EventTypes.NeedsOrder(always.GetString()!) ? always.GetString() : null);
        if (
            Errors.Count == 0
            && (kind == SourceKind.Listing || needed is not null)
            && fields.All(f => f.Field.Path != "order.number")
            && (kind != SourceKind.Listing || fields.All(f => f.Field.Path != "stock.sku"))
        )
        {
            Wrong(
                At(path, "order.number"),
                map["order"] ?? map,
                $"Where the order's number is must be said: order: {{ number: {{ path: $.number }} }}.{(needed is null ? "" : $" {needed} needs it.")}"
            );
        }

        return new Reading
        {
            Source = Text(map, "source", path),
            Id = map["id"] is { } id ? Value(id, At(path, "id"), ReadAs.Text) : null,
            Event = said,
            Otherwise = otherwise,
            Time = map["time"] is { } time ? Value(time, At(path, "time"), ReadAs.Time) : null,
            Each = map["each"] is { } each ? Path(each, At(path, "each"), many: true) : null,
            Fields = fields,
            Lines = lines,
            KeepRest = Keep(map, path),
        };
    }

    private (ValueReading? Event, string Otherwise) EventOf(MapNode map, string path, SourceKind kind)
    {
        if (map["event"] is not { } node)
        {
            if (kind == SourceKind.Calls)
            {
                Wrong(
                    At(path, "event"),
                    map,
                    "'event' is missing: it says what happened, such as event: { path: $.kind, words: { NEW: order.placed }, otherwise: not-understood "
                        + "}, or event: { always: order.changed }."
                );
            }

            return (null, Reading.NotUnderstood);
        }

        var otherwise = Reading.NotUnderstood;
        if (node is MapNode said)
        {
            otherwise = Text(said, "otherwise", At(path, "event")) ?? Reading.NotUnderstood;
            TypeAt(said["otherwise"] ?? said, At(path, "event.otherwise"), otherwise);
            node = said with { Members = [.. said.Members.Where(m => m.Name != "otherwise")] };
        }

        var value = Value(node, At(path, "event"), ReadAs.Text);
        if (value is { Always.ValueKind: not JsonValueKind.Undefined })
        {
            TypeAt(node, At(path, "event.always"), value.Always.ValueKind == JsonValueKind.String ? value.Always.GetString()! : "");
        }

        if (value is not null && node is MapNode { Members: var members })
        {
            foreach (var word in (members.FirstOrDefault(m => m.Name == "words").Value as MapNode)?.Members ?? [])
            {
                TypeAt(word.Value, At(path, $"event.words.{word.Name}"), (word.Value as ScalarNode)?.Text ?? "");
            }
        }

        return (value, otherwise);
    }

    private void TypeAt(Node at, string path, string type)
    {
        if (type is not (Reading.NotUnderstood or Reading.Ignore) && (!EventTypes.IsType(type) || EventTypes.IsOwn(type)))
        {
            Wrong(
                path,
                at,
                $"'{Quoting.Cut(type)}' is no event that can come in: use one such as order.placed, one of your own, '{Reading.Ignore}' or "
                    + $"'{Reading.NotUnderstood}'.{Closest.Hint(type, EventTypes.All)}"
            );
        }
    }

    private bool Keep(MapNode map, string path)
    {
        var keep = Text(map, "keep", path) ?? "rest";
        if (keep is not ("rest" or "none"))
        {
            Wrong(At(path, "keep"), map["keep"]!, "'keep' is rest (what no line reads goes to order.extra) or none.");
        }

        return keep == "rest";
    }

    // A group is an object of values, or of groups; where a value ends and a group begins is what the contract says.
    private void Group(Node node, string root, string path, List<FieldReading> fields, ref LinesReading? lines)
    {
        if (node is not MapNode map)
        {
            Wrong(At(root, path), node, $"'{path}' is an object of values, such as {{ number: {{ path: $.number }} }}.");
            return;
        }

        foreach (var (name, line, column, value) in map.Members)
        {
            var here = $"{path}.{name}";
            if (here == "order.lines")
            {
                lines = Lines(value, At(root, here));
            }
            else if (ReadingField.Find(here) is { } field)
            {
                if (Value(value, At(root, here), field.As) is { } read)
                {
                    fields.Add(new FieldReading(field, read));
                }
            }
            else if (here == "order.extra" || ReadingField.All.Any(f => f.Path.StartsWith(here + ".", StringComparison.Ordinal)))
            {
                Group(value, root, here, fields, ref lines);
            }
            else
            {
                var names = ReadingField
                    .All.Where(f => f.Path.StartsWith(path + ".", StringComparison.Ordinal))
                    .Select(f => f.Path[(path.Length + 1)..].Split('.')[0])
                    .Append(path == "order" ? "lines" : "")
                    .Distinct()
                    .Where(n => n.Length > 0);
                Errors.Add(
                    new DocumentError(
                        At(root, here),
                        line,
                        column,
                        $"'{path}' has no member '{Quoting.Cut(name)}'.{Closest.Hint(name, names)}"
                            + $"{(path == "order" ? " What is the business's own goes to order.extra." : "")}"
                    )
                );
            }
        }
    }

    private LinesReading? Lines(Node node, string path)
    {
        if (Map(node, path, "'lines'", ["each", .. ReadingField.Line.Select(f => f.Path)]) is not { } map)
        {
            return null;
        }

        if (map["each"] is not { } list)
        {
            Wrong(At(path, "each"), map, "'each' is missing: it says which list the lines are, such as $.positions[*].");
            return null;
        }

        var fields = new List<FieldReading>();
        foreach (var field in ReadingField.Line)
        {
            if (map[field.Path] is { } value && Value(value, At(path, field.Path), field.As) is { } read)
            {
                fields.Add(new FieldReading(field, read));
            }
        }

        return Path(list, At(path, "each"), many: true) is { } each ? new LinesReading(each, fields) : null;
    }
}
