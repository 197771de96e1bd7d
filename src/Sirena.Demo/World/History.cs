using System.Text.Json.Nodes;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Rules;
using Sirena.Engine;
using Sirena.Engine.Decide;

namespace Sirena.Demo.World;

/// <summary>
/// Days of orders with what Sirena made of them. The events are merged and decided by the same code that does it live; only what lies outside Sirena
/// (mail servers, readers) is drawn by chance.
/// </summary>
public sealed partial class History(Random chance, Surroundings around, RuleBook book)
{
    private readonly Dictionary<string, (OrderState State, long Seq, Instant Newest)> orders = [];
    private readonly List<Alert> open = [];

    /// <summary>Everything that was made.</summary>
    public List<OrderEvent> Events { get; } = [];

    /// <summary>The orders as of the end.</summary>
    public List<Order> Orders { get; } = [];

    /// <summary>What deciding wrote.</summary>
    public Raised Raised { get; } = new();

    /// <summary>The tries of the deliveries.</summary>
    public List<Attempt> Attempts { get; } = [];

    /// <summary>The later news of them.</summary>
    public List<Receipt> Receipts { get; } = [];

    /// <summary>The answers to the alerts.</summary>
    public List<Answer> Answers { get; } = [];

    /// <summary>Fills the time from one instant to another.</summary>
    /// <param name="from">Begin.</param>
    /// <param name="to">End, the demo's now.</param>
    /// <param name="firstNumber">The number of the first order.</param>
    /// <param name="firstEvent">The id of the first event.</param>
    /// <param name="aDay">Orders placed on a weekday.</param>
    public void Fill(Instant from, Instant to, int firstNumber, long firstEvent, int aDay)
    {
        var plan = new OrderPlan(chance);
        var planned = Moments(from, to, aDay)
            .SelectMany((at, i) => plan.Make(firstNumber + i, at))
            .Concat(Stock(from, to))
            .Where(e => e.At < to)
            .OrderBy(e => e.At)
            .ToList();
        var id = firstEvent;
        foreach (var said in planned)
        {
            Take(said, id++, to);
        }

        foreach (var (number, (state, seq, newest)) in orders)
        {
            Orders.Add(OrderColumns.From(number, state, state.Document.ToJsonString(), seq, newest, [SourceSetup.Ledger]));
        }

        Settle(to);
        Climb(to);
    }

    private IEnumerable<Instant> Moments(Instant from, Instant to, int aDay)
    {
        for (var day = from.InZone(around.Business.Zone).Date; day <= to.InZone(around.Business.Zone).Date; day = day.PlusDays(1))
        {
            var count =
                day.DayOfWeek is IsoDayOfWeek.Sunday ? aDay / 3
                : day.DayOfWeek is IsoDayOfWeek.Saturday ? aDay / 2
                : aDay + chance.Next(-aDay / 8, aDay / 8);
            var times = Enumerable
                .Range(0, count)
                .Select(_ =>
                {
                    var hour = chance.NextDouble() < 0.85 ? 6 + (12 * (chance.NextDouble() + chance.NextDouble()) / 2) : chance.NextDouble() * 24;
                    return day.AtStartOfDayInZone(around.Business.Zone).ToInstant() + Duration.FromHours(hour);
                });
            foreach (var at in times.Where(t => t >= from && t < to).Order())
            {
                yield return at;
            }
        }
    }

    private IEnumerable<PlannedEvent> Stock(Instant from, Instant to)
    {
        for (var at = from + Duration.FromHours(chance.Next(1, 9)); at < to; at += Duration.FromMinutes(chance.Next(180, 900)))
        {
            var goods = Port.Goods[chance.Next(Port.Goods.Length)];
            var below = chance.NextDouble() < 0.25;
            yield return new PlannedEvent(
                at,
                below ? "stock.negative" : "stock.low",
                new JsonObject
                {
                    ["stock"] = new JsonObject
                    {
                        ["sku"] = goods.Sku,
                        ["title"] = goods.Title,
                        ["site"] = goods.Site,
                        ["onHand"] = below ? -chance.Next(1, 9) : chance.Next(0, 5),
                        ["threshold"] = 5,
                    },
                }
            );
        }
    }

    private void Take(PlannedEvent said, long id, Instant end)
    {
        var order = said.Data["order"] as JsonObject;
        var number = (string?)order?["number"];
        var (before, after, seq, data) = ((string?)null, (string?)null, 0L, said.Data.ToJsonString());
        if (number is not null)
        {
            var known = orders.TryGetValue(number, out var was);
            var state = known ? was.State.Merge(order!, said.At) : OrderState.First(order!, said.At);
            (before, after, seq) = (known ? was.State.Document.ToJsonString() : null, state.Document.ToJsonString(), was.Seq + 1);
            data = Change.Complete(data, said.Data["change"] is JsonObject ? null : Change.Between(known ? was.State.Document : null, state.Document));
            orders[number] = (state, seq, said.At);
        }

        var received = said.At + Duration.FromMilliseconds(chance.Next(80, 900));
        var happened = new OrderEvent
        {
            Id = id,
            EventId = $"h-{id}",
            Source = OrderSystem.OrderSystem.Source,
            Type = said.Type,
            Subject = number ?? (string?)said.Data["stock"]?["sku"],
            OrderNumber = number,
            Seq = seq,
            Time = said.At,
            Received = received,
            Data = data,
            OrderBefore = before,
            OrderAfter = after,
            Book = book.Version,
            DecidedAt = received + Duration.FromMilliseconds(12),
        };
        Events.Add(happened);
        Withdraw(happened, said.At);
        var raised = new EventDecision(around, happened.DecidedAt!.Value).Decide(happened, book, rule =>
            open.LastOrDefault(a => a.Subject == happened.Subject && a.RuleId == rule)
        );
        Raised.Matches.AddRange(raised.Matches);
        Raised.Alerts.AddRange(raised.Alerts);
        Raised.Steps.AddRange(raised.Steps);
        Raised.Deliveries.AddRange(raised.Deliveries);
        Raised.Messages.AddRange(raised.Messages);
        open.AddRange(raised.Alerts);
        foreach (var delivery in raised.Deliveries.Where(d => d.State == DeliveryState.Waiting))
        {
            if (delivery.Chain is not null && raised.Deliveries.FirstOrDefault(d => d.Chain == delivery.Chain && d.State == DeliveryState.Landed) is { } landed)
            {
                (delivery.State, delivery.Reason) = (DeliveryState.Skipped, $"landed by {landed.Channel.Name()} already");
                continue;
            }

            Send(delivery, end);
        }

        foreach (var alert in raised.Alerts)
        {
            Answer(alert, [.. raised.Deliveries.Where(d => d.AlertId == alert.Id)], end);
        }
    }

    private void Withdraw(OrderEvent happened, Instant at)
    {
        var status = happened.OrderAfter is null ? null : (string?)orders[happened.OrderNumber!].State.Document["status"];
        foreach (
            var alert in open.Where(a =>
                a.OrderNumber is not null
                && a.OrderNumber == happened.OrderNumber
                && a.State is AlertState.Open or AlertState.Taken
                && a.OrderNumber == happened.OrderNumber
            )
        )
        {
            if (book.Rules.FirstOrDefault(r => r.Rule.Id == alert.RuleId)?.Rule.WithdrawAt.Contains(status ?? "") == true && !(alert.TakenAt > at))
            {
                alert.Withdraw(at);
            }
        }
    }
}
