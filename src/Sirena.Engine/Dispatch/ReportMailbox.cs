using System.Net;
using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using MimeKit;
using NodaTime;
using Sirena.Channels.Mail;
using Sirena.Storage;
using Sirena.Storage.Deliveries;
using Sirena.Storage.People;

namespace Sirena.Engine.Dispatch;

/// <summary>Where this node takes reports about mail; no endpoint means that it takes none.</summary>
/// <param name="Endpoint">The address and port.</param>
public sealed record ReportEndpoint(IPEndPoint? Endpoint);

/// <summary>Joins the reports that come back to their deliveries. One without a right MAC is noted in the log and applied to nothing.</summary>
public sealed class ReportMailbox(ReportEndpoint endpoint, Gateways gateways, IDbContextFactory<SirenaDb> factory, LaterNews news, ContactPoints contacts, Signals signals, IClock clock, ILogger<ReportMailbox> log) : BackgroundService
{
    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        if (endpoint.Endpoint is not { } at)
        {
            return;
        }

        var key = await KeyAsync(stoppingToken);
        gateways.ReturnKey = key;
        try
        {
            await ReportServer.ServeAsync(at, (to, letter) => TakeAsync(key, to, letter, stoppingToken), stoppingToken);
        }
        catch (Exception e) when (!stoppingToken.IsCancellationRequested)
        {
            gateways.ReturnKey = null;
            log.LogError(e, "Reports about mail cannot be taken at {Endpoint}; none are asked for.", at);
        }
    }

    private async Task TakeAsync(byte[] key, string to, MimeMessage letter, CancellationToken cancel)
    {
        if (ReturnAddress.Read(to, key) is not { } delivery)
        {
            log.LogWarning("A letter to {Address} is no report about a delivery of ours.", to);
            return;
        }

        if (MailReport.Read(letter) is not { } report)
        {
            return;
        }

        var now = clock.GetCurrentInstant();
        switch (report.Action)
        {
            case ReportAction.Delivered:
                await news.LandedAsync(delivery, "delivered", report.Words, answered: false, now, cancel);
                break;
            case ReportAction.Failed:
                await news.FailedAsync(delivery, "bounced", report.Words, now, cancel);
                await contacts.BrokeAsync(delivery, report.Words, now, cancel);
                signals.Raise(Topic.Setup);
                signals.Raise(Topic.Deliveries);
                break;
        }

        signals.Raise(Topic.Pages);
    }

    // The key is made once for all nodes and kept encrypted; whoever comes second finds it.
    private async Task<byte[]> KeyAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var made = gateways.Close(Convert.ToBase64String(RandomNumberGenerator.GetBytes(32)));
        await db.Businesses.Where(b => b.ReportKey == null).ExecuteUpdateAsync(s => s.SetProperty(b => b.ReportKey, made), cancel);
        return Convert.FromBase64String(gateways.Open(await db.Businesses.AsNoTracking().Select(b => b.ReportKey).SingleAsync(cancel))!);
    }
}
