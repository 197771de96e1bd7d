using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Storage;
using Sirena.Storage.Deliveries;

namespace Sirena.Engine.Dispatch;

/// <content>What becomes of a delivery after a try, and of those that were claimed and not begun.</content>
public sealed partial class Dispatcher
{
    private async Task NoteAsync(Line line, Claimed claimed, HandOver result)
    {
        var now = clock.GetCurrentInstant();
        NodeFigures.Tried(claimed.Channel, line.Id ?? "-", result.Outcome, claimed.Id, now);
        var noted = await gateways.NoteAsync(line, claimed.Channel, claimed.Id, claimed.To, result, CancellationToken.None);
        var left = (await gateways.OfAsync(claimed.Channel, CancellationToken.None)).Any(l =>
            l.Id is not null && l.Id != line.Id && !claimed.PassedOver.Contains(l.Id)
        );
        var course = Course.After(result, claimed.Bare || !claimed.Packs, noted.Before.Believed(claimed.To), left, noted.OthersWork);
        var verdict = result.After(claimed.Attempt, now, claimed.Deadline, (Random.Shared.NextDouble() * 2) - 1);
        verdict = course switch
        {
            Course.Next when now < claimed.Deadline => new Verdict(
                DeliveryState.Waiting,
                $"{line.Gateway.Name} would not send it, the next gateway is asked: {result.Reply}",
                now
            ),
            Course.Over when now < claimed.Deadline => new Verdict(
                DeliveryState.Waiting,
                $"{line.Gateway.Name} could not be used, the next gateway takes over: {result.Reply}",
                now
            ),
            Course.Bare when now < claimed.Deadline => new Verdict(
                DeliveryState.Waiting,
                $"too large for {line.Gateway.Name}, it goes again without its documents: {result.Reply}",
                now
            ),
            _ => verdict,
        };
        if (verdict.State == DeliveryState.Waiting && noted.OthersWork && noted.After.PutOffSince(claimed.Id) is { } since && since + OneMinute > now)
        {
            // After a minute of putting off, the next gateway is asked: the try that finds it out comes no later.
            verdict = verdict with { DueAt = Instant.Min(verdict.DueAt, since + OneMinute) };
        }

        if (verdict.State == DeliveryState.Waiting && !noted.After.Works && noted.OthersWork)
        {
            verdict = verdict with { DueAt = now };
        }

        if (verdict.State == DeliveryState.HandedOver && claimed.MayArriveTwice)
        {
            verdict = verdict with { Reason = Delivery.Twice };
        }

        var marks = course == Course.Refused && result is { Outcome: AttemptOutcome.Permanent, Blame: Blame.Address };
        var ended = new Ended(claimed, result, verdict, now)
        {
            Gateway = line.Gateway.Name,
            GatewayId = line.Id,
            PassOver = course == Course.Next ? line.Id : null,
            Bare = course == Course.Bare,
        };
        _ = AfterAsync(ended, marks, outcomes.NoteAsync(ended));
    }

    private async Task AfterAsync(Ended ended, bool marks, Task<bool> written)
    {
        var (claimed, result, verdict) = (ended.Claimed, ended.Result, ended.Verdict);
        try
        {
            if (!await written)
            {
                log.LogWarning("The lease of delivery {Delivery} had run out; its outcome is kept as evidence.", claimed.Id);
            }
            else if (result.FarId is { } far)
            {
                await receipts.ApplyEarlyAsync(far, claimed.Id, CancellationToken.None);
            }
            else if (verdict.State == DeliveryState.Failed && marks && !await gateways.TakeBackAsync(claimed.Id, ended.GatewayId, CancellationToken.None))
            {
                if (await contacts.BrokeAsync(claimed.Id, result.Reply ?? "refused", clock.GetCurrentInstant(), CancellationToken.None))
                {
                    signals.Raise(Topic.Setup);
                    signals.Raise(Topic.Deliveries);
                }

                // It may have turned out while the address was marked.
                await gateways.TakeBackAsync(claimed.Id, ended.GatewayId, CancellationToken.None);
            }
        }
        catch (Exception e) when (DatabaseFault.OfSurroundings(e))
        {
            log.LogError(e, "What became of delivery {Delivery} could not be noted beside it.", claimed.Id);
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

    private async Task GiveBackAsync(IReadOnlyCollection<Claimed> unbegun, bool later = false)
    {
        if (unbegun.Count == 0)
        {
            return;
        }

        try
        {
            await queue.GiveBackAsync(unbegun, later ? clock.GetCurrentInstant() + Duration.FromSeconds(5) : null, CancellationToken.None);
        }
        catch (Exception e) when (DatabaseFault.OfSurroundings(e))
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
        catch (Exception e) when (DatabaseFault.OfSurroundings(e))
        {
            // The next renewal is three seconds away, the lease holds for ten.
        }
    }
}
