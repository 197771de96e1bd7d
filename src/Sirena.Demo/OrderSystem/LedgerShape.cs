using System.Globalization;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;

namespace Sirena.Demo.OrderSystem;

/// <summary>
/// The body that the quay ledger sends: a shape of its own, with words of its own, local times with the day first, and decimal commas. Its other shape is what
/// an update of the ledger made of it one night.
/// </summary>
public static class LedgerShape
{
    /// <summary>Its words for what happened.</summary>
    public static IReadOnlyDictionary<string, string> Events { get; } =
        new Dictionary<string, string>
        {
            ["order.placed"] = "ORD_NEW",
            ["order.status-changed"] = "ORD_MOVE",
            ["order.held"] = "ORD_HOLD",
            ["order.released"] = "ORD_REL",
            ["order.risk-flagged"] = "ORD_RISK",
            ["order.note-added"] = "ORD_NOTE",
            ["order.cancelled"] = "ORD_VOID",
            ["order.changed"] = "ORD_EDIT",
            ["order.paid"] = "ORD_PAID",
            ["order.refunded"] = "ORD_BACK",
            ["intake.closed"] = "DESK_SHUT",
            ["intake.opened"] = "DESK_OPEN",
        };

    /// <summary>Its figures for the statuses.</summary>
    public static IReadOnlyDictionary<string, string> Stages { get; } =
        new Dictionary<string, string>
        {
            ["received"] = "10",
            ["credit-check"] = "20",
            ["picking"] = "30",
            ["in-galley"] = "40",
            ["loaded"] = "50",
            ["alongside"] = "60",
            ["signed-for"] = "70",
            ["cancelled"] = "90",
        };

    /// <summary>Its depots.</summary>
    public static IReadOnlyDictionary<string, string> Depots { get; } =
        new Dictionary<string, string>
        {
            ["galley"] = "GK",
            ["cold-store"] = "CS",
            ["bonded-store"] = "BO",
            ["chandlery"] = "CH",
            ["quay-office"] = "QO",
        };

    private static readonly LocalDateTimePattern Time = LocalDateTimePattern.CreateWithInvariantCulture("dd'/'MM'/'uuuu HH':'mm':'ss");
    private static readonly DateTimeZone Zone = DateTimeZoneProviders.Tzdb["Europe/Lisbon"];

    /// <summary>The body of an event.</summary>
    /// <param name="id">The event's id.</param>
    /// <param name="type">The event as Sirena calls it.</param>
    /// <param name="data">Its data in the shape of the contract.</param>
    /// <param name="now">When it happens.</param>
    /// <param name="other">In the ledger's other shape.</param>
    public static JsonObject Write(string id, string type, JsonObject data, Instant now, bool other)
    {
        var order = data["order"] as JsonObject ?? [];
        var doc = new JsonObject { [other ? "nr" : "no"] = order["number"]?.DeepClone() };
        Put(doc, "stage", order["status"] is { } status ? Stages.GetValueOrDefault(status.ToString(), status.ToString()) : null);
        Put(doc, other ? "value" : "amount", order["total"] is { } total ? Amount(Number(total)) : null);
        Put(doc, "cur", order["currency"]?.ToString());
        Put(doc, "entered", Local(order["placedAt"]?.ToString()));
        Put(doc, other ? "sails" : "wanted", Local(order["dueAt"]?.ToString()));
        Put(doc, "rep", order["salesperson"]?.ToString());
        Put(doc, "via", order["via"]?.ToString());
        Put(doc, "ship", order["extra"]?["vessel"]?.ToString());
        Put(doc, "berth", order["extra"]?["berth"]?.ToString());
        if (order["customer"] is JsonObject customer)
        {
            var account = new JsonObject();
            Put(account, "code", customer["code"]?.ToString());
            Put(account, "kind", customer["group"]?.ToString());
            Put(account, "name", customer["name"]?.ToString());
            Put(account, "mail", customer["email"]?.ToString());
            if (customer["tags"] is JsonArray marks)
            {
                account["labels"] = marks.DeepClone();
            }

            doc["account"] = account;
        }

        if (order.ContainsKey("hold"))
        {
            doc["why"] = order["hold"]?["reason"]?.DeepClone();
        }

        if (order["risk"] is JsonObject risk)
        {
            doc["risk"] = new JsonObject
            {
                ["level"] = risk["level"]?.DeepClone(),
                ["points"] = risk["score"]?.DeepClone(),
                ["reasons"] = risk["reasons"]?.DeepClone(),
            };
        }

        if (order["payment"] is JsonObject payment)
        {
            Put(doc, "pays", payment["method"]?.ToString());
            Put(doc, "paid", payment["state"]?.ToString());
        }

        if (order["tags"] is JsonArray tags)
        {
            doc["labels"] = tags.DeepClone();
        }

        if (order["lines"] is JsonArray lines)
        {
            doc["rows"] = new JsonArray([
                .. lines
                    .OfType<JsonObject>()
                    .Select(l =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["art"] = l["sku"]?.DeepClone(),
                                ["txt"] = l["title"]?.DeepClone(),
                                ["qty"] = Amount(Number(l["quantity"]!)),
                                ["price"] = Amount(Number(l["unitPrice"]!)),
                                ["depot"] = Depots.GetValueOrDefault(l["site"]?.ToString() ?? "", ""),
                            }
                    ),
            ]);
        }

        if (data["note"] is JsonObject note)
        {
            doc["remark"] = new JsonObject
            {
                ["by"] = note["by"]?.DeepClone(),
                ["text"] = note["text"]?.DeepClone(),
                ["open"] = note["visibleToCustomer"]?.DeepClone(),
            };
        }

        return new JsonObject
        {
            ["msg"] = Events.GetValueOrDefault(type, type),
            ["id"] = id,
            ["sent"] = Time.Format(now.InZone(Zone).LocalDateTime),
            [other ? "order" : "doc"] = doc,
        };
    }

    /// <summary>A row of its own list.</summary>
    public static string Row(string number, string? status, Instant? moved, Instant? due, decimal? total, string? customer) =>
        $"{number};{Stages.GetValueOrDefault(status ?? "", status ?? "")};{(moved is { } then ? Time.Format(then.InZone(Zone).LocalDateTime) : "")};"
        + $"{(due is { } at ? Time.Format(at.InZone(Zone).LocalDateTime) : "")};{(total is { } sum ? Amount(sum) : "")};\""
        + $"{customer?.Replace("\"", "\"\"", StringComparison.Ordinal)}\"\n";

    private static void Put(JsonObject doc, string name, string? text)
    {
        if (text is not null)
        {
            doc[name] = text;
        }
    }

    private static decimal Number(JsonNode value) => decimal.Parse(value.ToJsonString(), NumberStyles.Float, CultureInfo.InvariantCulture);

    private static string Amount(decimal amount) =>
        amount.ToString("#,##0.00", CultureInfo.InvariantCulture).Replace(",", " ", StringComparison.Ordinal).Replace('.', ',').Replace(' ', '.');

    private static string? Local(string? at) => Core.Orders.Fields.Facts.Time(at) is { } time ? Time.Format(time.InZone(Zone).LocalDateTime) : null;
}
