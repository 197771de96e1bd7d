using NodaTime;

namespace Sirena.Storage.Access;

/// <summary>Somebody's time signed in, kept here so that it ends here: the browser's cookie holds only its name.</summary>
public sealed class Session
{
    /// <summary>SHA-256 of the name in the cookie.</summary>
    public required byte[] Hash { get; init; }

    /// <summary>The user.</summary>
    public Guid UserId { get; init; }

    /// <summary>Who it is and until when, encrypted.</summary>
    public required byte[] Ticket { get; set; }

    /// <summary>Until when it holds.</summary>
    public Instant ExpiresAt { get; set; }
}
