using NodaTime;
using Sirena.Core;
using Sirena.Core.People;
using Sirena.Core.Wordings;
using Sirena.Formats.Documents;

namespace Sirena.Formats.People;

/// <summary>Reads people documents, YAML or JSON: a list of people, or <c>{ items: [ … ] }</c> as the API gives it.</summary>
public sealed partial class PeopleReader : DocumentReader
{
    private static readonly string[] Members =
    [
        "id",
        "name",
        "email",
        "language",
        "post",
        "outside",
        "archived",
        "teams",
        "manages",
        "codes",
        "contacts",
        "optOuts",
        "quiet",
        "away",
        "first",
        "archivedAt",
    ];

    private readonly DateTimeZone zone;
    private readonly IReadOnlyCollection<string> sites;

    private PeopleReader(DateTimeZone zone, IReadOnlyCollection<string> sites) => (this.zone, this.sites) = (zone, sites);

    /// <summary>Reads a text.</summary>
    /// <param name="text">JSON or YAML.</param>
    /// <param name="yaml">It is YAML.</param>
    /// <param name="zone">The business's time zone, for dates.</param>
    /// <param name="sites">The ids of the sites that exist.</param>
    public static PeopleDocument Read(string text, bool yaml, DateTimeZone zone, IReadOnlyCollection<string> sites)
    {
        var (node, error) = DocumentText.Read(text, yaml);
        if (error is not null)
        {
            return new PeopleDocument([], [error], 1);
        }

        var list = node as ListNode ?? (node as MapNode)?["items"] as ListNode;
        if (list is null)
        {
            return new PeopleDocument([], [new DocumentError("", node!.Line, node.Column, "A list of people is expected.")], 1);
        }

        var (good, errors, bad) = (new List<PersonEntry>(), new List<DocumentError>(), 0);
        for (var i = 0; i < list.Items.Count; i++)
        {
            var reader = new PeopleReader(zone, sites);
            var entry = reader.ReadPerson(list.Items[i], $"[{i}]");
            if (entry is not null && good.Exists(g => g.Person.Id == entry.Person.Id))
            {
                reader.Wrong($"[{i}].id", list.Items[i], $"'{entry.Person.Id}' stands twice in the list.");
            }

            if (entry is null || reader.Errors.Count > 0)
            {
                bad++;
                errors.AddRange(reader.Errors);
            }
            else
            {
                good.Add(entry);
            }
        }

        return new PeopleDocument(good, errors, bad);
    }

    /// <summary>Reads people as JSON lines: an object a line, which changes only the members that it carries; <c>null</c> clears one.</summary>
    /// <param name="text">The lines.</param>
    /// <param name="zone">The business's time zone, for dates.</param>
    /// <param name="sites">The ids of the sites that exist.</param>
    public static PeopleDocument ReadLines(string text, DateTimeZone zone, IReadOnlyCollection<string> sites)
    {
        var (good, errors, bad) = (new List<PersonEntry>(), new List<DocumentError>(), 0);
        var lines = text.ReplaceLineEndings("\n").Split('\n');
        for (var i = 0; i < lines.Length; i++)
        {
            if (string.IsNullOrWhiteSpace(lines[i]))
            {
                continue;
            }

            var (node, error) = DocumentText.Read(lines[i], yaml: false);
            var (entry, mistakes) = error is null ? ReadPart(node!, null, zone, sites) : (null, [error]);
            if (entry is not null && entry.Person.Id.Length > 0 && good.Exists(g => g.Person.Id == entry.Person.Id))
            {
                mistakes = [.. mistakes, new DocumentError("id", 1, 1, $"'{entry.Person.Id}' stands twice in the file.")];
            }

            if (entry is null || mistakes.Count > 0)
            {
                bad++;
                errors.AddRange(mistakes.Select(m => m with { Line = i + 1 }));
            }
            else
            {
                good.Add(entry with { Line = i + 1 });
            }
        }

        return good.Count == 0 && errors.Count == 0
            ? new PeopleDocument([], [new DocumentError("", 1, 1, "The file is empty. A person is one JSON object in one line.")], 1)
            : new PeopleDocument(good, errors, bad);
    }

    /// <summary>Reads an object that changes only the members that it carries (as RFC 7396 has it: <c>null</c> clears).</summary>
    /// <param name="node">The object.</param>
    /// <param name="id">Whose it is; <see langword="null"/> when the object says so, by id or mail address.</param>
    /// <param name="zone">The business's time zone, for dates.</param>
    /// <param name="sites">The ids of the sites that exist.</param>
    public static (PersonEntry? Entry, IReadOnlyList<DocumentError> Errors) ReadPart(
        Node node,
        string? id,
        DateTimeZone zone,
        IReadOnlyCollection<string> sites
    )
    {
        if (node is not MapNode given)
        {
            return (null, [new DocumentError("", node.Line, node.Column, "An object is expected: a person.")]);
        }

        var members = given.Members.Where(m => m.Value is not ScalarNode { IsNull: true }).ToList();
        var own = id ?? (given["id"] as ScalarNode)?.Text;
        var nameless = own is null && (given["name"] as ScalarNode)?.Text is { } name ? PersonId.From(name) : own;
        if (given["id"] is null && nameless is not null)
        {
            members.Insert(
                0,
                ("id", given.Line, given.Column, new ScalarNode(System.Text.Json.JsonSerializer.SerializeToElement(nameless), given.Line, given.Column))
            );
        }

        var reader = new PeopleReader(zone, sites);
        var entry = reader.ReadPerson(new MapNode(members, given.Line, given.Column), "");
        if (id is not null && entry is not null && entry.Person.Id != id)
        {
            reader.Wrong("id", given, $"The document's id is not '{id}', which the address says. Make them the same or leave the id out.");
        }

        return (
            entry is null
                ? null
                : entry with
                {
                    Given = given.Members.Select(m => m.Name).ToHashSet(),
                    FoundByMail = own is null,
                    Manages = given["manages"] is null ? null : entry.Manages,
                },
            reader.Errors
        );
    }

    /// <summary>Why a text cannot be a person's id; <see langword="null"/> when it can.</summary>
    public static string? WhyNoId(string id) =>
        !IsId(id) ? $"'{Quoting.Cut(id)}' cannot be an id: lower-case letters, digits, dots, hyphens and underscores, 60 at most: first.last."
        : Ids.NoPerson.Contains(id) ? Ids.Kept(id)
        : null;

    /// <summary>Whether a text can be the id of a person or a team.</summary>
    public static bool IsId(string id) =>
        id.Length is > 0 and <= 60 && id.All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c is '.' or '-' or '_');

    private PersonEntry? ReadPerson(Node node, string path)
    {
        if (Map(node, path, "A person", Members) is not { } map)
        {
            return null;
        }

        var id = Text(map, "id", path, required: true) ?? "";
        if (id.Length > 0 && WhyNoId(id) is { } problem)
        {
            Wrong(At(path, "id"), map["id"]!, problem);
        }

        var name = Line(map, "name", path) ?? id;
        var email = Text(map, "email", path);
        if (email is not null && !MailAddress.TryParse(email, out _, out var bad))
        {
            Wrong(At(path, "email"), map["email"]!, $"'{email}' {bad}.");
        }

        var language = Text(map, "language", path) ?? "en";
        if (!TextLanguage.IsTag(language))
        {
            Wrong(At(path, "language"), map["language"]!, TextLanguage.NoTag(language));
        }

        var person = new Person
        {
            Id = id,
            Name = name.Length is > 0 and <= 120 ? name : id,
            Email = email,
            Language = language,
            Post = Text(map, "post", path),
            Outside = Bool(map, "outside", path) ?? false,
            ArchivedAt = Bool(map, "archived", path) == true ? Instant.MaxValue : null,
            Teams = [.. Texts(map, "teams", path).Select(t => TeamId(t)).Distinct()],
            Codes = [.. Texts(map, "codes", path).Select(Code).Distinct(StringComparer.OrdinalIgnoreCase)],
            Contacts = [.. Contacts(map, path)],
            OptOuts = [.. Objects(map, "optOuts", path, ReadOptOut)],
            Quiet = [.. Objects(map, "quiet", path, (m, p) => WeekSpan(m, p, "A quiet span"))],
            Away = [.. Objects(map, "away", path, ReadLeave)],
            First = ReadFirst(map, path),
        };
        return new PersonEntry(person, [.. Texts(map, "manages", path).Select(s => Known(s.Node, s.Path, s.Text, sites, "site")).Distinct()]);
    }

    // Lists of codes, in cells and fields, have commas and semicolons between them.
    private string Code((Node Node, string Path, string Text) code)
    {
        if (TypedList.IsSeveral(code.Text) || string.IsNullOrWhiteSpace(code.Text))
        {
            Wrong(code.Path, code.Node, $"'{Quoting.Cut(code.Text)}' cannot be a code: it holds no comma, semicolon, tab or line break.");
        }

        return code.Text.Trim();
    }

    private string TeamId((Node Node, string Path, string Text) team)
    {
        if (!IsId(team.Text))
        {
            Wrong(team.Path, team.Node, $"'{team.Text}' cannot be a team's id: lower-case letters, digits, dots and hyphens, 60 at most.");
        }

        return team.Text;
    }
}
