using System.Text.Json.Serialization;
using NodaTime;

namespace Sirena.Core.Sources;

/// <summary>How a source comes in.</summary>
public enum SourceKind
{
    /// <summary>CloudEvents, by our key.</summary>
    Events,

    /// <summary>Calls with bodies of any shape, by a reading.</summary>
    Calls,

    /// <summary>Lists, by their difference from the one before.</summary>
    Listing,

    /// <summary>UBL documents.</summary>
    Documents,
}

/// <summary>By what a call shows that it is the source's.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<ProofKind>))]
public enum ProofKind
{
    /// <summary>Our key in <c>Authorization: Bearer</c>.</summary>
    Key,

    /// <summary>A user and a password (RFC 7617).</summary>
    Basic,

    /// <summary>A signature over the body in a header.</summary>
    Signature,

    /// <summary>The Standard Webhooks specification.</summary>
    StandardWebhooks,

    /// <summary>A secret in the address.</summary>
    InAddress,
}

/// <summary>A source's proof, without its secrets.</summary>
public sealed record SourceProof
{
    /// <summary>Which.</summary>
    public ProofKind Kind { get; init; }

    /// <summary>The user of Basic.</summary>
    public string? User { get; init; }

    /// <summary>The signature's header.</summary>
    public string? Header { get; init; }

    /// <summary><c>sha256</c>, <c>sha512</c> or <c>sha1</c>.</summary>
    public string Algorithm { get; init; } = "sha256";

    /// <summary><c>hex</c> or <c>base64</c>.</summary>
    public string Encoding { get; init; } = "hex";

    /// <summary>What stands before the signature, as <c>sha256=</c>.</summary>
    public string Before { get; init; } = "";

    /// <summary>The header with the time, or <see langword="null"/>: with it <c>time.body</c> is signed and the time may be five minutes off.</summary>
    public string? TimeHeader { get; init; }
}

/// <summary>When a source's silence is said.</summary>
public sealed record SilencePlan
{
    /// <summary>Whether at all.</summary>
    public bool Watch { get; init; } = true;

    /// <summary>From which surprise on; <see cref="Rhythm.Surprise"/>.</summary>
    public decimal Threshold { get; init; } = 9.2m;

    /// <summary>After how many minutes while the rhythm is not known yet, or <see langword="null"/> for not at all.</summary>
    public int? Minutes { get; init; }

    /// <summary>Nothing is expected before this; <see langword="null"/> where it is not put off.</summary>
    public Instant? NotBefore { get; init; }

    /// <summary>Why nothing is expected.</summary>
    public string? Why { get; init; }

    /// <summary>From when on something was to be expected.</summary>
    /// <param name="last">When something came last.</param>
    public Instant ExpectedFrom(Instant last) => NotBefore is { } begin ? Instant.Max(last, begin) : last;
}

/// <summary>Where orders come from: an order system, a list, a folder.</summary>
public sealed class Source
{
    /// <summary>The longest id, and how many calls a second it may have at most.</summary>
    public const int MostCalls = 100_000;

    /// <summary>Its id: <c>ledger</c>.</summary>
    public required string Id { get; init; }

    /// <summary>Its name.</summary>
    public required string Name { get; set; }

    /// <summary>How it comes in.</summary>
    public SourceKind Kind { get; set; }

    /// <summary>It is taken from.</summary>
    public bool On { get; set; } = true;

    /// <summary>What is put before its order numbers, or empty.</summary>
    public string Prefix { get; set; } = "";

    /// <summary>How many calls, or events, it may send in a second.</summary>
    public int Limit { get; set; } = 100;

    /// <summary>By what a call shows that it is its own.</summary>
    public SourceProof Proof { get; set; } = new();

    /// <summary>The secret, encrypted; <see langword="null"/> for none.</summary>
    public string? Secret { get; set; }

    /// <summary>The secret before it, encrypted.</summary>
    public string? OldSecret { get; set; }

    /// <summary>Until when the old one holds.</summary>
    public Instant? OldSecretUntil { get; set; }

    /// <summary>The reading in force, its document as JSON; <see langword="null"/> for none.</summary>
    public string? Reading { get; set; }

    /// <summary>The reading's number, from 1; 0 for none.</summary>
    public int ReadingVersion { get; set; }

    /// <summary>How its lists are taken; <see langword="null"/> where it sends none.</summary>
    public ListingPlan? Listing { get; set; }

    /// <summary>Where instructions for it go, or <see langword="null"/>.</summary>
    public string? InstructionsTo { get; set; }

    /// <summary>The kinds of instructions that it takes.</summary>
    public string[] Takes { get; set; } = [];

    /// <summary>Those of the business's own among them.</summary>
    public List<Instructions.OwnInstruction> OwnInstructions { get; set; } = [];

    /// <summary>The key that signs instructions, encrypted; <see langword="null"/> where the source's secret signs them, or nothing does.</summary>
    public string? InstructionsSecret { get; set; }

    /// <summary>How many seconds an event may take to show an instruction, or <see langword="null"/> for the usual five minutes.</summary>
    public int? SightSeconds { get; set; }

    /// <summary>How many seconds an instruction is tried, or <see langword="null"/> for the usual quarter of an hour.</summary>
    public int? TrySeconds { get; set; }

    /// <summary>It takes no orders for now.</summary>
    public bool IntakeClosed { get; set; }

    /// <summary>Since when that is so, or is so no more.</summary>
    public Instant? IntakeSince { get; set; }

    /// <summary>Until when it is closed, as far as is known.</summary>
    public Instant? IntakeUntil { get; set; }

    /// <summary>Why.</summary>
    public string? IntakeReason { get; set; }

    /// <summary>When it takes orders; <see langword="null"/> for always.</summary>
    public Instructions.IntakeHours? IntakeHours { get; set; }

    /// <summary>Its silence.</summary>
    public SilencePlan Silence { get; set; } = new();

    /// <summary>When it was made.</summary>
    public Instant CreatedAt { get; init; }

    /// <summary>Since when it is gone, or <see langword="null"/>.</summary>
    public Instant? RemovedAt { get; set; }

    /// <summary>When something last came from it.</summary>
    public Instant? LastAt { get; set; }

    /// <summary>Since when it is silent beyond what is usual, or <see langword="null"/>.</summary>
    public Instant? SilentSince { get; set; }

    /// <summary>Whether it is silent and something is expected of it.</summary>
    public bool IsSilent(Instant now) => SilentSince is not null && !(Silence.NotBefore > now);

    /// <summary>The <c>ETag</c> of the list that was fetched last.</summary>
    public string? FetchTag { get; set; }

    /// <summary>Its <c>Last-Modified</c>.</summary>
    public string? FetchModified { get; set; }

    /// <summary>When it was last fetched, or tried to be.</summary>
    public Instant? FetchedAt { get; set; }

    /// <summary>How often in a row that failed.</summary>
    public int FetchFailures { get; set; }

    /// <summary>What the last failure was.</summary>
    public string? FetchProblem { get; set; }

    /// <summary>The <c>source</c> of its events.</summary>
    public string EventSource => "/sources/" + Id;

    /// <summary>Whether a text can be an id: small letters, digits and hyphens, 1 to 60, and no word of the pages' addresses.</summary>
    public static bool IsId(string text) =>
        text.Length is > 0 and <= 60 && text != Ids.New && text.All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c == '-') && text[0] != '-';
}

/// <summary>A reading as it was saved.</summary>
public sealed class ReadingVersion
{
    /// <summary>The source.</summary>
    public required string Source { get; init; }

    /// <summary>Its number, from 1.</summary>
    public int Version { get; init; }

    /// <summary>The document, JSON.</summary>
    public required string Document { get; init; }

    /// <summary>Since when it is in force.</summary>
    public Instant SavedAt { get; init; }

    /// <summary>Who saved it.</summary>
    public required string By { get; init; }
}

/// <summary>What became of something that came.</summary>
public enum ArrivalState
{
    /// <summary>It is on disk and not read yet.</summary>
    Waiting,

    /// <summary>It made an event, or did so before.</summary>
    Understood,

    /// <summary>It is kept; it cannot be read.</summary>
    NotUnderstood,

    /// <summary>The reading says that it is nothing to us.</summary>
    Ignored,

    /// <summary>It did not prove whose it is; nothing of it is kept.</summary>
    Refused,
}

/// <summary>What came in one call, as it came.</summary>
public sealed class ArrivedBody
{
    /// <summary>Its number, in the order of arrival.</summary>
    public long Id { get; init; }

    /// <summary>The source.</summary>
    public required string Source { get; init; }

    /// <summary>When it came.</summary>
    public Instant At { get; init; }

    /// <summary>How many bytes.</summary>
    public int Size { get; init; }

    /// <summary>The body; <see langword="null"/> for a refused one, and after its time.</summary>
    public byte[]? Content { get; set; }

    /// <summary>Its media type, or <see langword="null"/>.</summary>
    public string? MediaType { get; init; }

    /// <summary>The headers that are kept, by their names.</summary>
    public Dictionary<string, string> Headers { get; init; } = [];

    /// <summary>SHA-256 of the body.</summary>
    public byte[]? Hash { get; init; }

    /// <summary>What became of it.</summary>
    public ArrivalState State { get; set; }

    /// <summary>Why it could not be read, or was refused: its first problem.</summary>
    public BodyProblem? Problem { get; set; }

    /// <summary>The ids of its events.</summary>
    public string[] Events { get; set; } = [];

    /// <summary>The reading by which it was read; 0 for none.</summary>
    public int ReadingVersion { get; set; }

    /// <summary>It was taken again: what it makes is decided later than it should have been.</summary>
    public bool Again { get; set; }

    /// <summary>Where a refused one came from.</summary>
    public string? Address { get; init; }
}
