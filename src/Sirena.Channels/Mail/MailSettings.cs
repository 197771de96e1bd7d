namespace Sirena.Channels.Mail;

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
public sealed record MailSettings(string Host, int Port, string From, string FromName, string Encryption = "none", string? User = null, string? Password = null, int Width = 4, string? Called = null, byte[]? ReturnKey = null)
{
    /// <summary>Reads <c>host:port</c>; port 25 where none is given. <see langword="null"/> when it is neither.</summary>
    public static (string Host, int Port)? Server(string text)
    {
        var colon = text.LastIndexOf(':');
        var (host, port) = colon < 0 ? (text.Trim(), 25) : (text[..colon].Trim(), int.TryParse(text[(colon + 1)..], out var p) ? p : 0);
        return host.Length > 0 && port is > 0 and < 65536 && Uri.CheckHostName(host.Trim('[', ']')) != UriHostNameType.Unknown ? (host.Trim('[', ']'), port) : null;
    }
}
