using NodaTime;

namespace Sirena.Core.Deliveries;

/// <summary>One configured connection of a channel. A channel may have several; they are used in order.</summary>
public sealed class Gateway
{
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

    /// <summary>Mail: <c>none</c>, <c>starttls</c> or <c>tls</c>.</summary>
    public string Encryption { get; set; } = "none";

    /// <summary>Mail: the name to sign in with, or <see langword="null"/> for not signing in.</summary>
    public string? User { get; set; }

    /// <summary>Mail: the address that mail comes from; the business's own where it is <see langword="null"/>.</summary>
    public string? Sender { get; set; }

    /// <summary>Http: headers of each request.</summary>
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
