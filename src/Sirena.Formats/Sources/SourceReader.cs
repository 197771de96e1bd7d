using System.Text.Json;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Sources;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Sources;

/// <summary>What a source's document says.</summary>
public sealed record SourcePlan(
    string Name,
    SourceKind Kind,
    bool On,
    string Prefix,
    int Limit,
    SourceProof Proof,
    ListingPlan? Listing,
    SilencePlan Silence,
    TakingPlan Taking
)
{
    /// <summary>A new secret, or <see langword="null"/> where none is given.</summary>
    public string? Secret { get; init; }

    /// <summary>The reading's document as JSON, or <see langword="null"/> where none is given.</summary>
    public string? Reading { get; init; }
}

/// <summary>What a source's document says of instructions.</summary>
/// <param name="To">Where they are posted to; <see langword="null"/> where they are fetched.</param>
/// <param name="Secret">A new key that signs them, or <see langword="null"/>.</param>
/// <param name="Takes">The kinds that it takes.</param>
/// <param name="Own">Those of the business's own.</param>
/// <param name="Sight">Seconds until one counts as unseen.</param>
/// <param name="Try">Seconds for which one is tried.</param>
/// <param name="Hours">When it takes orders.</param>
public sealed record TakingPlan(string? To, string? Secret, string[] Takes, List<OwnInstruction> Own, int? Sight, int? Try, IntakeHours? Hours);

/// <summary>Reads a source's document. Members that are left out stay as they are; every mistake is collected with its place.</summary>
public sealed partial class SourceReader : DocumentReader
{
    /// <summary>The members of a source.</summary>
    internal static readonly string[] Members =
    [
        "id",
        "name",
        "kind",
        "on",
        "prefix",
        "limit",
        "proof",
        "reading",
        "listing",
        "silence",
        "instructionsTo",
        "instructionsSecret",
        "takes",
        "seenWithin",
        "tryFor",
        "intake",
        "readingVersion",
        "address",
        "eventSource",
        "lastAt",
        "silentSince",
        "fetch",
        "intakeNow",
    ];

    /// <summary>The members of a signature.</summary>
    internal static readonly string[] SignatureMembers = ["header", "algorithm", "encoding", "before", "timeHeader"];

    /// <summary>The members of a listing.</summary>
    internal static readonly string[] ListingMembers =
    [
        "role",
        "key",
        "gone",
        "separator",
        "charset",
        "schedule",
        "url",
        "folder",
        "goneAtMost",
        "changedAtMost",
        "stands",
    ];

    private static readonly string[] Proofs = ["key", "basic", "signature", "standardWebhooks", "inAddress"];

    private SourceReader() { }

    /// <summary>Reads a document.</summary>
    /// <param name="node">The document.</param>
    /// <param name="id">The id in the address.</param>
    /// <param name="there">The source as it is, or <see langword="null"/> for a new one.</param>
    /// <returns>What it says, or the mistakes; never both.</returns>
    public static (SourcePlan? Plan, IReadOnlyList<DocumentError> Errors) Read(Node node, string id, Source? there)
    {
        var reader = new SourceReader();
        var plan = reader.One(WithoutNulls(node), id, there);
        return reader.Errors.Count > 0 ? (null, reader.Errors) : (plan, []);
    }

    private SourcePlan? One(Node node, string id, Source? there)
    {
        if (Map(node, "", "A source", Members) is not { } map)
        {
            return null;
        }

        if (!Source.IsId(id) || (Text(map, "id", "") is { } named && named != id))
        {
            Wrong(
                "id",
                map["id"] ?? map,
                Source.IsId(id) ? $"The address says '{Quoting.Cut(id)}' and the source '{Quoting.Cut(Text(map, "id", "")!)}'. Make them one."
                    : id == Ids.New ? Ids.Kept(id)
                    : "An id is made of small letters, digits and hyphens, 60 at most."
            );
        }

        if (there is null && map["kind"] is null)
        {
            Wrong("kind", map, $"'kind' is missing: a new source says how it comes, {string.Join(", ", Names.All<SourceKind>())}.");
        }

        var kind = OneOf<SourceKind>(map, "kind", "") ?? there?.Kind ?? SourceKind.Calls;
        if (there is not null && there.Kind != kind)
        {
            Wrong("kind", map["kind"]!, $"A source's kind stays: this one is {there.Kind.Name()}. Make another source for {kind.Name()}.");
        }

        var (proof, secret) = Proof(map, there);
        var listing = Listing(map, kind, there);
        return new SourcePlan(
            Name(map, id, there),
            kind,
            Bool(map, "on", "") ?? there?.On ?? true,
            Prefix(map, there),
            Limit(map, there),
            proof,
            listing,
            Silence(map, there),
            TakingReader.Read(map, there, Errors)
        )
        {
            Secret = secret,
            Reading = Reading(map, kind),
        };
    }

    private string Name(MapNode map, string id, Source? there)
    {
        var name = Line(map, "name", "") ?? there?.Name ?? id;
        if (name.Length is 0 or > 80)
        {
            Wrong("name", map["name"] ?? map, "A name has 1 to 80 characters.");
        }

        return name;
    }

    private string Prefix(MapNode map, Source? there)
    {
        var prefix = Text(map, "prefix", "") ?? there?.Prefix ?? "";
        if (prefix.Length > 20 || prefix.Any(char.IsControl))
        {
            Wrong("prefix", map["prefix"]!, "A prefix has at most 20 characters, such as 'Y-'.");
        }

        return prefix;
    }

    private int Limit(MapNode map, Source? there)
    {
        var limit = Number(map, "limit", "") ?? there?.Limit ?? 100;
        if (limit is < 1 or > Source.MostCalls)
        {
            Wrong("limit", map["limit"] ?? map, $"The limit is how many calls, or events, may come in a second: 1 to {Source.MostCalls:N0}.");
        }

        return limit;
    }

    private SilencePlan Silence(MapNode map, Source? there)
    {
        var old = there?.Silence ?? new SilencePlan();
        if (map["silence"] is not { } node || Map(node, "silence", "'silence'", ["watch", "threshold", "minutes", "notBefore", "why"]) is not { } said)
        {
            return old;
        }

        var threshold = old.Threshold;
        if (said["threshold"] is ScalarNode { Decimal: { } given and >= 1 and <= 1_000 })
        {
            threshold = given;
        }
        else if (said["threshold"] is { } at)
        {
            Wrong("silence.threshold", at, "The threshold is a number from 1 to 1,000; 9.2 is one silence in ten thousand by chance.");
        }

        var minutes = Number(said, "minutes", "silence") ?? old.Minutes;
        if (minutes is < 1 or > 40_320)
        {
            Wrong("silence.minutes", said["minutes"]!, "The minutes of silence are 1 to 40,320 (four weeks).");
        }

        var (begin, why) = NotBefore(said, old);
        return new SilencePlan
        {
            Watch = Bool(said, "watch", "silence") ?? old.Watch,
            Threshold = threshold,
            Minutes = minutes,
            NotBefore = begin,
            Why = why,
        };
    }

    // Nothing is expected before a time, for a reason; an empty text takes it back.
    private (Instant? Begin, string? Why) NotBefore(MapNode said, SilencePlan old)
    {
        if (said["notBefore"] is not { } node)
        {
            return (old.NotBefore, old.Why);
        }

        if (node is ScalarNode { Text: "" })
        {
            return (null, null);
        }

        var begin = node is ScalarNode { Value.ValueKind: JsonValueKind.String } text ? Facts.Time(text.Value.GetString()) : null;
        var why = said["why"] is ScalarNode { Value.ValueKind: JsonValueKind.String } reason ? reason.Value.GetString()!.Trim() : "";
        if (begin is null)
        {
            Wrong("silence.notBefore", node, "'notBefore' is a time in RFC 3339, such as 2026-11-24T15:30:00Z, or \"\" for at once.");
        }
        else if (why.Length is < 3 or > 200)
        {
            Wrong("silence.why", said["why"] ?? node, "Say in 3 to 200 characters why nothing is expected until then.");
        }

        return (begin, why);
    }

    private string? Reading(MapNode map, SourceKind kind)
    {
        if (map["reading"] is not { } node)
        {
            return null;
        }

        if (kind is SourceKind.Events or SourceKind.Documents)
        {
            Wrong(
                "reading",
                node,
                $"A source of the kind {kind.Name()} needs no reading: {(kind == SourceKind.Events ? "CloudEvents" : "UBL")} says itself what stands where."
            );
            return null;
        }

        Errors.AddRange(ReadingReader.Read(node, "reading", kind).Errors);
        return node.ToJson().GetRawText();
    }

    // What is given as null is left out, in lists as well: a document that was written is read again.
    private static Node WithoutNulls(Node node) =>
        node switch
        {
            MapNode map => map with
            {
                Members =
                [
                    .. map
                        .Members.Where(m => m.Value is not ScalarNode { IsNull: true })
                        .Select(m => m.Name == "reading" ? m : m with { Value = WithoutNulls(m.Value) }),
                ],
            },
            ListNode list => list with { Items = [.. list.Items.Select(WithoutNulls)] },
            _ => node,
        };
}
