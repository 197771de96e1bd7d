using System.Collections.Immutable;
using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.People;
using Sirena.Core.Wordings;
using Sirena.Formats.Documents;
using Sirena.Formats.Rules;

namespace Sirena.Formats.Wordings;

/// <summary>Reads wording documents: one wording, or a list of them. Texts are checked for their audience.</summary>
public sealed class WordingReader : DocumentReader
{
    private static readonly string[] Brief = ["sms", "chat", "push", "screen", "ticket"];
    private readonly IReadOnlySet<string>? seen;

    private WordingReader(IReadOnlySet<string>? seen) => this.seen = seen;

    /// <summary>Reads a text with one wording, or several in a list.</summary>
    /// <param name="text">JSON or YAML.</param>
    /// <param name="yaml">It is YAML.</param>
    /// <param name="id">The id for a single document that has none; else it is made from the name.</param>
    /// <param name="seen">Paths that events of the business's own were seen to carry.</param>
    public static (IReadOnlyList<Wording> Wordings, IReadOnlyList<DocumentError> Errors) Read(
        string text,
        bool yaml,
        string? id = null,
        IReadOnlySet<string>? seen = null
    )
    {
        var (node, error) = DocumentText.Read(text, yaml);
        if (error is not null)
        {
            return ([], [error]);
        }

        var reader = new WordingReader(seen);
        var read = (node is ListNode list ? list.Items.Select((n, i) => reader.One(n, $"[{i}]", null)) : [reader.One(node!, "", id)])
            .OfType<Wording>()
            .ToList();
        return (read, reader.Errors);
    }

    /// <summary>Reads the texts of one audience, as a preview gives them; mistakes are collected under a path.</summary>
    public static (WordingParts Parts, IReadOnlyList<DocumentError> Errors) ReadParts(Node node, string path, Audience audience, IReadOnlySet<string>? seen)
    {
        var reader = new WordingReader(seen);
        var parts = reader.Map(node, path, "A wording", ["mail", .. Brief, Fact.Field]) is { } map ? reader.Parts(map, path, audience) : new WordingParts();
        return (parts, reader.Errors);
    }

    private Wording? One(Node node, string path, string? id)
    {
        if (Map(node, path, "A wording", ["id", "name", "texts"]) is not { } map)
        {
            return null;
        }

        var name = Line(map, "name", path) ?? "";
        id = Text(map, "id", path) ?? id ?? (name.Length > 0 ? RuleReader.IdOfNew(name) : null);
        if (id is null)
        {
            Wrong(At(path, "name"), map, "A wording needs a name or an id.");
            return null;
        }

        if (id.Length > 60 || !id.All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c is '-' or '.' or '_') || name.Length > 80)
        {
            Wrong(
                At(path, "id"),
                map["id"] ?? map,
                "An id is made of lower-case letters, digits, hyphens, dots and underscores, 60 at most; a name has 80 characters at most."
            );
        }

        if (id == Ids.New)
        {
            Wrong(At(path, "id"), map["id"] ?? map, Ids.Kept(id));
        }

        var texts = List(map, "texts", path)?.Items.Select((t, i) => OneText(t, $"{At(path, "texts")}[{i}]")).OfType<WordingText>().ToImmutableArray() ?? [];
        if (texts.IsEmpty && Errors.Count == 0)
        {
            Wrong(At(path, "texts"), map, "A wording needs 'texts': a list with an audience, a language and at least one text each.");
        }

        if (texts.GroupBy(t => (t.Audience, t.Language)).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            Wrong(At(path, "texts"), map["texts"]!, $"There are two texts for {twice.Key.Audience.Name()} in '{twice.Key.Language}'.");
        }

        return new Wording(id, name.Length > 0 ? name : id, texts);
    }

    private WordingText? OneText(Node node, string path)
    {
        if (Map(node, path, "A text", ["audience", "language", "mail", .. Brief, Fact.Field]) is not { } map)
        {
            return null;
        }

        var audience = OneOf<Audience>(map, "audience", path) ?? Audience.Staff;
        var language = Text(map, "language", path) ?? "en";
        if (TextLanguage.All.All(l => l.Code != language))
        {
            Wrong(
                At(path, "language"),
                map["language"]!,
                $"There is no language '{language}'. Use {string.Join(" or ", TextLanguage.All.Select(l => l.Code))}."
            );
        }

        return new WordingText(audience, language, Parts(map, path, audience));
    }

    private WordingParts Parts(MapNode map, string path, Audience audience)
    {
        var parts = new WordingParts();
        if (map["mail"] is { } mail && Map(mail, At(path, "mail"), "The mail's text", ["subject", "text", "html"]) is { } mailMap)
        {
            foreach (var name in new[] { "subject", "text", "html" })
            {
                parts = Part(parts, mailMap, name, $"mail.{name}", At(path, "mail"), audience);
            }
        }

        foreach (var name in Brief)
        {
            parts = Part(parts, map, name, name, path, audience);
        }

        return parts with
        {
            Facts = [.. FactsIn(map, path, audience)],
        };
    }

    private IEnumerable<Fact> FactsIn(MapNode map, string path, Audience audience)
    {
        var nodes = List(map, Fact.Field, path)?.Items ?? [];
        if (nodes.Count > Fact.Most)
        {
            Wrong(At(path, Fact.Field), map[Fact.Field]!, Fact.TooMany(nodes.Count));
            yield break;
        }

        for (var i = 0; i < nodes.Count; i++)
        {
            var here = $"{At(path, Fact.Field)}[{i}]";
            if (Map(nodes[i], here, "A fact", ["label", "value", "labelled"]) is not { } node)
            {
                continue;
            }

            var fact = new Fact(Text(node, "label", here) ?? "", Text(node, "value", here) ?? "", Bool(node, "labelled", here) ?? false);
            foreach (var (member, problem) in fact.Mistakes(audience, seen))
            {
                Wrong(At(here, member), node[member] ?? node, problem);
            }

            yield return fact;
        }
    }

    private WordingParts Part(WordingParts parts, MapNode map, string member, string name, string path, Audience audience)
    {
        if (map[member] is not ScalarNode { Text: { } text } node)
        {
            if (map[member] is { } other and not ScalarNode { IsNull: true })
            {
                Wrong(At(path, member), other, $"'{member}' must be text.");
            }

            return parts;
        }

        foreach (var mistake in Mistakes(name, text, audience, seen))
        {
            Errors.Add(
                new DocumentError(
                    At(path, member),
                    node.Line + (mistake.Line - 1),
                    mistake.Line == 1 ? node.Column + mistake.Column : mistake.Column,
                    mistake.Problem
                )
            );
        }

        return parts.With(name, text);
    }

    /// <summary>What is wrong with the text of a part: what the check of wordings says, and in HTML what a mail may not carry.</summary>
    public static IEnumerable<TextMistake> Mistakes(string part, string text, Audience audience, IReadOnlySet<string>? seen) =>
        WordingCheck.Of(text, audience, part == "mail.html", seen).Concat(part == "mail.html" ? SafeHtml.Mistakes(text) : []);

    /// <summary>What is wrong with all parts and with the facts.</summary>
    public static IReadOnlyList<PartMistake> Mistakes(WordingParts parts, Audience audience, IReadOnlySet<string>? seen) =>
        [
            .. parts.Given.SelectMany(p => Mistakes(p.Name, p.Text, audience, seen).Select(m => new PartMistake(p.Name, m))),
            .. WordingCheck.OfFacts(parts, audience, seen),
        ];

    /// <summary>The document of a wording.</summary>
    public static JsonObject Write(Wording wording) =>
        new()
        {
            ["id"] = wording.Id,
            ["name"] = wording.Name,
            ["texts"] = new JsonArray([
                .. wording.Texts.Select(t =>
                {
                    var map = new JsonObject { ["audience"] = t.Audience.Name(), ["language"] = t.Language };
                    var mail = new JsonObject();
                    foreach (var (name, text) in t.Parts.Given)
                    {
                        if (name.StartsWith("mail.", StringComparison.Ordinal))
                        {
                            mail[name[5..]] = text;
                        }
                        else
                        {
                            map[name] = text;
                        }
                    }

                    if (mail.Count > 0)
                    {
                        map["mail"] = mail;
                    }

                    if (t.Parts.Facts.Length > 0)
                    {
                        map[Fact.Field] = new JsonArray([.. t.Parts.Facts.Select(FactOf)]);
                    }

                    return (JsonNode)map;
                }),
            ]),
        };

    private static JsonNode FactOf(Fact fact)
    {
        var map = new JsonObject { ["label"] = fact.Label, ["value"] = fact.Value };
        if (fact.Labelled)
        {
            map["labelled"] = true;
        }

        return map;
    }
}
