using System.Text;
using System.Text.Json;
using Sirena.Channels.Http;

namespace Sirena.Demo.StandIns;

/// <summary>A message that arrived at a handset or in a room.</summary>
public sealed record Arrived(DateTimeOffset At, string To, string From, string Text, string Folder);

/// <summary>
/// A phone network's or a team chat's stand-in: takes messages over HTTP as such gateways do, keeps them, sends signed receipts (phone), and misbehaves when
/// told to.
/// </summary>
/// <param name="channel"><c>phone</c> or <c>chat</c>.</param>
/// <param name="receipts">It sends receipts.</param>
/// <param name="faults">The faults in force.</param>
public sealed class Carrier(string channel, bool receipts, Faults faults) : IDisposable
{
    private const int MostKept = 5000;
    private readonly HttpClient http = new() { Timeout = TimeSpan.FromSeconds(10) };
    private readonly Lock gate = new();
    private readonly List<Arrived> messages = [];
    private Uri? lastReceipts;

    /// <summary>Its name in faults.</summary>
    public string Channel => channel;

    /// <summary>The key that signs what it sends back.</summary>
    public string Key { get; } = WebhookSignature.NewKey();

    /// <summary>Where replies go before a message has named an address.</summary>
    public Uri? Receipts { get; set; }

    /// <summary>What arrived, oldest first.</summary>
    public IReadOnlyList<Arrived> Messages
    {
        get
        {
            lock (gate)
            {
                return [.. messages];
            }
        }
    }

    /// <summary>Empties it.</summary>
    public void Clear()
    {
        lock (gate)
        {
            messages.Clear();
        }
    }

    /// <summary>Takes a message: <c>{ "id", "to", "text", "receipts" }</c>.</summary>
    public async Task TakeAsync(HttpContext http)
    {
        using var body = await JsonDocument.ParseAsync(http.Request.Body);
        string Text(string name) => body.RootElement.TryGetProperty(name, out var v) && v.ValueKind == JsonValueKind.String ? v.GetString()! : "";
        var (to, text, target) = (Text("to"), Text("text"), Text("receipts"));
        if (faults.IsDown(channel))
        {
            await SayAsync(http, 401, new { error = new { message = "This account is closed" } });
            return;
        }

        var fault = faults.Take(channel, to);
        switch (fault?.Kind)
        {
            case "refuse":
                await SayAsync(http, 400, new { error = new { message = $"{to} is not a number in service" } });
                return;
            case "defer":
                await SayAsync(http, 503, new { error = new { message = "Too busy, come back later" } });
                return;
            case "delay":
                await Task.Delay(TimeSpan.FromSeconds(fault.Seconds), http.RequestAborted);
                break;
            case "close":
                http.Abort();
                return;
        }

        var id = $"{channel[..1]}-{Guid.NewGuid().ToString("N")[..12]}";
        if (fault?.Kind is not ("drop" or "bounce"))
        {
            lock (gate)
            {
                messages.Add(new Arrived(DateTimeOffset.UtcNow, to, "Sirena", text, fault?.Kind == "junk" ? "junk" : "inbox"));
                if (messages.Count > MostKept)
                {
                    messages.RemoveRange(0, messages.Count - MostKept);
                }
            }
        }

        if (Uri.TryCreate(target, UriKind.Absolute, out var address))
        {
            lastReceipts = address;
            if (receipts && fault?.Kind != "drop")
            {
                _ = ReportAsync(
                    address,
                    fault?.Kind == "bounce"
                        ? new
                        {
                            type = "failed",
                            id,
                            reason = "the handset is not reachable",
                        }
                        : (object)new { type = "delivered", id },
                    TimeSpan.FromMilliseconds(150)
                );
            }
        }

        if (fault?.Kind == "close-after")
        {
            http.Abort();
            return;
        }

        await SayAsync(http, 202, new { message = new { id } });
    }

    /// <summary>Somebody answers from a handset.</summary>
    /// <returns>What Sirena said to it, or <see langword="null"/> when it knows no address to tell.</returns>
    public async Task<int?> ReplyAsync(string from, string text) =>
        (lastReceipts ?? Receipts) is { } address
            ? await ReportAsync(
                address,
                new
                {
                    type = "reply",
                    from,
                    text,
                },
                TimeSpan.Zero
            )
            : null;

    /// <inheritdoc/>
    public void Dispose() => http.Dispose();

    private static Task SayAsync(HttpContext http, int status, object answer)
    {
        http.Response.StatusCode = status;
        return http.Response.WriteAsJsonAsync(answer);
    }

    private async Task<int> ReportAsync(Uri address, object report, TimeSpan after)
    {
        await Task.Delay(after);
        var body = JsonSerializer.SerializeToUtf8Bytes(report);
        var (id, now) = ($"r-{Guid.NewGuid():N}", DateTimeOffset.UtcNow.ToUnixTimeSeconds());
        for (var tries = 0; ; tries++)
        {
            using var request = new HttpRequestMessage(HttpMethod.Post, address) { Content = new ByteArrayContent(body) };
            request.Content.Headers.ContentType = new("application/json");
            request.Headers.Add("webhook-id", id);
            request.Headers.Add("webhook-timestamp", now.ToString(System.Globalization.CultureInfo.InvariantCulture));
            request.Headers.Add("webhook-signature", WebhookSignature.Sign(Key, id, now, body));
            try
            {
                using var response = await http.SendAsync(request);
                if ((int)response.StatusCode is < 500 and not 404 || tries >= 4)
                {
                    return (int)response.StatusCode;
                }
            }
            catch (HttpRequestException) when (tries < 4)
            {
                // It is tried again: the receipt may be sooner than the note of what it is for.
            }

            await Task.Delay(400 * (tries + 1));
        }
    }
}
