using Microsoft.Extensions.Logging;
using Sirena.Core.Deliveries;
using Sirena.Storage.Deliveries;

namespace Sirena.Engine.Dispatch;

public sealed partial class Dispatcher
{
    private async Task SendAsync(Line line, Claimed claimed)
    {
        var lane = LaneOf(line, claimed.Channel);
        try
        {
            if (!line.Trial && gateways.Rests(line))
            {
                // It failed while this one waited its turn: the next gateway may take it.
                await GiveBackAsync([claimed]);
                signals.Wake(Topic.Deliveries);
                return;
            }

            if (line.Id is { } own && claimed.PassedOver.Contains(own))
            {
                if (await gateways.PickAsync(claimed.Channel, stopping, claimed.PassedOver) is not { } other)
                {
                    await GiveBackAsync([claimed], later: true);
                    return;
                }

                line = other;
            }

            if (line.Pace is { } pace)
            {
                using var turn = await pace.AcquireAsync(1, stopping);
            }

            await NoteAsync(line, claimed, await HandOverAsync(line, claimed));
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
            if (lane.MoreMayWait && lane.Held <= lane.Refill)
            {
                lane.MoreMayWait = false;
                signals.Wake(Topic.Deliveries);
            }
        }
    }

    private async Task<HandOver> HandOverAsync(Line line, Claimed claimed)
    {
        if (clock.GetCurrentInstant() >= claimed.Deadline)
        {
            return new HandOver(AttemptOutcome.Temporary, null, "its deadline had passed before this try") { Blame = Blame.None };
        }

        if (line.Settings is { } settings && spending.Refuses(settings, claimed.Text) is { } dear)
        {
            return new HandOver(AttemptOutcome.Gateway, null, dear);
        }

        var result = await line.Gateway.HandOverAsync(
            claimed.Packs && !claimed.Bare ? await packer.PackAsync(claimed, stopping) : Packer.Bare(claimed),
            stopping
        );
        if (result.Outcome == AttemptOutcome.Accepted && line.Settings is { } counted)
        {
            spending.Note(counted, claimed.Text);
        }

        // What a far end says is text from outside.
        return result with
        {
            Reply = FarText.Clean(result.Reply),
            Code = result.Code is null ? null : FarText.Clean(result.Code, 60),
            FarId = result.FarId is { } far && FarText.Clean(far, 200) is { Length: > 0 } clean ? clean : null,
        };
    }
}
