using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Engine.Dispatch;
using Sirena.Engine.Orders;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Decide;

/// <summary>
/// Decides events, those of one order strictly in their order. All that an event's rules raise and the mark that it was decided go into one transaction, so
/// that an event is decided exactly once however often a node dies.
/// </summary>
public sealed class DecideWorker(IDbContextFactory<SirenaDb> factory, RuleShelf shelf, SurroundingsCache surroundings, Dispatcher mail, OwnNews news, FieldWatch fields, Signals signals, IClock clock, ILogger<DecideWorker> log)
    : BackgroundService
{
    private const int AtOnce = 50;
    private const int MostTries = 5;
    private static readonly Duration Poll = Duration.FromSeconds(1);

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        var decided = 0;
        while (true)
        {
            try
            {
                // After a batch one more may wait, of the same orders; a look is cheaper than a claim.
                decided = decided > 0 && !await AnyAsync(stoppingToken) ? 0 : await DecideAsync(AtOnce, stoppingToken);
            }
            catch (Exception e) when (!stoppingToken.IsCancellationRequested)
            {
                log.LogError(e, "Events could not be decided together; each is tried alone.");
                decided = await AloneAsync(stoppingToken);
            }

            if (decided == 0)
            {
                await signals.WaitAsync(Topic.Events, Poll, stoppingToken);
            }
        }
    }

    private async Task<bool> AnyAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return await db.Events.AnyAsync(e => e.DecidedAt == null, cancel);
    }

    /// <summary>Decides up to that many of the events that wait, in one transaction.</summary>
    /// <returns>How many there were.</returns>
    public async Task<int> DecideAsync(int atMost, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var events = await db.ClaimAsync(atMost, cancel);
        if (events.Count == 0)
        {
            return 0;
        }

        var (anew, missing, storms) = await DecideAsync(db, events, cancel);
        var fresh = db.ChangeTracker.Entries<Delivery>().Where(e => e.State == EntityState.Added).Select(e => e.Entity).ToArray();
        var messages = db.ChangeTracker.Entries<Message>().ToDictionary(e => e.Entity.DeliveryId, e => e.Entity);
        var taken = await mail.TakeAsync(fresh, cancel);
        try
        {
            foreach (var delivery in taken)
            {
                db.Attempts.Add(mail.First(delivery));
            }

            await db.SaveChangesAsync(cancel);
            foreach (var told in anew)
            {
                await db.Database.ExecuteSqlAsync($"""update alert_steps set told = told || {told.Told}::jsonb, "left" = "left" || {told.Left}::jsonb where alert_id = {told.Alert} and index = 0""", cancel);
            }

            await transaction.CommitAsync(cancel);
        }
        catch
        {
            taken.ToList().ForEach(mail.GiveBack);
            throw;
        }

        foreach (var delivery in taken)
        {
            mail.Begin(delivery, messages[delivery.Id]);
        }

        if (fresh.Any(d => d.State == DeliveryState.Waiting))
        {
            signals.Raise(Topic.Deliveries);
        }

        events.ForEach(fields.Note);
        signals.Raise(Topic.Pages);
        if (missing.Count > 0)
        {
            await news.UnreachableAsync(missing, cancel);
        }

        if (storms.Count > 0)
        {
            await news.StormAsync(storms, cancel);
        }

        return events.Count;
    }

    private async Task<(List<ToldAnew> Anew, List<(OrderEvent Event, Alert Alert)> Missing, List<Rule> Storms)> DecideAsync(SirenaDb db, List<OrderEvent> events, CancellationToken cancel)
    {
        var (anew, missing, storms) = (new List<ToldAnew>(), new List<(OrderEvent, Alert)>(), new List<Rule>());
        var around = await surroundings.GetAsync(cancel);
        string[] subjects = [.. events.Select(e => e.Subject).OfType<string>().Distinct()];
        var alerts = await db.Alerts.Where(a => subjects.Contains(a.Subject!)).OrderByDescending(a => a.RaisedAt).ThenByDescending(a => a.Id).Take(2000).ToListAsync(cancel);
        var gathering = await GatheringAsync(db, events, cancel);
        var recent = await RecentAsync(db, events, cancel);
        foreach (var happened in events)
        {
            var now = clock.GetCurrentInstant();
            await MoveAsync(db, happened, alerts, around, now, cancel);
            var raised = new EventDecision(around, now).Decide(happened, await shelf.BookAsync(happened.Book), rule => alerts.FirstOrDefault(a => a.Subject == happened.Subject && a.RuleId == rule),
                (rule, reader) => gathering.LastOrDefault(d => d.RuleId == rule && d.Channel == reader.Channel && (d.Person ?? d.To.ToLowerInvariant()) == reader.Reader && d.DueAt > now), rule => recent.GetValueOrDefault(rule.Id));
            gathering.AddRange(raised.Deliveries.Where(d => d.GathersUntil is not null));
            alerts.InsertRange(0, raised.Alerts);
            storms.AddRange(raised.Storms);
            foreach (var alert in raised.Alerts.Where(a => recent.ContainsKey(a.RuleId)))
            {
                recent[alert.RuleId]++;
            }

            db.Matches.AddRange(raised.Matches);
            db.Alerts.AddRange(raised.Alerts);
            db.AlertSteps.AddRange(raised.Steps);
            db.Deliveries.AddRange(raised.Deliveries);
            db.Messages.AddRange(raised.Messages);
            await GatherAsync(db, raised.Gathered, cancel);
            db.AnswerLinks.AddRange(raised.Links);
            anew.AddRange(raised.ToldAnew);
            if (!EventTypes.IsOwn(happened.Type))
            {
                missing.AddRange(raised.Alerts.Where(a => a.Unreached > 0).Select(a => (happened, a)));
            }

            happened.DecidedAt = now;
        }

        return (anew, missing, storms);
    }

    // How many alerts the rules with a storm guard raised within its span. Plan: the index over rule and time, as far back as the span.
    private async Task<Dictionary<string, int>> RecentAsync(SirenaDb db, List<OrderEvent> events, CancellationToken cancel)
    {
        var counts = new Dictionary<string, int>();
        foreach (var version in events.Select(e => e.Book).Distinct())
        {
            foreach (var rule in (await shelf.BookAsync(version)).Guarded.Where(r => r.When.Any(w => events.Exists(e => e.Type == w)) && !counts.ContainsKey(r.Id)))
            {
                var since = clock.GetCurrentInstant() - rule.Storm!.Within;
                counts[rule.Id] = await db.Alerts.CountAsync(a => a.RuleId == rule.Id && a.RaisedAt > since, cancel);
            }
        }

        return counts;
    }

    // The messages that are still being gathered; they are locked, so that none goes while it is added to.
    private async Task<List<Delivery>> GatheringAsync(SirenaDb db, List<OrderEvent> events, CancellationToken cancel)
    {
        foreach (var version in events.Select(e => e.Book).Distinct())
        {
            if ((await shelf.BookAsync(version)).Gathers)
            {
                // Plan: ix_deliveries_gathering, which has only those that still wait.
                return await db.Deliveries.FromSql($"select * from deliveries where gathers_until > {clock.GetCurrentInstant()} and state = 'waiting' and due_at = gathers_until and lease is null order by due_at for update skip locked").ToListAsync(cancel);
            }
        }

        return [];
    }

    // A message of this very batch is not stored yet, but known.
    private static async Task GatherAsync(SirenaDb db, IEnumerable<GatheredLine> lines, CancellationToken cancel)
    {
        foreach (var (delivery, line) in lines.Select(l => (l.Delivery, l.Line)))
        {
            (await db.Messages.FindAsync([delivery], cancel))?.Gather(line);
        }
    }

    // What the event does to the order's alerts that are not over: a status may end them, a new due time moves their steps. Each alert keeps to the version of the rule that raised it.
    private async Task MoveAsync(SirenaDb db, OrderEvent happened, List<Alert> alerts, Surroundings around, Instant now, CancellationToken cancel)
    {
        if (happened.OrderNumber is null)
        {
            return;
        }

        var status = Facts.Member(happened.After, "status").ToString();
        var (before, after) = (LadderPlan.DueAt(happened, before: true), LadderPlan.DueAt(happened));
        foreach (var alert in alerts.Where(a => a.OrderNumber == happened.OrderNumber && a.State is AlertState.Open or AlertState.Taken or AlertState.Lapsed).OrderBy(a => a.Id).ToArray())
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

            await LockAsync(db, alert, cancel);
            if (alert.State is AlertState.Done or AlertState.Withdrawn)
            {
                continue;
            }

            if (ends)
            {
                await WithdrawAsync(db, alert, status, around, now, cancel);
            }
            else if (alert.State == AlertState.Open && one is { Ladder.IsEmpty: false })
            {
                var steps = await db.AlertSteps.Where(s => s.AlertId == alert.Id).ToListAsync(cancel);
                var began = steps.Where(s => s.Rung == 0 && s.FiredAt is not null).Max(s => s.FiredAt) ?? alert.RaisedAt;
                new LadderPlan(around, now).Retime(steps, rule, one, began, before, after);
            }
        }
    }

    // The alert's row is locked before its steps, in the order of ids, as an answer does: neither waits for the other in a circle, nor overwrites what it made of the alert. One that this very batch raised is nobody else's yet.
    private static async Task LockAsync(SirenaDb db, Alert alert, CancellationToken cancel)
    {
        if (db.Entry(alert).State != EntityState.Added && (await db.Alerts.FromSql($"select * from alerts where id = {alert.Id} for update").AsNoTracking().ToListAsync(cancel)) is [var now])
        {
            var state = db.Entry(alert).Property(a => a.State);
            (state.CurrentValue, state.OriginalValue) = (now.State, now.State);
        }
    }

    private static async Task WithdrawAsync(SirenaDb db, Alert alert, string status, Surroundings around, Instant now, CancellationToken cancel)
    {
        (alert.State, alert.EndedAt, alert.DoneBy, alert.PausedBy, alert.PausedAt) = (AlertState.Withdrawn, now, null, null, null);
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
        new WithdrawnLine(around, now).Tell(alert, told, status, raised);
        db.Deliveries.AddRange(raised.Deliveries);
        db.Messages.AddRange(raised.Messages);
    }

    // One event that cannot be decided must not hold up the others: it is noted, tried a few times, then shown with its problem.
    private async Task<int> AloneAsync(CancellationToken cancel)
    {
        try
        {
            return await DecideAsync(1, cancel);
        }
        catch (DbUpdateException e) when (!cancel.IsCancellationRequested)
        {
            return await SetAsideAsync(e, cancel);
        }
        catch (Exception e) when (e is not Npgsql.NpgsqlException && !cancel.IsCancellationRequested)
        {
            return await SetAsideAsync(e, cancel);
        }
        catch (Npgsql.NpgsqlException e) when (!cancel.IsCancellationRequested)
        {
            log.LogWarning("The database does not answer: {Problem}", e.Message);
            return 0;
        }
    }

    private async Task<int> SetAsideAsync(Exception problem, CancellationToken cancel)
    {
        log.LogError(problem, "An event could not be decided.");
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        foreach (var happened in await db.ClaimAsync(1, cancel))
        {
            happened.Tries++;
            if (happened.Tries >= MostTries)
            {
                happened.Problem = $"Could not be decided, {MostTries} tries: {problem.GetBaseException().Message}";
                happened.DecidedAt = clock.GetCurrentInstant();
            }
        }

        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        return 0;
    }
}
