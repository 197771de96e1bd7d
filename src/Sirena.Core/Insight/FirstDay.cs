using System.Text.Json.Nodes;
using Sirena.Core.Orders;

namespace Sirena.Core.Insight;

/// <summary>How a station of the first day stands.</summary>
public enum StationState
{
    /// <summary>Not yet: what comes before it is not proved.</summary>
    Later,

    /// <summary>The first that is not proved.</summary>
    Open,

    /// <summary>There is evidence that it works.</summary>
    Proved,

    /// <summary>There was, and what came after it says otherwise.</summary>
    Broken,
}

/// <summary>The stations of the first day, in their order.</summary>
public enum Station
{
    /// <summary>A message went out and was taken.</summary>
    Mail,

    /// <summary>There are people who can be reached.</summary>
    People,

    /// <summary>An order came and was understood.</summary>
    Orders,

    /// <summary>A rule would tell somebody of what came.</summary>
    Rule,

    /// <summary>An alert was told, landed and answered.</summary>
    Alert,
}

/// <summary>
/// Five stations from an empty installation to the first answered alert. None is ticked by hand: each closes by evidence, and opens again when that fails.
/// </summary>
public static class FirstDay
{
    /// <summary>How each station stands.</summary>
    /// <param name="proved">Those with evidence.</param>
    /// <param name="broken">Those whose evidence failed since.</param>
    public static IReadOnlyList<(Station Station, StationState State)> Stations(IReadOnlySet<Station> proved, IReadOnlySet<Station> broken)
    {
        var open = false;
        var all = new List<(Station, StationState)>();
        foreach (var station in Enum.GetValues<Station>())
        {
            var state =
                broken.Contains(station) ? StationState.Broken
                : proved.Contains(station) ? StationState.Proved
                : open ? StationState.Later
                : StationState.Open;
            open |= state is StationState.Open or StationState.Broken;
            all.Add((station, state));
        }

        return all;
    }
}

/// <summary>A rule to begin with, written for whoever begins.</summary>
/// <param name="Id">Its id among these.</param>
/// <param name="Name">Its name.</param>
/// <param name="Type">The event that it listens to.</param>
/// <param name="Urgency">Its urgency.</param>
/// <param name="If">Its condition, JSON; <see langword="null"/> for none.</param>
public sealed record ReadyRule(string Id, string Name, string Type, Rules.Urgency Urgency, string? If)
{
    /// <summary>The rules that are ready.</summary>
    public static IReadOnlyList<ReadyRule> All { get; } =
    [
        new("held", "Held: tell at once", "order.held", Rules.Urgency.Urgent, null),
        new(
            "late",
            "Placed less than 5 h before it is due",
            "order.placed",
            Rules.Urgency.Prompt,
            """{ "field": "order.until-due", "is": "less-than", "value": "PT5H" }"""
        ),
        new("risky", "Flagged risky", "order.risk-flagged", Rules.Urgency.Prompt, """{ "field": "order.risk.level", "is": "equal", "value": "high" }"""),
        new("cancelled", "Cancelled", "order.cancelled", Rules.Urgency.Routine, null),
    ];

    /// <summary>The one of an id, or <see langword="null"/>.</summary>
    public static ReadyRule? Find(string? id) => All.FirstOrDefault(r => r.Id == id);

    /// <summary>As a rule's document: it tells one person by mail.</summary>
    /// <param name="person">Whom it tells.</param>
    public JsonObject Document(string person)
    {
        var document = new JsonObject
        {
            ["name"] = Name,
            ["when"] = new JsonArray(Type),
            ["urgency"] = Urgency.Name(),
            ["tell"] = new JsonArray(new JsonObject { ["person"] = person }),
            ["by"] = new JsonObject { ["allAtOnce"] = new JsonArray("mail") },
        };
        if (If is { } condition)
        {
            document["onlyIf"] = JsonNode.Parse(condition);
        }

        return document;
    }
}

/// <summary>An order that nobody placed, to try the way in and the rules with.</summary>
public static class MadeUpOrder
{
    /// <summary>The source of its events.</summary>
    public const string Source = "/made-up";

    /// <summary>An event of one: held, risky and due soon where that is what the event says.</summary>
    /// <param name="number">Which one, from 1.</param>
    /// <param name="type">The event.</param>
    /// <param name="by">Who makes it up.</param>
    /// <param name="currency">The business's currency.</param>
    /// <param name="status">A status that an order may have.</param>
    /// <param name="now">The moment.</param>
    public static IncomingEvent Event(int number, string type, string by, string currency, string? status, NodaTime.Instant now)
    {
        var order = new JsonObject
        {
            ["number"] = $"TRY-{number}",
            ["status"] = status,
            ["total"] = 86.40m,
            ["currency"] = currency,
            ["placedAt"] = NodaTime.Text.InstantPattern.ExtendedIso.Format(now),
            ["dueAt"] = NodaTime.Text.InstantPattern.ExtendedIso.Format(now + NodaTime.Duration.FromHours(3)),
            ["customer"] = new JsonObject { ["name"] = $"Made up by {by}" },
            ["lines"] = new JsonArray(
                new JsonObject
                {
                    ["sku"] = "TRY",
                    ["title"] = "Nothing: a made-up order",
                    ["quantity"] = 1m,
                }
            ),
        };
        if (type == "order.held")
        {
            order["hold"] = new JsonObject { ["reason"] = "made up, to try it" };
        }

        if (type == "order.risk-flagged")
        {
            order["risk"] = new JsonObject { ["level"] = "high", ["score"] = 90m };
        }

        return new IncomingEvent($"made-up-{number}-{type}", Source, type, $"TRY-{number}", now, new JsonObject { ["order"] = order });
    }
}
