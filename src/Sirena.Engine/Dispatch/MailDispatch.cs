using System.Collections.Concurrent;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using NodaTime;
using Npgsql;
using Sirena.Channels;
using Sirena.Core.Deliveries;
using Sirena.Storage.Deliveries;
using Sirena.Storage.People;

namespace Sirena.Engine.Dispatch;

/// <summary>
/// Hands due mail over: claims under a lease, as many side by side as the gateway is wide, renews the leases while it works, writes each outcome only while its lease holds.
/// </summary>
public sealed class MailDispatch(DeliveryQueue queue, ContactPoints contacts, Gateways gateways, Signals signals, IClock clock, ILogger<MailDispatch> log) : BackgroundService
{
    private static readonly Duration Poll = Duration.FromSeconds(1);
    private int reserved;
    private CancellationToken stopping;
    private static readonly TimeSpan Renewal = TimeSpan.FromSeconds(3);
    private readonly ConcurrentDictionary<Guid, Claimed> held = [];

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        stopping = stoppingToken;
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

    /// <summary>
    /// Takes fresh deliveries as this node's own before they are stored, as far as the gateway is free: they are stored as claimed, which saves a transaction on their way out.
    /// Each is to be begun after the commit, or given back.
    /// </summary>
    /// <returns>The deliveries that were taken.</returns>
    public async Task<IReadOnlyList<Delivery>> TakeAsync(IEnumerable<Delivery> fresh, CancellationToken cancel)
    {
        var gateway = await gateways.MailAsync(cancel);
        var taken = new List<Delivery>();
        foreach (var delivery in fresh.Where(d => d.Channel == Channel.Mail && d.State == DeliveryState.Waiting && d.DueAt <= d.CreatedAt))
        {
            if (Interlocked.Increment(ref reserved) + held.Count > gateway.Width)
            {
                Interlocked.Decrement(ref reserved);
                break;
            }

            (delivery.State, delivery.Lease, delivery.LeaseUntil, delivery.Tries) = (DeliveryState.Sending, Guid.NewGuid(), clock.GetCurrentInstant() + DeliveryQueue.LeaseTime, 1);
            taken.Add(delivery);
        }

        return taken;
    }

    /// <summary>The first attempt of a taken delivery, as it is to be stored with it.</summary>
    public async Task<Attempt> FirstAsync(Delivery taken, CancellationToken cancel) =>
        new() { DeliveryId = taken.Id, Number = 1, At = clock.GetCurrentInstant(), Gateway = (await gateways.MailAsync(cancel)).Name, Outcome = AttemptOutcome.Unknown };

    /// <summary>Begins a taken delivery whose claim is stored.</summary>
    public async Task BeginAsync(Delivery taken, Message message, CancellationToken cancel)
    {
        var claimed = new Claimed(taken.Id, taken.Lease!.Value, taken.To, taken.OrderNumber, 1, taken.Deadline, message.Subject, message.Text, message.Html, MayArriveTwice: false);
        Begin(await gateways.MailAsync(cancel), claimed, stopping);
        GiveBack();
    }

    /// <summary>Gives back a taken delivery that was not stored, or frees the place of one that was begun.</summary>
    public void GiveBack() => Interlocked.Decrement(ref reserved);

    private void Begin(IGateway gateway, Claimed claimed, CancellationToken cancel)
    {
        held[claimed.Id] = claimed;
        _ = Task.Run(() => SendAsync(gateway, claimed, cancel), CancellationToken.None);
    }

    private async Task<int> BeginAsync(CancellationToken cancel)
    {
        var gateway = await gateways.MailAsync(cancel);
        var free = gateway.Width - held.Count - Volatile.Read(ref reserved);
        if (free <= 0)
        {
            return 0;
        }

        var claimed = await queue.ClaimAsync(Channel.Mail, gateway.Name, free, clock.GetCurrentInstant(), cancel);
        foreach (var one in claimed)
        {
            Begin(gateway, one, cancel);
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
            else if (verdict.State == DeliveryState.Failed && result.Outcome == AttemptOutcome.Permanent && await contacts.BrokeAsync(claimed.Id, result.Reply ?? "refused", now, CancellationToken.None))
            {
                signals.Raise(Topic.Setup);
                signals.Raise(Topic.Deliveries);
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
            // More may wait for a place only when all were taken.
            if (held.Count >= gateway.Width)
            {
                signals.Wake(Topic.Deliveries);
            }

            held.TryRemove(claimed.Id, out _);
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
