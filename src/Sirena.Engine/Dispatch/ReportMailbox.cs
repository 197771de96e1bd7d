using System.Net;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using Sirena.Channels.Mail;
using Sirena.Storage;

namespace Sirena.Engine.Dispatch;

/// <summary>Where this node takes reports about mail; no endpoint means that it takes none.</summary>
/// <param name="Endpoint">The address and port.</param>
public sealed record ReportEndpoint(IPEndPoint? Endpoint);

/// <summary>The mail server to which reports come back, where this node is one.</summary>
public sealed class ReportMailbox(ReportEndpoint endpoint, ReturnedMail returned, IDbContextFactory<SirenaDb> factory, Signals signals, ILogger<ReportMailbox> log) : BackgroundService
{
    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        if (endpoint.Endpoint is not { } at)
        {
            return;
        }

        try
        {
            await using (var db = await factory.CreateDbContextAsync(stoppingToken))
            {
                await db.Businesses.ExecuteUpdateAsync(s => s.SetProperty(b => b.ReportsTaken, true), stoppingToken);
            }

            signals.Raise(Topic.Setup);
            await ReportServer.ServeAsync(at, (to, letter) => returned.TakeAsync(to, letter, stoppingToken), stoppingToken);
        }
        catch (Exception e) when (!stoppingToken.IsCancellationRequested)
        {
            log.LogError(e, "Reports about mail cannot be taken at {Endpoint}.", at);
        }
    }
}
