using System.Text;
using NodaTime;

namespace Sirena.Channels.Http;

/// <summary>What a far end answers over HTTP.</summary>
internal static class FarAnswer
{
    private const int Most = 64 * 1024;

    /// <summary>How long it asks to wait: seconds, or a date (RFC 9110, 10.2.3); <see langword="null"/> where it does not.</summary>
    public static Duration? RetryAfter(HttpResponseMessage response, TimeProvider time) =>
        (response.Headers.RetryAfter?.Delta ?? response.Headers.RetryAfter?.Date - time.GetUtcNow()) is { } wait && wait > TimeSpan.Zero
            ? Duration.FromTimeSpan(wait)
            : null;

    /// <summary>Its body as text, the first 64 KiB.</summary>
    public static async Task<string> ReadAsync(HttpResponseMessage response, CancellationToken cancel)
    {
        await using var stream = await response.Content.ReadAsStreamAsync(cancel);
        var buffer = new byte[Most];
        var read = await stream.ReadAtLeastAsync(buffer, Most, throwOnEndOfStream: false, cancel);
        return Encoding.UTF8.GetString(buffer, 0, read).Trim();
    }
}
