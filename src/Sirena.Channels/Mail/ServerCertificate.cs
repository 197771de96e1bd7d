using System.Net.Security;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;

namespace Sirena.Channels.Mail;

/// <summary>Checks the certificate of a server whose authority this machine does not know.</summary>
public static class ServerCertificate
{
    /// <summary>The check, or <see langword="null"/> where the usual one is enough.</summary>
    /// <param name="authority">The authority's certificate, PEM, or <see langword="null"/>.</param>
    /// <param name="pin">The SHA-256 of the one certificate that is taken, hexadecimal, or <see langword="null"/>.</param>
    public static RemoteCertificateValidationCallback? Check(string? authority, string? pin)
    {
        if (authority is null && pin is null)
        {
            return null;
        }

        return (_, shown, _, errors) =>
        {
            if (shown is null)
            {
                return false;
            }

            using var certificate = X509CertificateLoader.LoadCertificate(shown.GetRawCertData());
            if (pin is not null)
            {
                return Convert.ToHexString(SHA256.HashData(certificate.RawData)).Equals(Plain(pin), StringComparison.OrdinalIgnoreCase);
            }

            using var chain = new X509Chain();
            chain.ChainPolicy.TrustMode = X509ChainTrustMode.CustomRootTrust;
            chain.ChainPolicy.RevocationMode = X509RevocationMode.NoCheck;
            chain.ChainPolicy.CustomTrustStore.ImportFromPem(authority);
            return !errors.HasFlag(SslPolicyErrors.RemoteCertificateNameMismatch) && chain.Build(certificate);
        };
    }

    /// <summary>Whether a text holds certificates.</summary>
    public static bool IsAuthority(string pem)
    {
        try
        {
            var found = new X509Certificate2Collection();
            found.ImportFromPem(pem);
            return found.Count > 0;
        }
        catch (CryptographicException)
        {
            return false;
        }
    }

    /// <summary>Whether a text is a SHA-256 in hexadecimal, with or without colons.</summary>
    public static bool IsPin(string text) => Plain(text) is { Length: 64 } plain && plain.All(char.IsAsciiHexDigit);

    private static string Plain(string pin) => pin.Replace(":", "", StringComparison.Ordinal).Replace(" ", "", StringComparison.Ordinal);
}
