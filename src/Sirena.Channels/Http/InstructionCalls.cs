using System.Globalization;
using System.Net.Http.Headers;
using System.Net.Sockets;
using System.Text.Json;
using NodaTime;
using Sirena.Core.Deliveries;

namespace Sirena.Channels.Http;

/// <summary>What an order system says to an instruction.</summary>
/// <param name="Outcome">Accepted is taken, permanent is refused; all else is tried again.</param>
/// <param name="Code">The HTTP status.</param>
/// <param name="Words">Its words, or ours.</param>
public sealed record InstructionAnswer(AttemptOutcome Outcome, string? Code, string Words)
{
    /// <summary>It says that it is done.</summary>
    public bool Seen { get; init; }

    /// <summary>How long it asks to wait before the next try.</summary>
    public Duration? RetryAfter { get; init; }
}

/// <summary>
/// Posts instructions to order systems: a CloudEvent, signed as Standard Webhooks says, with the instruction's id as the key by which a repeat is known.
/// </summary>
public sealed class InstructionCalls(OutsideHosts hosts, TimeProvider time) : IDisposable
{
    private const int MostKept = 500;
    private static readonly TimeSpan OneExchange = TimeSpan.FromSeconds(20);
    private readonly HttpClient http = new(hosts.Handler()) { Timeout = Timeout.InfiniteTimeSpan };

    /// <summary>Posts one.</summary>
    /// <param name="address">Where to.</param>
    /// <param name="key">The key that signs it, or <see langword="null"/>.</param>
    /// <param name="id">The instruction's id.</param>
    /// <param name="body">The CloudEvent, structured.</param>
    public async Task<InstructionAnswer> PostAsync(Uri address, string? key, Guid id, byte[] body, CancellationToken cancel)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, address) { Content = new ByteArrayContent(body) };
        request.Content.Headers.ContentType = new MediaTypeHeaderValue("application/cloudevents+json") { CharSet = "utf-8" };
        request.Headers.TryAddWithoutValidation("Idempotency-Key", id.ToString());
        if (key is not null)
        {
            WebhookSignature.Put(request, key, id.ToString(), time.GetUtcNow(), body);
        }

        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(OneExchange);
        try
        {
            using var response = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, limit.Token);
            return Judge(response, await FarAnswer.ReadAsync(response, limit.Token));
        }
        catch (HttpRequestException e)
            when (e.HttpRequestError is HttpRequestError.ConnectionError or HttpRequestError.NameResolutionError or HttpRequestError.SecureConnectionError)
        {
            return new InstructionAnswer(AttemptOutcome.Gateway, null, $"no connection to {address.Host}:{address.Port}: {e.GetBaseException().Message}");
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            return new InstructionAnswer(AttemptOutcome.Unknown, null, "the order system fell silent; it may have arrived");
        }
        catch (Exception e) when (e is HttpRequestException or IOException or SocketException)
        {
            return new InstructionAnswer(
                AttemptOutcome.Unknown,
                null,
                $"the line dropped before an answer came; it may have arrived: {e.GetBaseException().Message}"
            );
        }
    }

    /// <inheritdoc/>
    public void Dispose() => http.Dispose();

    // RFC 9110, 15. A refusal is about this instruction; what does not know us, or is not there, is mended and asked again.
    private InstructionAnswer Judge(HttpResponseMessage response, string answer)
    {
        var code = ((int)response.StatusCode).ToString(CultureInfo.InvariantCulture);
        var (state, said) = Read(answer);
        var words = FarText.Clean(said ?? (response.Content.Headers.ContentType?.MediaType is "text/html" ? "" : answer), MostKept);
        words = words.Length > 0 ? words : $"HTTP {code}";
        return (int)response.StatusCode switch
        {
            >= 200 and < 300 when state == "refused" => new InstructionAnswer(AttemptOutcome.Permanent, code, words),
            >= 200 and < 300 => new InstructionAnswer(AttemptOutcome.Accepted, code, words) { Seen = state == "seen" },
            401 or 403 or 407 => new InstructionAnswer(AttemptOutcome.Gateway, code, $"the order system does not know us: {words}"),
            >= 300 and < 400 => new InstructionAnswer(AttemptOutcome.Gateway, code, $"the address leads elsewhere: {words}"),
            408 or 425 or 429 or >= 500 => new InstructionAnswer(AttemptOutcome.Temporary, code, words) { RetryAfter = FarAnswer.RetryAfter(response, time) },
            _ => new InstructionAnswer(AttemptOutcome.Permanent, code, words),
        };
    }

    // The state, and the words of problem details (RFC 9457) or of the answer.
    private static (string? State, string? Words) Read(string answer)
    {
        try
        {
            using var document = JsonDocument.Parse(answer);
            string? Text(string name) =>
                document.RootElement.ValueKind == JsonValueKind.Object
                && document.RootElement.TryGetProperty(name, out var value)
                && value.ValueKind == JsonValueKind.String
                    ? value.GetString()
                    : null;
            return (Text("state"), Text("detail") ?? Text("words") ?? Text("title") ?? Text("message"));
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException)
        {
            // Not JSON, or with half a character in it.
            return (null, null);
        }
    }
}
