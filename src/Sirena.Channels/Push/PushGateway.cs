using System.Globalization;
using System.Net;
using System.Text.Json;
using System.Text.RegularExpressions;
using Lib.Net.Http.WebPush;
using Lib.Net.Http.WebPush.Authentication;
using Sirena.Channels.Http;
using Sirena.Core.Deliveries;
using PushSubscription = Lib.Net.Http.WebPush.PushSubscription;

namespace Sirena.Channels.Push;

/// <summary>What is needed to reach a browser.</summary>
/// <param name="P256dh">Its public key.</param>
/// <param name="Auth">Its authentication secret.</param>
/// <param name="PublicKey">Our public key (VAPID).</param>
/// <param name="PrivateKey">Our private key.</param>
/// <param name="Subject">How the push service may reach us: <c>mailto:</c> or <c>https:</c>.</param>
/// <param name="Seen">Where the browser's service worker says that it showed the message.</param>
public sealed record PushTarget(string P256dh, string Auth, string PublicKey, string PrivateKey, string Subject, string Seen);

/// <summary>Sends messages to browsers: Web Push (RFC 8030), encrypted for the browser (RFC 8291), signed as ours (RFC 8292).</summary>
/// <param name="hosts">Where push services may be.</param>
/// <param name="find">Finds what a browser's endpoint needs for a message; <see langword="null"/> when its subscription is gone.</param>
public sealed partial class PushGateway(OutsideHosts hosts, Func<string, Guid, CancellationToken, Task<PushTarget?>> find) : IGateway
{
    private static readonly TimeSpan TimeToLive = TimeSpan.FromHours(4);
    private readonly HttpClient http = new(hosts.Handler()) { Timeout = TimeSpan.FromSeconds(15) };

    /// <inheritdoc/>
    public Channel Channel => Channel.Push;

    /// <inheritdoc/>
    public string Name => "browser push";

    /// <inheritdoc/>
    public int Width => 8;

    /// <inheritdoc/>
    public async Task<HandOver> HandOverAsync(OutgoingMessage message, CancellationToken cancel)
    {
        if (await find(message.To, message.Id, cancel) is not { } target)
        {
            return new HandOver(AttemptOutcome.Permanent, null, "this browser is no longer known");
        }

        using var vapid = new VapidAuthentication(target.PublicKey, target.PrivateKey) { Subject = target.Subject };
        var client = new PushServiceClient(http) { AutoRetryAfter = false };
        var subscription = new PushSubscription { Endpoint = message.To };
        subscription.SetKey(PushEncryptionKeyName.P256DH, target.P256dh);
        subscription.SetKey(PushEncryptionKeyName.Auth, target.Auth);
        var link = AnswerLink().Match(message.Text);
        var text = string.Join('\n', message.Text.Split('\n').Where(l => !link.Success || !l.Contains(link.Value, StringComparison.Ordinal)));
        var body = JsonSerializer.Serialize(
            new
            {
                title = message.Subject,
                text,
                url = link.Success ? link.Value : null,
                seen = target.Seen,
                tag = message.OrderNumber,
            }
        );
        try
        {
            await client.RequestPushMessageDeliveryAsync(
                subscription,
                new PushMessage(body) { TimeToLive = (int)TimeToLive.TotalSeconds, Urgency = PushMessageUrgency.High },
                vapid,
                cancel
            );
            return new HandOver(AttemptOutcome.Accepted, "201", "the push service took it");
        }
        catch (PushServiceClientException e)
        {
            var (code, said) = (((int)e.StatusCode).ToString(CultureInfo.InvariantCulture), string.IsNullOrWhiteSpace(e.Body) ? e.Message : e.Body);
            return e.StatusCode switch
            {
                HttpStatusCode.NotFound or HttpStatusCode.Gone => new HandOver(
                    AttemptOutcome.Permanent,
                    code,
                    $"the browser has ended its subscription: {said}"
                ),
                HttpStatusCode.TooManyRequests or >= HttpStatusCode.InternalServerError => new HandOver(AttemptOutcome.Temporary, code, said),
                _ => new HandOver(AttemptOutcome.Permanent, code, said),
            };
        }
        catch (HttpRequestException e)
            when (e.HttpRequestError is HttpRequestError.ConnectionError or HttpRequestError.NameResolutionError or HttpRequestError.SecureConnectionError)
        {
            return new HandOver(AttemptOutcome.Temporary, null, $"no connection to the push service: {e.GetBaseException().Message}");
        }
        catch (Exception e) when (e is HttpRequestException or IOException || (e is OperationCanceledException && !cancel.IsCancellationRequested))
        {
            return new HandOver(AttemptOutcome.Unknown, null, $"the line dropped before an answer came; it may have arrived: {e.GetBaseException().Message}");
        }
        catch (Exception e) when (e is FormatException or ArgumentException or System.Security.Cryptography.CryptographicException)
        {
            return new HandOver(AttemptOutcome.Permanent, null, $"the browser's keys are not right: {e.Message}");
        }
    }

    /// <inheritdoc/>
    public ValueTask DisposeAsync()
    {
        http.Dispose();
        return ValueTask.CompletedTask;
    }

    [GeneratedRegex(@"https?://\S+/a/\S+")]
    private static partial Regex AnswerLink();
}
