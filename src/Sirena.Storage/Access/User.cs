using Microsoft.AspNetCore.Identity;
using NodaTime;

namespace Sirena.Storage.Access;

/// <summary>What somebody who signs in may do.</summary>
public enum Role
{
    /// <summary>Sees, changes nothing.</summary>
    Reader,

    /// <summary>Sees and answers their own alerts.</summary>
    Staff,

    /// <summary>May do all.</summary>
    Supervisor,
}

/// <summary>Somebody who can sign in.</summary>
public sealed class User : IdentityUser<Guid>
{
    /// <summary>The name shown in the header.</summary>
    public required string Name { get; set; }

    /// <summary>The person that they are, or <see langword="null"/>.</summary>
    public string? Person { get; set; }

    /// <summary>What they may do.</summary>
    public Role Role { get; set; }

    /// <summary>Since when they may no longer sign in, or <see langword="null"/>.</summary>
    public Instant? RemovedAt { get; set; }
}

/// <summary>A token by which a program acts for a user. Only its hash is kept.</summary>
public sealed class ApiToken
{
    /// <summary>Its number.</summary>
    public Guid Id { get; init; }

    /// <summary>The user.</summary>
    public Guid UserId { get; init; }

    /// <summary>What it is for.</summary>
    public required string Name { get; init; }

    /// <summary>SHA-256 of the token.</summary>
    public required byte[] Hash { get; init; }

    /// <summary>
    /// The calendar feed that it opens and nothing else (<c>team:kitchen</c>, <c>person:noor.haddad</c>); <see langword="null"/> for all that the user may do.
    /// </summary>
    public string? Feed { get; init; }

    /// <summary>When it was made.</summary>
    public Instant CreatedAt { get; init; }

    /// <summary>Since when it works no longer, or <see langword="null"/>.</summary>
    public Instant? RevokedAt { get; set; }
}

/// <summary>A key by which an order system posts events, and nothing else. Only its hash is kept.</summary>
public sealed class SourceKey
{
    /// <summary>Its number.</summary>
    public Guid Id { get; init; }

    /// <summary>The id of the source that it opens.</summary>
    public required string Source { get; init; }

    /// <summary>SHA-256 of the key.</summary>
    public required byte[] Hash { get; init; }

    /// <summary>The first characters of the key, to tell keys apart.</summary>
    public required string Start { get; init; }

    /// <summary>When it was made.</summary>
    public Instant CreatedAt { get; init; }

    /// <summary>Since when (or from when on) it works no longer, or <see langword="null"/>.</summary>
    public Instant? RevokedAt { get; set; }
}

/// <summary>Who changed what.</summary>
public sealed class AuditEntry
{
    /// <summary>Its number.</summary>
    public long Id { get; init; }

    /// <summary>When.</summary>
    public Instant At { get; init; }

    /// <summary>The name of whoever did it.</summary>
    public required string By { get; init; }

    /// <summary>
    /// The saved thing that it was done to, as <c>person:ines.calder</c> or <c>settings</c>; its newest entry is its version. <see langword="null"/> where
    /// nothing saved was changed.
    /// </summary>
    public string? Thing { get; init; }

    /// <summary>What was done, a sentence.</summary>
    public required string What { get; init; }
}

/// <summary>A one-time link: first set-up, an invitation. Only its hash is kept.</summary>
public sealed class OneTimeLink
{
    /// <summary>SHA-256 of the link's secret.</summary>
    public required byte[] Hash { get; init; }

    /// <summary>The user whom it lets in, or <see langword="null"/> for the first set-up.</summary>
    public Guid? UserId { get; init; }

    /// <summary>Until when it works.</summary>
    public Instant ExpiresAt { get; init; }

    /// <summary>When it was used, or <see langword="null"/>.</summary>
    public Instant? UsedAt { get; set; }
}
