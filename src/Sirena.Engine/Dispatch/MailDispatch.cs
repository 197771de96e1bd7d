using System.Collections.Concurrent;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using NodaTime;
using Npgsql;
using Sirena.Channels;
using Sirena.Core.Deliveries;
using Sirena.Storage.Deliveries;

namespace Sirena.Engine.Dispatch;

/// <summary>
/// Hands due mail over: claims under a lease, as many side by side as the gateway is wide, renews the leases while it works, writes each outcome only while its lease holds.
/// </summary>
public sealed class MailDispatch(DeliveryQueue queue, Gateways gateways, Signals signals, IClock clock, ILogger<MailDispatch> log) : BackgroundService
{
    private static readonly Duration Poll = Duration.FromSeconds(1);
    private static readonly TimeSpan Renewal = TimeSpan.FromSeconds(3);
    private readonly ConcurrentDictionary<Guid, Claimed> held = [];

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var renewal = new Timer(_ => _ = RenewAsync(stoppingToken), null, Renewal, Renewal);
        while (true)
        {
            var begun = 0;
            try
            {
                begun = await BeginAsync(stoppingToken);
            }
            catch (NpgsqlException e) when (!stoppingToken.IsCancellationRequested)
            {
                log.LogWarning("Due mail could not be claimed: {Problem}", e.Message);
            }

            if (begun == 0)
            {
                await signals.WaitAsync(Topic.Deliveries, Poll, stoppingToken);
            }
        }
    }

    private async Task<int> BeginAsync(CancellationToken cancel)
    {
        var gateway = await gateways.MailAsync(cancel);
        var free = gateway.Width - held.Count;
        if (free <= 0)
        {
            return 0;
        }

        var claimed = await queue.ClaimAsync(Channel.Mail, gateway.Name, free, clock.GetCurrentInstant(), cancel);
        foreach (var one in claimed)
        {
            held[one.Id] = one;
            _ = Task.Run(() => SendAsync(gateway, one, cancel), CancellationToken.None);
        }

        return claimed.Count;
    }

    private async Task SendAsync(IGateway gateway, Claimed claimed, CancellationToken cancel)
    {
        try
        {
            var late = clock.GetCurrentInstant() >= claimed.Deadline;
            var result = late ? new HandOver(AttemptOutcome.Temporary, null, "its deadline had passed before this try") : await gateway.HandOverAsync(
                new OutgoingMessage(claimed.Id, claimed.To, claimed.OrderNumber, claimed.Subject, claimed.Text, claimed.Html), cancel);
            var now = clock.GetCurrentInstant();
            var verdict = result.After(claimed.Attempt, now, claimed.Deadline, (Random.Shared.NextDouble() * 2) - 1);
            if (verdict.State == DeliveryState.HandedOver && claimed.MayArriveTwice)
            {
                verdict = verdict with { Reason = "may have arrived twice: an earlier try ended without an answer" };
            }

            if (!await queue.FinishAsync(claimed, result, verdict, now, CancellationToken.None))
            {
                log.LogWarning("The lease of delivery {Delivery} had run out; its outcome is kept as evidence.", claimed.Id);
            }
        }
        catch (OperationCanceledException) when (cancel.IsCancellationRequested)
        {
            // The lease runs out and another node takes over.
        }
        catch (Exception e)
        {
            log.LogError(e, "Delivery {Delivery} broke off; it is tried again when its lease runs out.", claimed.Id);
        }
        finally
        {
            held.TryRemove(claimed.Id, out _);
            signals.Wake(Topic.Deliveries);
            signals.Raise(Topic.Pages);
        }
    }

    private async Task RenewAsync(CancellationToken cancel)
    {
        if (held.IsEmpty)
        {
            return;
        }

        try
        {
            await queue.RenewAsync([.. held.Values.Select(h => (h.Id, h.Lease))], clock.GetCurrentInstant(), cancel);
        }
        catch (Exception e) when (e is NpgsqlException or OperationCanceledException)
        {
            // The next renewal is three seconds away, the lease holds for ten.
        }
    }
}
