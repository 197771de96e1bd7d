using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using NodaTime;
using Sirena.Core.Sources;

namespace Sirena.Channels.Http;

/// <summary>What a call shows.</summary>
/// <param name="Header">A header by its name, or <see langword="null"/>.</param>
/// <param name="Body">The body as it came.</param>
/// <param name="InAddress">The secret in its address, or <see langword="null"/>.</param>
public sealed record CallFacts(Func<string, string?> Header, ReadOnlyMemory<byte> Body, string? InAddress);

/// <summary>Why a call is refused.</summary>
/// <param name="Kind">In one word: <c>no-proof</c>, <c>wrong-password</c>, <c>wrong-signature</c>, <c>no-time</c>, <c>too-old</c>, <c>wrong-address</c>,
/// <c>wrong-key</c>, <c>no-secret</c>.</param>
/// <param name="Sentence">What is wrong and the way out; nothing of the secret.</param>
public sealed record CallRefusal(string Kind, string Sentence);

/// <summary>Whether a call proves that it is its source's. Secrets are compared in constant time; each of several secrets that are valid is tried.</summary>
public static class CallProof
{
    private static readonly Duration Tolerance = Duration.FromTimeSpan(WebhookSignature.Tolerance);

    /// <summary>Looks at a call; a key is looked for elsewhere, by its hash.</summary>
    /// <param name="proof">What the source has to show.</param>
    /// <param name="secrets">The secrets that are valid.</param>
    /// <param name="call">The call.</param>
    /// <param name="now">The moment.</param>
    /// <returns>Why it is refused, or <see langword="null"/>.</returns>
    public static CallRefusal? Check(SourceProof proof, IReadOnlyList<string> secrets, CallFacts call, Instant now) =>
        secrets.Count == 0
            ? new CallRefusal("no-secret", "This source has no secret yet, so nothing can prove itself. Set one under Sources.")
            : proof.Kind switch
            {
                ProofKind.Basic => Basic(proof, secrets, call),
                ProofKind.Signature => Signature(proof, secrets, call, now),
                ProofKind.StandardWebhooks => Webhooks(secrets, call, now),
                ProofKind.InAddress => call.InAddress is null
                    ? new CallRefusal("no-proof", "The address lacks its secret: call it as it is shown under Sources.")
                : Any(secrets, Encoding.UTF8.GetBytes(call.InAddress), Encoding.UTF8.GetBytes) ? null
                : new CallRefusal("wrong-address", "The secret in the address is not this source's."),
                _ => new CallRefusal(
                    "wrong-key",
                    "A source key is needed: send 'Authorization: Bearer <key>' with a key from Sources that has not been revoked."
                ),
            };

    /// <summary>The signature that a call should have, as it stands in the header.</summary>
    public static string Sign(SourceProof proof, string secret, string? time, ReadOnlySpan<byte> body)
    {
        byte[] signed = time is null ? body.ToArray() : [.. Encoding.UTF8.GetBytes(time + "."), .. body];
        var digest = Digest(proof.Algorithm, Encoding.UTF8.GetBytes(secret), signed);
        return proof.Before + (proof.Encoding == "base64" ? Convert.ToBase64String(digest) : Convert.ToHexStringLower(digest));
    }

    private static CallRefusal? Basic(SourceProof proof, IReadOnlyList<string> secrets, CallFacts call)
    {
        var header = call.Header("Authorization");
        if (header?.StartsWith("Basic ", StringComparison.OrdinalIgnoreCase) != true)
        {
            return new CallRefusal("no-proof", "A user and a password are needed: send 'Authorization: Basic …' (RFC 7617).");
        }

        var given = new byte[header.Length];
        return
            Convert.TryFromBase64String(header[6..].Trim(), given, out var length)
            && Any(secrets, given[..length], s => Encoding.UTF8.GetBytes($"{proof.User}:{s}"))
            ? null
            : new CallRefusal("wrong-password", "The user or the password is not this source's.");
    }

    private static CallRefusal? Signature(SourceProof proof, IReadOnlyList<string> secrets, CallFacts call, Instant now)
    {
        if (call.Header(proof.Header!) is not { Length: > 0 } given)
        {
            return new CallRefusal("no-proof", $"The header {proof.Header} with the signature is missing.");
        }

        string? time = null;
        if (proof.TimeHeader is { } timeHeader)
        {
            time = call.Header(timeHeader)?.Trim();
            if (TimeOf(time) is not { } at)
            {
                return new CallRefusal("no-time", $"The header {timeHeader} with the time is missing, or no time: seconds since 1970 are expected.");
            }

            if (Off(at, now))
            {
                return new CallRefusal("too-old", $"The time of the call is more than five minutes off: it says {Shown(at)}, here it is {Shown(now)}.");
            }
        }

        var digest = Digits(proof, given.Trim());
        return
            digest is not null
            && Any(secrets, digest, s =>
                Digest(proof.Algorithm, Encoding.UTF8.GetBytes(s), time is null ? call.Body.Span : [.. Encoding.UTF8.GetBytes(time + "."), .. call.Body.Span])
            )
            ? null
            : new CallRefusal(
                "wrong-signature",
                $"The signature in {proof.Header} is not that of this body: HMAC-{proof.Algorithm.ToUpperInvariant()} over "
                    + $"{(time is null ? "the raw body" : "the time, a point and the raw body")}, in {proof.Encoding}, is expected."
            );
    }

    private static CallRefusal? Webhooks(IReadOnlyList<string> secrets, CallFacts call, Instant now)
    {
        var (id, time, signature) = (call.Header("webhook-id"), call.Header("webhook-timestamp"), call.Header("webhook-signature"));
        if (string.IsNullOrEmpty(id) || string.IsNullOrEmpty(signature))
        {
            return new CallRefusal("no-proof", "The headers webhook-id, webhook-timestamp and webhook-signature are needed (Standard Webhooks).");
        }

        return !long.TryParse(time, NumberStyles.None, CultureInfo.InvariantCulture, out var seconds) || TimeOf(time) is not { } at
                ? new CallRefusal("no-time", "The header webhook-timestamp is missing, or no time: seconds since 1970 are expected.")
            : Off(at, now) ? new CallRefusal("too-old", $"The time of the call is more than five minutes off: it says {Shown(at)}, here it is {Shown(now)}.")
            : WebhookSignature.Holds(secrets, id, seconds, call.Body.Span, signature) ? null
            : new CallRefusal("wrong-signature", "The signature is not that of this body: v1 of Standard Webhooks over id, time and raw body is expected.");
    }

    private static bool Any(IReadOnlyList<string> secrets, byte[] given, Func<string, byte[]> right)
    {
        var holds = false;
        foreach (var secret in secrets)
        {
            holds |= CryptographicOperations.FixedTimeEquals(right(secret), given);
        }

        return holds;
    }

    // The bytes of a signature as it stands in its header; null where it is none.
    private static byte[]? Digits(SourceProof proof, string given)
    {
        if (!given.StartsWith(proof.Before, StringComparison.OrdinalIgnoreCase))
        {
            return null;
        }

        var text = given[proof.Before.Length..].Trim();
        if (proof.Encoding == "hex")
        {
            var hex = new byte[text.Length / 2];
            return text.Length % 2 == 0 && Convert.FromHexString(text, hex, out _, out _) == System.Buffers.OperationStatus.Done ? hex : null;
        }

        var bytes = new byte[text.Length];
        return Convert.TryFromBase64String(text, bytes, out var length) ? bytes[..length] : null;
    }

    private static byte[] Digest(string algorithm, byte[] key, ReadOnlySpan<byte> body) =>
        algorithm switch
        {
            "sha512" => HMACSHA512.HashData(key, body),
            // Some order systems know no other; as HMAC it still holds (RFC 6151, RFC 2104).
#pragma warning disable CA5350
            "sha1" => HMACSHA1.HashData(key, body),
#pragma warning restore CA5350
            _ => HMACSHA256.HashData(key, body),
        };

    // Seconds or milliseconds since 1970, or RFC 3339.
    private static Instant? TimeOf(string? text) =>
        long.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number)
            ? number switch
            {
                < 100_000_000_000 => Instant.FromUnixTimeSeconds(number),
                < 7_000_000_000_000 => Instant.FromUnixTimeMilliseconds(number),
                _ => null,
            }
            : Core.Orders.Fields.Facts.Time(text);

    private static bool Off(Instant at, Instant now) => at > now + Tolerance || at < now - Tolerance;

    private static string Shown(Instant at) => NodaTime.Text.InstantPattern.General.Format(at);
}
