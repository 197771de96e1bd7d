using NodaTime;
using Sirena.Core.People;

namespace Sirena.Core.Deliveries;

/// <summary>The name and address that mail comes from, per purpose.</summary>
public sealed class Sender
{
    /// <summary>Its id.</summary>
    public int Id { get; init; }

    /// <summary>The name beside the address.</summary>
    public required string Name { get; set; }

    /// <summary>The mail address.</summary>
    public required string Address { get; set; }

    /// <summary>Where replies go, or <see langword="null"/> for the address itself.</summary>
    public string? ReplyTo { get; set; }

    /// <summary>The readers whose mail comes from it.</summary>
    public List<Audience> Purposes { get; set; } = [];

    /// <summary>The ids of the mail gateways that accept it; empty for all.</summary>
    public List<string> Gateways { get; set; } = [];

    /// <summary>When its code was given back; it is used from then on. <see langword="null"/> before.</summary>
    public Instant? VerifiedAt { get; set; }

    /// <summary>The hash of the code that is out, or <see langword="null"/>.</summary>
    public byte[]? CodeHash { get; set; }

    /// <summary>Until when that code counts.</summary>
    public Instant? CodeUntil { get; set; }

    /// <summary>
    /// The sender for a reader by a gateway: verified, meant for such readers, and accepted by the gateway; the newest of several. <see langword="null"/> when
    /// the gateway's own stands.
    /// </summary>
    public static Sender? For(IEnumerable<Sender> senders, Audience audience, string? gateway) =>
        senders
            .Where(s =>
                s.VerifiedAt is not null && s.Purposes.Contains(audience) && (s.Gateways.Count == 0 || (gateway is not null && s.Gateways.Contains(gateway)))
            )
            .MaxBy(s => s.Id);
}
