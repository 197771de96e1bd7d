using System.Net;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using Sirena.Channels.Mail;
using Sirena.Storage;

namespace Sirena.Engine.Dispatch;

/// <summary>Where this node takes reports about mail; no endpoint means that it takes none.</summary>
/// <param name="Endpoint">The address and port.</param>
public sealed record ReportEndpoint(IPEndPoint? Endpoint);

/// <summary>The mail server to which reports come back, where this node is one.</summary>
public sealed class ReportMailbox(
    ReportEndpoint endpoint,
    ReturnedMail returned,
    IDbContextFactory<SirenaDb> factory,
    Signals signals,
    ILogger<ReportMailbox> log
) : Worker(log)
{
    /// <inheritdoc/>
    protected override async Task RunAsync(CancellationToken stopping)
    {
        if (endpoint.Endpoint is not { } at)
        {
            return;
        }

        await using (var db = await factory.CreateDbContextAsync(stopping))
        {
            await db.Businesses.ExecuteUpdateAsync(s => s.SetProperty(b => b.ReportsTaken, true), stopping);
        }

        signals.Raise(Topic.Setup);
        await ReportServer.ServeAsync(at, (to, letter) => returned.TakeAsync(to, letter, stopping), stopping);
    }
}
