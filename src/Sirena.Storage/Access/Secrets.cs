using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text;

namespace Sirena.Storage.Access;

/// <summary>Keys, tokens and links: 192 random bits, kept as their SHA-256 only. They are random, so a slow hash would add nothing.</summary>
public static class Secrets
{
    /// <summary>A new secret with a prefix that says what it is.</summary>
    public static string New(string prefix) => prefix + Base64Url.EncodeToString(RandomNumberGenerator.GetBytes(24));

    /// <summary>What is kept of it.</summary>
    public static byte[] Hash(string secret) => SHA256.HashData(Encoding.UTF8.GetBytes(secret));
}
