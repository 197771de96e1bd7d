using System.Text.Json.Nodes;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Intake;

/// <summary>Events that Sirena makes itself, on their way in like any other.</summary>
public static class OwnEvents
{
    /// <summary>The source of all of them.</summary>
    public const string Source = "/sirena";

    /// <summary>One event.</summary>
    /// <param name="id">Its id, the same for the same happening, so that it is taken in once.</param>
    /// <param name="type">Its type.</param>
    /// <param name="subject">The order, or the thing that it is about.</param>
    /// <param name="data">What it says.</param>
    /// <param name="now">When.</param>
    /// <param name="order">Its order's number: only that, since what the order system says of the order stays its own. <see langword="null"/> for none.</param>
    public static Arrival Make(string id, string type, string? subject, JsonObject data, Instant now, string? order = null)
    {
        if (order is not null)
        {
            data["order"] = new JsonObject { ["number"] = order };
        }

        return new Arrival(new IncomingEvent(id, Source, type, subject, now, data), "", now);
    }

    /// <summary>An event about an alert: what it is of stands in <c>alert</c>.</summary>
    /// <param name="id">Its id.</param>
    /// <param name="type">Its type.</param>
    /// <param name="alert">The alert.</param>
    /// <param name="around">For the rule's name.</param>
    /// <param name="now">When.</param>
    /// <param name="more">What else is said of the alert.</param>
    public static Arrival OfAlert(
        string id,
        string type,
        Alert alert,
        Surroundings around,
        Instant now,
        params IEnumerable<(string Name, JsonNode? Value)> more
    )
    {
        var said = new JsonObject
        {
            ["id"] = alert.Id.ToString(),
            ["rule"] = alert.RuleId,
            ["ruleName"] = around.RuleName(alert.RuleId),
            ["case"] = alert.Case,
            ["urgency"] = alert.Urgency.Name(),
        };
        foreach (var (name, value) in more)
        {
            said[name] = value;
        }

        return Make(id, type, alert.OrderNumber ?? alert.Subject, new JsonObject { ["alert"] = said }, now, alert.OrderNumber);
    }

    /// <summary>An event about a source: what it is of stands in <c>source</c>.</summary>
    /// <param name="id">Its id.</param>
    /// <param name="type">Its type.</param>
    /// <param name="source">The source.</param>
    /// <param name="now">When.</param>
    /// <param name="more">What else is said of it.</param>
    public static Arrival OfSource(string id, string type, Core.Sources.Source source, Instant now, params IEnumerable<(string Name, JsonNode? Value)> more)
    {
        var said = new JsonObject { ["id"] = source.Id, ["name"] = source.Name };
        foreach (var (name, value) in more)
        {
            said[name] = value;
        }

        return Make(id, type, source.Id, new JsonObject { ["source"] = said }, now);
    }

    /// <summary>The event that a source cannot be read where it lies, or can again.</summary>
    /// <param name="source">The source.</param>
    /// <param name="problem">Why it cannot; <see langword="null"/> where it can again.</param>
    /// <param name="now">When.</param>
    public static Arrival OfReach(Core.Sources.Source source, string? problem, Instant now)
    {
        var type = problem is null ? "source.restored" : "source.failing";
        return OfSource($"{type}-{source.Id}-{now.ToUnixTimeMilliseconds()}", type, source, now, ("problem", problem));
    }

    /// <summary>The event that a gateway fails, or works again.</summary>
    /// <param name="gateway">The gateway.</param>
    /// <param name="failing">It fails.</param>
    /// <param name="words">Why, in a reader's words.</param>
    /// <param name="now">When.</param>
    /// <param name="by">What found it out where it was not a message's way: a part of the id; else <see langword="null"/>.</param>
    public static Arrival OfGateway(Gateway gateway, bool failing, string words, Instant now, string? by = null)
    {
        var type = failing ? "gateway.failing" : "gateway.restored";
        var data = new JsonObject
        {
            ["gateway"] = new JsonObject
            {
                ["id"] = gateway.Id,
                ["name"] = gateway.Name,
                ["channel"] = gateway.Channel.Name(),
                ["error"] = words,
            },
        };
        return Make($"{type}{(by is null ? "" : "-" + by)}-{gateway.Id}-{now.ToUnixTimeMilliseconds()}", type, gateway.Id, data, now);
    }
}
