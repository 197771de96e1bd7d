using NodaTime;
using Sirena.Core.Deliveries;

namespace Sirena.Core.People;

/// <summary>Somebody of the staff.</summary>
public sealed class Person
{
    /// <summary>The id, <c>first.last</c>.</summary>
    public required string Id { get; init; }

    /// <summary>The name in full.</summary>
    public required string Name { get; set; }

    /// <summary>The language of their messages, an IETF tag.</summary>
    public string Language { get; set; } = "en";

    /// <summary>What they do, in a few words.</summary>
    public string? Post { get; set; }

    /// <summary>Since when they are no longer told anything, or <see langword="null"/>.</summary>
    public Instant? ArchivedAt { get; set; }

    /// <summary>Their addresses, in the order in which they are used.</summary>
    public List<ContactPoint> Contacts { get; init; } = [];

    /// <summary>The ids of the teams that they are in.</summary>
    public List<string> Teams { get; init; } = [];
}

/// <summary>One address of a person on one channel.</summary>
public sealed class ContactPoint
{
    /// <summary>The channel.</summary>
    public Channel Channel { get; init; }

    /// <summary>The address as the channel writes it: a mail address, an E.164 number, a handle.</summary>
    public required string Address { get; init; }

    /// <summary>It is known to reach them.</summary>
    public bool Verified { get; set; }

    /// <summary>When a permanent error was seen, or <see langword="null"/>.</summary>
    public Instant? BrokenAt { get; set; }

    /// <summary>The far end's words for it.</summary>
    public string? BrokenBecause { get; set; }
}

/// <summary>A group of staff.</summary>
public sealed class Team
{
    /// <summary>The id: <c>credit-control</c>.</summary>
    public required string Id { get; init; }

    /// <summary>The name: Credit control.</summary>
    public required string Name { get; set; }
}

/// <summary>A place where work is done.</summary>
public sealed class Site
{
    /// <summary>The id: <c>cold-store</c>.</summary>
    public required string Id { get; init; }

    /// <summary>The name: Cold store.</summary>
    public required string Name { get; set; }

    /// <summary>The id of the person who manages it, or <see langword="null"/>.</summary>
    public string? Manager { get; set; }
}
