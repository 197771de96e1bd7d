using NodaTime;

namespace Sirena.Core;

/// <summary>The one business that a database belongs to.</summary>
public sealed class Business
{
    /// <summary>Always 1.</summary>
    public int Id { get; init; } = 1;

    /// <summary>Its name.</summary>
    public string Name { get; set; } = "Our order desk";

    /// <summary>The address under which its people reach Sirena; links in messages begin with it. No slash at the end.</summary>
    public string BaseAddress { get; set; } = "http://127.0.0.1:5080";

    /// <summary>An IANA time zone.</summary>
    public string TimeZone { get; set; } = "Europe/Lisbon";

    /// <summary>ISO 4217; holds for amounts that name none.</summary>
    public string Currency { get; set; } = "EUR";

    /// <summary>The mail server, <c>host:port</c>, by which mail goes out.</summary>
    public string MailServer { get; set; } = "127.0.0.1:25";

    /// <summary>The address that mail comes from.</summary>
    public string MailFrom { get; set; } = "sirena@localhost.localdomain";

    /// <summary>The key of return addresses and of what push messages call back, encrypted; <see langword="null"/> before the first start.</summary>
    public string? ReportKey { get; set; }

    /// <summary>A node takes reports about mail itself.</summary>
    public bool ReportsTaken { get; set; }

    /// <summary>The IMAP mailbox that reports come back to, <c>host:port</c>, or <see langword="null"/> for none.</summary>
    public string? ReportMailbox { get; set; }

    /// <summary>The mailbox's encryption: <c>none</c>, <c>starttls</c> or <c>tls</c>.</summary>
    public string ReportMailboxEncryption { get; set; } = "tls";

    /// <summary>The name that opens the mailbox.</summary>
    public string? ReportMailboxUser { get; set; }

    /// <summary>The password that opens it, encrypted.</summary>
    public string? ReportMailboxSecret { get; set; }

    /// <summary>What the mailbox last said when it could not be read; <see langword="null"/> while it can.</summary>
    public string? ReportMailboxError { get; set; }

    /// <summary>Since when the mail server of the settings cannot be used, or <see langword="null"/> while it can.</summary>
    public Instant? MailFailingSince { get; set; }

    /// <summary>What it said when it last failed.</summary>
    public string? MailLastError { get; set; }

    /// <summary>When it last worked again.</summary>
    public Instant? MailLastGoodAt { get; set; }

    /// <summary>The key with which push services know us (VAPID, RFC 8292), P-256: the public one, base64url.</summary>
    public string? PushPublicKey { get; set; }

    /// <summary>The private one, encrypted.</summary>
    public string? PushPrivateKey { get; set; }

    /// <summary>How many days the texts of messages are kept.</summary>
    public int BodyDays { get; set; } = 90;

    /// <summary>How many days the bodies and files are kept that came from sources.</summary>
    public int ArrivalDays { get; set; } = 30;

    /// <summary>How many months deliveries and what is known of them are kept.</summary>
    public int RowMonths { get; set; } = 25;

    /// <summary>Grows with each change of a rota, so that a node knows when to read them again.</summary>
    public long RotaVersion { get; set; }

    /// <summary>The colour of messages' header and button, <c>#12343B</c>.</summary>
    public string BrandColour { get; set; } = "#12343B";

    /// <summary>The colour of links in messages.</summary>
    public string BrandAccent { get; set; } = "#4B4799";

    /// <summary>The line at the top of messages; empty for the business's name.</summary>
    public string BrandHeader { get; set; } = "";

    /// <summary>The last lines of messages, or empty.</summary>
    public string BrandFooter { get; set; } = "";

    /// <summary>The logo at the top of messages, a PNG; <see langword="null"/> for none.</summary>
    public byte[]? Logo { get; set; }

    /// <summary>When nobody is to be told what can wait.</summary>
    public List<People.WeeklySpan> Quiet { get; set; } = [];

    /// <summary>When it works, for steps that count working time.</summary>
    public List<People.WeeklySpan> Hours { get; set; } = [Ladders.WorkingHours.Usual];

    /// <summary>The days on which it does not work.</summary>
    public List<Holiday> Holidays { get; set; } = [];

    /// <summary>Fields of orders that are its own, in the order in which they are shown.</summary>
    public List<Orders.OwnField> OwnFields { get; set; } = [];

    /// <summary>The urgency from which on quiet hours, the business's and a person's own, are passed.</summary>
    public Rules.Urgency QuietPasses { get; set; } = Rules.Urgency.Urgent;

    /// <summary>Who may use which kind of instruction, where it differs from what is usual.</summary>
    public List<Instructions.InstructionRight> InstructionRights { get; set; } = [];

    /// <summary>Who may use a kind of instruction.</summary>
    public Instructions.InstructionRight RightOf(Instructions.InstructionKind kind) =>
        InstructionRights.Find(r => r.Kind == kind.Name) ?? Instructions.InstructionRight.Usual(kind);

    /// <summary>The time zone.</summary>
    /// <exception cref="NodaTime.TimeZones.DateTimeZoneNotFoundException">The id is unknown; settings are checked when they are saved.</exception>
    public DateTimeZone Zone => DateTimeZoneProviders.Tzdb[TimeZone];
}

/// <summary>A day on which the business does not work.</summary>
/// <param name="Date">The day.</param>
/// <param name="Name">Its name.</param>
public sealed record Holiday(LocalDate Date, string Name);
