using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
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
public sealed class DecideWorker(IDbContextFactory<SirenaDb> factory, RuleShelf shelf, SurroundingsCache surroundings, Dispatcher mail, UnreachableNews unreachable, FieldWatch fields, Signals signals, IClock clock, ILogger<DecideWorker> log)
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

        var (anew, missing) = await DecideAsync(db, events, cancel);
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
            await unreachable.TellAsync(missing, cancel);
        }

        return events.Count;
    }

    private async Task<(List<ToldAnew> Anew, List<(OrderEvent Event, Alert Alert)> Missing)> DecideAsync(SirenaDb db, List<OrderEvent> events, CancellationToken cancel)
    {
        var (anew, missing) = (new List<ToldAnew>(), new List<(OrderEvent, Alert)>());
        var around = await surroundings.GetAsync(cancel);
        string[] subjects = [.. events.Select(e => e.Subject).OfType<string>().Distinct()];
        var alerts = await db.Alerts.Where(a => subjects.Contains(a.Subject!)).OrderByDescending(a => a.RaisedAt).ThenByDescending(a => a.Id).Take(2000).ToListAsync(cancel);
        var gathering = await GatheringAsync(db, events, cancel);
        foreach (var happened in events)
        {
            var now = clock.GetCurrentInstant();
            await WithdrawAsync(db, happened, alerts, around, now, cancel);
            var raised = new EventDecision(around, now).Decide(happened, await shelf.BookAsync(happened.Book), rule => alerts.FirstOrDefault(a => a.Subject == happened.Subject && a.RuleId == rule),
                (rule, reader) => gathering.LastOrDefault(d => d.RuleId == rule && d.Channel == reader.Channel && (d.Person ?? d.To.ToLowerInvariant()) == reader.Reader && d.DueAt > now));
            gathering.AddRange(raised.Deliveries.Where(d => d.Reason?.StartsWith(EventDecision.GatheredUntil, StringComparison.Ordinal) == true));
            await GatherAsync(db, raised.Gathered, raised, cancel);
            alerts.InsertRange(0, raised.Alerts);
            db.Matches.AddRange(raised.Matches);
            db.Alerts.AddRange(raised.Alerts);
            db.AlertSteps.AddRange(raised.Steps);
            db.Deliveries.AddRange(raised.Deliveries);
            db.Messages.AddRange(raised.Messages);
            db.AnswerLinks.AddRange(raised.Links);
            anew.AddRange(raised.ToldAnew);
            if (!EventTypes.IsOwn(happened.Type))
            {
                missing.AddRange(raised.Alerts.Where(a => a.Unreached > 0).Select(a => (happened, a)));
            }

            happened.DecidedAt = now;
        }

        return (anew, missing);
    }

    // The messages that are still being gathered; they are locked, so that none goes while it is added to.
    private async Task<List<Delivery>> GatheringAsync(SirenaDb db, List<OrderEvent> events, CancellationToken cancel)
    {
        foreach (var version in events.Select(e => e.Book).Distinct())
        {
            if ((await shelf.BookAsync(version)).Rules.Any(r => r.Rule.Gather > Duration.Zero))
            {
                // Plan: ix_deliveries_due by channel for what lies ahead.
                return await db.Deliveries.FromSql($"select * from deliveries where channel = any({new[] { "mail", "sms", "chat", "push" }}) and state = 'waiting' and due_at > {clock.GetCurrentInstant()} and lease is null and reason like {EventDecision.GatheredUntil + "%"} order by due_at for update skip locked").ToListAsync(cancel);
            }
        }

        return [];
    }

    private static async Task GatherAsync(SirenaDb db, IEnumerable<GatheredLine> lines, Raised raised, CancellationToken cancel)
    {
        foreach (var (delivery, line) in lines.Select(l => (l.Delivery, l.Line)))
        {
            // One of this very batch is not stored yet.
            if ((raised.Messages.FirstOrDefault(m => m.DeliveryId == delivery) ?? db.ChangeTracker.Entries<Message>().FirstOrDefault(e => e.Entity.DeliveryId == delivery && e.State == EntityState.Added)?.Entity) is { } fresh)
            {
                fresh.Gather(line);
                continue;
            }

            if (await db.Messages.FirstOrDefaultAsync(m => m.DeliveryId == delivery, cancel) is { } stored)
            {
                stored.Gather(line);
            }
        }
    }

    // An order that reaches a status at which a rule's alerts end ends them; each alert keeps to the version of the rule that raised it.
    private async Task WithdrawAsync(SirenaDb db, OrderEvent happened, List<Alert> alerts, Surroundings around, Instant now, CancellationToken cancel)
    {
        if (happened.OrderNumber is null || Facts.Member(happened.After, "status").ToString() is not { Length: > 0 } status)
        {
            return;
        }

        foreach (var alert in alerts.Where(a => a.OrderNumber == happened.OrderNumber && a.State is AlertState.Open or AlertState.Taken or AlertState.Lapsed))
        {
            if (await shelf.RuleAsync(alert.RuleId, alert.Version, cancel) is { } rule && rule.Rule.WithdrawAt.Contains(status))
            {
                alert.State = AlertState.Withdrawn;
                alert.EndedAt = now;
                var told = await db.Deliveries.Where(d => d.AlertId == alert.Id).OrderBy(d => d.CreatedAt).Take(200).ToListAsync(cancel);
                foreach (var waits in told.Where(d => d.State == DeliveryState.Waiting && d.Lease is null))
                {
                    // A message that other alerts were gathered into still goes.
                    if (await db.Deliveries.AnyAsync(d => d.CarriedBy == waits.Id, cancel))
                    {
                        continue;
                    }

                    (waits.State, waits.Reason) = (DeliveryState.Skipped, $"withdrawn before it went: the order is {around.NameOf(status)}");
                }

                var raised = new Raised();
                new EventDecision(around, now).Withdraw(alert, told, status, raised);
                db.Deliveries.AddRange(raised.Deliveries);
                db.Messages.AddRange(raised.Messages);
            }
        }
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
