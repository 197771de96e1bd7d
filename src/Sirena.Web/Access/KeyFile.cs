using System.Security.Cryptography;
using System.Text;
using System.Xml.Linq;
using Microsoft.AspNetCore.DataProtection.XmlEncryption;

namespace Sirena.Web.Access;

/// <summary>The key outside the database that wraps the Data Protection keys inside it (AES-256-GCM).</summary>
public sealed class KeyFile
{
    private readonly byte[] key;

    private KeyFile(byte[] key) => this.key = key;

    /// <summary>Reads the file: 32 bytes in base64.</summary>
    /// <returns>The key, or one sentence on what is wrong with the file.</returns>
    public static (KeyFile? Key, string? Problem) Read(string? path)
    {
        if (string.IsNullOrWhiteSpace(path))
        {
            return (null, "SIRENA_KEY_FILE is not set. Name a file that holds 32 random bytes in base64: (umask 077; openssl rand -base64 32 > sirena.key).");
        }

        if (!File.Exists(path))
        {
            return (null, $"The key file {path} does not exist. Make it: (umask 077; openssl rand -base64 32 > {path}).");
        }

        if (OperatingSystem.IsLinux() && (File.GetUnixFileMode(path) & ~(UnixFileMode.UserRead | UnixFileMode.UserWrite)) != 0)
        {
            return (null, $"The key file {path} can be read by others. Close it: chmod 600 {path}.");
        }

        var bytes = new byte[64];
        return Convert.TryFromBase64String(File.ReadAllText(path).Trim(), bytes, out var length) && length == 32
            ? (new KeyFile(bytes[..32]), null)
            : (null, $"The key file {path} does not hold 32 bytes in base64. Keep the old file if you have it: without it, stored secrets cannot be read.");
    }

    /// <summary>Wraps a text.</summary>
    public string Wrap(string text)
    {
        var plain = Encoding.UTF8.GetBytes(text);
        var nonce = RandomNumberGenerator.GetBytes(12);
        var (cipher, tag) = (new byte[plain.Length], new byte[16]);
        using var aes = new AesGcm(key, tag.Length);
        aes.Encrypt(nonce, plain, cipher, tag);
        return Convert.ToBase64String([.. nonce, .. tag, .. cipher]);
    }

    /// <summary>Unwraps what <see cref="Wrap"/> made.</summary>
    /// <exception cref="CryptographicException">It was wrapped with another key.</exception>
    public string Unwrap(string wrapped)
    {
        var all = Convert.FromBase64String(wrapped);
        var plain = new byte[all.Length - 28];
        using var aes = new AesGcm(key, 16);
        aes.Decrypt(all.AsSpan(0, 12), all.AsSpan(28), all.AsSpan(12, 16), plain);
        return Encoding.UTF8.GetString(plain);
    }
}

/// <summary>Wraps a Data Protection key before it is stored.</summary>
public sealed class KeyFileEncryptor(KeyFile key) : IXmlEncryptor
{
    /// <inheritdoc/>
    public EncryptedXmlInfo Encrypt(XElement plaintextElement) =>
        new(new XElement("wrapped", key.Wrap(plaintextElement.ToString(SaveOptions.DisableFormatting))), typeof(KeyFileDecryptor));
}

/// <summary>Unwraps a stored Data Protection key.</summary>
public sealed class KeyFileDecryptor(IServiceProvider services) : IXmlDecryptor
{
    /// <inheritdoc/>
    public XElement Decrypt(XElement encryptedElement) => XElement.Parse(services.GetRequiredService<KeyFile>().Unwrap(encryptedElement.Value));
}
