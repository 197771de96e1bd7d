using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Rules;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Engine.Dispatch;

/// <summary>Sends a delivery again because somebody asked for it.</summary>
public sealed class SecondSending(IDbContextFactory<SirenaDb> factory, Signals signals, IClock clock)
{
    /// <summary>
    /// One that did not arrive is put back into the queue with a new deadline; one that went over gets a second delivery beside it, so that what is known of the first stays.
    /// </summary>
    /// <returns>A sentence on what was done, or <see langword="null"/> when there is no such delivery.</returns>
    public async Task<string?> SendAsync(Guid id, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var found = await db.Deliveries.AsNoTracking().FirstOrDefaultAsync(d => d.Id == id, cancel);
        if (found is null)
        {
            return null;
        }

        var now = clock.GetCurrentInstant();
        var deadline = now + Urgency.Prompt.Deadline();
        db.Audit.Add(new AuditEntry { At = now, By = by, What = $"Sent the delivery {id} to {found.To} again; it was {found.State}." });
        if (found.State is DeliveryState.Failed or DeliveryState.Expired or DeliveryState.Waiting)
        {
            await db.Deliveries.Where(d => d.Id == id && (d.State == DeliveryState.Failed || d.State == DeliveryState.Expired || (d.State == DeliveryState.Waiting && d.Lease == null)))
                .ExecuteUpdateAsync(set => set.SetProperty(d => d.State, DeliveryState.Waiting).SetProperty(d => d.DueAt, now).SetProperty(d => d.Deadline, deadline).SetProperty(d => d.Reason, $"sent again by {by}"), cancel);
        }
        else if (await db.Messages.AsNoTracking().FirstOrDefaultAsync(m => m.DeliveryId == id, cancel) is { } message)
        {
            var second = Guid.CreateVersion7(now.ToDateTimeOffset());
            db.Deliveries.Add(new Delivery
            {
                Id = second,
                AlertId = found.AlertId,
                OrderNumber = found.OrderNumber,
                RuleId = found.RuleId,
                Step = found.Step,
                Person = found.Person,
                Channel = found.Channel,
                To = found.To,
                State = DeliveryState.Waiting,
                Reason = $"sent again by {by}",
                CreatedAt = now,
                DueAt = now,
                Deadline = deadline,
            });
            db.Messages.Add(new Message { DeliveryId = second, Subject = message.Subject, Text = message.Text, Html = message.Html });
        }
        else
        {
            return "There is no message to send: this reader was told by another rule's message.";
        }

        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Deliveries);
        signals.Raise(Topic.Pages);
        return $"It is on its way to {found.To} again.";
    }
}
