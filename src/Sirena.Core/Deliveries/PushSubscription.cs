using NodaTime;

namespace Sirena.Core.Deliveries;

/// <summary>A browser that shows push messages to a person (Web Push, RFC 8030 and 8291). Its endpoint is the contact point's address.</summary>
public sealed class PushSubscription
{
    /// <summary>Where messages are posted to.</summary>
    public required string Endpoint { get; init; }

    /// <summary>The person's id.</summary>
    public required string Person { get; init; }

    /// <summary>The browser's public key, P-256, base64url.</summary>
    public required string P256dh { get; set; }

    /// <summary>The browser's authentication secret, encrypted.</summary>
    public required string Auth { get; set; }

    /// <summary>The browser's name as it is shown: <c>Chromium on Linux</c>.</summary>
    public required string Name { get; set; }

    /// <summary>Since when.</summary>
    public Instant Since { get; init; }
}
