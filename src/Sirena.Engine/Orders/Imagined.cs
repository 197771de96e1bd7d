using System.Text.Json.Nodes;
using NodaTime;
using Sirena.Core.Orders;

namespace Sirena.Engine.Orders;

/// <summary>Events that have not happened, as intake would store them now.</summary>
public static class Imagined
{
    /// <summary>An event on an order as it is known.</summary>
    /// <param name="given">The event.</param>
    /// <param name="number">Its order's number with the source's prefix, or <see langword="null"/>.</param>
    /// <param name="known">The order, or <see langword="null"/> where it is not known yet.</param>
    /// <param name="around">For the order system's words for the statuses.</param>
    /// <param name="now">The moment.</param>
    public static OrderEvent Event(IncomingEvent given, string? number, Order? known, Surroundings around, Instant now)
    {
        var data = (JsonObject)given.Data.DeepClone();
        around.Words.Apply(data);
        var (before, after, change) = ((string?)null, (string?)null, (JsonObject?)null);
        if (number is not null && data["order"] is JsonObject order)
        {
            order["number"] = number;
            var was = known is null ? null : OrderState.Read(known.Document, known.Times);
            var state = was is null ? OrderState.First(order, now) : was.Merge(order, now);
            (before, after) = (known?.Document, state.Document.ToJsonString());
            change = data["change"] is JsonObject ? null : Change.Between(was?.Document, state.Document);
        }

        return new OrderEvent
        {
            EventId = given.EventId,
            Source = given.Source,
            Type = given.Type,
            Subject = number ?? given.Subject,
            OrderNumber = number,
            Seq = 1,
            Time = given.Time ?? now,
            Received = now,
            Data = Change.Complete(data.ToJsonString(), change),
            OrderBefore = before,
            OrderAfter = after,
        };
    }
}
