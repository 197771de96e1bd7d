using System.Collections.Frozen;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Sources;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Sources;

public sealed partial class ReadingReader
{
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

        // Space around a word is none of it.
        var known = words.Members.Where(m => m.Value is ScalarNode { IsNull: false }).ToLookup(m => m.Name.Trim());
        foreach (var (name, line, column, _) in known.SelectMany(same => same.Skip(1)))
        {
            Errors.Add(new DocumentError(At(path, $"words.{name}"), line, column, $"The word '{name.Trim()}' stands here a second time."));
        }

        return known.ToFrozenDictionary(same => same.Key, same => Plain((ScalarNode)same.First().Value));
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
