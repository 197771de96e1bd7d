using System.Collections.Immutable;
using System.Security.Cryptography;
using System.Text;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Rules;

/// <summary>Reads a rule document. Every mistake is collected with its place; unknown members are mistakes.</summary>
public sealed class RuleReader : LadderReader
{
    private static readonly string[] CaseMembers = ["tell", "by", "wording", "ladder", "notOlderThan", "do", "offer", "onAnswer", "onLanded"];
    private static readonly string[] Members =
    [
        "id",
        "name",
        "on",
        "when",
        "urgency",
        "onlyIf",
        "cases",
        .. CaseMembers,
        .. RuleOptions.All.Select(o => o.Member),
        "version",
        "sentence",
        "inForceSince",
    ];

    private RuleReader(KnownNames? known)
        : base(known) { }

    /// <summary>Reads a text.</summary>
    /// <param name="text">JSON or YAML.</param>
    /// <param name="yaml">It is YAML.</param>
    /// <param name="known">The names that exist, or <see langword="null"/> to take any.</param>
    /// <param name="id">The id for a document that has none; else it is made from the name.</param>
    /// <returns>The rule, or the mistakes; never both.</returns>
    public static (Rule? Rule, IReadOnlyList<DocumentError> Errors) Read(string text, bool yaml, KnownNames? known = null, string? id = null)
    {
        var (node, error) = DocumentText.Read(text, yaml);
        if (error is not null)
        {
            return (null, [error]);
        }

        var reader = new RuleReader(known);
        var rule = reader.ReadRule(node!, id);
        return reader.Errors.Count > 0 ? (null, reader.Errors) : (rule, []);
    }

    /// <summary>An id from a name: lower-case ASCII letters and digits, hyphens between the words.</summary>
    public static string IdFrom(string name)
    {
        var folded = TextFolding.Fold(name);
        foreach (
            var (letter, latin) in new[] { ("ß", "ss"), ("æ", "ae"), ("œ", "oe"), ("ø", "o"), ("þ", "th"), ("ð", "d"), ("đ", "d"), ("ł", "l"), ("ı", "i") }
        )
        {
            folded = folded.Replace(letter, latin, StringComparison.Ordinal);
        }

        // Of letters that have no Latin ones a mark is kept, so that two such names do not become one.
        var mark = folded.Any(c => !char.IsAscii(c) && char.IsLetter(c))
            ? "-" + Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(folded)))[..6]
            : "";
        var words = new string([.. folded.Select(c => char.IsAsciiLetterOrDigit(c) ? c : ' ')]).Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var id = string.Join('-', words);
        return (id[..Math.Min(id.Length, 60 - mark.Length)] + mark).Trim('-') is { Length: > 0 } made ? made : "unnamed";
    }

    /// <summary>An id from a name for what is made anew: never the word under which the pages make one.</summary>
    public static string IdOfNew(string name) => Ids.Free(IdFrom(name), i => i == Ids.New);

    private Rule? ReadRule(Node node, string? id)
    {
        if (Map(node, "", "A rule", Members) is not { } map)
        {
            return null;
        }

        var name = Line(map, "name", "", required: true) ?? "";
        if (name.Length > 120)
        {
            Wrong("name", map["name"]!, "The name is longer than 120 characters.");
        }

        id = Text(map, "id", "") ?? id ?? Ids.Free(IdFrom(name), Ids.NoRule.Contains);
        if (id.Length is 0 or > 60 || !id.All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c is '-' or '.' or '_'))
        {
            Wrong("id", map["id"] ?? map, "An id is made of lower-case letters, digits, hyphens, dots and underscores, 60 at most.");
        }

        if (id.StartsWith("sirena.", StringComparison.Ordinal))
        {
            Wrong("id", map["id"] ?? map, "Ids that begin with 'sirena.' are Sirena's own. Choose another.");
        }

        if (Ids.NoRule.Contains(id) && Existing is not null)
        {
            Wrong("id", map["id"] ?? map, Ids.Kept(id));
        }

        var (cases, brief) = Cases(map);
        var rule = new Rule
        {
            Id = id,
            Name = name,
            On = Bool(map, "on", "") ?? true,
            When = Events(map),
            Urgency = OneOf<Urgency>(map, "urgency", "") ?? Urgency.Prompt,
            OnlyIf = map["onlyIf"] is { } only ? ReadCondition(only, "onlyIf", 1) : null,
            Cases = cases,
            Short = brief,
        };
        return RuleOptions.All.Aggregate(rule, (made, option) => ReadOption(map, option) is { } value ? option.Set(made, value) : made);
    }

    private object? ReadOption(MapNode map, RuleOption option) =>
        option.Shape switch
        {
            OptionShape.Switch => Bool(map, option.Member, ""),
            OptionShape.Span => Span(map, option.Member, ""),
            OptionShape.Limit => map[option.Member] is { } limit ? ReadLimit(limit, option) : null,
            OptionShape.Statuses => ImmutableArray.CreateRange(
                Texts(map, option.Member).Select(s => Known(s.Node, s.Path, s.Text, Existing?.Statuses, "status"))
            ),
            _ => List(map, option.Member, "") is { } files
                ? ImmutableArray.CreateRange(files.Items.Select((f, i) => ReadAttachment(f, $"{option.Member}[{i}]")).OfType<Attachment>())
                : null,
        };

    private Attachment? ReadAttachment(Node node, string path)
    {
        if (Map(node, path, "What goes with a mail", ["document", "file", "audience"]) is not { } map)
        {
            return null;
        }

        if (map["document"] is null == map["file"] is null)
        {
            Wrong(path, map, "Name either a 'document' or a 'file': the field that holds its address, such as order.extra.drawing.");
            return null;
        }

        var file = Text(map, "file", path);
        if (file is not null && Sirena.Core.Orders.Fields.FieldCatalogue.Find(file) is null)
        {
            Wrong(At(path, "file"), map["file"]!, $"There is no field '{file}'. The address of a file stands in one such as order.extra.drawing.");
        }

        return new Attachment(OneOf<DocumentKind>(map, "document", path), file, OneOf<Audience>(map, "audience", path));
    }

    private CountWithin? ReadLimit(Node node, RuleOption option)
    {
        var (counts, longest, longestInWords, example) = option.Counts;
        if (Map(node, option.Member, $"'{option.Member}'", [counts, "within"]) is not { } map)
        {
            return null;
        }

        var (count, within) = (Number(map, counts, option.Member), Span(map, "within", option.Member));
        if (count is null or < 1 or > 10_000 || within is null || within < Duration.FromSeconds(1) || within > longest)
        {
            Wrong(
                option.Member,
                map,
                $"'{option.Member}' needs '{counts}', a number from 1 to 10000, and 'within', a span up to {longestInWords}, such as {example}."
            );
            return null;
        }

        return new CountWithin(count.Value, within.Value);
    }

    private ImmutableArray<string> Events(MapNode map)
    {
        if (map["when"] is null)
        {
            Wrong("when", map, "A rule needs 'when': the events that it listens to, such as [order.held].");
        }

        var events = Texts(map, "when").ToArray();
        foreach (var (node, path, text) in events.Where(e => !EventTypes.IsType(e.Text)))
        {
            Wrong(path, node, $"'{text}' cannot be an event: lower-case words joined by dots, such as order.held.{Closest.Hint(text, EventTypes.All)}");
        }

        if (map["when"] is ListNode { Items.Count: 0 } empty)
        {
            Wrong("when", empty, "'when' is empty. Name at least one event.");
        }

        return [.. events.Select(e => e.Text)];
    }

    private (ImmutableArray<RuleCase> Cases, bool Short) Cases(MapNode map)
    {
        var top = CaseMembers.Where(m => map[m] is not null).ToArray();
        if (map["cases"] is not { } cases)
        {
            if (map["tell"] is null && map["do"] is null)
            {
                Wrong("tell", map, "The rule needs either 'tell' or 'cases', or 'do' where it tells nobody.");
            }

            return ([ReadCase(map, "", "always", CaseMembers, top: true)], true);
        }

        if (top.Length > 0)
        {
            Wrong(top[0], map[top[0]]!, $"'{top[0]}' cannot stand at the top beside 'cases'. Move it into a case.");
        }

        if (cases is not ListNode { Items.Count: > 0 } list)
        {
            Wrong("cases", cases, "'cases' is a list with at least one case.");
            return ([], false);
        }

        var read = list.Items.Select((c, i) => ReadCase(c, $"cases[{i}]", $"case {i + 1}", ["name", "onlyIf", .. CaseMembers], top: false)).ToImmutableArray();
        if (read.GroupBy(c => c.Name).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            Wrong("cases", list, $"Two cases are called '{twice.Key}'. Give each a name of its own.");
        }

        return (read, false);
    }

    private RuleCase ReadCase(Node node, string path, string name, string[] members, bool top)
    {
        var map = top ? (MapNode)node : Map(node, path, "A case", members);
        if (map is null)
        {
            return new RuleCase { Name = name };
        }

        var (shared, ladder) = Ladder(map, path);
        return new RuleCase
        {
            SharedLadder = shared,
            Name = top ? name : Line(map, "name", path) ?? name,
            OnlyIf = !top && map["onlyIf"] is { } only ? ReadCondition(only, At(path, "onlyIf"), 1) : null,
            Tell = Recipients(map, path),
            By = map["by"] is { } by ? ReadWays(by, At(path, "by")) : null,
            Wording = Text(map, "wording", path),
            Ladder = ladder,
            NotOlderThan = Span(map, "notOlderThan", path),
            Do = Asks(map, "do", path),
            Offer = Asks(map, "offer", path, offered: true),
            OnAnswer = OnAnswer(map, path),
            OnLanded = OnLanded(map, path),
        };
    }
}
