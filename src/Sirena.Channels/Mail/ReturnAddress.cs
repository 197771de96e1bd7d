using System.Security.Cryptography;

namespace Sirena.Channels.Mail;

/// <summary>The address to which reports about a delivery come back. It holds a MAC of the delivery's id, so that nobody can make up a report.</summary>
public static class ReturnAddress
{
    private const string Prefix = "sirena+";

    /// <summary>The address: <c>sirena+ID.MAC@domain</c>.</summary>
    public static string For(Guid delivery, byte[] key, string domain) => $"{Prefix}{delivery:N}.{Mac(delivery, key)}@{domain}";

    /// <summary>The delivery of an address; <see langword="null"/> when it is none of ours.</summary>
    /// <param name="address">The address, or the part before its @.</param>
    /// <param name="key">The key.</param>
    public static Guid? Read(string address, byte[] key)
    {
        var local = address.Split('@')[0];
        if (!IsOurs(local) || local[Prefix.Length..].Split('.') is not [var id, var mac] || !Guid.TryParseExact(id, "N", out var delivery))
        {
            return null;
        }

        return CryptographicOperations.FixedTimeEquals(
            System.Text.Encoding.ASCII.GetBytes(mac.ToLowerInvariant()),
            System.Text.Encoding.ASCII.GetBytes(Mac(delivery, key))
        )
            ? delivery
            : null;
    }

    /// <summary>Whether an address has the shape of ours.</summary>
    public static bool IsOurs(string local) => local.StartsWith(Prefix, StringComparison.OrdinalIgnoreCase);

    private static string Mac(Guid delivery, byte[] key) => Convert.ToHexStringLower(HMACSHA256.HashData(key, delivery.ToByteArray())[..8]);
}
