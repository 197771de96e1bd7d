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
/// Hands due messages over, each channel for itself: claims under a lease, as many side by side as the gateway is wide, renews the leases while it works, writes each outcome only while its lease holds.
/// When the gateway itself is at fault, the next one takes over at once.
/// </summary>
public sealed class Dispatcher(DeliveryQueue queue, ContactPoints contacts, Gateways gateways, Signals signals, IClock clock, ILogger<Dispatcher> log) : BackgroundService
{
    private static readonly Channel[] Lanes = [Channel.Mail, Channel.Sms, Channel.Chat, Channel.Ticket];
    private static readonly Duration Poll = Duration.FromSeconds(1);
    private readonly ConcurrentDictionary<Channel, int> reserved = [];
    private readonly ConcurrentDictionary<Guid, Line> lines = [];
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
            foreach (var lane in Lanes)
            {
                try
                {
                    begun += await BeginAsync(lane, stoppingToken);
                }
                catch (NpgsqlException e) when (!stoppingToken.IsCancellationRequested)
                {
                    log.LogWarning("Due messages could not be claimed: {Problem}", e.Message);
                }
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
        var taken = new List<Delivery>();
        foreach (var lane in fresh.Where(d => Lanes.Contains(d.Channel) && d.State == DeliveryState.Waiting && d.DueAt <= d.CreatedAt).GroupBy(d => d.Channel))
        {
            if (await gateways.PickAsync(lane.Key, cancel) is not { } line)
            {
                continue;
            }

            foreach (var delivery in lane)
            {
                if (reserved.AddOrUpdate(lane.Key, 1, (_, n) => n + 1) + Held(lane.Key) > line.Gateway.Width)
                {
                    GiveBack(lane.Key);
                    break;
                }

                (delivery.State, delivery.Lease, delivery.LeaseUntil, delivery.Tries) = (DeliveryState.Sending, Guid.NewGuid(), clock.GetCurrentInstant() + DeliveryQueue.LeaseTime, 1);
                lines[delivery.Id] = line;
                taken.Add(delivery);
                if (line.Trial)
                {
                    break;
                }
            }
        }

        return taken;
    }

    /// <summary>The first attempt of a taken delivery, as it is to be stored with it.</summary>
    public Attempt First(Delivery taken) => new() { DeliveryId = taken.Id, Number = 1, At = clock.GetCurrentInstant(), Gateway = lines[taken.Id].Gateway.Name, Outcome = AttemptOutcome.Unknown };

    /// <summary>Begins a taken delivery whose claim is stored.</summary>
    public void Begin(Delivery taken, Message message)
    {
        var claimed = new Claimed(taken.Id, taken.Lease!.Value, taken.To, taken.OrderNumber, 1, taken.Deadline, message.Subject, message.Text, message.Html, MayArriveTwice: false, taken.Channel, taken.Chain is not null);
        Begin(lines[taken.Id], claimed, stopping);
        GiveBack(taken);
    }

    /// <summary>Gives back a taken delivery that was not stored, or frees the place of one that was begun.</summary>
    public void GiveBack(Delivery taken)
    {
        lines.TryRemove(taken.Id, out _);
        GiveBack(taken.Channel);
    }

    private void GiveBack(Channel channel) => reserved.AddOrUpdate(channel, 0, (_, n) => n - 1);

    private int Held(Channel channel) => held.Values.Count(h => h.Channel == channel);

    private void Begin(Line line, Claimed claimed, CancellationToken cancel)
    {
        held[claimed.Id] = claimed;
        _ = Task.Run(() => SendAsync(line, claimed, cancel), CancellationToken.None);
    }

    private async Task<int> BeginAsync(Channel channel, CancellationToken cancel)
    {
        if (await gateways.PickAsync(channel, cancel) is not { } line)
        {
            return 0;
        }

        var free = line.Gateway.Width - Held(channel) - Math.Max(0, reserved.GetValueOrDefault(channel));
        if (free <= 0)
        {
            return 0;
        }

        var claimed = await queue.ClaimAsync(channel, line.Gateway.Name, line.Trial ? 1 : free, clock.GetCurrentInstant(), cancel);
        foreach (var one in claimed)
        {
            Begin(line, one, cancel);
        }

        return claimed.Count;
    }

    private async Task SendAsync(Line line, Claimed claimed, CancellationToken cancel)
    {
        try
        {
            var late = clock.GetCurrentInstant() >= claimed.Deadline;
            var result = late ? new HandOver(AttemptOutcome.Temporary, null, "its deadline had passed before this try") : await line.Gateway.HandOverAsync(
                new OutgoingMessage(claimed.Id, claimed.To, claimed.OrderNumber, claimed.Subject, claimed.Text, claimed.Html), cancel);
            var now = clock.GetCurrentInstant();
            var verdict = result.After(claimed.Attempt, now, claimed.Deadline, (Random.Shared.NextDouble() * 2) - 1);
            if (await gateways.NoteAsync(line, claimed.Channel, result, CancellationToken.None) && verdict.State == DeliveryState.Waiting)
            {
                verdict = verdict with { DueAt = now, Reason = $"{line.Gateway.Name} could not be used, the next gateway takes over: {result.Reply}" };
            }

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
            if (Held(claimed.Channel) >= line.Gateway.Width)
            {
                signals.Wake(Topic.Deliveries);
            }

            held.TryRemove(claimed.Id, out _);
            signals.Raise(Topic.Pages);
            if (claimed.Chained)
            {
                signals.Wake(Topic.Deliveries);
            }
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
