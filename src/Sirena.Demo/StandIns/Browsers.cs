using System.Buffers.Binary;
using System.Buffers.Text;
using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;

namespace Sirena.Demo.StandIns;

/// <summary>A push message that a browser showed.</summary>
public sealed record Pushed(DateTimeOffset At, string Person, string Title, string Text, string? Url);

/// <summary>
/// A push service's stand-in with the browsers behind it: takes messages as RFC 8030 says, checks who sends them (RFC 8292), decrypts them as the browser would
/// (RFC 8291, aes128gcm of RFC 8188), and says back what a service
/// worker says. Faults: <c>refuse</c> (410, the subscription is gone), <c>defer</c> (503), <c>drop</c>, <c>delay</c>, <c>close</c>.
/// </summary>
public sealed class Browsers(Faults faults) : IDisposable
{
    private const int MostKept = 5000;
    private readonly HttpClient http = new() { Timeout = TimeSpan.FromSeconds(10) };
    private readonly ConcurrentDictionary<string, Browser> browsers = [];
    private readonly ConcurrentQueue<Pushed> shown = new();

    /// <summary>What was shown, oldest first.</summary>
    public IReadOnlyList<Pushed> Shown => [.. shown];

    /// <summary>A browser of a person, made when it is first asked for: its endpoint below an address, its public key and its secret, base64url.</summary>
    public (string Endpoint, string P256dh, string Auth) Of(string person, string url)
    {
        var browser = browsers.GetOrAdd(person, p => new Browser(p, ECDiffieHellman.Create(ECCurve.NamedCurves.nistP256), RandomNumberGenerator.GetBytes(16)));
        return ($"{url}/push/to/{person}", Base64Url.EncodeToString(Point(browser.Key.ExportParameters(false))), Base64Url.EncodeToString(browser.Auth));
    }

    /// <summary>Empties it.</summary>
    public void Clear() => shown.Clear();

    /// <summary>Takes a message for a browser.</summary>
    public async Task TakeAsync(HttpContext context, string person)
    {
        var fault = faults.Take("push", person);
        if (!browsers.TryGetValue(person, out var browser) || fault?.Kind == "refuse")
        {
            context.Response.StatusCode = 410;
            await context.Response.WriteAsync("The subscription is gone.");
            return;
        }

        if (fault?.Kind == "defer")
        {
            context.Response.StatusCode = 503;
            return;
        }

        if (fault?.Kind == "close")
        {
            context.Abort();
            return;
        }

        if (
            !context.Request.Headers.Authorization.ToString().StartsWith("vapid t=", StringComparison.Ordinal)
            && !context.Request.Headers.Authorization.ToString().StartsWith("WebPush ", StringComparison.Ordinal)
        )
        {
            context.Response.StatusCode = 401;
            await context.Response.WriteAsync("Who sends this is not said.");
            return;
        }

        using var body = new MemoryStream();
        await context.Request.Body.CopyToAsync(body);
        string text;
        try
        {
            text = Encoding.UTF8.GetString(browser.Decrypt(body.ToArray()));
        }
        catch (Exception e) when (e is CryptographicException or ArgumentException)
        {
            context.Response.StatusCode = 400;
            await context.Response.WriteAsync("The message is not encrypted for this browser.");
            return;
        }

        if (fault?.Kind == "delay")
        {
            await Task.Delay(TimeSpan.FromSeconds(fault.Seconds));
        }

        context.Response.StatusCode = 201;
        context.Response.Headers.Location = $"/push/messages/{Guid.NewGuid():N}";
        if (fault?.Kind != "drop")
        {
            _ = ShowAsync(person, text);
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        http.Dispose();
        foreach (var browser in browsers.Values)
        {
            browser.Key.Dispose();
        }
    }

    private async Task ShowAsync(string person, string text)
    {
        using var message = JsonDocument.Parse(text);
        string? Text(string name) => message.RootElement.TryGetProperty(name, out var v) && v.ValueKind == JsonValueKind.String ? v.GetString() : null;
        shown.Enqueue(new Pushed(DateTimeOffset.UtcNow, person, Text("title") ?? "", Text("text") ?? "", Text("url")));
        while (shown.Count > MostKept)
        {
            shown.TryDequeue(out _);
        }

        await Task.Delay(120);
        for (var tries = 0; tries < 4 && Text("seen") is { } seen; tries++)
        {
            try
            {
                using var answer = await http.PostAsync(seen, null);
                return;
            }
            catch (HttpRequestException)
            {
                await Task.Delay(300);
            }
        }
    }

    private static byte[] Point(ECParameters key) => [4, .. key.Q.X!, .. key.Q.Y!];

    private sealed record Browser(string Person, ECDiffieHellman Key, byte[] Auth)
    {
        // RFC 8291, 3.4, and RFC 8188, 2.1: salt (16), record size (4), length of the key's id (1), the sender's public key, then one record.
        public byte[] Decrypt(byte[] body)
        {
            var (salt, length) = (body[..16], body[20]);
            var record = BinaryPrimitives.ReadUInt32BigEndian(body.AsSpan(16, 4));
            var sender = body[21..(21 + length)];
            var sealed_ = body[(21 + length)..];
            if (sender.Length != 65 || sealed_.Length > record || sealed_.Length < 17)
            {
                throw new CryptographicException("not one record");
            }

            using var theirs = ECDiffieHellman.Create(
                new ECParameters
                {
                    Curve = ECCurve.NamedCurves.nistP256,
                    Q = new ECPoint { X = sender[1..33], Y = sender[33..65] },
                }
            );
            var shared = Key.DeriveRawSecretAgreement(theirs.PublicKey);
            byte[] info = [.. "WebPush: info\0"u8, .. Point(Key.ExportParameters(false)), .. sender];
            var ikm = HKDF.Expand(HashAlgorithmName.SHA256, HKDF.Extract(HashAlgorithmName.SHA256, shared, Auth), 32, info);
            var prk = HKDF.Extract(HashAlgorithmName.SHA256, ikm, salt);
            var key = HKDF.Expand(HashAlgorithmName.SHA256, prk, 16, "Content-Encoding: aes128gcm\0"u8.ToArray());
            var nonce = HKDF.Expand(HashAlgorithmName.SHA256, prk, 12, "Content-Encoding: nonce\0"u8.ToArray());
            var plain = new byte[sealed_.Length - 16];
            using var aes = new AesGcm(key, 16);
            aes.Decrypt(nonce, sealed_[..^16], sealed_[^16..], plain);
            var end = Array.FindLastIndex(plain, b => b != 0);
            return end >= 0 && plain[end] == 2 ? plain[..end] : throw new CryptographicException("no delimiter");
        }
    }
}
