using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Engine.Decide;
using Sirena.Engine.Ladders;

namespace Sirena.Demo.World;

public sealed partial class History
{
    // The mail carrier of the past: nearly all taken and reported delivered, some put off, one mailbox that no longer exists.
    private void Send(Delivery delivery, Instant end)
    {
        var at = delivery.CreatedAt + Duration.FromMilliseconds(chance.Next(15, 60));
        const string gateway = "Averil mail carrier";
        var dice = chance.NextDouble();
        if (delivery.Channel is Channel.Sms or Channel.Chat)
        {
            // A phone network tells soon what became of a message; now and then a handset is off.
            var (by, id) = (delivery.Channel == Channel.Sms ? "Averil phone network" : "Quay team chat", $"p-{chance.Next(0x100000, 0xFFFFFF):x}");
            Note(delivery, at, by, AttemptOutcome.Accepted, "202", $"{{\"message\":{{\"id\":\"{id}\"}}}}");
            (delivery.State, delivery.HandedOverAt, delivery.FarId, delivery.LandedAt) = (
                dice < 0.97 ? DeliveryState.Landed : DeliveryState.Failed,
                at,
                id,
                dice < 0.97 ? at + Duration.FromMilliseconds(chance.Next(700, 6_000)) : null
            );
            delivery.Reason = dice < 0.97 ? null : "the handset is not reachable";
            Receipts.Add(
                new Receipt
                {
                    DeliveryId = delivery.Id,
                    At = delivery.LandedAt ?? at + Duration.FromSeconds(30),
                    Kind = dice < 0.97 ? "delivered" : "failed",
                    Text = dice < 0.97 ? $"{by} reported: delivered" : "the handset is not reachable",
                }
            );
            return;
        }

        if (delivery.To.StartsWith("kaia.lund@", StringComparison.Ordinal))
        {
            Note(delivery, at, gateway, AttemptOutcome.Permanent, "550", "5.1.1 The mailbox does not exist");
            (delivery.State, delivery.Reason, delivery.Evidence) = (
                DeliveryState.Failed,
                "refused for good: 5.1.1 The mailbox does not exist",
                "5.1.1 The mailbox does not exist"
            );
            return;
        }

        var deferred = dice < 0.05 ? chance.Next(1, 3) : 0;
        for (var i = 0; i < deferred; i++)
        {
            Note(delivery, at, gateway, AttemptOutcome.Temporary, "451", "4.7.1 Greylisted, come back later");
            at += Duration.FromSeconds(i == 0 ? 5 : 20);
        }

        if (dice is > 0.995 && end - at > Duration.FromHours(5))
        {
            foreach (var pause in RetrySchedule.Default.Pauses)
            {
                Note(delivery, at, gateway, AttemptOutcome.Temporary, "452", "4.2.2 The mailbox is full");
                at += pause;
            }

            (delivery.State, delivery.Reason, delivery.Evidence) = (
                DeliveryState.Expired,
                $"gave up after {delivery.Tries} tries: 4.2.2 The mailbox is full",
                "4.2.2 The mailbox is full"
            );
            return;
        }

        var reply = $"2.0.0 Taken as {chance.Next(0x100000, 0xFFFFFF):x}{chance.Next(0x1000, 0xFFFF):x}";
        Note(delivery, at, gateway, AttemptOutcome.Accepted, "250", reply);
        (delivery.State, delivery.HandedOverAt, delivery.Evidence) = (DeliveryState.HandedOver, at, reply);
        if (dice < 0.9 && end - at > Duration.FromMinutes(1))
        {
            (delivery.State, delivery.LandedAt) = (DeliveryState.Landed, at + Duration.FromMilliseconds(chance.Next(900, 9_000)));
            Receipts.Add(
                new Receipt
                {
                    DeliveryId = delivery.Id,
                    At = delivery.LandedAt!.Value,
                    Kind = "delivered",
                    Text = "2.1.5 Delivered to the mailbox",
                }
            );
        }
    }

    private void Note(Delivery delivery, Instant at, string gateway, AttemptOutcome outcome, string code, string reply)
    {
        delivery.Tries++;
        Attempts.Add(
            new Attempt
            {
                DeliveryId = delivery.Id,
                Number = delivery.Tries,
                At = at,
                EndedAt = at + Duration.FromMilliseconds(chance.Next(3, 20)),
                Gateway = gateway,
                Outcome = outcome,
                Code = code,
                Reply = reply,
            }
        );
    }

    private void Answer(Alert alert, Delivery[] deliveries, Instant end)
    {
        var readers = deliveries
            .Where(d => d.Person is not null && d.State is DeliveryState.Landed or DeliveryState.HandedOver && d.Person is not null)
            .ToArray();
        if (readers.Length == 0 || chance.NextDouble() < 0.08)
        {
            return;
        }

        var reader = readers[chance.Next(readers.Length)];
        var taken = alert.RaisedAt + Duration.FromSeconds(alert.Urgency == Urgency.Urgent ? chance.Next(40, 700) : chance.Next(90, 2400));
        if (taken >= end)
        {
            return;
        }

        alert.Answer(new AnswerGiven(AnswerKind.Taken, reader.Person!), [], LadderFacts.None, taken, id => id);
        (reader.Answered, reader.State) = (true, DeliveryState.Landed);
        reader.LandedAt = reader.LandedAt is { } landed && landed < taken ? landed : taken;
        Answers.Add(
            new Answer
            {
                AlertId = alert.Id,
                Person = reader.Person!,
                Kind = AnswerKind.Taken,
                At = taken,
                Via = "mail link",
            }
        );
        var done = taken + Duration.FromMinutes(chance.Next(6, 50));
        if (done < end && chance.NextDouble() < 0.9)
        {
            alert.Answer(new AnswerGiven(AnswerKind.Done, reader.Person!), [], LadderFacts.None, done, id => id);
            Answers.Add(
                new Answer
                {
                    AlertId = alert.Id,
                    Person = reader.Person!,
                    Kind = AnswerKind.Done,
                    At = done,
                    Via = "mail link",
                }
            );
        }
    }

    // The steps that came due while nobody had answered.
    private void Climb(Instant end)
    {
        var (events, alerts) = (Events.ToDictionary(e => e.Id), Raised.Alerts.ToDictionary(a => a.Id));
        foreach (var step in Raised.Steps.Where(s => s.FiredAt is null).ToArray())
        {
            var alert = alerts[step.AlertId];
            var until = alert.TakenAt ?? alert.EndedAt ?? end;
            if (step.DueAt >= until || step.DueAt >= end)
            {
                continue;
            }

            var rule = book.Rules.First(r => r.Rule.Id == alert.RuleId);
            var without = AlertLives.Without(
                alert,
                Raised.Steps.Where(s => s.AlertId == alert.Id),
                step,
                Raised.Deliveries.Where(d => d.AlertId == alert.Id),
                [],
                around.Business.Zone
            );
            var fired = new EventDecision(around, step.DueAt).Fire(
                events[alert.EventId],
                new Decision(rule.Rule, rule.Version, Outcome.Matched, rule.Rule.Cases.First(c => c.Name == alert.Case), []),
                alert,
                step,
                without
            );
            (step.Told, step.Left) = (fired.Steps[0].Told, fired.Steps[0].Left);
            alert.Fired([(step, null)], [], LadderFacts.None, step.DueAt);
            Raised.Deliveries.AddRange(fired.Deliveries);
            Raised.Messages.AddRange(fired.Messages);
            foreach (var delivery in fired.Deliveries.Where(d => d.State == DeliveryState.Waiting))
            {
                Send(delivery, end);
            }
        }
    }

    // What nobody answered long ago has lapsed.
    private void Settle(Instant end)
    {
        foreach (var alert in Raised.Alerts.Where(a => a.State == AlertState.Open && a.WaitsUntil <= end))
        {
            alert.Lapse([], alert.WaitsUntil!.Value);
        }
    }
}
