using System.Net;
using System.Net.Sockets;
using MailKit.Net.Smtp;
using MailKit.Security;
using Sirena.Core;
using Sirena.Core.People;

namespace Sirena.Channels.Mail;

/// <summary>From whom mail comes.</summary>
/// <param name="Address">The address.</param>
/// <param name="Name">The name beside it.</param>
/// <param name="ReplyTo">Where replies go, or <see langword="null"/> for the address.</param>
public sealed record MailSender(string Address, string Name, string? ReplyTo = null)
{
    /// <summary>The part after the @.</summary>
    public string Domain => MailAddress.DomainOf(Address);
}

/// <summary>How mail is signed (DKIM, RFC 6376).</summary>
/// <param name="Selector">Under which the public key is published.</param>
/// <param name="Key">The private key, PEM, RSA or Ed25519.</param>
public sealed record DkimSettings(string Selector, string Key);

/// <summary>Where an access token is asked for (OAuth 2.0 client credentials, RFC 6749, 4.4).</summary>
/// <param name="Address">The token endpoint.</param>
/// <param name="ClientId">The client's id.</param>
/// <param name="Secret">The client's secret.</param>
/// <param name="Scope">The scope, or <see langword="null"/>.</param>
public sealed record TokenSettings(Uri Address, string ClientId, string Secret, string? Scope);

/// <summary>How mail goes out.</summary>
/// <param name="Host">The mail server.</param>
/// <param name="Port">Its port, 1 to 65535.</param>
/// <param name="From">The address that mail comes from.</param>
/// <param name="FromName">The name beside it.</param>
/// <param name="Encryption"><c>none</c>, <c>starttls</c> or <c>tls</c>.</param>
/// <param name="User">The name to sign in with, or <see langword="null"/>.</param>
/// <param name="Password">The password, or <see langword="null"/>.</param>
/// <param name="Width">How many messages side by side.</param>
/// <param name="ReturnKey">The key of return addresses, where reports are read; <see langword="null"/> where none are asked for.</param>
/// <param name="Called">The gateway's name, or <see langword="null"/> for one made of host and port.</param>
public sealed record MailSettings(
    string Host,
    int Port,
    string From,
    string FromName,
    string Encryption = "none",
    string? User = null,
    string? Password = null,
    int Width = 4,
    string? Called = null,
    byte[]? ReturnKey = null
)
{
    /// <summary>From whom mail to each kind of reader comes, where it is not <see cref="From"/>.</summary>
    public IReadOnlyDictionary<Audience, MailSender> Senders { get; init; } = new Dictionary<Audience, MailSender>();

    /// <summary>The picture that <c>cid:logo</c> in a message's HTML means, a PNG; <see langword="null"/> for none.</summary>
    public byte[]? Logo { get; init; }

    /// <summary>How mail is signed, or <see langword="null"/> for not.</summary>
    public DkimSettings? Dkim { get; init; }

    /// <summary>How an access token is had, or <see langword="null"/> to sign in with the password.</summary>
    public TokenSettings? Token { get; init; }

    /// <summary>Gives the address where a reader ends such mail (RFC 8058); <see langword="null"/> names none.</summary>
    public Func<string, string>? Unsubscribe { get; init; }

    /// <summary>
    /// The name said in EHLO (RFC 5321, 4.1.1.1), or <see langword="null"/> for this machine's own; where that has no domain, the address that the call comes
    /// from.
    /// </summary>
    public string? Ehlo { get; init; }

    /// <summary>The authority that signs the server's certificate, PEM, where it is none that this machine knows.</summary>
    public string? Authority { get; init; }

    /// <summary>The SHA-256 of the one certificate that the server may show, hexadecimal; <see langword="null"/> for any that can be checked.</summary>
    public string? Pin { get; init; }

    /// <summary>How the line is encrypted.</summary>
    public SecureSocketOptions Security =>
        Encryption switch
        {
            "tls" => SecureSocketOptions.SslOnConnect,
            "starttls" => SecureSocketOptions.StartTls,
            _ => SecureSocketOptions.None,
        };

    /// <summary>What is said in EHLO on a line: nobody but the next machine knows a name without a domain, and many servers refuse it.</summary>
    /// <returns>The name, or the address that the line comes from as a literal (RFC 5321, 4.1.3).</returns>
    public string Greeting(SmtpClient client, Socket line) =>
        Ehlo ?? (client.LocalDomain?.Contains('.', StringComparison.Ordinal) == true ? client.LocalDomain : Literal(((IPEndPoint)line.LocalEndPoint!).Address));

    private static string Literal(IPAddress own) =>
        own.AddressFamily == AddressFamily.InterNetworkV6 && !own.IsIPv4MappedToIPv6 ? $"[IPv6:{own}]" : $"[{own.MapToIPv4()}]";

    /// <summary>The host of an address, where it is a name with a domain.</summary>
    public static string? NameIn(string address) =>
        Uri.TryCreate(address, UriKind.Absolute, out var own) && own.HostNameType == UriHostNameType.Dns && own.Host.Contains('.', StringComparison.Ordinal)
            ? own.IdnHost
            : null;

    /// <summary>From whom a message to such a reader comes.</summary>
    public MailSender SenderFor(Audience audience) => Senders.TryGetValue(audience, out var own) ? own : new MailSender(From, FromName);

    /// <summary>The encryption that is usual for a port (RFC 8314: 465 and 993 with TLS, 587 with STARTTLS).</summary>
    public static string UsualEncryption(int port) =>
        port switch
        {
            465 or 993 => "tls",
            587 or 2587 or 143 => "starttls",
            _ => "none",
        };

    /// <summary>Reads <c>host:port</c>; port 25 where none is given. <see langword="null"/> when it is neither.</summary>
    public static (string Host, int Port)? Server(string text) => HostAndPort.Read(text, 25);
}
