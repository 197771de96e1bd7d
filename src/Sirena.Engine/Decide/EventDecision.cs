using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text.Json;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;
using Sirena.Engine.Instructions;
using Sirena.Engine.Ladders;
using Sirena.Storage.Access;

namespace Sirena.Engine.Decide;

/// <summary>
/// Decides one event: which alerts are raised or joined, who is told by what, in which words. Reads nothing and writes nothing; the worker and the maker of the
/// demo's
/// history both store what it returns.
/// </summary>
public sealed class EventDecision(Surroundings around, Instant now)
{
    /// <summary>Decides.</summary>
    /// <param name="happened">The event.</param>
    /// <param name="book">The rule book that it was stamped with.</param>
    /// <param name="latest">The newest alert of a rule for the event's subject; it is changed where the event joins it.</param>
    /// <param name="gathering">The message of a rule to a reader that is still being gathered; <see langword="null"/> where nothing is gathered.</param>
    /// <param name="recent">How many alerts a rule with a storm guard raised within its span; <see langword="null"/> where no guard holds.</param>
    public Raised Decide(
        OrderEvent happened,
        RuleBook book,
        Func<string, Alert?> latest,
        Func<string, (Channel Channel, string Reader), Delivery?>? gathering = null,
        Func<Rule, int>? recent = null
    )
    {
        var facts = new Facts(happened, around.Business.Zone, around.Business.Currency);
        var raised = new Raised();
        var telling = new List<Telling>();
        foreach (var decision in book.Matches(facts).Concat(OwnRules.Matches(happened, around)))
        {
            var joining = Joining.Of(decision, happened, happened.Subject is null || OwnRules.IsOwn(decision.Rule.Id) ? null : latest(decision.Rule.Id), now);
            var alert = joining.Alert ?? (joining.Tells && !(decision.Case!.Tell.IsEmpty && decision.Case.Ladder.IsEmpty) ? Raise(happened, decision) : null);
            raised.Matches.Add(
                new Match
                {
                    EventId = happened.Id,
                    RuleId = decision.Rule.Id,
                    Version = decision.Version,
                    Case = decision.Case!.Name,
                    Outcome = joining.Outcome,
                    AlertId = alert?.Id,
                    At = now,
                }
            );
            if (joining.Tells)
            {
                var paused = alert is null
                    ? !OwnRules.IsOwn(decision.Rule.Id) && around.PauseOf(decision.Rule.Id, decision.Case.Tell, now) is not null
                    : alert.PausedBy is not null;
                raised.Asks.AddRange(
                    decision.Case.Do.Select(ask => new RuleAsk(
                        decision.Rule,
                        decision.Version,
                        ask,
                        alert?.Id,
                        paused,
                        $"{around.EventName(happened.Type)}, {decision.Case.Name}"
                    ))
                );
            }

            if (alert is null)
            {
                continue;
            }

            if (joining.Alert is null)
            {
                // A case that tells nobody and has a ladder waits: nobody is missed by it.
                alert.ReachesSomebody |= decision.Case.Tell.IsEmpty;
                raised.Alerts.Add(alert);
                var steps = new List<AlertStep>();
                alert.Begin(steps, FactsOf(happened, decision), now);
                raised.Steps.AddRange(steps);
            }
            else if (alert.State == AlertState.Taken)
            {
                // Somebody has it: they hear of the new reason, nobody else.
                raised.Joined.Add(new Joined(alert, decision));
                continue;
            }

            if (joining.Tells)
            {
                raised.Rejoined.AddRange(joining.Alert is null ? [] : [new Joined(alert, decision)]);
                var storm = joining.Alert is null && decision.Rule.Storm is { } guard && recent is not null && recent(decision.Rule) >= guard.Alerts;
                raised.Storms.AddRange(storm && recent!(decision.Rule) == decision.Rule.Storm!.Alerts ? [decision.Rule] : []);
                telling.Add(
                    new Telling(
                        decision,
                        alert,
                        new WhoIsTold(around.Staff, around.Business, facts)
                            .Resolve(
                                new TellQuestion(
                                    decision.Case.Tell,
                                    decision.Case.By,
                                    decision.Rule.Urgency,
                                    happened.Type,
                                    decision.Rule.Id,
                                    decision.Rule.MayOptOut,
                                    now
                                )
                            )
                            .Chosen(happened.Tell),
                        joining.Alert is null ? 0 : -1,
                        storm
                    )
                );
            }
        }

        Tell(facts, telling, raised, gathering);
        foreach (
            var told in telling.Where(t =>
                t.Step == 0
                && t.Decision.Case!.Ladder.IsEmpty
                && t.Alert is { Unreached: 0, PausedBy: null }
                && (t.Decision.Case!.Name == OwnRules.Tells || (t.Who.Told.Count > 0 && t.Who.Told.Concat(t.Who.Held).All(w => w.Customer)))
            )
        )
        {
            // Customers read and do not answer: nothing is left to wait for, and the next event tells them anew.
            told.Alert.Settle(now);
        }

        if (happened.Tell is { Staff: false })
        {
            // Nobody of the staff is to be told: nobody is waited for.
            foreach (var told in telling.Where(t => t.Step == 0))
            {
                told.Alert.Settle(now);
                raised.Steps.RemoveAll(s => s.AlertId == told.Alert.Id && s.FiredAt is null);
            }
        }

        return raised;
    }

    /// <summary>Fires a step of an alert's ladder: who is told now, in which words.</summary>
    /// <param name="happened">The event that raised the alert.</param>
    /// <param name="decision">The rule's version, and the case as it was used.</param>
    /// <param name="alert">The alert.</param>
    /// <param name="fired">The step.</param>
    /// <param name="without">Who is left out of it, and why: by the person's id, or the address of somebody outside.</param>
    public Raised Fire(OrderEvent happened, Decision decision, Alert alert, AlertStep fired, IReadOnlyDictionary<string, string>? without = null)
    {
        var (one, asks) = (decision.Case!, System.Collections.Immutable.ImmutableArray<Core.Instructions.InstructionAsk>.Empty);
        if (fired.Aim is { } aim)
        {
            one = one with { Tell = [aim] };
        }
        else
        {
            var step = one.Ladder[fired.Rung - 1];
            asks = step.Do;
            one = one with { Tell = step.Tell, By = step.By ?? one.By, Wording = step.Wording ?? one.Wording };
        }

        var facts = new Facts(happened, around.Business.Zone, around.Business.Currency);
        var raised = new Raised();
        var who = new WhoIsTold(around.Staff, around.Business, facts)
            .Resolve(new TellQuestion(one.Tell, one.By, decision.Rule.Urgency, happened.Type, decision.Rule.Id, decision.Rule.MayOptOut, now))
            .Chosen(happened.Tell);
        raised.Asks.AddRange(asks.Select(ask => new RuleAsk(decision.Rule, decision.Version, ask, alert.Id, Paused: false, $"step {fired.Rung}")));
        Tell(facts, [new Telling(decision with { Case = one }, alert, without is { Count: > 0 } ? who.Without(without) : who, fired.Index)], raised);
        return raised;
    }

    private Alert Raise(OrderEvent happened, Decision decision)
    {
        var pause = OwnRules.IsOwn(decision.Rule.Id) ? null : around.PauseOf(decision.Rule.Id, decision.Case!.Tell, now);
        var alert = new Alert
        {
            Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
            EventId = happened.Id,
            OrderNumber = happened.OrderNumber,
            Subject = happened.Subject,
            RuleId = decision.Rule.Id,
            Version = decision.Version,
            Case = decision.Case!.Name,
            Urgency = decision.Rule.Urgency,
            State = AlertState.Open,
            RaisedAt = now,
            BeganAt = now,
        };
        if (pause is not null)
        {
            alert.Hold(pause.Id, now);
        }

        return alert;
    }

    private LadderFacts FactsOf(OrderEvent happened, Decision decision) => AlertLives.FactsOf(around, decision.Rule, decision.Case, DueTime.Of(happened));

    private void Tell(Facts facts, List<Telling> tellings, Raised raised, Func<string, (Channel Channel, string Reader), Delivery?>? gathering = null) =>
        new AlertMessages(around, now, facts, raised, gathering).Tell(tellings);

    /// <summary>A channel by its outside name.</summary>
}
