using NodaTime;

namespace Sirena.Core.Deliveries;

/// <summary>One configured connection of a channel. A channel may have several; they are used in order.</summary>
public sealed class Gateway
{
    /// <summary>The id of the mail server of the settings, which is used where no mail gateway is set up.</summary>
    public const string OfSettings = "settings";

    /// <summary>Its id, lower-case words and hyphens; stands in addresses of receipts.</summary>
    public required string Id { get; init; }

    /// <summary>The channel that it serves.</summary>
    public Channel Channel { get; init; }

    /// <summary>Its name in attempts.</summary>
    public required string Name { get; set; }

    /// <summary>Its place among those of its channel, from 1; lower is tried first.</summary>
    public int Position { get; set; } = 1;

    /// <summary>It may be used.</summary>
    public bool On { get; set; } = true;

    /// <summary>Host and port of a mail server, or the http address that messages are posted to.</summary>
    public required string Address { get; set; }

    /// <summary>How many messages it takes side by side, 1 to 64.</summary>
    public int Width { get; set; } = 4;

    /// <summary>How many messages it may take in a minute, or <see langword="null"/> for as many as it takes.</summary>
    public int? PerMinute { get; set; }

    /// <summary>Mail: <c>none</c>, <c>starttls</c> or <c>tls</c>.</summary>
    public string Encryption { get; set; } = "none";

    /// <summary>Mail: the name said in EHLO, or <see langword="null"/> for this machine's own.</summary>
    public string? Ehlo { get; set; }

    /// <summary>Mail: the authority that signs the server's certificate, PEM, where it is none that this machine knows.</summary>
    public string? Authority { get; set; }

    /// <summary>Mail: the SHA-256 of the one certificate that the server may show, hexadecimal, or <see langword="null"/>.</summary>
    public string? Pin { get; set; }

    /// <summary>Mail: the name to sign in with, or <see langword="null"/> for not signing in.</summary>
    public string? User { get; set; }

    /// <summary>
    /// Mail: where an access token is asked for (OAuth 2.0, RFC 6749, 4.4, with the secret as the client's); <see langword="null"/> signs in with the password.
    /// </summary>
    public string? TokenAddress { get; set; }

    /// <summary>Mail: the client's id at the token's address.</summary>
    public string? ClientId { get; set; }

    /// <summary>Mail: the scope that is asked for, or <see langword="null"/>.</summary>
    public string? Scope { get; set; }

    /// <summary>Mail: the selector under which the public key of signatures is published (DKIM, RFC 6376); <see langword="null"/> signs nothing.</summary>
    public string? DkimSelector { get; set; }

    /// <summary>Mail: the private key that signs, PEM, encrypted.</summary>
    public string? DkimKey { get; set; }

    /// <summary>SMS: what a segment costs, in the business's currency; <see langword="null"/> when nobody counts.</summary>
    public decimal? SegmentCost { get; set; }

    /// <summary>SMS: what may be spent in a calendar month; <see langword="null"/> for no limit.</summary>
    public decimal? MonthlyBudget { get; set; }

    /// <summary>Every how many minutes a marked message goes through it to itself; <see langword="null"/> for never.</summary>
    public int? EchoMinutes { get; set; }

    /// <summary>Where the marked message goes.</summary>
    public string? EchoTo { get; set; }

    /// <summary>Since when marked messages do not come back; <see langword="null"/> while they do.</summary>
    public Instant? EchoMissedSince { get; set; }

    /// <summary>When it went.</summary>
    public Instant? EchoSentAt { get; set; }

    /// <summary>When a marked message last came back.</summary>
    public Instant? EchoBackAt { get; set; }

    /// <summary>Mail: the address that mail comes from; the business's own where it is <see langword="null"/>.</summary>
    public string? Sender { get; set; }

    /// <summary>Http: headers of each request, their values encrypted.</summary>
    public Dictionary<string, string> Headers { get; set; } = [];

    /// <summary>Http: the body in Mustache, values escaped for JSON: <c>{"to":"{{to}}","text":"{{text}}"}</c>.</summary>
    public string? Body { get; set; }

    /// <summary>Http: where the message's id stands in the answer, members joined by dots; <see langword="null"/> when it gives none.</summary>
    public string? IdAt { get; set; }

    /// <summary>Http: where the error's words stand in the answer.</summary>
    public string? ErrorAt { get; set; }

    /// <summary>The password (mail), or the key that signs requests (http), encrypted; <see langword="null"/> for none.</summary>
    public string? Secret { get; set; }

    /// <summary>The key with which its receipts are signed, encrypted.</summary>
    public string? ReceiptSecret { get; set; }

    /// <summary>The key before that, still good while the far end changes over, encrypted.</summary>
    public string? OldReceiptSecret { get; set; }

    /// <summary>Since when it cannot be used, or <see langword="null"/> while it can.</summary>
    public Instant? FailingSince { get; set; }

    /// <summary>What it said when it last failed, word for word.</summary>
    public string? LastError { get; set; }

    /// <summary>When it last took a message.</summary>
    public Instant? LastGoodAt { get; set; }
}
