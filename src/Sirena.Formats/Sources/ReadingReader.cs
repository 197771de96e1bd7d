using System.Collections.Frozen;
using System.Text.Json;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Orders;
using Sirena.Core.Sources;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Sources;

/// <summary>Reads a reading's document. Every mistake is collected with its place; unknown members are mistakes.</summary>
public sealed class ReadingReader : DocumentReader
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
                    "'event' is missing: it says what happened, such as event: { path: $.kind, words: { NEW: order.placed }, otherwise: not-understood }, or event: { always: order.changed }."
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
                $"'{Quoting.Cut(type)}' is no event that can come in: use one such as order.placed, one of your own, '{Reading.Ignore}' or '{Reading.NotUnderstood}'.{Closest.Hint(type, EventTypes.All)}"
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
                        $"'{path}' has no member '{Quoting.Cut(name)}'.{Closest.Hint(name, names)}{(path == "order" ? " What is the business's own goes to order.extra." : "")}"
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

    private ValueReading? Value(Node node, string path, ReadAs how)
    {
        if (Map(node, path, "A value", ValueMembers) is not { } map)
        {
            return null;
        }

        string[] from = [.. new[] { "path", "column", "field", "header", "always", "join" }.Where(m => map[m] is not null)];
        if (from.Length != 1)
        {
            Wrong(
                path,
                map,
                from.Length == 0
                    ? "It is not said where the value is: one of path, column, field, header, always or join."
                    : $"The value comes from one place; {string.Join(" and ", from.Select(f => $"'{f}'"))} exclude each other."
            );
            return null;
        }

        var value = new ValueReading
        {
            Path =
                map["path"] is { } at ? Path(at, At(path, "path"), many: null)
                : (Text(map, "column", path) ?? Text(map, "field", path)) is { Length: > 0 } name ? BodyPath.Of(name)
                : null,
            Column = Text(map, "column", path) ?? Text(map, "field", path),
            Header = Text(map, "header", path),
            Always = map["always"] is ScalarNode fixedValue ? fixedValue.Value : default,
            Join = Joined(map, path),
            Between = map["between"] is ScalarNode { Text: { } between } ? between : " ",
            Forms = Forms(map, path),
            Zone = Zone(map, path),
            Decimal = Point(map, path),
            Minor = Number(map, "minor", path) ?? 0,
            Words = Words(map, path),
            Else = Text(map, "else", path),
            Yes = YesWords(map, path),
            Trim = Bool(map, "trim", path) ?? false,
        };
        Fits(value, map, path, how);
        return value;
    }

    // What is said of a value must be able to do something to it.
    private void Fits(ValueReading value, MapNode map, string path, ReadAs how)
    {
        void Only(bool wrong, string member, string problem)
        {
            if (wrong)
            {
                Wrong(At(path, member), map[member] ?? map, problem);
            }
        }

        Only(map["always"] is not (null or ScalarNode), "always", "'always' is a text, a number, true or false.");
        Only(value.Forms.Count > 0 && how is not (ReadAs.Time or ReadAs.Any), "form", "'form' is the form of a time; this value is none.");
        Only(value.Zone is not null && how is not (ReadAs.Time or ReadAs.Any), "zone", "'zone' is for times; this value is none.");
        Only(
            (value.Decimal is not null || value.Minor != 0) && how is not (ReadAs.Number or ReadAs.Any),
            value.Decimal is null ? "minor" : "decimal",
            "'decimal' and 'minor' are for numbers; this value is none."
        );
        Only(value.Minor is < 0 or > 6, "minor", "'minor' is how many digits are decimals, 0 to 6.");
        Only(value.Words is not null && how is ReadAs.Time or ReadAs.Number, "words", "'words' are for texts; this value is a time or a number.");
        Only(value.Else is not null && value.Words is null, "else", "'else' goes with 'words': it is what any other word means.");
        Only(value.Yes.Count > 0 && how is not (ReadAs.YesNo or ReadAs.Any), "yes", "'yes' is for what is true or false; this value is neither.");
        Only(map["between"] is not null && value.Join.Count == 0, "between", "'between' goes with 'join'.");
        Only(
            value.Header?.Any(c => c <= ' ' || c >= '\u007F' || c == ':') == true,
            "header",
            "A header's name is made of letters, digits and hyphens, such as X-Delivery."
        );
    }

    private List<ValueReading> Joined(MapNode map, string path)
    {
        var parts = new List<ValueReading>();
        foreach (var (item, at) in (List(map, "join", path)?.Items ?? []).Select((n, i) => (n, $"{At(path, "join")}[{i}]")))
        {
            if (item is ScalarNode { Text: { } text })
            {
                parts.Add(
                    text.StartsWith('$') ? new ValueReading { Path = Path(item, at, many: null) } : new ValueReading { Path = BodyPath.Of(text), Column = text }
                );
            }
            else if (Value(item, at, ReadAs.Text) is { } part)
            {
                parts.Add(part);
            }
        }

        if (parts.Count > 10)
        {
            Wrong(At(path, "join"), map["join"]!, "At most 10 values are joined.");
        }

        return parts;
    }

    private List<TimeForm> Forms(MapNode map, string path)
    {
        var forms = new List<TimeForm>();
        var written =
            map["form"] is ListNode ? Texts(map, "form", path)
            : Text(map, "form", path) is { } one ? [(map["form"]!, At(path, "form"), one)]
            : [];
        foreach (var (node, at, text) in written.Take(12))
        {
            var (form, problem) = TimeForm.Parse(text);
            if (form is null)
            {
                Wrong(at, node, problem!);
            }
            else
            {
                forms.Add(form);
            }
        }

        return forms;
    }

    private DateTimeZone? Zone(MapNode map, string path)
    {
        if (Text(map, "zone", path) is not { } id)
        {
            return null;
        }

        var zone = DateTimeZoneProviders.Tzdb.GetZoneOrNull(id);
        if (zone is null)
        {
            Wrong(At(path, "zone"), map["zone"]!, $"There is no time zone '{Quoting.Cut(id)}'.{Closest.Hint(id, DateTimeZoneProviders.Tzdb.Ids)}");
        }

        return zone;
    }

    private char? Point(MapNode map, string path)
    {
        var point = Text(map, "decimal", path);
        if (point is not (null or "," or "."))
        {
            Wrong(At(path, "decimal"), map["decimal"]!, "'decimal' is the sign before the decimals: \",\" or \".\".");
        }

        return point is "," or "." ? point[0] : null;
    }

    private FrozenDictionary<string, string>? Words(MapNode map, string path)
    {
        if (map["words"] is not { } node)
        {
            return null;
        }

        if (node is not MapNode { Members.Count: > 0 and <= MostWords } words)
        {
            Wrong(At(path, "words"), node, $"'words' is an object of their words and what each means, such as {{ K1: galley }}; at most {MostWords}.");
            return null;
        }

        foreach (var (name, line, column, value) in words.Members)
        {
            if (value is not ScalarNode { IsNull: false })
            {
                Errors.Add(new DocumentError(At(path, $"words.{name}"), line, column, "What a word means is a text."));
            }
        }

        return words.Members.Where(m => m.Value is ScalarNode { IsNull: false }).ToFrozenDictionary(m => m.Name.Trim(), m => Plain((ScalarNode)m.Value));
    }

    private string[] YesWords(MapNode map, string path) =>
        map["yes"] is ScalarNode { IsNull: false } one ? [Plain(one)] : [.. Texts(map, "yes", path).Select(t => t.Text)];

    private static string Plain(ScalarNode node) => node.Text ?? node.Value.GetRawText();

    private BodyPath? Path(Node node, string at, bool? many)
    {
        if (node is not ScalarNode { Text: { } text })
        {
            Wrong(at, node, "A path is a text, such as $.order.number.");
            return null;
        }

        var (path, problem) = BodyPath.Parse(text.Trim());
        if (path is null || (many == true && !path.IsMany))
        {
            Wrong(at, node, problem ?? "The path names a list's items: it has a [*], such as $.orders[*].");
            return null;
        }

        return path;
    }
}
