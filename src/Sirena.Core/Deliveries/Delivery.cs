using NodaTime;

namespace Sirena.Core.Deliveries;

/// <summary>Where a delivery stands.</summary>
public enum DeliveryState
{
    /// <summary>Not yet tried, or to be tried again.</summary>
    Waiting,

    /// <summary>A node holds it under a lease. It is stored as waiting: whoever holds the lease says that it is being sent.</summary>
    Sending,

    /// <summary>The next machine took it.</summary>
    HandedOver,

    /// <summary>The far end confirmed it.</summary>
    Landed,

    /// <summary>It cannot be delivered.</summary>
    Failed,

    /// <summary>Its deadline passed before it was handed over.</summary>
    Expired,

    /// <summary>It was never to be sent; the reason says why.</summary>
    Skipped,
}

/// <summary>One message to one recipient over one channel.</summary>
public sealed class Delivery
{
    /// <summary>Its id, a version 7 UUID.</summary>
    public Guid Id { get; init; }

    /// <summary>The alert that it belongs to.</summary>
    public Guid AlertId { get; init; }

    /// <summary>Its order, or <see langword="null"/>.</summary>
    public string? OrderNumber { get; init; }

    /// <summary>The rule's id.</summary>
    public required string RuleId { get; init; }

    /// <summary>The ladder's step, 0 for the first telling.</summary>
    public int Step { get; init; }

    /// <summary>The person's id, or <see langword="null"/> for an outside address.</summary>
    public string? Person { get; init; }

    /// <summary>Whom it is written for.</summary>
    public People.Audience Audience { get; init; }

    /// <summary>By what.</summary>
    public Channel Channel { get; init; }

    /// <summary>The address.</summary>
    public required string To { get; init; }

    /// <summary>Where it stands, as it is stored: never <see cref="DeliveryState.Sending"/>.</summary>
    public DeliveryState State { get; set; }

    /// <summary>Where it stands: one that waits and is held under a lease is being sent.</summary>
    public DeliveryState Stands => State == DeliveryState.Waiting && Lease is not null ? DeliveryState.Sending : State;

    /// <summary>Why it stands there, in plain words, or <see langword="null"/>.</summary>
    public string? Reason { get; set; }

    /// <summary>What the far end said that made it so, word for word, or <see langword="null"/>.</summary>
    public string? Evidence { get; set; }

    /// <summary>When it was made.</summary>
    public Instant CreatedAt { get; init; }

    /// <summary>When it is tried next.</summary>
    public Instant DueAt { get; set; }

    /// <summary>From when on it would be of no use.</summary>
    public Instant Deadline { get; set; }

    /// <summary>When the next machine took it.</summary>
    public Instant? HandedOverAt { get; set; }

    /// <summary>When the far end confirmed it.</summary>
    public Instant? LandedAt { get; set; }

    /// <summary>The mark 'answered': its link, reply or screen gave the answer.</summary>
    public bool Answered { get; set; }

    /// <summary>How often it was tried.</summary>
    public int Tries { get; set; }

    /// <summary>The delivery that carries this one's news, for one that was skipped because its reader was told by another rule.</summary>
    public Guid? CarriedBy { get; init; }

    /// <summary>
    /// What it shares with the deliveries to the same reader of which the first that lands is enough; <see langword="null"/> where all go at once.
    /// </summary>
    public Guid? Chain { get; init; }

    /// <summary>
    /// Until when its rule's other alerts for the same reader are gathered into its message; <see langword="null"/> where nothing is gathered.
    /// </summary>
    public Instant? GathersUntil { get; init; }

    /// <summary>The pause that holds it back, or <see langword="null"/>.</summary>
    public int? PausedBy { get; set; }

    /// <summary>Its alert is urgent: it goes before what is not.</summary>
    public bool Urgent { get; init; }

    /// <summary>The ids of the gateways that refused to send it, and are not asked again.</summary>
    public List<string> PassedOver { get; init; } = [];

    /// <summary>It goes without its documents, because it was too large with them.</summary>
    public bool Bare { get; set; }

    /// <summary>What is said of a message that may have arrived twice.</summary>
    public const string Twice = "may have arrived twice: an earlier try ended without an answer";

    /// <summary>
    /// The number of the attempt that ended without an answer, so that the message may have arrived twice; <see langword="null"/> for none. Nothing takes it
    /// away.
    /// </summary>
    public int? TwiceAttempt { get; set; }

    /// <summary>The far end's id of the message, by which receipts name it.</summary>
    public string? FarId { get; set; }

    /// <summary>The token of the lease under which it is being sent.</summary>
    public Guid? Lease { get; set; }

    /// <summary>Until when the lease holds.</summary>
    public Instant? LeaseUntil { get; set; }
}

/// <summary>A delivery's text as it is sent; kept apart so that the ledger stays slim.</summary>
public sealed class Message
{
    /// <summary>The delivery.</summary>
    public Guid DeliveryId { get; init; }

    /// <summary>The subject line, where the channel has one.</summary>
    public required string Subject { get; set; }

    /// <summary>The plain text.</summary>
    public required string Text { get; set; }

    /// <summary>The HTML text, where the channel has one.</summary>
    public string? Html { get; set; }

    /// <summary>How many bytes it had, once its texts are no longer kept; <see langword="null"/> while they are.</summary>
    public int? Size { get; init; }

    /// <summary>How many files go with it, once they are made.</summary>
    public int Files { get; set; }

    /// <summary>What is to be made or fetched to go with it, JSON, until that is done.</summary>
    public string? Attach { get; set; }

    /// <summary>Says one more thing that was gathered into it; its link and code answer that alert too.</summary>
    public void Gather(string line)
    {
        const string more = " and more";
        Subject = Subject.EndsWith(more, StringComparison.Ordinal) ? Subject : Subject + more;
        Text = $"{Text.TrimEnd()}\nAlso: {line}";
        Html = Html?.Replace("</body>", $"<p><b>Also:</b> {System.Net.WebUtility.HtmlEncode(line)}</p></body>", StringComparison.Ordinal);
    }

    /// <summary>SHA-256 of its plain text and its HTML one after the other, UTF-8, once they are no longer kept.</summary>
    public byte[]? Hash { get; init; }
}

/// <summary>A file that goes with a message, kept as it was sent.</summary>
public sealed class MessageFile
{
    /// <summary>The delivery.</summary>
    public Guid DeliveryId { get; init; }

    /// <summary>From 1.</summary>
    public int Number { get; init; }

    /// <summary>Its name: <c>shipping-note-AQ-20418.pdf</c>.</summary>
    public required string Name { get; init; }

    /// <summary>Its media type.</summary>
    public required string Type { get; init; }

    /// <summary>Its bytes; empty once they are no longer kept.</summary>
    public required byte[] Content { get; init; }

    /// <summary>How many bytes it had.</summary>
    public int Size { get; init; }

    /// <summary>It stands in the text, as a picture, rather than beside it.</summary>
    public bool Inline { get; init; }
}

/// <summary>How a try ended.</summary>
public enum AttemptOutcome
{
    /// <summary>It was begun and nothing is known of its end.</summary>
    Unknown,

    /// <summary>The far end took it.</summary>
    Accepted,

    /// <summary>Not now; to be tried again.</summary>
    Temporary,

    /// <summary>Never at this address.</summary>
    Permanent,

    /// <summary>The gateway itself is at fault.</summary>
    Gateway,
}

/// <summary>One try of a delivery at one gateway.</summary>
public sealed class Attempt
{
    /// <summary>The delivery.</summary>
    public Guid DeliveryId { get; init; }

    /// <summary>From 1.</summary>
    public int Number { get; init; }

    /// <summary>When it began.</summary>
    public Instant At { get; init; }

    /// <summary>When it ended, or <see langword="null"/> when that is not known.</summary>
    public Instant? EndedAt { get; set; }

    /// <summary>The gateway's name.</summary>
    public required string Gateway { get; init; }

    /// <summary>The gateway's id, or <see langword="null"/> for what has none: printers, browsers.</summary>
    public string? GatewayId { get; init; }

    /// <summary>How it ended.</summary>
    public AttemptOutcome Outcome { get; set; }

    /// <summary>The far end's code: <c>250</c>, <c>451</c>, with the enhanced one (RFC 3463) where given.</summary>
    public string? Code { get; set; }

    /// <summary>What the far end said, word for word.</summary>
    public string? Reply { get; set; }
}

/// <summary>Later news from the far end about a delivery.</summary>
public sealed class Receipt
{
    /// <summary>Its number.</summary>
    public long Id { get; init; }

    /// <summary>The delivery.</summary>
    public Guid DeliveryId { get; init; }

    /// <summary>When it came.</summary>
    public Instant At { get; init; }

    /// <summary><c>delivered</c>, <c>bounced</c>, <c>read</c>, <c>replied</c>, <c>late-outcome</c>.</summary>
    public required string Kind { get; init; }

    /// <summary>Its words.</summary>
    public required string Text { get; init; }
}
