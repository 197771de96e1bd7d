using System.Collections.Immutable;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Rules;

/// <summary>Reads whom a document tells, and by which channels.</summary>
public class TellingReader : ConditionReader
{
    private protected TellingReader(KnownNames? known) => Existing = known;

    /// <summary>The names that exist, or <see langword="null"/> to take any.</summary>
    private protected KnownNames? Existing { get; }

    /// <summary>Reads the recipients and ways that were stored as JSON.</summary>
    /// <returns>Nothing, with what is wrong, where the text is no object.</returns>
    public static (IReadOnlyList<Recipient> Tell, Ways? By, IReadOnlyList<DocumentError> Errors) ReadTelling(string json) =>
        DocumentText.Read(json, yaml: false) switch
        {
            (MapNode map, _) => ReadTelling(map, null),
            (_, var error) => ([], null, [error ?? new DocumentError("", 1, 1, "Whom to tell is an object.")]),
        };

    /// <summary>Reads the recipients and ways of a question 'who would be told'.</summary>
    public static (IReadOnlyList<Recipient> Tell, Ways? By, IReadOnlyList<DocumentError> Errors) ReadTelling(MapNode map, KnownNames? known)
    {
        var reader = new TellingReader(known);
        if (map["tell"] is null)
        {
            reader.Wrong("tell", map, "'tell' is missing: the recipients, such as [ { duty: credit-control } ].");
        }

        var tell = reader.Recipients(map, "");
        var by = map["by"] is { } ways ? reader.ReadWays(ways, "by") : null;
        return (tell, by, reader.Errors);
    }

    protected ImmutableArray<Recipient> Recipients(MapNode map, string path) =>
        List(map, "tell", path) is { } list ? [.. list.Items.Select((r, i) => ReadRecipient(r, $"{At(path, "tell")}[{i}]")).OfType<Recipient>()] : [];

    private Recipient? ReadRecipient(Node node, string path)
    {
        if (Map(node, path, "A recipient", [.. RecipientKinds.All.Select(k => k.Member), "outside"]) is not { } map)
        {
            return null;
        }

        RecipientKind[] given = [.. RecipientKinds.All.Where(k => map[k.Member] is not null)];
        if (given is not [var kind])
        {
            Wrong(path, map, $"A recipient is exactly one of {Quoting.All(RecipientKinds.All.Select(k => k.Member))}.");
            return null;
        }

        if (map["outside"] is { } outside && !kind.MayBeOutside)
        {
            Wrong(At(path, "outside"), outside, "'outside' goes with 'address' and 'person' only.");
        }

        var at = At(path, kind.Member);
        var text = Text(map, kind.Member, path) ?? "";
        text = kind.Holds switch
        {
            RecipientHolds.Person => Known(map[kind.Member]!, at, text, Existing?.People, "person"),
            RecipientHolds.Team => Known(map[kind.Member]!, at, text, Existing?.Teams, "team"),
            RecipientHolds.Role => OneOf<OrderRole>(map, kind.Member, path)?.Name() ?? "",
            _ => Address(map[kind.Member]!, at, text),
        };
        return kind.Make(text, kind.MayBeOutside && (Bool(map, "outside", path) ?? false));
    }

    private string Address(Node node, string path, string text)
    {
        var (good, problems) = Addresses.Read(text.StartsWith('+') ? Channel.Sms : Channel.Mail, text);
        if (problems.Count > 0 || good.Count != 1)
        {
            Wrong(path, node, problems.Count > 0 ? problems[0] : "One address is expected here.");
        }

        return good.Count == 1 ? good[0] : text;
    }

    protected Ways? ReadWays(Node node, string path)
    {
        if (Map(node, path, "'by'", ["allAtOnce", "firstThatLands", "wait"]) is not { } map)
        {
            return null;
        }

        var first = map["firstThatLands"] is not null;
        if (first == map["allAtOnce"] is not null)
        {
            Wrong(path, map, "'by' needs either 'allAtOnce' or 'firstThatLands'.");
            return null;
        }

        if (!first && map["wait"] is { } wait)
        {
            Wrong(At(path, "wait"), wait, "'wait' goes with 'firstThatLands' only.");
        }

        var member = first ? "firstThatLands" : "allAtOnce";
        var channels = Texts(map, member, path)
            .Select(c => Names.Parse<Channel>(c.Text) is { } channel ? channel : WrongChannel(c))
            .OfType<Channel>()
            .Distinct()
            .ToImmutableArray();
        if (channels.Length == 0 && map[member] is ListNode { Items.Count: 0 } empty)
        {
            Wrong(At(path, member), empty, $"'{member}' is empty. Name at least one channel.");
        }

        return new Ways(channels, first, Span(map, "wait", path) ?? (first ? Ways.UsualWait : Duration.Zero));
    }

    private Channel? WrongChannel((Node Node, string Path, string Text) given)
    {
        Wrong(given.Path, given.Node, $"There is no channel '{given.Text}'. Use {string.Join(", ", Names.All<Channel>())}.");
        return null;
    }
}
