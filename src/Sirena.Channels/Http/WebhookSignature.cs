using System.Globalization;
using System.Security.Cryptography;
using System.Text;

namespace Sirena.Channels.Http;

/// <summary>Signs and checks calls as the Standard Webhooks specification says: HMAC-SHA256 over id, time and body, <c>v1,</c> and base64.</summary>
public static class WebhookSignature
{
    /// <summary>How far the clocks may be apart: five minutes.</summary>
    public static TimeSpan Tolerance { get; } = TimeSpan.FromMinutes(5);

    /// <summary>A new key: <c>whsec_</c> and 24 random bytes in base64.</summary>
    public static string NewKey() => "whsec_" + Convert.ToBase64String(RandomNumberGenerator.GetBytes(24));

    /// <summary>The signature of a call.</summary>
    /// <param name="key">The key: base64 as the Standard Webhooks libraries read it, with or without <c>whsec_</c> before it; any other text as it
    /// stands.</param>
    /// <param name="id">The call's id.</param>
    /// <param name="timestamp">Seconds since 1970.</param>
    /// <param name="body">The body.</param>
    public static string Sign(string key, string id, long timestamp, ReadOnlySpan<byte> body)
    {
        var head = Encoding.UTF8.GetBytes(string.Create(CultureInfo.InvariantCulture, $"{id}.{timestamp}."));
        byte[] signed = [.. head, .. body];
        return "v1," + Convert.ToBase64String(HMACSHA256.HashData(KeyOf(key), signed));
    }

    /// <summary>Signs a request: its id, its time, its signature.</summary>
    public static void Put(HttpRequestMessage request, string key, string id, DateTimeOffset at, ReadOnlySpan<byte> body)
    {
        var now = at.ToUnixTimeSeconds();
        request.Headers.TryAddWithoutValidation("webhook-id", id);
        request.Headers.TryAddWithoutValidation("webhook-timestamp", now.ToString(CultureInfo.InvariantCulture));
        request.Headers.TryAddWithoutValidation("webhook-signature", Sign(key, id, now, body));
    }

    /// <summary>Whether one of the signatures in the header is that of one of the keys.</summary>
    public static bool Holds(IEnumerable<string> keys, string id, long timestamp, ReadOnlySpan<byte> body, string header)
    {
        var given = header.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(Encoding.UTF8.GetBytes).ToArray();
        var holds = false;
        foreach (var key in keys)
        {
            var right = Encoding.UTF8.GetBytes(Sign(key, id, timestamp, body));
            holds |= Array.Exists(given, g => CryptographicOperations.FixedTimeEquals(g, right));
        }

        return holds;
    }

    // A key that is no base64 is read as it stands: some far ends sign with the text itself.
    private static byte[] KeyOf(string key) => Decoded(key) ?? Encoding.UTF8.GetBytes(key);

    private static byte[]? Decoded(string key)
    {
        var text = key.StartsWith("whsec_", StringComparison.Ordinal) ? key["whsec_".Length..] : key;
        var bytes = new byte[text.Length];
        return Convert.TryFromBase64String(text, bytes, out var length) ? bytes[..length] : null;
    }
}
