using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;

namespace Sirena.Demo.World;

/// <summary>Something that the order system will say about an order.</summary>
public sealed record PlannedEvent(Instant At, string Type, JsonObject Data);

/// <summary>Plans an order's way through its day. All chance comes from the generator that is given, so that the same seed makes the same world.</summary>
public sealed class OrderPlan(Random chance)
{
    private static readonly string[] HoldReasons = ["account over its credit limit", "duty papers missing", "customer asked to wait"];
    private static readonly string[] RiskReasons = ["first order on this card", "address differs from the card's", "unusual amount for this vessel"];
    private static readonly string[] Notes =
    [
        "No sesame for 2 of 12 lunches, cabin 3.",
        "Master asks for delivery at the stern ramp.",
        "Shellfish allergy in the crew mess.",
        "Call the agent before coming alongside.",
        "@bram.osei sealed stores for this one",
    ];

    /// <summary>An order that is placed at an instant: its events in time, the first being that it is placed.</summary>
    public IReadOnlyList<PlannedEvent> Make(int number, Instant placed)
    {
        var due = placed + Duration.FromMinutes(chance.NextDouble() < 0.12 ? chance.Next(150, 300) : chance.Next(360, 2600));
        due = Instant.FromUnixTimeSeconds(due.ToUnixTimeSeconds() / 900 * 900);
        var order = Order($"AQ-{number}", placed, due);
        var events = new List<PlannedEvent> { new(placed, "order.placed", new JsonObject { ["order"] = order.DeepClone() }) };
        var status = "received";
        var at = placed;
        void Say(Duration after, string type, JsonObject change, JsonObject? more = null)
        {
            at += after;
            change["number"] = order["number"]!.DeepClone();
            var data = new JsonObject { ["order"] = change };
            foreach (var (name, value) in more ?? [])
            {
                data[name] = value?.DeepClone();
            }

            events.Add(new PlannedEvent(at, type, data));
        }

        void Move(string to, Duration after)
        {
            var change = new JsonObject
            {
                ["field"] = "status",
                ["before"] = status,
                ["after"] = to,
            };
            Say(
                after,
                to == "cancelled" ? "order.cancelled" : "order.status-changed",
                new JsonObject { ["status"] = to },
                new JsonObject { ["change"] = change }
            );
            status = to;
        }

        Move("credit-check", Minutes(2, 25));
        Trouble(order, Say);
        if (chance.NextDouble() < 0.03)
        {
            Move("cancelled", Minutes(10, 90));
            return events;
        }

        Middle(order, due, () => at, Move, Say);
        return events;
    }

    private void Middle(JsonObject order, Instant due, Func<Instant> at, Action<string, Duration> move, Action<Duration, string, JsonObject, JsonObject?> say)
    {
        // An order that was held for long is hurried through.
        var left = Duration.Max(due - at(), Duration.FromMinutes(50));
        move("picking", left * (0.03 + (chance.NextDouble() * 0.2)));
        var galley = order["lines"]!.AsArray().Any(l => (string?)l!["site"] == "galley");
        if (galley)
        {
            move("in-galley", left * 0.12);
        }

        if (chance.NextDouble() < 0.09)
        {
            say(
                Minutes(2, 12),
                "order.note-added",
                [],
                new JsonObject
                {
                    ["note"] = new JsonObject
                    {
                        ["by"] = "ines.calder",
                        ["text"] = Notes[chance.Next(Notes.Length)],
                        ["visibleToCustomer"] = false,
                    },
                }
            );
        }

        if (chance.NextDouble() < 0.012)
        {
            move("cancelled", Minutes(5, 30));
            return;
        }

        move("loaded", left * 0.2);
        if (chance.NextDouble() < 0.015)
        {
            move("picking", Minutes(3, 15));
            move("loaded", Minutes(10, 30));
        }

        move("alongside", Duration.Max(Minutes(4, 20), (due - at()) * 0.6));
        move("signed-for", Minutes(6, 40));
    }

    private void Trouble(JsonObject order, Action<Duration, string, JsonObject, JsonObject?> say)
    {
        var total = (decimal)order["total"]!;
        if (chance.NextDouble() < 0.06)
        {
            var high = chance.NextDouble() < 0.35;
            var score = high ? chance.Next(72, 97) : chance.Next(42, 70);
            say(
                Minutes(1, 3),
                "order.risk-flagged",
                new JsonObject
                {
                    ["risk"] = new JsonObject
                    {
                        ["level"] = high ? "high" : "medium",
                        ["score"] = score,
                        ["reasons"] = new JsonArray(RiskReasons[chance.Next(RiskReasons.Length)]),
                    },
                },
                null
            );
        }

        if (chance.NextDouble() < 0.02)
        {
            say(
                Minutes(1, 4),
                "order.payment-failed",
                new JsonObject
                {
                    ["payment"] = new JsonObject { ["method"] = "card", ["state"] = "failed" },
                },
                null
            );
            say(
                Minutes(10, 60),
                "order.paid",
                new JsonObject
                {
                    ["payment"] = new JsonObject { ["method"] = "card", ["state"] = "paid" },
                },
                null
            );
        }

        if (chance.NextDouble() < (total > 3000 ? 0.14 : 0.04))
        {
            say(Minutes(2, 8), "order.held", new JsonObject { ["hold"] = new JsonObject { ["reason"] = HoldReasons[chance.Next(HoldReasons.Length)] } }, null);
            say(Minutes(45, 420), "order.released", new JsonObject { ["hold"] = null }, null);
        }
    }

    private JsonObject Order(string number, Instant placed, Instant due)
    {
        var vessel = Port.Vessels[chance.Next(Port.Vessels.Length)];
        var lines = new JsonArray();
        var total = 0m;
        foreach (var goods in Enumerable.Range(0, 1 + chance.Next(5)).Select(_ => Port.Goods[chance.Next(Port.Goods.Length)]).DistinctBy(g => g.Sku))
        {
            var quantity = chance.NextDouble() < 0.15 ? chance.Next(12, 48) : chance.Next(1, 10);
            total += quantity * goods.Price;
            lines.Add(
                new JsonObject
                {
                    ["sku"] = goods.Sku,
                    ["title"] = goods.Title,
                    ["quantity"] = quantity,
                    ["shipped"] = 0,
                    ["unitPrice"] = goods.Price,
                    ["site"] = goods.Site,
                    ["tags"] = new JsonArray([.. goods.Tags.Select(t => (JsonNode)t)]),
                }
            );
        }

        return new JsonObject
        {
            ["number"] = number,
            ["placedAt"] = InstantPattern.General.Format(placed),
            ["status"] = "received",
            ["dueAt"] = InstantPattern.General.Format(due),
            ["via"] = chance.NextDouble() < 0.7 ? "web" : "desk",
            ["currency"] = "EUR",
            ["total"] = total,
            ["customer"] = new JsonObject
            {
                ["code"] = vessel.Code,
                ["name"] = vessel.Name,
                ["group"] = vessel.Group,
                ["email"] = $"purser@{vessel.Code.ToLowerInvariant()}.example",
                ["language"] = "en",
                ["tags"] = new JsonArray(),
            },
            ["salesperson"] = vessel.Salesperson,
            ["site"] = (string)lines[0]!["site"]!,
            ["payment"] = new JsonObject { ["method"] = "account", ["state"] = "authorised" },
            ["risk"] = new JsonObject { ["level"] = "low", ["score"] = chance.Next(2, 30) },
            ["lines"] = lines,
            ["tags"] = new JsonArray(),
            ["extra"] = new JsonObject { ["vessel"] = vessel.Name, ["berth"] = Port.Berths[chance.Next(Port.Berths.Length)] },
        };
    }

    private Duration Minutes(int from, int to) => Duration.FromSeconds(chance.Next(from * 60, to * 60));
}
