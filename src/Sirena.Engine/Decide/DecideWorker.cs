using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Rules;
using Sirena.Engine.Dispatch;
using Sirena.Engine.Instructions;
using Sirena.Engine.Ladders;
using Sirena.Engine.Orders;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Storage.Ladders;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Decide;

/// <summary>
/// Decides events, those of one order strictly in their order. All that an event's rules raise and the mark that it was decided go into one transaction, so
/// that an event is decided exactly once however often a node dies.
/// </summary>
public sealed partial class DecideWorker(
    IDbContextFactory<SirenaDb> factory,
    RuleShelf shelf,
    AlertLives lives,
    SurroundingsCache surroundings,
    Dispatcher mail,
    OwnNews news,
    FieldWatch fields,
    Signals signals,
    IClock clock,
    ILogger<DecideWorker> log
) : Worker(log)
{
    private const int AtOnce = 50;
    private const int MostTries = 3;
    private const int MostAgain = 500;
    private static readonly Duration Poll = Duration.FromSeconds(1);

    /// <inheritdoc/>
    protected override async Task RunAsync(CancellationToken stopping)
    {
        var setup = 0;
        void Note(Topic topic) => Interlocked.Add(ref setup, topic == Topic.Setup ? 1 : 0);
        signals.Woken += Note;
        try
        {
            while (true)
            {
                if (Interlocked.Exchange(ref setup, 0) > 0)
                {
                    await AgainAsync(null, stopping);
                }

                // What comes alone is not held up by a crowd, nor the crowd for ever by what comes alone: they take turns.
                // A look is cheaper than a claim: what comes alone is mostly all there is.
                var lone = await TurnAsync(crowd: false, stopping);
                if (!await AnyAsync(stopping) || lone + await TurnAsync(crowd: true, stopping) == 0)
                {
                    await signals.WaitAsync(Topic.Events, Poll, stopping);
                }
            }
        }
        finally
        {
            signals.Woken -= Note;
        }
    }

    private async Task<bool> AnyAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return await db.Events.AnyAsync(e => e.DecidedAt == null, cancel);
    }

    private async Task<int> TurnAsync(bool crowd, CancellationToken cancel)
    {
        try
        {
            return await DecideAsync(AtOnce, cancel, crowd);
        }
        catch (Exception e) when (!DatabaseFault.OfSurroundings(e) && !cancel.IsCancellationRequested)
        {
            log.LogError(e, "Events could not be decided together; each is tried alone.");
            return await AloneAsync(crowd, cancel);
        }
    }

    /// <summary>Decides up to that many of the events that wait, in one transaction.</summary>
    /// <param name="atMost">How many.</param>
    /// <param name="crowd">Those that came as a crowd, and what has waited for long; else those that came alone of late. <see langword="null"/> for
    /// all.</param>
    /// <returns>How many there were.</returns>
    public Task<int> DecideAsync(int atMost, CancellationToken cancel, bool? crowd = null) =>
        DecideAsync(db => db.ClaimAsync(atMost, crowd, clock.GetCurrentInstant(), cancel), cancel);

    private async Task<int> DecideAsync(Func<SirenaDb, Task<List<OrderEvent>>> claim, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);

        // All of it or nothing: a savepoint would only be two more ways to the database.
        db.Database.AutoSavepointsEnabled = false;
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var events = await claim(db);
        if (events.Count == 0)
        {
            return 0;
        }

        var (anew, missing, storms, asked) = await DecideAsync(db, events, cancel);
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
                await db.Database.ExecuteSqlAsync(
                    $"""
                    update alert_steps set told = told || {Resolved.Write(told.Told)}::jsonb, "left" = "left" || {Resolved.Write(told.Left)}::jsonb
                        where alert_id = {told.Alert} and index = 0
                    """,
                    cancel
                );
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

        if (asked)
        {
            signals.Raise(Topic.Instructions);
        }

        events.ForEach(fields.Note);
        events.ForEach(NodeFigures.Decided);
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

    private async Task<(List<ToldAnew> Anew, List<(OrderEvent Event, Alert Alert)> Missing, List<Rule> Storms, bool Asked)> DecideAsync(
        SirenaDb db,
        List<OrderEvent> events,
        CancellationToken cancel
    )
    {
        var (anew, missing, storms) = (new List<ToldAnew>(), new List<(OrderEvent, Alert)>(), new List<Rule>());
        var asked = false;
        var around = await surroundings.GetAsync(cancel);
        string[] subjects = [.. events.Select(e => e.Subject).OfType<string>().Distinct()];
        var alerts = await AlertsAsync(db, subjects, cancel);
        var gathering = await GatheringAsync(db, events, cancel);
        var recent = await RecentAsync(db, events, cancel);
        var shown = await InstructionSeen.OpenAsync(db, events, around, clock.GetCurrentInstant(), cancel);
        foreach (var happened in events)
        {
            var now = clock.GetCurrentInstant();
            asked |= await InstructionSeen.LookAsync(db, happened, shown, around, now, cancel);
            await MoveAsync(db, happened, alerts, around, now, cancel);
            var raised = new EventDecision(around, now).Decide(
                happened,
                await shelf.BookAsync(happened.Book),
                rule => alerts.FirstOrDefault(a => a.Subject == happened.Subject && a.RuleId == rule),
                (rule, reader) =>
                    gathering.LastOrDefault(d =>
                        d.RuleId == rule && d.Channel == reader.Channel && (d.Person ?? d.To.ToLowerInvariant()) == reader.Reader && d.DueAt > now
                    ),
                rule => recent.GetValueOrDefault(rule.Id)
            );
            await JoinAsync(db, raised, happened, around, now, cancel);
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
            asked |= await RuleAsks.AddAsync(db, raised.Asks, happened, around, now, cancel);
            anew.AddRange(raised.ToldAnew);
            if (!EventTypes.IsOwn(happened.Type))
            {
                missing.AddRange(raised.Alerts.Where(a => a.Unreached > 0).Select(a => (happened, a)));
            }

            happened.DecidedAt = now;
        }

        return (anew, missing, storms, asked);
    }

    // How many alerts the rules with a storm guard raised within its span. Plan: the index over rule and time, as far back as the span.
    private async Task<Dictionary<string, int>> RecentAsync(SirenaDb db, List<OrderEvent> events, CancellationToken cancel)
    {
        var counts = new Dictionary<string, int>();
        foreach (var version in events.Select(e => e.Book).Distinct())
        {
            foreach (
                var rule in (await shelf.BookAsync(version)).Guarded.Where(r => r.When.Any(w => events.Exists(e => e.Type == w)) && !counts.ContainsKey(r.Id))
            )
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
                return await db
                    .Deliveries.FromSql(
                        $"""
                        select * from deliveries where gathers_until > {clock.GetCurrentInstant()} and state = 'waiting' and due_at = gathers_until
                            and lease is null order by due_at for update skip locked
                        """
                    )
                    .ToListAsync(cancel);
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
}
