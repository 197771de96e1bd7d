using System.Globalization;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Channels;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Engine.Dispatch;
using Sirena.Engine.Intake;
using Sirena.Storage;

namespace Sirena.Engine.Schedules;

/// <summary>
/// Proof that does not trust itself: a marked message goes through each gateway on its schedule, and its confirmation is waited for. When it does not come
/// back, one event says so, and one when it does again.
/// </summary>
public sealed class Echo(
    IDbContextFactory<SirenaDb> factory,
    Gateways gateways,
    MarkedMessages marked,
    SurroundingsCache surroundings,
    IntakeDesk desk,
    Signals signals,
    IClock clock
)
{
    /// <summary>How long a confirmation may take.</summary>
    public static readonly Duration Patience = Duration.FromMinutes(2);

    // While one is out, or the gateway fails, the next follows sooner, so that what works again is soon known to.
    private static readonly Duration Anew = Duration.FromMinutes(5);

    /// <summary>Sends the echoes that are due, and looks after those that are out.</summary>
    public async Task SendAsync(CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        foreach (var gateway in around.Gateways.Where(g => g is { On: true, EchoMinutes: not null, EchoTo: not null }))
        {
            await MissedAsync(gateway, cancel);
            var between = Duration.FromMinutes(gateway.EchoMinutes!.Value);
            between = gateway.EchoMissedSince is not null || gateway.FailingSince is not null ? Duration.Min(between, Anew) : between;
            if (gateway.EchoSentAt is null || clock.GetCurrentInstant() - gateway.EchoSentAt >= between - Duration.FromSeconds(10))
            {
                await SendAsync(gateway, around.Business, cancel);
            }
        }
    }

    /// <summary>Sends one.</summary>
    public async Task SendAsync(Gateway gateway, Business business, CancellationToken cancel)
    {
        if ((await gateways.OfAsync(gateway.Channel, cancel)).FirstOrDefault(l => l.Id == gateway.Id) is not { } line)
        {
            return;
        }

        var (id, now) = (Guid.CreateVersion7(), clock.GetCurrentInstant());
        await marked.BeginAsync(id, gateway.Id, echo: true, cancel);
        await using (var db = await factory.CreateDbContextAsync(cancel))
        {
            await db.Gateways.Where(g => g.Id == gateway.Id).ExecuteUpdateAsync(s => s.SetProperty(g => g.EchoSentAt, now), cancel);
        }

        var at = now.InZone(business.Zone).ToString("ddd HH:mm", CultureInfo.InvariantCulture);
        var result = await line.Gateway.HandOverAsync(
            new OutgoingMessage(
                id,
                gateway.EchoTo!,
                null,
                $"Echo of {business.Name}, {at}",
                $"Echo of {business.Name}, {at}: Sirena looks whether '{gateway.Name}' still reaches somebody. Nothing is to be done.",
                null
            ),
            cancel
        );
        await marked.TakenAsync(id, result.FarId, cancel);
        await gateways.NoteAsync(line, gateway.Channel, id, gateway.EchoTo!, result, cancel);
        signals.Raise(Topic.Setup);
    }

    // An event for the first that stays out, and one for the first that comes back.
    private async Task MissedAsync(Gateway gateway, CancellationToken cancel)
    {
        if (gateway.EchoSentAt is not { } sent)
        {
            return;
        }

        var now = clock.GetCurrentInstant();
        var back = gateway.EchoBackAt is { } heard && heard >= sent;
        await using var db = await factory.CreateDbContextAsync(cancel);
        if (
            !back
            && gateway.EchoMissedSince is null
            && now - sent > Patience
            && await db
                .Gateways.Where(g => g.Id == gateway.Id && g.EchoMissedSince == null)
                .ExecuteUpdateAsync(s => s.SetProperty(g => g.EchoMissedSince, sent), cancel) == 1
        )
        {
            await TellAsync(gateway, failing: true, "its marked message did not come back: what it takes may not arrive", now, cancel);
        }
        else if (
            back
            && gateway.EchoMissedSince is not null
            && await db
                .Gateways.Where(g => g.Id == gateway.Id && g.EchoMissedSince != null)
                .ExecuteUpdateAsync(s => s.SetProperty(g => g.EchoMissedSince, (Instant?)null), cancel) == 1
        )
        {
            await TellAsync(gateway, failing: false, "its marked messages come back again", now, cancel);
        }
    }

    private async Task TellAsync(Gateway gateway, bool failing, string words, Instant now, CancellationToken cancel)
    {
        await desk.TakeAsync([OwnEvents.OfGateway(gateway, failing, words, now, "echo")], cancel);
        signals.Raise(Topic.Setup);
        signals.Raise(Topic.Pages);
    }
}
