using System.Text.Json;
using Sirena.Channels;
using Sirena.Channels.Http;
using Sirena.Channels.Mail;
using Sirena.Core.Deliveries;
using Sirena.Core.People;

namespace Sirena.Engine.Dispatch;

/// <content>What keeps a gateway from being saved.</content>
public sealed partial class GatewayDesk
{
    private static string Way(Gateway g) =>
        $"{g.Address}|{g.Encryption}|{g.User}|{g.Secret}|{g.TokenAddress}|{g.ClientId}|{g.Ehlo}|{g.Authority}|{g.Pin}|{g.Sender}|"
        + $"{string.Join(';', g.Headers.Values)}";

    private static void Check(Gateway g, Action<string, string> wrong)
    {
        if (g.Position is < 1 or > 100)
        {
            wrong("position", "The place is a number from 1 on; 1 is tried first.");
        }

        if (g.Width is < 1 or > 64)
        {
            wrong("width", "The width is a number from 1 to 64: how many messages go side by side.");
        }

        if (g.Channel == Channel.Mail)
        {
            if (MailSettings.Server(g.Address) is null)
            {
                wrong("address", "Give the mail server's host and port, such as mail.example:587.");
            }

            if (g.Encryption is not ("none" or "starttls" or "tls"))
            {
                wrong("encryption", "The encryption is none, starttls or tls.");
            }

            if (g.Ehlo is { } name && Uri.CheckHostName(name) == UriHostNameType.Unknown)
            {
                wrong("ehlo", "The name said in EHLO is a host's name, such as desk.averilquay.example.");
            }

            if (g.Authority is { } authority && !ServerCertificate.IsAuthority(authority))
            {
                wrong("certificateAuthority", "This is no certificate: paste the PEM text from -----BEGIN CERTIFICATE----- to -----END CERTIFICATE-----.");
            }

            if (g.Pin is { } pin && !ServerCertificate.IsPin(pin))
            {
                wrong("certificatePin", "The pin is the certificate's SHA-256: 64 hexadecimal digits, with or without colons.");
            }

            if (g.TokenAddress is { } token && (!Uri.TryCreate(token, UriKind.Absolute, out var at) || at.Scheme is not ("http" or "https")))
            {
                wrong("tokenAddress", "Give the address where an access token is asked for; it begins with https://.");
            }

            if (g.TokenAddress is not null && (g.ClientId is null || g.User is null))
            {
                wrong("clientId", "Signing in with an access token needs the client's id and the mailbox that mail is sent as.");
            }

            if (g.EchoMinutes is not null && (g.EchoTo is null || !MailAddress.TryParse(g.EchoTo, out _, out _)))
            {
                wrong("echoTo", "Give the mail address to which the echo goes; it is best one of the business's own.");
            }

            if (g.Sender is { } sender && !MailAddress.TryParse(sender, out _, out var bad))
            {
                wrong("sender", $"This address {bad}.");
            }

            return;
        }

        if (!Uri.TryCreate(g.Address, UriKind.Absolute, out var address) || address.Scheme is not ("http" or "https"))
        {
            wrong("address", "Give the address that messages are posted to; it begins with https://.");
        }

        if (g.EchoMinutes is not null && g.EchoTo is null)
        {
            wrong("echoTo", "Give the number or room to which the echo goes.");
        }

        if (g.Body is { } body)
        {
            CheckBody(body, wrong);
        }
    }

    private static void CheckDkim(Gateway g, string? key, Action<string, string> wrong)
    {
        if (g.DkimSelector is { } selector && !selector.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '.' or '_'))
        {
            wrong("dkimSelector", "The selector is the word before ._domainkey in the published record: letters, digits, hyphens and dots.");
        }

        if (key is { Length: > 0 })
        {
            try
            {
                using var pem = new MemoryStream(System.Text.Encoding.ASCII.GetBytes(key));
                _ = new MimeKit.Cryptography.DkimSigner(pem, "a.example", "s");
            }
            catch (Exception e)
                when (e is FormatException or ArgumentException or IOException or InvalidCastException or Org.BouncyCastle.Security.GeneralSecurityException)
            {
                wrong("dkimKey", "This is no private key: paste the PEM text from -----BEGIN to -----END.");
            }
        }

        if (g.DkimSelector is not null && key is not { Length: > 0 } && g.DkimKey is null)
        {
            wrong("dkimKey", "Signing needs the private key beside the selector.");
        }
    }

    private static void CheckBody(string body, Action<string, string> wrong)
    {
        if (
            body.Contains("{{{", StringComparison.Ordinal)
            || body.Contains("{{&", StringComparison.Ordinal)
            || body.Contains("{{>", StringComparison.Ordinal)
            || body.Contains("{{=", StringComparison.Ordinal)
        )
        {
            wrong("body", "The body has unescaped tags, partials or other delimiters. Use {{to}}, {{text}}, {{subject}}, {{id}} and {{receipts}} only.");
            return;
        }

        try
        {
            using var _ = JsonDocument.Parse(
                HttpGateway.Render(
                    body,
                    new OutgoingMessage(Guid.Empty, "+447700900123", null, "A \"subject\"", "A text with \"quotes\"\nand lines", null),
                    "https://a.example"
                )
            );
        }
        catch (Exception e) when (e is JsonException or Stubble.Core.Exceptions.StubbleException)
        {
            wrong("body", $"The body does not become JSON: {e.Message}");
        }
    }
}
