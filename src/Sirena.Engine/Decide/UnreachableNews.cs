using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Engine.Intake;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Decide;

/// <summary>
/// Makes an event of its own, <c>recipient.unreachable</c>, when a recipient of an alert resolves to nobody, so that a rule can tell somebody who mends it. Its id comes from the alert: it is
/// made once, whichever node decides. An alert that was raised by such an event makes none.
/// </summary>
public sealed class UnreachableNews(IntakeDesk desk, SurroundingsCache surroundings, IClock clock, ILogger<UnreachableNews> log)
{
    /// <summary>Takes in an event for each alert that misses somebody, about what the event that raised it was about.</summary>
    public async Task TellAsync(IReadOnlyList<(OrderEvent Event, Alert Alert)> missing, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var arrivals = new List<Arrival>();
        foreach (var (happened, alert) in missing)
        {
            var data = new JsonObject { ["alert"] = new JsonObject { ["id"] = alert.Id.ToString(), ["rule"] = alert.RuleId, ["ruleName"] = around.RuleName(alert.RuleId), ["case"] = alert.Case, ["unreached"] = alert.Unreached } };
            arrivals.Add(OwnEvents.Make($"unreachable-{alert.Id}", EventTypes.Unreachable, alert.OrderNumber ?? alert.Subject, data, clock.GetCurrentInstant(), happened.OrderNumber));
        }

        try
        {
            await desk.TakeAsync(arrivals, cancel);
        }
        catch (Exception e) when (e is Npgsql.NpgsqlException or JsonException)
        {
            log.LogError(e, "The news that {Count} alerts miss a recipient could not be stored; it stands on the orders and in the strip all the same.", arrivals.Count);
        }
    }
}
