using System.Text.Json;
using System.Text.RegularExpressions;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Channels.Http;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Engine.Ladders;
using Sirena.Formats.Documents;
using Sirena.Storage;
using Sirena.Storage.Deliveries;
using Sirena.Storage.People;

namespace Sirena.Engine.Dispatch;

/// <summary>How a call from a gateway ended: an HTTP status and a sentence.</summary>
public sealed record Received(int Status, string? Problem);

/// <summary>
/// Takes what gateways report: signed as Standard Webhooks says, each once, only for their own deliveries. A receipt is <c>{ "type": "delivered" | "failed" |
/// "read", "id": "…", "reason": "…" }</c> with the id that the
/// gateway gave or the delivery's; a reply is <c>{ "type": "reply", "from": "+44…", "text": "OK 4821" }</c>; both also as <c>{ "type": "message.delivered",
/// "timestamp": "…", "data": { … } }</c>.
/// </summary>
public sealed partial class ReceiptDesk(
    IDbContextFactory<SirenaDb> factory,
    Gateways gateways,
    LaterNews news,
    MarkedMessages marked,
    AnswerDesk answers,
    Signals signals,
    IClock clock
)
{
    private const int MostWrong = 5;
    private static readonly Duration LockedFor = Duration.FromHours(1);
    private static readonly Duration UnderWay = Duration.FromMinutes(10);
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

        return await db.SeenCalls.AnyAsync(c => c.Gateway == gateway && c.CallId == id, cancel)
            ? new Received(204, null)
            : await ReadAsync(
                db,
                from,
                new SeenCall
                {
                    Gateway = gateway,
                    CallId = id,
                    At = now,
                },
                body,
                now,
                cancel
            );
    }

    // A call is remembered with what it does, never before: one that meets trouble is taken when it comes again.
    private async Task<Received> ReadAsync(SirenaDb db, Gateway from, SeenCall call, byte[] body, Instant now, CancellationToken cancel)
    {
        JsonElement root;
        try
        {
            using var document = JsonDocument.Parse(BrokenCharacters.Mend(body), new JsonDocumentOptions { MaxDepth = 32, AllowDuplicateProperties = false });
            root = document.RootElement.Clone();
        }
        catch (JsonException e)
        {
            return new Received(400, $"The body is not JSON: {e.Message}");
        }

        var said = ReceiptText.Of(root);
        switch (said.Kind)
        {
            case "reply" when said.Text.Trim().Equals("stop", StringComparison.OrdinalIgnoreCase):
                await StopAsync(db, from.Channel, said.From, now, cancel);
                return await DoneAsync(db, call, cancel);
            case "reply":
                await ReplyAsync(db, said.From, said.Text, now, cancel);
                return await DoneAsync(db, call, cancel);
            case null:
                return new Received(422, $"'{FarText.Clean(said.Type, 60)}' is none of delivered, failed, read and reply.");
        }

        var own = Guid.TryParse(said.Id, out var guid) ? guid : Guid.Empty;
        Task<Guid> LookAsync() =>
            db
                .Deliveries.AsNoTracking()
                .Where(d =>
                    (d.FarId == said.Id || d.Id == own)
                    && db.Attempts.Any(a => a.DeliveryId == d.Id && (a.GatewayId == from.Id || (a.GatewayId == null && a.Gateway == from.Name)))
                )
                .OrderByDescending(d => d.Id)
                .Select(d => d.Id)
                .FirstOrDefaultAsync(cancel);
        var delivery = await LookAsync();
        var words =
            said.Reason.Length > 0 ? said.Reason
            : said.Kind == "failed" ? "the gateway reported that it failed"
            : $"{from.Name} reported: {said.Kind}";
        if (delivery == Guid.Empty && await marked.HeardAsync(said.Id, from.Id, said.Kind != "failed", words, cancel))
        {
            return await DoneAsync(db, call, cancel);
        }

        if (delivery != Guid.Empty)
        {
            await ApplyAsync(delivery, said.Kind, words, call, now, cancel);
            return new Received(204, null);
        }

        // Between the look and the keeping the outcome may have been stored, and whoever stored it found nothing kept: only a second look after the keeping
        // leaves no gap between the two.
        var kept = await EarlyAsync(db, from, call, said, words, now, cancel);
        if (kept.Status == 202 && await LookAsync() is var late && late != Guid.Empty)
        {
            await ApplyEarlyAsync(said.Id, late, cancel);
        }

        return kept;
    }

    private async Task ApplyAsync(Guid delivery, string kind, string words, SeenCall? call, Instant now, CancellationToken cancel)
    {
        if (kind == "failed")
        {
            await news.FailedAsync(delivery, "failed", words, now, cancel, call);
            signals.Raise(Topic.Deliveries);
            signals.Raise(Topic.Setup);
        }
        else
        {
            await news.LandedAsync(delivery, kind, words, answered: false, now, cancel, call);
        }

        signals.Raise(Topic.Pages);
    }

    // While a message is on its way through the gateway, a receipt may come before the id of its answer is stored.
    private static async Task<Received> EarlyAsync(
        SirenaDb db,
        Gateway from,
        SeenCall call,
        ReceiptText said,
        string words,
        Instant now,
        CancellationToken cancel
    )
    {
        var since = now - UnderWay;
        if (said.Id.Length is 0 or > 200 || !await db.Attempts.AnyAsync(a => a.GatewayId == from.Id && a.EndedAt == null && a.At > since, cancel))
        {
            return new Received(404, $"No delivery that went through '{from.Id}' has the id '{FarText.Clean(said.Id, 60)}'.");
        }

        db.EarlyReceipts.Add(
            new EarlyReceipt
            {
                Gateway = from.Id,
                FarId = said.Id,
                Kind = said.Kind!,
                Words = FarText.Clean(words),
                At = now,
            }
        );
        return await DoneAsync(db, call, cancel, 202);
    }

    /// <summary>Applies the receipts that waited for the far end's id of a delivery to be stored.</summary>
    public async Task ApplyEarlyAsync(string farId, Guid delivery, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        if (!await db.EarlyReceipts.AnyAsync(r => r.FarId == farId, cancel))
        {
            return;
        }

        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        foreach (
            var early in await db
                .EarlyReceipts.FromSql($"select * from early_receipts where far_id = {farId} order by id for update")
                .AsNoTracking()
                .ToListAsync(cancel)
        )
        {
            // Two may come for one at the same time: the second waits here, and finds it gone.
            await ApplyAsync(delivery, early.Kind, early.Words, null, early.At, cancel);
            await db.EarlyReceipts.Where(r => r.Id == early.Id).ExecuteDeleteAsync(cancel);
        }

        await transaction.CommitAsync(cancel);
    }

    private static async Task<Received> DoneAsync(SirenaDb db, SeenCall call, CancellationToken cancel, int status = 204)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        await db.SaveChangesAsync(cancel);
        await db.Database.ExecuteSqlAsync(
            $"insert into seen_calls (gateway, call_id, at) values ({call.Gateway}, {call.CallId}, {call.At}) on conflict do nothing",
            cancel
        );
        await transaction.CommitAsync(cancel);
        return new Received(status, null);
    }

    // A customer who wants nothing more by this channel. Staff change theirs on their own page.
    private async Task StopAsync(SirenaDb db, Channel channel, string from, Instant now, CancellationToken cancel)
    {
        var number = Core.People.PhoneNumber.TryParse(from, out var read, out _) ? read.Value : from;
        await db.RefuseAsync(channel, number, now, cancel);
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
        var link =
            code.Length == 0
                ? null
                : await db
                    .AnswerLinks.AsNoTracking()
                    .Where(l => l.Contact == number && l.Code == code && l.ExpiresAt > now)
                    .OrderByDescending(l => l.ExpiresAt)
                    .FirstOrDefaultAsync(cancel);
        if (link is null)
        {
            wrong.AddOrUpdate(from, _ => (1, now), (_, old) => now - old.Since > LockedFor ? (1, now) : (old.Wrong + 1, now));
            return;
        }

        wrong.TryRemove(from, out _);
        var kind = AnswerTraits.OfReply(Words().Match(text.Trim()).Value);
        await answers.AnswerAsync(
            link.AlertId,
            link.Person ?? link.Contact,
            kind,
            "reply",
            null,
            text.Length > 200 ? text[..200] : text,
            link.DeliveryId,
            cancel
        );
    }

    [GeneratedRegex(@"\b\d{4}\b")]
    private static partial Regex Code();

    [GeneratedRegex(@"^[\p{L}]+")]
    private static partial Regex Words();
}
