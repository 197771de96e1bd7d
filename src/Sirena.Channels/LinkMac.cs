using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text;

namespace Sirena.Channels;

/// <summary>A text in a link that nobody can make up: base64url, a dot, and a MAC of it.</summary>
public static class LinkMac
{
    /// <summary>The part of the link.</summary>
    public static string For(string text, byte[] key) => $"{Base64Url.EncodeToString(Encoding.UTF8.GetBytes(text))}.{Mac(text, key)}";

    /// <summary>The text of a link; <see langword="null"/> when the MAC is not ours.</summary>
    public static string? Read(string link, byte[] key)
    {
        if (link.Split('.') is not [var body, var mac] || !Base64Url.IsValid(body))
        {
            return null;
        }

        var text = Encoding.UTF8.GetString(Base64Url.DecodeFromChars(body));
        return CryptographicOperations.FixedTimeEquals(Encoding.ASCII.GetBytes(mac), Encoding.ASCII.GetBytes(Mac(text, key))) ? text : null;
    }

    private static string Mac(string text, byte[] key) => Convert.ToHexStringLower(HMACSHA256.HashData(key, Encoding.UTF8.GetBytes(text))[..16]);
}
