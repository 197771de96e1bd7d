using System.Text.Json.Nodes;
using NodaTime;
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
}
