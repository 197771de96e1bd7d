using Microsoft.EntityFrameworkCore;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Engine.Decide;
using Sirena.Engine.Rules;
using Sirena.Storage;

namespace Sirena.Engine.Trail;

/// <summary>A rule's verdict on an event: computed again from the stored event and rule version, with what was made of a match at the time.</summary>
public sealed record RuleTrail(Decision Decision, Outcome Outcome, Guid? Alert);

/// <summary>An event and every rule that listens to it.</summary>
public sealed record EventTrail(OrderEvent Event, IReadOnlyList<RuleTrail> Rules);

/// <summary>A delivery with its tries and the later news of it.</summary>
public sealed record DeliveryTrail(Delivery Delivery, IReadOnlyList<Attempt> Attempts, IReadOnlyList<Receipt> Receipts)
{
    /// <summary>The last try, or <see langword="null"/> when there was none.</summary>
    public Attempt? LastAttempt => Attempts.Count > 0 ? Attempts[^1] : null;

    /// <summary>The last news, or <see langword="null"/>.</summary>
    public Receipt? LastReceipt => Receipts.Count > 0 ? Receipts[^1] : null;
}

/// <summary>An alert with its steps, deliveries and answers.</summary>
public sealed record AlertTrail(Alert Alert, IReadOnlyList<AlertStep> Steps, IReadOnlyList<DeliveryTrail> Deliveries, IReadOnlyList<Answer> Answers);

/// <summary>All that is known of an order, or of an event without one.</summary>
public sealed record OrderTrail(Order? Order, IReadOnlyList<EventTrail> Events, IReadOnlyList<AlertTrail> Alerts);

/// <summary>Reads trails.</summary>
public sealed class TrailReader(SirenaDb db, RuleShelf shelf, SurroundingsCache surroundings)
{
    private const int MostEvents = 300;

    /// <summary>The trail of an order, or <see langword="null"/> when it is not known.</summary>
    public async Task<OrderTrail?> OfOrderAsync(string number, CancellationToken cancel)
    {
        var order = await db.Orders.AsNoTracking().FirstOrDefaultAsync(o => o.Number == number && o.Seq > 0, cancel);
        if (order is null)
        {
            return null;
        }

        var events = await db.Events.AsNoTracking().Where(e => e.OrderNumber == number).OrderByDescending(e => e.Seq).Take(MostEvents).ToListAsync(cancel);
        events.Reverse();
        return new OrderTrail(order, await OfAsync(events, cancel), await AlertsAsync(db.Alerts.Where(a => a.OrderNumber == number), cancel));
    }

    /// <summary>The trail of one event by the id that its source gave it, the newest of several sources; <see langword="null"/> when it is not known.</summary>
    public async Task<OrderTrail?> OfEventAsync(string eventId, CancellationToken cancel)
    {
        var happened = await db.Events.AsNoTracking().Where(e => e.EventId == eventId).OrderByDescending(e => e.Id).FirstOrDefaultAsync(cancel);
        if (happened is null)
        {
            return null;
        }

        var order = happened.OrderNumber is null ? null : await db.Orders.AsNoTracking().FirstOrDefaultAsync(o => o.Number == happened.OrderNumber, cancel);
        var joined = db.Matches.Where(m => m.EventId == happened.Id && m.AlertId != null).Select(m => m.AlertId!.Value);
        return new OrderTrail(order, await OfAsync([happened], cancel), await AlertsAsync(db.Alerts.Where(a => joined.Contains(a.Id)), cancel));
    }

    /// <summary>The given alerts with all that belongs to them, newest first.</summary>
    public async Task<IReadOnlyList<AlertTrail>> AlertsAsync(IQueryable<Alert> which, CancellationToken cancel)
    {
        var alerts = await which.AsNoTracking().OrderByDescending(a => a.RaisedAt).ThenByDescending(a => a.Id).ToListAsync(cancel);
        Guid[] ids = [.. alerts.Select(a => a.Id)];
        var steps = (await db.AlertSteps.AsNoTracking().Where(s => ids.Contains(s.AlertId)).OrderBy(s => s.Index).ToListAsync(cancel)).ToLookup(s => s.AlertId);
        var answers = (await db.Answers.AsNoTracking().Where(a => ids.Contains(a.AlertId)).OrderBy(a => a.At).ToListAsync(cancel)).ToLookup(a => a.AlertId);
        var deliveries = (
            await DeliveriesAsync(
                await db.Deliveries.AsNoTracking().Where(d => ids.Contains(d.AlertId)).OrderBy(d => d.CreatedAt).ThenBy(d => d.Id).ToListAsync(cancel),
                cancel
            )
        ).ToLookup(d => d.Delivery.AlertId);
        return [.. alerts.Select(a => new AlertTrail(a, [.. steps[a.Id]], [.. deliveries[a.Id]], [.. answers[a.Id]]))];
    }

    /// <summary>The given deliveries with their tries and news, in their order.</summary>
    public async Task<IReadOnlyList<DeliveryTrail>> DeliveriesAsync(IReadOnlyList<Delivery> deliveries, CancellationToken cancel)
    {
        Guid[] ids = [.. deliveries.Select(d => d.Id)];
        var attempts = (await db.Attempts.AsNoTracking().Where(a => ids.Contains(a.DeliveryId)).OrderBy(a => a.Number).ToListAsync(cancel)).ToLookup(a =>
            a.DeliveryId
        );
        var receipts = (await db.Receipts.AsNoTracking().Where(r => ids.Contains(r.DeliveryId)).OrderBy(r => r.At).ToListAsync(cancel)).ToLookup(r =>
            r.DeliveryId
        );
        return [.. deliveries.Select(d => new DeliveryTrail(d, [.. attempts[d.Id]], [.. receipts[d.Id]]))];
    }

    private async Task<IReadOnlyList<EventTrail>> OfAsync(IReadOnlyList<OrderEvent> events, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        long[] ids = [.. events.Select(e => e.Id)];
        var matches = (await db.Matches.AsNoTracking().Where(m => ids.Contains(m.EventId)).ToListAsync(cancel)).ToDictionary(m => (m.EventId, m.RuleId));
        var trails = new List<EventTrail>(events.Count);
        foreach (var happened in events)
        {
            var book = await shelf.BookAsync(happened.Book);
            var rules = book.Explain(new Facts(happened, around.Business.Zone, around.Business.Currency))
                .Concat(OwnRules.Matches(happened, around))
                .Select(decision =>
                {
                    var match = matches.GetValueOrDefault((happened.Id, decision.Rule.Id));
                    return new RuleTrail(decision, match?.Outcome ?? decision.Outcome, match?.AlertId);
                });
            trails.Add(new EventTrail(happened, [.. rules]));
        }

        return trails;
    }
}
