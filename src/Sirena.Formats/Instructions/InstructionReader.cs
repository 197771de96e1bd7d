using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Wordings;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Instructions;

/// <summary>What an instruction may name.</summary>
/// <param name="Kinds">The kinds that some source takes, by name; <see langword="null"/> to take any that Sirena knows.</param>
/// <param name="Statuses">The statuses, or <see langword="null"/> to take any.</param>
/// <param name="People">The people, or <see langword="null"/> to take any.</param>
public sealed record InstructionNames(
    IReadOnlyDictionary<string, InstructionKind>? Kinds,
    IReadOnlyCollection<string>? Statuses,
    IReadOnlyCollection<string>? People
);

/// <summary>
/// Reads what is asked of an order system: <c>release</c>, <c>{ hold: { reason: … } }</c>, <c>{ status: picking }</c>. Every mistake is collected with its
/// place.
/// </summary>
public sealed class InstructionReader : DocumentReader
{
    private const int LongestText = 2_000;
    private const int MostTexts = 50;
    private readonly InstructionNames names;
    private readonly bool filled;

    // Where nothing is filled in later, braces are plain text.
    private InstructionReader(InstructionNames names, bool filled) => (this.names, this.filled) = (names, filled);

    /// <summary>Reads a list of them, as it stands in a rule.</summary>
    /// <param name="list">The list.</param>
    /// <param name="path">Where it stands.</param>
    /// <param name="names">What they may name.</param>
    /// <param name="offered">They are offered to people, who fill in what is missing.</param>
    public static (IReadOnlyList<InstructionAsk> Asks, IReadOnlyList<DocumentError> Errors) ReadList(
        ListNode list,
        string path,
        InstructionNames names,
        bool offered
    )
    {
        var reader = new InstructionReader(names, filled: true);
        var asks = list.Items.Select((item, i) => reader.One(item, $"{path}[{i}]", offered)).OfType<InstructionAsk>().ToArray();
        return (asks, reader.Errors);
    }

    /// <summary>Reads the members of one whose kind is known.</summary>
    /// <param name="map">What holds the members, and perhaps others.</param>
    /// <param name="kind">The kind.</param>
    /// <param name="others">Members that belong to what holds them.</param>
    /// <param name="names">What they may name.</param>
    public static (InstructionAsk? Ask, IReadOnlyList<DocumentError> Errors) ReadMembers(
        MapNode map,
        InstructionKind kind,
        string[] others,
        InstructionNames names
    )
    {
        var reader = new InstructionReader(names, filled: false);
        reader.Map(map, "", $"'{kind.Name}'", [.. others, .. kind.Members.Select(m => m.Name)]);
        var ask = reader.Read(map, "", kind, offered: false, others);
        return reader.Errors.Count > 0 ? (null, reader.Errors) : (ask, []);
    }

    private InstructionAsk? One(Node node, string path, bool offered)
    {
        var (word, at, inside) = node switch
        {
            ScalarNode { Text: { Length: > 0 } text } => (text, node, (Node?)null),
            MapNode { Members: [var only] } => (only.Name, only.Value, only.Value),
            _ => ("", node, null),
        };
        if (word.Length == 0)
        {
            Wrong(path, node, "An instruction is one of its names, such as release, or one name with its members, such as { hold: { reason: \"…\" } }.");
            return null;
        }

        var kind = names.Kinds is { } takes ? takes.GetValueOrDefault(word) : InstructionKinds.Find(word);
        if (kind is null)
        {
            if (names.Kinds is null && inside is null or MapNode)
            {
                // A stored one of the business's own stays as it was saved.
                return new InstructionAsk(word, inside?.ToJson().GetRawText() ?? "{}");
            }

            Wrong(
                path,
                node,
                InstructionKinds.Names.Contains(word)
                    ? $"No source takes '{word}'. Say at the source that it does ('takes'), or leave it out."
                    : $"There is no instruction '{word}'.{Closest.Hint(word, names.Kinds?.Keys ?? InstructionKinds.Names)}"
            );
            return null;
        }

        switch (inside)
        {
            case null:
            case ScalarNode { IsNull: true }:
                return Read(new MapNode([], at.Line, at.Column), path, kind, offered);
            case MapNode map:
                Map(map, At(path, word), $"'{word}'", [.. kind.Members.Select(m => m.Name)]);
                return Read(map, At(path, word), kind, offered);
            case ScalarNode or ListNode when kind.Main is { } main:
                return Read(new MapNode([(main, at.Line, at.Column, inside)], at.Line, at.Column), At(path, word), kind, offered);
            default:
                Wrong(At(path, word), at, $"'{word}' takes no such value. Give its members by name, such as {{ {word}: {{ … }} }}.");
                return null;
        }
    }

    private InstructionAsk Read(MapNode map, string path, InstructionKind kind, bool offered, string[]? others = null)
    {
        var (with, before) = (new JsonObject(), Errors.Count);
        foreach (var member in kind.Members.Where(m => others?.Contains(m.Name) != true))
        {
            var node = map[member.Name];
            if (node is null or ScalarNode { IsNull: true })
            {
                if (member.Needed && !offered)
                {
                    Wrong(At(path, member.Name), map, $"'{member.Name}' is missing: {kind.Button.ToLowerInvariant()} needs it.");
                }

                continue;
            }

            if (Value(node, At(path, member.Name), member) is { } value)
            {
                with[member.Name] = value;
            }
        }

        if (kind.Name == "tag" && !offered && with["add"] is null && with["remove"] is null && Errors.Count == before)
        {
            Wrong(path, map, "'tag' needs 'add' or 'remove': lists of tags.");
        }

        if (kind.Name == "assign" && names.People is { } people && InstructionKinds.Text(with, "salesperson") is { } who && !people.Contains(who))
        {
            Wrong(At(path, "salesperson"), map["salesperson"] ?? map, $"There is no person '{who}'.{Closest.Hint(who, people)}");
        }

        return new InstructionAsk(kind.Name, with.ToJsonString());
    }

    private JsonNode? Value(Node node, string path, InstructionMember member)
    {
        switch (member.Type)
        {
            case MemberType.YesNo when node is ScalarNode { Value.ValueKind: JsonValueKind.True or JsonValueKind.False } yes:
                return yes.Value.GetBoolean();
            case MemberType.YesNo:
                Wrong(path, node, $"'{member.Name}' must be true or false.");
                return null;
            case MemberType.Texts:
                return TextsOf(node, path, member.Name);
            case MemberType.Amount:
                return Amount(node, path);
        }

        if (node is not ScalarNode scalar || scalar.Text is not { } text || text.Trim().Length == 0)
        {
            Wrong(path, node, $"'{member.Name}' must be text.");
            return null;
        }

        text = text.Trim();
        if (text.Length > LongestText)
        {
            Wrong(path, node, $"'{member.Name}' is longer than {LongestText} characters.");
        }
        else if (member.Among is { } among && !among.Contains(text))
        {
            Wrong(path, node, $"'{member.Name}' is one of {string.Join(", ", among)}.{Closest.Hint(text, among)}");
        }
        else if (member.Type == MemberType.Status)
        {
            Known(node, path, text, names.Statuses, "status");
        }
        else if (member.Type == MemberType.Time && Facts.Time(text) is null)
        {
            Wrong(path, node, $"'{member.Name}' is a time, RFC 3339 with an offset, such as 2026-11-24T14:30:00Z.");
        }
        else if (filled && WordingCheck.Of(text, Audience.Staff, html: false) is [var mistake, ..])
        {
            Wrong(path, node, mistake.Problem);
        }

        return text;
    }

    private JsonArray? TextsOf(Node node, string path, string name)
    {
        Node[] items = node is ListNode list ? [.. list.Items] : [node];
        if (items.Length > MostTexts || !Array.TrueForAll(items, i => i is ScalarNode { Text: { } t } && t.Trim().Length is > 0 and <= 100))
        {
            Wrong(path, node, $"'{name}' is a list of at most {MostTexts} texts of 1 to 100 characters.");
            return null;
        }

        return items.Length == 0 ? null : new JsonArray([.. items.Select(i => ((ScalarNode)i).Text!.Trim()).Distinct().Select(t => (JsonNode)t)]);
    }

    private JsonNode? Amount(Node node, string path)
    {
        if (node is ScalarNode { Text: "all" })
        {
            return null;
        }

        if (node is ScalarNode { Decimal: { } amount and > 0 and < 1_000_000_000 })
        {
            return amount;
        }

        if (
            node is ScalarNode { Text: { } text }
            && decimal.TryParse(text, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var typed)
            && typed is > 0 and < 1_000_000_000
        )
        {
            return typed;
        }

        Wrong(path, node, "An amount is a number above 0, such as 20.00, or all.");
        return null;
    }
}
