using System.Collections.Concurrent;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Storage.Deliveries;
using Sirena.Storage.People;

namespace Sirena.Engine.Dispatch;

/// <summary>
/// Hands due messages over, each gateway for itself: claims some ahead under a lease, keeps as many under way as the gateway is wide, renews the leases while
/// it works, writes each outcome only while its lease holds.
/// When the gateway itself is at fault, the next one takes over at once.
/// </summary>
public sealed partial class Dispatcher : Worker
{
    private static readonly Channel[] Dispatched = [.. ChannelTraits.All.Where(t => !t.OnSight).Select(t => t.Channel)];
    private static readonly Duration Poll = Duration.FromSeconds(1);
    private static readonly Duration OneMinute = Duration.FromMinutes(1);
    private static readonly TimeSpan Renewal = TimeSpan.FromSeconds(3);
    private readonly DeliveryQueue queue;
    private readonly ContactPoints contacts;
    private readonly Gateways gateways;
    private readonly Spending spending;
    private readonly Packer packer;
    private readonly ReceiptDesk receipts;
    private readonly Signals signals;
    private readonly IClock clock;
    private readonly ILogger<Dispatcher> log;
    private readonly Outcomes outcomes;
    private readonly ConcurrentDictionary<string, Lane> lanes = [];
    private readonly ConcurrentDictionary<Guid, Line> lines = [];
    private readonly ConcurrentDictionary<Guid, Claimed> held = [];
    private CancellationToken stopping;

    /// <summary>A dispatcher.</summary>
    public Dispatcher(
        DeliveryQueue queue,
        ContactPoints contacts,
        Gateways gateways,
        Spending spending,
        Packer packer,
        ReceiptDesk receipts,
        Signals signals,
        IClock clock,
        ILogger<Dispatcher> log
    )
        : base(log)
    {
        (this.receipts, this.queue, this.contacts, this.gateways, this.spending, this.packer, this.signals, this.clock, this.log) = (
            receipts,
            queue,
            contacts,
            gateways,
            spending,
            packer,
            signals,
            clock,
            log
        );
        outcomes = new Outcomes(queue, clock, log);
    }

    /// <inheritdoc/>
    protected override async Task RunAsync(CancellationToken stopping)
    {
        this.stopping = stopping;
        using var renewal = new Timer(_ => _ = RenewAsync(stopping), null, Renewal, Renewal);
        var writing = Task.Run(outcomes.RunAsync, CancellationToken.None);
        try
        {
            while (true)
            {
                var more = false;
                foreach (var channel in Dispatched)
                {
                    try
                    {
                        more |= await BeginAsync(channel, stopping);
                    }
                    catch (Exception e) when (!stopping.IsCancellationRequested)
                    {
                        await Task.Delay(Broke(e), stopping);
                    }
                }

                if (!more)
                {
                    await signals.WaitAsync(Topic.Deliveries, Poll, stopping);
                }
            }
        }
        finally
        {
            await GiveBackAsync([.. lanes.Values.SelectMany(l => l.Drain())]);
            outcomes.Complete();
            await writing;
        }
    }

    /// <summary>
    /// Takes fresh deliveries as this node's own before they are stored, as far as the gateway is free: they are stored as claimed, which saves a transaction
    /// on their way out.
    /// Each is to be begun after the commit, or given back.
    /// </summary>
    /// <returns>The deliveries that were taken.</returns>
    public async Task<IReadOnlyList<Delivery>> TakeAsync(IEnumerable<Delivery> fresh, CancellationToken cancel)
    {
        var taken = new List<Delivery>();
        foreach (
            var of in fresh.Where(d => Dispatched.Contains(d.Channel) && d.State == DeliveryState.Waiting && d.DueAt <= d.CreatedAt).GroupBy(d => d.Channel)
        )
        {
            if (await gateways.PickAsync(of.Key, cancel) is not { } line)
            {
                continue;
            }

            var (lane, wide) = (LaneOf(line, of.Key), line.Gateway.Width);
            foreach (var delivery in of.OrderByDescending(d => d.Urgent))
            {
                if (!lane.Reserve(delivery.Urgent ? wide : wide - Lane.ForUrgent(wide)))
                {
                    break;
                }

                (delivery.Lease, delivery.LeaseUntil, delivery.Tries) = (Guid.NewGuid(), clock.GetCurrentInstant() + DeliveryQueue.LeaseTime, 1);
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
    public Attempt First(Delivery taken) =>
        new()
        {
            DeliveryId = taken.Id,
            Number = 1,
            At = clock.GetCurrentInstant(),
            Gateway = lines[taken.Id].Gateway.Name,
            GatewayId = lines[taken.Id].Id,
            Outcome = AttemptOutcome.Unknown,
        };

    /// <summary>Begins a taken delivery whose claim is stored.</summary>
    public void Begin(Delivery taken, Message message)
    {
        var claimed = new Claimed(
            taken.Id,
            taken.Lease!.Value,
            taken.To,
            taken.OrderNumber,
            1,
            taken.Deadline,
            message.Subject,
            message.Text,
            message.Html,
            MayArriveTwice: false,
            taken.Channel,
            taken.Chain is not null,
            taken.Audience,
            message.Attach is not null
        )
        {
            Urgent = taken.Urgent,
        };
        var line = lines[taken.Id];
        Hold(LaneOf(line, taken.Channel), line, claimed);
        GiveBack(taken);
    }

    /// <summary>Gives back a taken delivery that was not stored, or frees the place of one that was begun.</summary>
    public void GiveBack(Delivery taken)
    {
        if (lines.TryRemove(taken.Id, out var line))
        {
            LaneOf(line, taken.Channel).Release();
        }
    }

    // Each gateway has lines of its own: one that hangs holds up nobody but itself.
    private Lane LaneOf(Line line, Channel channel) => lanes.GetOrAdd(line.Id ?? channel.Name(), _ => new Lane(SendAsync));

    private void Hold(Lane lane, Line line, Claimed claimed)
    {
        held[claimed.Id] = claimed;
        lane.Add(line, claimed);
    }

    // Whether another look at once may find more.
    private async Task<bool> BeginAsync(Channel channel, CancellationToken cancel)
    {
        if (await gateways.PickAsync(channel, cancel) is not { } line)
        {
            return false;
        }

        // Claims go in batches, or the database takes the time that the messages need. Urgent ones have room of their own.
        var (lane, wide) = (LaneOf(line, channel), line.Gateway.Width);
        var ahead = lane.Ahead(wide);
        var free = line.Trial ? 1 : Math.Max(0, ahead - lane.Held);
        var freeUrgent = line.Trial ? 1 : Math.Max(0, (2 * wide) - lane.HeldUrgent);
        if (!line.Trial && lane.Held > wide && free < ahead / 2)
        {
            (lane.MoreMayWait, lane.Refill) = (true, ahead / 2);
            free = 0;
        }

        if (free == 0 && freeUrgent == 0)
        {
            return false;
        }

        var claimed = await queue.ClaimAsync(channel, line.Gateway.Name, line.Id, free, freeUrgent, line.Trial, clock.GetCurrentInstant(), cancel);
        if (free > 0)
        {
            (lane.MoreMayWait, lane.Refill) = (claimed.Count >= free, ahead / 2);
        }

        foreach (var next in claimed)
        {
            Hold(lane, line, next);
        }

        return line.Trial && claimed.Count > 0;
    }
}
