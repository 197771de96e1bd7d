using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Engine.Decide;
using Sirena.Engine.Instructions;
using Sirena.Engine.Intake;
using Sirena.Engine.Rules;
using Sirena.Storage;

namespace Sirena.Engine.Ladders;

/// <summary>
/// Climbs the ladders: fires steps that are due while the alert is open, pulls the next one forward when a step reached nobody, and lets an alert lapse when
/// its last step has passed. Rows are locked, so that
/// each step fires once however many nodes there are; all that a step writes commits together.
/// </summary>
public sealed partial class LadderWorker(
    IDbContextFactory<SirenaDb> factory,
    AlertLives lives,
    RuleShelf shelf,
    SurroundingsCache surroundings,
    PauseDesk pauses,
    Notices.NoticeDesk notices,
    IntakeDesk intake,
    Signals signals,
    IClock clock,
    ILogger<LadderWorker> log
) : Worker(log)
{
    private const int AtOnce = 100;
    private static readonly TimeSpan Poll = TimeSpan.FromMilliseconds(300);

    /// <inheritdoc/>
    protected override async Task RunAsync(CancellationToken stopping)
    {
        var round = 0;
        while (true)
        {
            var fired = 0;
            try
            {
                fired = await FireAsync(stopping);
                if (++round % 4 == 0)
                {
                    await pauses.EndDueAsync(stopping);
                    await LateAsync(stopping);
                    await notices.SendDueAsync(stopping);
                    await PullAsync(stopping);
                }

                if (round % 12 == 0)
                {
                    await LapseAsync(stopping);
                    await TellLapsedAsync(stopping);
                    await TellAnswersAsync(stopping);
                }
            }
            catch (Exception e) when (!stopping.IsCancellationRequested)
            {
                if (!DatabaseFault.OfSurroundings(e))
                {
                    await AloneAsync(stopping);
                }

                await Task.Delay(Broke(e), stopping);
            }

            if (fired == 0)
            {
                await Task.Delay(Poll, stopping);
            }
        }
    }

    // One alert whose step cannot be fired must not hold up the others: each is tried alone, and the step that fails for a reason of its own is set aside with
    // it.
    private async Task AloneAsync(CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        foreach (
            var id in await db
                .AlertSteps.Where(s =>
                    s.FiredAt == null && s.DueAt <= now && db.Alerts.Any(a => a.Id == s.AlertId && a.State == AlertState.Open && a.PausedBy == null)
                )
                .OrderBy(s => s.DueAt)
                .Select(s => s.AlertId)
                .Distinct()
                .Take(AtOnce)
                .ToListAsync(cancel)
        )
        {
            try
            {
                await FireAsync(cancel, id);
            }
            catch (Exception e) when (!DatabaseFault.OfSurroundings(e) && !cancel.IsCancellationRequested)
            {
                log.LogError(e, "A step of alert {Alert} could not be fired and is set aside.", id);
                await SetAsideAsync(id, e, now, cancel);
            }
        }
    }

    // What cannot even be read of the alert is not asked for: it fires with the reason in place of whom it told.
    private async Task SetAsideAsync(Guid id, Exception problem, Instant now, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var alert = (await db.Alerts.FromSql($"select * from alerts where id = {id} for update").ToListAsync(cancel))[0];
        var due = await db.AlertSteps.Where(s => s.AlertId == id && s.FiredAt == null && s.DueAt <= now).OrderBy(s => s.DueAt).ToListAsync(cancel);
        if (due.Count == 0)
        {
            return;
        }

        due.ForEach(s => s.Left = Nobody($"it could not be fired: {FarText.Clean(problem.GetBaseException().Message, 300)}"));
        alert.Fired([.. due.Select(s => (s, (Instant?)null))], due, LadderFacts.None, now);
        alert.Unreached++;
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
    }

    private static IReadOnlyList<LeftOut> Nobody(string because) => [new LeftOut("step", because)];

    /// <summary>Fires the steps that are due.</summary>
    /// <param name="alone">Only those of one alert, or <see langword="null"/> for all.</param>
    /// <returns>How many.</returns>
    public async Task<int> FireAsync(CancellationToken cancel, Guid? alone = null)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);

        // Plan: ix_alert_steps_due, then the alert by its key. Both are locked without waiting: an alert that is just being answered is left for the next look,
        // so that no step fires beside an answer.
        var due = await db
            .AlertSteps.FromSql(
                $"""
                select s.* from alert_steps s join alerts a on a.id = s.alert_id
                    where s.fired_at is null and s.due_at <= {now} and ({alone}::uuid is null or s.alert_id = {alone}) and a.state = 'open'
                    and a.paused_by is null order by s.due_at limit {AtOnce} for update of a, s skip locked
                """
            )
            .ToListAsync(cancel);
        if (due.Count == 0)
        {
            return 0;
        }

        Guid[] ids = [.. due.Select(s => s.AlertId).Distinct()];
        var alerts = await db.Alerts.Where(a => ids.Contains(a.Id)).ToListAsync(cancel);
        long[] eventIds = [.. alerts.Select(a => a.EventId).Distinct()];
        var events = await db.Events.AsNoTracking().Where(e => eventIds.Contains(e.Id)).ToDictionaryAsync(e => e.Id, cancel);
        var told = (await db.Deliveries.AsNoTracking().Where(d => ids.Contains(d.AlertId)).ToListAsync(cancel)).ToLookup(d => d.AlertId);
        var declined = (await db.Answers.AsNoTracking().Where(a => ids.Contains(a.AlertId) && a.Kind == AnswerKind.Declined).ToListAsync(cancel)).ToLookup(a =>
            a.AlertId
        );
        var around = await surroundings.GetAsync(cancel);
        var asked = false;
        foreach (var life in await lives.OfAsync(db, alerts, cancel))
        {
            // Several that are due at once, after a stop, are one message to all whom any of them names: the latest's comes first, and whoever has it needs no
            // other.
            var (reached, fired) = (new HashSet<(Channel, string)>(), new List<(AlertStep Step, Instant? Held)>());
            foreach (var step in due.Where(s => s.AlertId == life.Alert.Id).OrderByDescending(s => (s.DueAt, s.Index)))
            {
                var (held, asks) = Fire(
                    db,
                    life,
                    step,
                    events[life.Alert.EventId],
                    around,
                    now,
                    reached,
                    AlertLives.Without(life.Alert, life.Steps, step, told[life.Alert.Id], declined[life.Alert.Id], around.Business.Zone)
                );
                fired.Insert(0, (step, held));
                asked |= await RuleAsks.AddAsync(db, asks, events[life.Alert.EventId], around, now, cancel);
            }

            life.Alert.Fired(fired, life.Steps, life.Facts, now);
            if (fired.TrueForAll(f => f.Step.Told.Count == 0 && !OnlyActs(f.Step, life) && Alert.Skips(f.Step, life.Facts, now) is null))
            {
                // Nobody was found: the next at once.
                Alert.Hurry(life.Steps, StepCause.Failed, now);
            }

            await life.StoreAsync(db, cancel);
        }

        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Deliveries);
        signals.Raise(Topic.Pages);
        if (asked)
        {
            signals.Raise(Topic.Instructions);
        }

        return due.Count;
    }

    // It asks the order system and tells nobody: that nobody was reached says nothing.
    private static bool OnlyActs(AlertStep step, AlertInHand life) =>
        step.Aim is null && step.Rung >= 1 && step.Rung <= life.Facts.Ladder.Count && life.Facts.Ladder[step.Rung - 1] is { Tell.IsEmpty: true };

    // Tells those whom a step names; until when all its messages are held, or null when one went; and what it asks of the order system.
    private static (Instant? Held, IReadOnlyList<RuleAsk> Asks) Fire(
        SirenaDb db,
        AlertInHand life,
        AlertStep step,
        OrderEvent happened,
        Surroundings around,
        Instant now,
        HashSet<(Channel, string)> reached,
        IReadOnlyDictionary<string, string> without
    )
    {
        var alert = life.Alert;
        var rule = life.Rule ?? OwnRules.Matches(happened, around).Select(d => d.Rule).FirstOrDefault(r => r.Id == alert.RuleId);
        var one = rule?.Case(alert.Case);
        if (rule is null || one is null || (step.Aim is null && (step.Rung < 1 || step.Rung > one.Ladder.Length)))
        {
            return (null, []);
        }

        if (Alert.Skips(step, life.Facts, now) is { } reason)
        {
            step.Left = Nobody(reason);
            return (null, []);
        }

        var raised = new EventDecision(around, now).Fire(happened, new Decision(rule, alert.Version, Outcome.Matched, one, []), alert, step, without);
        (step.Told, step.Left) = (raised.Steps[0].Told, raised.Steps[0].Left);
        var twice = raised.Deliveries.Where(d => !reached.Add((d.Channel, d.To.ToLowerInvariant()))).Select(d => d.Id).ToHashSet();
        db.Deliveries.AddRange(raised.Deliveries.Where(d => !twice.Contains(d.Id)));
        db.Messages.AddRange(raised.Messages.Where(m => !twice.Contains(m.DeliveryId)));
        db.AnswerLinks.AddRange(raised.Links.Where(l => !twice.Contains(l.DeliveryId)));
        return (raised.Held.TryGetValue(alert.Id, out var held) ? held : null, raised.Asks);
    }

    /// <summary>
    /// An alert that was taken and is not done by its time burns on: whoever has it is told first, then the steps go on from where they stood when it was
    /// taken. One whose holder is there no more burns on at once.
    /// </summary>
    /// <returns>How many burn on.</returns>
    public async Task<int> LateAsync(CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);

        // Plan: ix_alerts_done_by.
        var late = await db
            .Alerts.FromSql(
                $"""
                select * from alerts where state = 'taken' and (done_by <= {now} or exists (select from people p
                    where p.id = taken_by and p.archived_at is not null)) and paused_by is null order by done_by limit {AtOnce} for update skip locked
                """
            )
            .ToListAsync(cancel);
        if (late.Count == 0)
        {
            return 0;
        }

        var around = await surroundings.GetAsync(cancel);
        foreach (var life in await lives.OfAsync(db, late, cancel))
        {
            if (around.Staff.Person(life.Alert.TakenBy ?? "") is { ArchivedAt: not null })
            {
                life.Alert.HolderGone(life.Steps, life.Facts, now);
            }
            else
            {
                life.Alert.Late(life.Steps, life.Facts, now);
            }

            await life.StoreAsync(db, cancel);
        }

        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Pages);
        return late.Count;
    }
}
