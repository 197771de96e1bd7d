using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Rules;
using Sirena.Engine.Intake;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Decide;

/// <summary>
/// Makes events of what deciding found: a recipient of an alert resolves to nobody, a rule raises too many alerts. So a rule can tell somebody who mends it. An
/// id comes from what happened: it is made once, whichever node
/// decides. An alert that was raised by such an event makes none.
/// </summary>
public sealed class OwnNews(IntakeDesk desk, SurroundingsCache surroundings, IClock clock, ILogger<OwnNews> log)
{
    /// <summary>Takes in <c>recipient.unreachable</c> for each alert that misses somebody, about what the event that raised it was about.</summary>
    public async Task UnreachableAsync(IReadOnlyList<(OrderEvent Event, Alert Alert)> missing, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        await TakeAsync(
            [
                .. missing.Select(m =>
                {
                    var (happened, alert) = m;
                    var data = new JsonObject
                    {
                        ["alert"] = new JsonObject
                        {
                            ["id"] = alert.Id.ToString(),
                            ["rule"] = alert.RuleId,
                            ["ruleName"] = around.RuleName(alert.RuleId),
                            ["case"] = alert.Case,
                            ["unreached"] = alert.Unreached,
                        },
                    };
                    return OwnEvents.Make(
                        $"unreachable-{alert.Id}",
                        EventTypes.Unreachable,
                        alert.OrderNumber ?? alert.Subject,
                        data,
                        clock.GetCurrentInstant(),
                        happened.OrderNumber
                    );
                }),
            ],
            cancel
        );
    }

    /// <summary>Takes in <c>event.undecided</c> for an event that was set aside.</summary>
    public Task UndecidedAsync(OrderEvent happened, CancellationToken cancel)
    {
        var data = new JsonObject
        {
            ["undecided"] = new JsonObject
            {
                ["id"] = happened.EventId,
                ["type"] = happened.Type,
                ["source"] = happened.Source,
                ["problem"] = happened.Problem,
            },
        };
        return TakeAsync(
            [
                OwnEvents.Make(
                    $"undecided-{happened.Id}-{happened.SetAsideAt!.Value.ToUnixTimeMilliseconds()}",
                    EventTypes.Undecided,
                    happened.OrderNumber ?? happened.Subject ?? happened.EventId,
                    data,
                    clock.GetCurrentInstant(),
                    happened.OrderNumber
                ),
            ],
            cancel
        );
    }

    /// <summary>Takes in <c>rule.storm</c> for rules whose guard began to gather, once within a guard's span.</summary>
    public Task StormAsync(IReadOnlyList<Rule> rules, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        return TakeAsync(
            [
                .. rules.Select(rule =>
                {
                    var data = new JsonObject
                    {
                        ["rule"] = new JsonObject
                        {
                            ["id"] = rule.Id,
                            ["name"] = rule.Name,
                            ["alerts"] = rule.Storm!.Alerts,
                            ["within"] = rule.Storm.Within.Iso(),
                        },
                    };
                    return OwnEvents.Make(
                        $"storm-{rule.Id}-{now.ToUnixTimeSeconds() / (long)rule.Storm.Within.TotalSeconds}",
                        EventTypes.RuleStorm,
                        rule.Id,
                        data,
                        now
                    );
                }),
            ],
            cancel
        );
    }

    private async Task TakeAsync(IReadOnlyList<Arrival> arrivals, CancellationToken cancel)
    {
        try
        {
            await desk.TakeAsync(arrivals, cancel);
        }
        catch (Exception e) when (Sirena.Storage.DatabaseFault.OfDatabase(e) || e is JsonException)
        {
            log.LogError(
                e,
                "News of {Count} of Sirena's own events could not be stored; what they are about stands on the orders and in the strip all the same.",
                arrivals.Count
            );
        }
    }
}
