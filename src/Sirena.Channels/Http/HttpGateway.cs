using System.Globalization;
using System.Net;
using System.Net.Http.Headers;
using System.Net.Sockets;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using NodaTime;
using Sirena.Core.Deliveries;
using Stubble.Core;
using Stubble.Core.Builders;

namespace Sirena.Channels.Http;

/// <summary>How messages are posted to a carrier or a chat.</summary>
/// <param name="Channel">SMS or chat.</param>
/// <param name="Name">The gateway's name.</param>
/// <param name="Address">Where they are posted to.</param>
/// <param name="Headers">Headers of each request.</param>
/// <param name="Body">The body in Mustache with the fields <c>to</c>, <c>text</c>, <c>subject</c>, <c>id</c> and <c>receipts</c>, values escaped for
/// JSON.</param>
/// <param name="IdAt">Where the message's id stands in the answer, members joined by dots.</param>
/// <param name="ErrorAt">Where the error's words stand.</param>
/// <param name="Key">The key that signs requests, or <see langword="null"/>.</param>
/// <param name="Receipts">Where the far end may send its receipts.</param>
/// <param name="Width">How many side by side.</param>
public sealed record HttpSettings(
    Channel Channel,
    string Name,
    Uri Address,
    IReadOnlyDictionary<string, string> Headers,
    string Body,
    string? IdAt,
    string? ErrorAt,
    string? Key,
    string Receipts,
    int Width
);

/// <summary>
/// Posts messages over HTTP to any carrier that can be described by an address, headers and a body. Requests are signed (Standard Webhooks); the delivery's id
/// is the call's id, so that a repeat can be told.
/// </summary>
public sealed class HttpGateway(HttpSettings settings, OutsideHosts hosts, TimeProvider time) : IGateway
{
    private const int MostKept = 300;

    // The head and the body of the answer together: one that sends its head and then hangs holds a hand no longer.
    private static readonly TimeSpan OneExchange = TimeSpan.FromSeconds(20);

    // Values become part of a JSON text: escaped as JSON, not as HTML.
    private static readonly StubbleVisitorRenderer Mustache = new StubbleBuilder()
        .Configure(s => s.SetEncodingFunction(v => JavaScriptEncoder.Default.Encode(v)))
        .Build();
    private readonly HttpClient http = new(hosts.Handler()) { Timeout = Timeout.InfiniteTimeSpan };

    /// <inheritdoc/>
    public Channel Channel => settings.Channel;

    /// <inheritdoc/>
    public string Name => settings.Name;

    /// <inheritdoc/>
    public int Width => settings.Width;

    /// <summary>The body of a message.</summary>
    /// <exception cref="Exception">The template does not parse; it is checked when it is saved.</exception>
    public static string Render(string body, OutgoingMessage message, string receipts) =>
        Mustache.Render(
            body,
            new Dictionary<string, object>
            {
                ["to"] = message.To,
                ["text"] = message.Text,
                ["subject"] = message.Subject,
                ["id"] = message.Id.ToString(),
                ["receipts"] = receipts,
            }
        );

    /// <inheritdoc/>
    public async Task<HandOver> HandOverAsync(OutgoingMessage message, CancellationToken cancel)
    {
        var body = Encoding.UTF8.GetBytes(Render(settings.Body, message, settings.Receipts));
        using var request = new HttpRequestMessage(HttpMethod.Post, settings.Address) { Content = new ByteArrayContent(body) };
        request.Content.Headers.ContentType = new MediaTypeHeaderValue("application/json") { CharSet = "utf-8" };
        foreach (var (name, value) in settings.Headers)
        {
            if (!request.Headers.TryAddWithoutValidation(name, value))
            {
                request.Content.Headers.TryAddWithoutValidation(name, value);
            }
        }

        if (settings.Key is { } key)
        {
            WebhookSignature.Put(request, key, message.Id.ToString(), time.GetUtcNow(), body);
        }

        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(OneExchange);
        HttpStatusCode? head = null;
        try
        {
            using var response = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, limit.Token);
            head = response.StatusCode;
            var answer = await FarAnswer.ReadAsync(response, limit.Token);
            return Judge(response, answer);
        }
        catch (HttpRequestException e)
            when (e.HttpRequestError is HttpRequestError.ConnectionError or HttpRequestError.NameResolutionError or HttpRequestError.SecureConnectionError)
        {
            return new HandOver(
                AttemptOutcome.Gateway,
                null,
                $"no connection to {settings.Address.Host}:{settings.Address.Port}: {e.GetBaseException().Message}"
            );
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            var words = head is { } begun
                ? $"the gateway began to answer (HTTP {(int)begun}) and fell silent; it may have arrived"
                : "the gateway took the message and fell silent; it may have arrived";
            return new HandOver(AttemptOutcome.Unknown, null, words) { Blame = Blame.Gateway };
        }
        catch (Exception e) when (e is HttpRequestException or IOException or SocketException)
        {
            return new HandOver(AttemptOutcome.Unknown, null, $"the line dropped before an answer came; it may have arrived: {e.GetBaseException().Message}");
        }
    }

    /// <inheritdoc/>
    public ValueTask DisposeAsync()
    {
        http.Dispose();
        return ValueTask.CompletedTask;
    }

    // RFC 9110, 15: what a status says of this message. Who we are is the gateway's matter, the address the message's.
    private HandOver Judge(HttpResponseMessage response, string answer)
    {
        var code = ((int)response.StatusCode).ToString(CultureInfo.InvariantCulture);
        var words = FarText.Clean(answer, MostKept);
        var said = Member(answer, settings.ErrorAt) ?? (words.Length > 0 ? words : $"HTTP {code}");
        return (int)response.StatusCode switch
        {
            >= 200 and < 300 => new HandOver(AttemptOutcome.Accepted, code, words.Length > 0 ? words : $"HTTP {code}", Member(answer, settings.IdAt)),
            401 or 403 or 407 => new HandOver(AttemptOutcome.Gateway, code, $"the gateway does not know us: {said}"),
            404 or 405 or (>= 300 and < 400) => new HandOver(AttemptOutcome.Gateway, code, $"the gateway's address is not right: {said}"),
            408 or 425 or 429 or >= 500 => new HandOver(AttemptOutcome.Temporary, code, said) { RetryAfter = FarAnswer.RetryAfter(response, time) },
            413 or 414 or 431 => new HandOver(AttemptOutcome.Permanent, code, said) { Blame = Blame.Content },
            _ => new HandOver(AttemptOutcome.Permanent, code, said),
        };
    }

    private static string? Member(string answer, string? path)
    {
        if (string.IsNullOrEmpty(path))
        {
            return null;
        }

        try
        {
            using var document = JsonDocument.Parse(answer);
            var at = document.RootElement;
            foreach (var name in path.Split('.'))
            {
                at =
                    at.ValueKind == JsonValueKind.Object && at.TryGetProperty(name, out var next) ? next
                    : at.ValueKind == JsonValueKind.Array && int.TryParse(name, out var i) && i < at.GetArrayLength() ? at[i]
                    : default;
            }

            return at.ValueKind is JsonValueKind.String or JsonValueKind.Number ? at.ToString() : null;
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException)
        {
            // Not JSON, or with half a character in it.
            return null;
        }
    }
}
