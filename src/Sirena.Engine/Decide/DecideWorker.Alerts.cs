using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Engine.Ladders;
using Sirena.Storage;

namespace Sirena.Engine.Decide;

/// <content>What an event does to the alerts of its order that burn already.</content>
public sealed partial class DecideWorker
{
    // What the event does to the order's alerts that are not over: a status may end them, a new due time moves their steps. Each alert keeps to the version of
    // the rule that raised it.
    private async Task MoveAsync(SirenaDb db, OrderEvent happened, List<Alert> alerts, Surroundings around, Instant now, CancellationToken cancel)
    {
        if (happened.OrderNumber is null)
        {
            return;
        }

        var status = Facts.Member(happened.After, "status").ToString();
        var (before, after) = (DueTime.Of(happened, before: true), DueTime.Of(happened));
        foreach (
            var alert in alerts
                .Where(a => a.OrderNumber == happened.OrderNumber && a.State is AlertState.Open or AlertState.Taken or AlertState.Lapsed)
                .OrderBy(a => a.Id)
                .ToArray()
        )
        {
            if (await shelf.OfAsync(alert, cancel) is not ({ } rule, var one))
            {
                continue;
            }

            var ends = status.Length > 0 && rule.WithdrawAt.Contains(status);
            if (!ends && before == after)
            {
                continue;
            }

            if (ends)
            {
                await WithdrawAsync(db, alert, status, around, now, cancel);
            }
            else if (alert.State != AlertState.Lapsed)
            {
                var life = await lives.OfAsync(db, alert, cancel);
                alert.Time(life.Steps, life.Facts with { Due = after }, now);
                await life.StoreAsync(db, cancel);
            }
        }
    }

    // What a match makes of an alert that it joins: its ladder begins anew, or whoever has it hears of it.
    private async Task JoinAsync(SirenaDb db, Raised raised, OrderEvent happened, Surroundings around, Instant now, CancellationToken cancel)
    {
        foreach (var (alert, decision) in raised.Rejoined)
        {
            var life = await lives.OfAsync(db, alert, cancel);
            alert.Rejoin(
                life.Steps,
                AlertLives.FactsOf(around, decision.Rule, decision.Case, DueTime.Of(happened)),
                raised.Held.TryGetValue(alert.Id, out var held) ? held : null,
                now
            );
            await life.StoreAsync(db, cancel);
        }

        foreach (var (alert, decision) in raised.Joined)
        {
            var told = await db
                .Deliveries.AsNoTracking()
                .Where(d => d.AlertId == alert.Id && d.Person == alert.TakenBy)
                .OrderBy(d => d.CreatedAt)
                .Take(200)
                .ToListAsync(cancel);
            new OneLine(around, now).Tell(
                alert,
                told,
                $"{alert.OrderNumber ?? alert.Subject}: {around.EventName(happened.Type)} as well; you have it",
                "tells whoever has the alert that another match joined it",
                raised
            );
        }
    }

    private static async Task WithdrawAsync(SirenaDb db, Alert alert, string status, Surroundings around, Instant now, CancellationToken cancel)
    {
        alert.Withdraw(now);
        var told = await db.Deliveries.Where(d => d.AlertId == alert.Id).OrderBy(d => d.CreatedAt).Take(200).ToListAsync(cancel);
        foreach (var waits in told.Where(d => d.State == DeliveryState.Waiting && d.Lease is null))
        {
            // A message that other alerts were gathered into still goes.
            if (await db.Deliveries.AnyAsync(d => d.CarriedBy == waits.Id, cancel))
            {
                continue;
            }

            (waits.State, waits.PausedBy, waits.Reason) = (DeliveryState.Skipped, null, $"withdrawn before it went: the order is {around.NameOf(status)}");
        }

        var raised = new Raised();
        new OneLine(around, now).Tell(
            alert,
            told,
            $"{alert.OrderNumber}: nothing more to do, the order is {around.NameOf(status)}",
            "tells that the alert is withdrawn",
            raised
        );
        db.Deliveries.AddRange(raised.Deliveries);
        db.Messages.AddRange(raised.Messages);
    }

    // The alerts that the events may join, move or end, newest first. They are locked in the order of their ids, as everybody locks them: an answer that comes
    // at the same time waits, or was first.
    // Of those that are over the newest of each rule is enough: a rule may rest after it.
    private static async Task<List<Alert>> AlertsAsync(SirenaDb db, string[] subjects, CancellationToken cancel)
    {
        if (subjects.Length == 0)
        {
            return [];
        }

        // Plan: ix_alerts_subject_rule_id_raised_at for both.
        var open = await db
            .Alerts.FromSql(
                $"""
                select * from alerts where subject = any({subjects}) and state in ('open', 'taken', 'lapsed') and rule_id not like 'sirena.%' order by id
                    for update
                """
            )
            .ToListAsync(cancel);
        var over = await db
            .Alerts.FromSql(
                $"""
                select distinct on (subject, rule_id) * from alerts where subject = any({subjects}) and state in ('done', 'withdrawn')
                    order by subject, rule_id, raised_at desc
                """
            )
            .ToListAsync(cancel);
        return [.. open.Concat(over).OrderByDescending(a => a.RaisedAt).ThenByDescending(a => a.Id)];
    }
}
