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
/// Hands due messages over, each channel for itself: claims some ahead under a lease, keeps as many under way as the gateway is wide, renews the leases while it works, writes each outcome only while its lease holds.
/// When the gateway itself is at fault, the next one takes over at once.
/// </summary>
public sealed class Dispatcher : BackgroundService
{
    private static readonly Duration Poll = Duration.FromSeconds(1);
    private static readonly TimeSpan Renewal = TimeSpan.FromSeconds(3);
    private readonly DeliveryQueue queue;
    private readonly ContactPoints contacts;
    private readonly Gateways gateways;
    private readonly Spending spending;
    private readonly Packer packer;
    private readonly Signals signals;
    private readonly IClock clock;
    private readonly ILogger<Dispatcher> log;
    private readonly Outcomes outcomes;
    private readonly Dictionary<Channel, Lane> lanes;
    private readonly ConcurrentDictionary<Guid, Line> lines = [];
    private readonly ConcurrentDictionary<Guid, Claimed> held = [];
    private CancellationToken stopping;

    /// <summary>A dispatcher.</summary>
    public Dispatcher(DeliveryQueue queue, ContactPoints contacts, Gateways gateways, Spending spending, Packer packer, Signals signals, IClock clock, ILogger<Dispatcher> log)
    {
        (this.queue, this.contacts, this.gateways, this.spending, this.packer, this.signals, this.clock, this.log) = (queue, contacts, gateways, spending, packer, signals, clock, log);
        outcomes = new Outcomes(queue, clock, log);
        lanes = new[] { Channel.Mail, Channel.Sms, Channel.Chat, Channel.Push, Channel.Ticket }.ToDictionary(c => c, c => new Lane(c, SendAsync));
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        stopping = stoppingToken;
        using var renewal = new Timer(_ => _ = RenewAsync(stoppingToken), null, Renewal, Renewal);
        var writing = Task.Run(outcomes.RunAsync, CancellationToken.None);
        try
        {
            while (true)
            {
                var more = false;
                foreach (var lane in lanes.Values)
                {
                    try
                    {
                        more |= await BeginAsync(lane, stoppingToken);
                    }
                    catch (Exception e) when (e is NpgsqlException or TimeoutException && !stoppingToken.IsCancellationRequested)
                    {
                        log.LogWarning("Due messages could not be claimed: {Problem}", e.Message);
                    }
                }

                if (!more)
                {
                    await signals.WaitAsync(Topic.Deliveries, Poll, stoppingToken);
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
    /// Takes fresh deliveries as this node's own before they are stored, as far as the gateway is free: they are stored as claimed, which saves a transaction on their way out.
    /// Each is to be begun after the commit, or given back.
    /// </summary>
    /// <returns>The deliveries that were taken.</returns>
    public async Task<IReadOnlyList<Delivery>> TakeAsync(IEnumerable<Delivery> fresh, CancellationToken cancel)
    {
        var taken = new List<Delivery>();
        foreach (var of in fresh.Where(d => lanes.ContainsKey(d.Channel) && d.State == DeliveryState.Waiting && d.DueAt <= d.CreatedAt).GroupBy(d => d.Channel))
        {
            if (await gateways.PickAsync(of.Key, cancel) is not { } line)
            {
                continue;
            }

            foreach (var delivery in of)
            {
                if (!lanes[of.Key].Reserve(line.Gateway.Width))
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
    public Attempt First(Delivery taken) => new() { DeliveryId = taken.Id, Number = 1, At = clock.GetCurrentInstant(), Gateway = lines[taken.Id].Gateway.Name, Outcome = AttemptOutcome.Unknown };

    /// <summary>Begins a taken delivery whose claim is stored.</summary>
    public void Begin(Delivery taken, Message message)
    {
        var claimed = new Claimed(taken.Id, taken.Lease!.Value, taken.To, taken.OrderNumber, 1, taken.Deadline, message.Subject, message.Text, message.Html, MayArriveTwice: false, taken.Channel, taken.Chain is not null, taken.Audience, message.Attach is not null);
        Hold(lanes[taken.Channel], lines[taken.Id], claimed);
        GiveBack(taken);
    }

    /// <summary>Gives back a taken delivery that was not stored, or frees the place of one that was begun.</summary>
    public void GiveBack(Delivery taken)
    {
        lines.TryRemove(taken.Id, out _);
        lanes[taken.Channel].Release();
    }

    private void Hold(Lane lane, Line line, Claimed claimed)
    {
        held[claimed.Id] = claimed;
        lane.Add(line, claimed);
    }

    // Whether another look at once may find more.
    private async Task<bool> BeginAsync(Lane lane, CancellationToken cancel)
    {
        if (await gateways.PickAsync(lane.Channel, cancel) is not { } line)
        {
            return false;
        }

        // Claims go in batches, or the database takes the time that the messages need.
        var ahead = lane.Ahead(line.Gateway.Width);
        var free = line.Trial ? 1 : ahead - lane.Held;
        if (free <= 0 || (!line.Trial && lane.Held > line.Gateway.Width && free < ahead / 2))
        {
            (lane.MoreMayWait, lane.Refill) = (true, ahead / 2);
            return false;
        }

        var claimed = await queue.ClaimAsync(lane.Channel, line.Gateway.Name, free, clock.GetCurrentInstant(), cancel);
        (lane.MoreMayWait, lane.Refill) = (claimed.Count == free, ahead / 2);
        foreach (var one in claimed)
        {
            Hold(lane, line, one);
        }

        return line.Trial && claimed.Count > 0;
    }

    private async Task SendAsync(Line line, Claimed claimed)
    {
        try
        {
            if (!line.Trial && gateways.Rests(line))
            {
                // It failed while this one waited its turn: the next gateway may take it.
                await GiveBackAsync([claimed]);
                signals.Wake(Topic.Deliveries);
                return;
            }

            if (line.Pace is { } pace)
            {
                using var turn = await pace.AcquireAsync(1, stopping);
            }

            var late = clock.GetCurrentInstant() >= claimed.Deadline;
            var result = late ? new HandOver(AttemptOutcome.Temporary, null, "its deadline had passed before this try")
                : line.Settings is { } settings && spending.Refuses(settings, claimed.Text) is { } dear ? new HandOver(AttemptOutcome.Gateway, null, dear)
                : await line.Gateway.HandOverAsync(claimed.Packs ? await packer.PackAsync(claimed, stopping) : Packer.Bare(claimed), stopping);
            if (result.Outcome == AttemptOutcome.Accepted && line.Settings is { } counted)
            {
                spending.Note(counted, claimed.Text);
            }

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

            _ = AfterAsync(claimed, result, verdict, outcomes.NoteAsync(new Ended(claimed, result, verdict, now)));
        }
        catch (OperationCanceledException) when (stopping.IsCancellationRequested)
        {
            // The lease runs out and another node takes over.
            held.TryRemove(claimed.Id, out _);
        }
        catch (Exception e)
        {
            log.LogError(e, "Delivery {Delivery} broke off; it is tried again when its lease runs out.", claimed.Id);
            held.TryRemove(claimed.Id, out _);
        }
        finally
        {
            if (lanes[claimed.Channel] is { MoreMayWait: true } lane && lane.Held <= lane.Refill)
            {
                lane.MoreMayWait = false;
                signals.Wake(Topic.Deliveries);
            }
        }
    }

    private async Task AfterAsync(Claimed claimed, HandOver result, Verdict verdict, Task<bool> written)
    {
        try
        {
            if (!await written)
            {
                log.LogWarning("The lease of delivery {Delivery} had run out; its outcome is kept as evidence.", claimed.Id);
            }
            else if (verdict.State == DeliveryState.Failed && result.Outcome == AttemptOutcome.Permanent && await contacts.BrokeAsync(claimed.Id, result.Reply ?? "refused", clock.GetCurrentInstant(), CancellationToken.None))
            {
                signals.Raise(Topic.Setup);
                signals.Raise(Topic.Deliveries);
            }
        }
        catch (NpgsqlException e)
        {
            log.LogError(e, "That delivery {Delivery} failed could not be noted at its contact point.", claimed.Id);
        }
        finally
        {
            held.TryRemove(claimed.Id, out _);
            signals.Raise(Topic.Pages);
            if (claimed.Chained || verdict.State is not (DeliveryState.HandedOver or DeliveryState.Landed))
            {
                signals.Wake(Topic.Deliveries);
            }
        }
    }

    private async Task GiveBackAsync(IReadOnlyCollection<Claimed> unbegun)
    {
        if (unbegun.Count == 0)
        {
            return;
        }

        try
        {
            await queue.GiveBackAsync(unbegun, CancellationToken.None);
        }
        catch (Exception e) when (e is NpgsqlException or TimeoutException)
        {
            log.LogWarning("{Count} messages could not be given back; their leases run out: {Problem}", unbegun.Count, e.Message);
        }

        foreach (var one in unbegun)
        {
            held.TryRemove(one.Id, out _);
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
