using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.People;
using Sirena.Core.Rules;

namespace Sirena.Engine.Decide;

/// <summary>Tells those who were told of an alert what has become of it, in one line over the same channels.</summary>
/// <param name="around">For names.</param>
/// <param name="now">The moment.</param>
public sealed class OneLine(Surroundings around, Instant now)
{
    /// <summary>One line to those who were told, over the channels by which they were told. Customers read nothing of it.</summary>
    /// <param name="alert">The alert.</param>
    /// <param name="told">Its deliveries so far.</param>
    /// <param name="line">The line.</param>
    /// <param name="reason">Why it goes, in the ledger.</param>
    /// <param name="raised">Where the messages go.</param>
    public void Tell(Alert alert, IEnumerable<Delivery> told, string line, string reason, Raised raised)
    {
        foreach (
            var d in told.Where(d =>
                    d.Audience != Audience.Customer && d.Channel.Traits().ToPerson && d.State is DeliveryState.HandedOver or DeliveryState.Landed
                )
                .DistinctBy(d => (d.Channel, d.To))
        )
        {
            var id = Guid.CreateVersion7(now.ToDateTimeOffset());
            raised.Deliveries.Add(
                new Delivery
                {
                    Id = id,
                    AlertId = alert.Id,
                    OrderNumber = alert.OrderNumber,
                    RuleId = alert.RuleId,
                    Step = d.Step,
                    Person = d.Person,
                    Audience = d.Audience,
                    Channel = d.Channel,
                    To = d.To,
                    State = d.Channel.Traits().OnSight ? DeliveryState.HandedOver : DeliveryState.Waiting,
                    Reason = reason,
                    CreatedAt = now,
                    DueAt = now,
                    HandedOverAt = d.Channel.Traits().OnSight ? now : null,
                    Deadline = now + Urgency.Prompt.Deadline(),
                }
            );
            raised.Messages.Add(
                new Message
                {
                    DeliveryId = id,
                    Subject = line,
                    Text = $"{line}. (Rule '{around.RuleName(alert.RuleId)}')",
                }
            );
        }
    }
}
