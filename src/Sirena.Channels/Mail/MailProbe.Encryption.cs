using System.Net.Security;
using System.Security.Cryptography.X509Certificates;
using MailKit.Security;

namespace Sirena.Channels.Mail;

public static partial class MailProbe
{
    private static ProbeResult Encryption(
        ProbeLog log,
        MailSettings settings,
        X509Certificate2? certificate,
        SslPolicyErrors errors,
        DateTimeOffset now,
        Exception e,
        IReadOnlyList<(bool, string)> lines
    )
    {
        var host = settings.Host;
        if (certificate is not null && (certificate.NotAfter < now || certificate.NotBefore > now))
        {
            log.Fail($"ended {certificate.NotAfter:d MMM yyyy}");
            return log.End(
                $"The certificate of {host} ran out on {certificate.NotAfter:d MMM yyyy}.",
                "An encrypted line to a server that cannot prove who it is protects nothing, so nothing was sent.",
                lines,
                "Ask whoever runs the mail server to renew its certificate."
            );
        }

        if (errors.HasFlag(SslPolicyErrors.RemoteCertificateNameMismatch) && certificate is not null)
        {
            var name = certificate.GetNameInfo(X509NameType.DnsName, false);
            log.Fail($"made out to {name}");
            return log.End(
                $"The server's certificate is made out to {name}, not to {host}.",
                "Either the name here is not the server's own, or another machine answers.",
                lines,
                $"Write {name} as the server's name, if that is the right machine.",
                "Ask whoever runs the mail server which name it has."
            );
        }

        if (errors.HasFlag(SslPolicyErrors.RemoteCertificateChainErrors))
        {
            log.Fail("not trusted");
            return log.End(
                $"Nobody whom this machine trusts vouches for the certificate of {host}.",
                "It was made by the server itself, or by an authority that is not known here.",
                lines,
                "Ask for a certificate of a known authority.",
                "Or have the own authority's certificate installed on this machine."
            );
        }

        // What the library says of it speaks of handshakes and of its own settings, to programmers.
        log.Fail("no encryption there");
        return settings.Encryption == "starttls"
            ? log.End(
                $"{host} does not offer STARTTLS at port {settings.Port}.",
                "It answers, but only unencrypted: a name and password would be readable on the way, so nothing was sent.",
                lines,
                "Try port 465 with TLS.",
                "Choose no encryption only inside your own network."
            )
            : log.End(
                $"{host} does not speak TLS at port {settings.Port}.",
                "The line was opened with TLS and "
                    + $"{(e is SslHandshakeException or IOException ? "what came back was not TLS" : "nothing usable came back")}: this port begins "
                    + "unencrypted, or something else listens there.",
                lines,
                "Try STARTTLS: port 587 usually begins unencrypted and then encrypts."
            );
    }
}
