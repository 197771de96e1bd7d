using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Rules;

namespace Sirena.Core.People;

/// <summary>Somebody of the staff, or an outside contact.</summary>
public sealed class Person
{
    /// <summary>The id, <c>first.last</c>.</summary>
    public required string Id { get; init; }

    /// <summary>The name in full.</summary>
    public required string Name { get; set; }

    /// <summary>The mail address by which they sign in and by which calendars name them, or <see langword="null"/>.</summary>
    public string? Email { get; set; }

    /// <summary>The language of their messages, an IETF tag.</summary>
    public string Language { get; set; } = "en";

    /// <summary>What they do, in a few words.</summary>
    public string? Post { get; set; }

    /// <summary>They are not of the house: a rule must permit each message to them.</summary>
    public bool Outside { get; set; }

    /// <summary>Since when they are no longer told anything, or <see langword="null"/>.</summary>
    public Instant? ArchivedAt { get; set; }

    /// <summary>Their addresses, in the order in which they are used.</summary>
    public List<ContactPoint> Contacts { get; init; } = [];

    /// <summary>Their mail addresses: that of the sign-in, then those of their contacts.</summary>
    public IEnumerable<string> Mails => Contacts.Where(c => c.Channel == Channel.Mail).Select(c => c.Address).Prepend(Email).OfType<string>();

    /// <summary>Numbers the addresses in the order in which they stand, for storing.</summary>
    public void NumberContacts()
    {
        for (var i = 0; i < Contacts.Count; i++)
        {
            Contacts[i].Position = i;
        }
    }

    /// <summary>Puts the addresses in their order, after reading.</summary>
    /// <returns>This person.</returns>
    public Person InOrder()
    {
        Contacts.Sort((a, b) => a.Position.CompareTo(b.Position));
        return this;
    }

    /// <summary>The ids of the teams that they are in.</summary>
    public List<string> Teams { get; set; } = [];

    /// <summary>The codes by which the order system names them as salesperson.</summary>
    public List<string> Codes { get; set; } = [];

    /// <summary>What they do not want to be told.</summary>
    public List<OptOut> OptOuts { get; set; } = [];

    /// <summary>The same person under another id, as a file is read before it is known whom it means.</summary>
    public Person As(string id) =>
        new()
        {
            Id = id,
            Name = Name,
            Email = Email,
            Language = Language,
            Post = Post,
            Outside = Outside,
            Teams = Teams,
            Codes = Codes,
            Contacts = Contacts,
            OptOuts = OptOuts,
            Quiet = Quiet,
            Away = Away,
            First = First,
            ArchivedAt = ArchivedAt,
        };

    /// <summary>When they want quiet.</summary>
    public List<WeeklySpan> Quiet { get; set; } = [];

    /// <summary>When they are away, and who stands in.</summary>
    public List<Leave> Away { get; set; } = [];

    /// <summary>The channel that comes first for an urgency, where they have a wish.</summary>
    public Dictionary<Urgency, Channel> First { get; set; } = [];
}

/// <summary>One address of a person on one channel.</summary>
public sealed class ContactPoint
{
    /// <summary>The channel.</summary>
    public Channel Channel { get; init; }

    /// <summary>The address as the channel writes it: a mail address, an E.164 number, a handle.</summary>
    public required string Address { get; init; }

    /// <summary>Its place among the person's addresses, from 0.</summary>
    public int Position { get; set; }

    /// <summary>It is known to reach them.</summary>
    public bool Verified { get; set; }

    /// <summary>They entered it themselves and have not sent its code back: it is not used until then.</summary>
    public bool Pending { get; set; }

    /// <summary>When a permanent error was seen, or <see langword="null"/>.</summary>
    public Instant? BrokenAt { get; set; }

    /// <summary>The far end's words for it.</summary>
    public string? BrokenBecause { get; set; }

    /// <summary>It can be used: not broken, not waiting for its code.</summary>
    public bool Usable => BrokenAt is null && (Verified || !Pending);
}

/// <summary>What somebody does not want to be told.</summary>
/// <param name="Event">An event type, or <see langword="null"/> for a rule.</param>
/// <param name="Rule">A rule's id, or <see langword="null"/> for an event.</param>
/// <param name="Channel">Only by this channel, or <see langword="null"/> for every one.</param>
public sealed record OptOut(string? Event, string? Rule, Channel? Channel)
{
    /// <summary>Whether it holds for a message.</summary>
    public bool Covers(string eventType, string? rule, Channel channel) =>
        (Channel is null || Channel == channel) && (Event is not null ? Event == eventType : Rule is not null && Rule == rule);
}

/// <summary>Time away from work.</summary>
/// <param name="From">Its begin.</param>
/// <param name="To">Its end, not included.</param>
/// <param name="Cover">The id of whoever stands in, or <see langword="null"/>.</param>
/// <param name="Days">It was given as whole days of the business's time zone, the last one included.</param>
public sealed record Leave(Instant From, Instant To, string? Cover, bool Days)
{
    /// <summary>Leave of whole days, the last one included.</summary>
    public static Leave Of(LocalDate from, LocalDate last, string? cover, DateTimeZone zone) =>
        new(zone.AtStartOfDay(from).ToInstant(), zone.AtStartOfDay(last.PlusDays(1)).ToInstant(), cover, true);

    /// <summary>Whether it holds at an instant.</summary>
    public bool Holds(Instant at) => From <= at && at < To;
}

/// <summary>A group of staff.</summary>
public sealed class Team
{
    /// <summary>The id: <c>credit-control</c>.</summary>
    public required string Id { get; init; }

    /// <summary>The name: Credit control.</summary>
    public required string Name { get; set; }

    /// <summary>Who is told as one of this team may opt out of it.</summary>
    public bool MayOptOut { get; set; } = true;

    /// <summary>When it works; empty for the business's hours.</summary>
    public List<WeeklySpan> Hours { get; set; } = [];
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

    /// <summary>The id of the team whose rota holds for it, or <see langword="null"/>. A shift that names a place holds for that place only.</summary>
    public string? Team { get; set; }

    /// <summary>The address of its ticket printer, <c>host:port</c>, or <see langword="null"/>.</summary>
    public string? Printer { get; set; }
}
