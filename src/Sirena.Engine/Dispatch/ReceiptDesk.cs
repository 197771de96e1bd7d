using System.Text.Json;
using System.Text.RegularExpressions;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Channels.Http;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Engine.Ladders;
using Sirena.Storage;
using Sirena.Storage.Deliveries;
using Sirena.Storage.People;

namespace Sirena.Engine.Dispatch;

/// <summary>How a call from a gateway ended: an HTTP status and a sentence.</summary>
public sealed record Received(int Status, string? Problem);

/// <summary>
/// Takes what gateways report: signed as Standard Webhooks says, each once, only for their own deliveries. A receipt is <c>{ "type": "delivered" | "failed" | "read", "id": "…", "reason": "…" }</c> with the id that the
/// gateway gave or the delivery's; a reply is <c>{ "type": "reply", "from": "+44…", "text": "OK 4821" }</c>.
/// </summary>
public sealed partial class ReceiptDesk(IDbContextFactory<SirenaDb> factory, Gateways gateways, LaterNews news, ContactPoints contacts, MarkedMessages marked, AnswerDesk answers, Signals signals, IClock clock)
{
    private const int MostWrong = 5;
    private static readonly Duration LockedFor = Duration.FromHours(1);
    private readonly System.Collections.Concurrent.ConcurrentDictionary<string, (int Wrong, Instant Since)> wrong = [];

    /// <summary>Takes a call.</summary>
    /// <param name="gateway">The gateway's id.</param>
    /// <param name="id"><c>webhook-id</c>.</param>
    /// <param name="timestamp"><c>webhook-timestamp</c>.</param>
    /// <param name="signature"><c>webhook-signature</c>.</param>
    /// <param name="body">The body.</param>
    public async Task<Received> TakeAsync(string gateway, string? id, string? timestamp, string? signature, byte[] body, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        if (await db.Gateways.AsNoTracking().FirstOrDefaultAsync(g => g.Id == gateway, cancel) is not { ReceiptSecret: not null } from)
        {
            return new Received(404, $"There is no gateway '{gateway}' that takes receipts.");
        }

        var now = clock.GetCurrentInstant();
        if (string.IsNullOrEmpty(id) || id.Length > 200 || !long.TryParse(timestamp, out var seconds) || string.IsNullOrEmpty(signature))
        {
            return new Received(401, "The call is not signed: webhook-id, webhook-timestamp and webhook-signature are needed (Standard Webhooks).");
        }

        if (Math.Abs((now - Instant.FromUnixTimeSeconds(Math.Clamp(seconds, 0, 253_402_300_799))).TotalSeconds) > WebhookSignature.Tolerance.TotalSeconds)
        {
            return new Received(401, "The call's time is more than five minutes away from ours. Check the clock.");
        }

        string[] keys = [.. new[] { from.ReceiptSecret, from.OldReceiptSecret }.Select(gateways.Open).OfType<string>()];
        if (!WebhookSignature.Holds(keys, id, seconds, body, signature))
        {
            return new Received(401, "The signature is not that of this gateway's receipt key.");
        }

        var fresh = await db.Database.ExecuteSqlAsync($"insert into seen_calls (gateway, call_id, at) values ({gateway}, {id}, {now}) on conflict do nothing", cancel);
        return fresh == 0 ? new Received(204, null) : await ReadAsync(db, from, body, now, cancel);
    }

    private async Task<Received> ReadAsync(SirenaDb db, Gateway from, byte[] body, Instant now, CancellationToken cancel)
    {
        JsonElement root;
        try
        {
            using var document = JsonDocument.Parse(body, new JsonDocumentOptions { MaxDepth = 32 });
            root = document.RootElement.Clone();
        }
        catch (JsonException e)
        {
            return new Received(400, $"The body is not JSON: {e.Message}");
        }

        string Text(string name) => root.ValueKind == JsonValueKind.Object && root.TryGetProperty(name, out var v) && v.ValueKind == JsonValueKind.String ? v.GetString()! : "";
        var type = Text("type");
        if (type == "reply")
        {
            if (Text("text").Trim().Equals("stop", StringComparison.OrdinalIgnoreCase))
            {
                await StopAsync(db, from.Channel, Text("from"), now, cancel);
                return new Received(204, null);
            }

            await ReplyAsync(db, Text("from"), Text("text"), now, cancel);
            return new Received(204, null);
        }

        if (type is not ("delivered" or "failed" or "read"))
        {
            return new Received(422, $"'{type}' is none of delivered, failed, read and reply.");
        }

        var id = Text("id");
        var own = Guid.TryParse(id, out var guid) ? guid : Guid.Empty;
        var delivery = await db.Deliveries.AsNoTracking()
            .Where(d => (d.FarId == id || d.Id == own) && db.Attempts.Any(a => a.DeliveryId == d.Id && a.Gateway == from.Name)).OrderByDescending(d => d.Id).FirstOrDefaultAsync(cancel);
        if (delivery is null && await marked.HeardAsync(id, from.Id, type != "failed", Text("reason") is { Length: > 0 } heard ? heard : $"{from.Name} reported: {type}", cancel))
        {
            return new Received(204, null);
        }

        if (delivery is null)
        {
            return new Received(404, $"No delivery that went through '{from.Id}' has the id '{id}'.");
        }

        if (type == "failed")
        {
            var reason = Text("reason") is { Length: > 0 } words ? words : "the gateway reported that it failed";
            await news.FailedAsync(delivery.Id, "failed", reason, now, cancel);
            await contacts.BrokeAsync(delivery.Id, reason, now, cancel);
            signals.Raise(Topic.Deliveries);
            signals.Raise(Topic.Setup);
        }
        else
        {
            await news.LandedAsync(delivery.Id, type, Text("reason") is { Length: > 0 } words ? words : $"{from.Name} reported: {type}", answered: false, now, cancel);
        }

        signals.Raise(Topic.Pages);
        return new Received(204, null);
    }

    // A customer who wants nothing more by this channel. Staff change theirs on their own page.
    private async Task StopAsync(SirenaDb db, Channel channel, string from, Instant now, CancellationToken cancel)
    {
        var number = Core.People.PhoneNumber.TryParse(from, out var read, out _) ? read.Value : from;
        await db.Database.ExecuteSqlAsync($"insert into customer_refusals (channel, address, since) values ({Core.Names.Name(channel)}, {number.ToLowerInvariant()}, {now}) on conflict do nothing", cancel);
        signals.Raise(Topic.Setup);
    }

    // 'OK 4821' counts only from a number that was told of that alert; five wrong ones lock the number for an hour.
    private async Task ReplyAsync(SirenaDb db, string from, string text, Instant now, CancellationToken cancel)
    {
        if (wrong.TryGetValue(from, out var bad) && bad.Wrong >= MostWrong && now - bad.Since < LockedFor)
        {
            return;
        }

        var code = Code().Match(text) is { Success: true } match ? match.Value : "";
        var number = Core.People.PhoneNumber.TryParse(from, out var read, out _) ? read.Value : from;
        var link = code.Length == 0 ? null : await db.AnswerLinks.AsNoTracking().Where(l => l.Contact == number && l.Code == code && l.ExpiresAt > now).OrderByDescending(l => l.ExpiresAt).FirstOrDefaultAsync(cancel);
        if (link is null)
        {
            wrong.AddOrUpdate(from, _ => (1, now), (_, old) => now - old.Since > LockedFor ? (1, now) : (old.Wrong + 1, now));
            return;
        }

        wrong.TryRemove(from, out _);
        var kind = Words().Match(text.Trim()).Value.ToLowerInvariant() switch { "no" or "cannot" => AnswerKind.Declined, "done" => AnswerKind.Done, _ => AnswerKind.Taken };
        await answers.AnswerAsync(link.AlertId, link.Person ?? link.Contact, kind, "reply", null, text.Length > 200 ? text[..200] : text, link.DeliveryId, cancel);
    }

    [GeneratedRegex(@"\b\d{4}\b")]
    private static partial Regex Code();

    [GeneratedRegex(@"^[\p{L}]+")]
    private static partial Regex Words();
}
