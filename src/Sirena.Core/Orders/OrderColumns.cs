using System.Text.Json.Nodes;
using NodaTime;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;

namespace Sirena.Core.Orders;

/// <summary>The columns of an order that lists filter by, read from its state.</summary>
public static class OrderColumns
{
    private const int MostOwn = 20;
    private const int LongestOwn = 80;

    /// <summary>The order with its columns. Whether it is open is for the storage to say, which knows the statuses.</summary>
    public static Order From(string number, OrderState state, string document, long seq, Instant changedAt, string[] toldBy)
    {
        var d = state.Document;
        var customer = Text(d, "customer", "name") ?? Text(d, "customer", "code");
        string[] sites = [.. Sites(d).Distinct().Take(8)];
        return new Order
        {
            Number = number,
            Document = document,
            Times = state.TimesJson(),
            Seq = seq,
            Status = Text(d, "status"),
            Customer = customer,
            DueAt = Facts.Time(Text(d, "dueAt")),
            Total = Number(d, "total"),
            Currency = Text(d, "currency"),
            Risk = Names.Parse<RiskLevel>(Text(d, "risk", "level")) ?? RiskLevel.None,
            RiskScore = Number(d, "risk", "score"),
            HoldReason = d["hold"] is JsonObject hold && hold.Count > 0 ? Text(d, "hold", "reason") ?? "held" : null,
            Sites = sites,
            Salesperson = Text(d, "salesperson"),
            ToldBy = toldBy,
            ChangedAt = changedAt,
            // A blank at both ends: whole words are found by the blanks around them.
            Search = TextFolding.Fold($" {number} {customer} {string.Join(' ', Own(d))} {Text(d, "customer", "code")} "),
        };
    }

    // The order's own fields by their names, so that "berth N3" is found; a long text is no field to find by.
    private static IEnumerable<string> Own(JsonObject d) =>
        (d["extra"] as JsonObject ?? [])
            .Take(MostOwn)
            .Select(f => f.Value is JsonValue value && value.ToString() is { Length: > 0 and <= LongestOwn } text ? $"{f.Key} {text}" : null)
            .OfType<string>();

    private static IEnumerable<string> Sites(JsonObject d)
    {
        if (Text(d, "site") is { } own)
        {
            yield return own;
        }

        foreach (var line in (d["lines"] as JsonArray ?? []).OfType<JsonObject>())
        {
            if (Text(line, "site") is { } site)
            {
                yield return site;
            }
        }
    }

    private static JsonValue? At(JsonObject d, string[] path)
    {
        JsonNode? at = d;
        foreach (var name in path)
        {
            at = (at as JsonObject)?[name];
        }

        return at as JsonValue;
    }

    private static string? Text(JsonObject d, params string[] path) =>
        At(d, path) is { } v && v.TryGetValue<string>(out var text) && text.Length > 0 ? text : null;

    private static decimal? Number(JsonObject d, params string[] path) => At(d, path) is { } v && v.TryGetValue<decimal>(out var number) ? number : null;
}
