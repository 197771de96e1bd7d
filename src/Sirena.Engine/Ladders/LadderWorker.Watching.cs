using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Ladders;
using Sirena.Engine.Intake;

namespace Sirena.Engine.Ladders;

public sealed partial class LadderWorker
{
    /// <summary>A step that reached nobody, or whose deliveries all failed, lets the next one fire at once.</summary>
    public async Task PullAsync(CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);

        // Plan: what failed lately (ix_deliveries_state) and who was not reached (ix_alerts_unreached), then each alert's steps and deliveries by key; the many
        // that burn as they should are not looked at.
        var since = now - Duration.FromDays(2);
        var doubtful = await db
            .Alerts.FromSql(
                $"""
                with doubtful as materialized (
                  select d.alert_id as id from deliveries d where d.state in ('failed', 'expired', 'skipped') and d.created_at > {since}
                  union select a.id from alerts a where a.state = 'open' and a.raised_at > {since} and a.unreached > 0)
                select a.* from alerts a join doubtful f on f.id = a.id join alert_steps n on n.alert_id = a.id
                where a.state = 'open' and a.paused_by is null and n.fired_at is null and n.due_at > {now}
                  and n.index = (select min(x.index) from alert_steps x where x.alert_id = n.alert_id and x.fired_at is null)
                  and not exists (
                    select from deliveries d where d.alert_id = n.alert_id
                      and d.step = (select max(f.index) from alert_steps f where f.alert_id = n.alert_id and f.fired_at is not null)
                      and (d.state in ('waiting', 'handed-over', 'landed')
                        or exists (select from deliveries c where c.id = d.carried_by and c.state in ('waiting', 'handed-over', 'landed'))))
                for update of a skip locked
                """
            )
            .ToListAsync(cancel);
        if (doubtful.Count == 0)
        {
            return;
        }

        foreach (
            var life in (await lives.OfAsync(db, doubtful, cancel)).Where(l =>
                l.Steps.Where(s => s.FiredAt is not null).MaxBy(s => s.Index) is not { } last || !OnlyActs(last, l)
            )
        )
        {
            Alert.Hurry(life.Steps, StepCause.Failed, now);
        }

        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
    }

    /// <summary>Open alerts whose last wait has run lapse.</summary>
    /// <returns>How many lapsed.</returns>
    public async Task<int> LapseAsync(CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);

        // Plan: ix_alerts_waits, oldest first, then each alert's steps by key.
        var over = await db
            .Alerts.FromSql(
                $"""
                select * from alerts a where state = 'open' and paused_by is null and waits_until <= {now}
                    and not exists (select from alert_steps s where s.alert_id = a.id and s.fired_at is null)
                order by waits_until limit {AtOnce} for update skip locked
                """
            )
            .ToListAsync(cancel);
        var lapsed = (await lives.OfAsync(db, over, cancel)).Count(l => l.Alert.Lapse(l.Steps, now));
        if (lapsed == 0)
        {
            return 0;
        }

        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        NodeFigures.Lapsed(lapsed);
        signals.Raise(Topic.Pages);
        return lapsed;
    }

    /// <summary>
    /// Makes the event <c>alert.lapsed</c> for alerts that lapsed and have none yet: a node that dies in between loses nothing. Alerts that one of Sirena's own
    /// events raised make none.
    /// </summary>
    public async Task TellLapsedAsync(CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        var since = now - Duration.FromHours(30);
        await using var db = await factory.CreateDbContextAsync(cancel);

        // Plan: ix_alerts_burning for the lapsed ones, the event by its unique key.
        var lapsed = await db
            .Alerts.FromSql(
                $"""
                select a.* from alerts a join events e on e.id = a.event_id where a.state = 'lapsed' and a.ended_at > {since} and e.source <> {OwnEvents.Source}
                    and not exists (select from events l where l.source = {OwnEvents.Source} and l.event_id = 'lapsed-' || a.id) limit {AtOnce}
                """
            )
            .AsNoTracking()
            .ToListAsync(cancel);
        if (lapsed.Count == 0)
        {
            return;
        }

        var around = await surroundings.GetAsync(cancel);
        await intake.TakeAsync([.. lapsed.Select(a => OwnEvents.OfAlert($"lapsed-{a.Id}", "alert.lapsed", a, around, now))], cancel);
        signals.Raise(Topic.Pages);
    }

    /// <summary>
    /// Makes the events <c>alert.taken</c> and <c>alert.done</c> of answers that have none yet, while a rule listens to them. Alerts that one of Sirena's own
    /// events raised make none.
    /// </summary>
    public async Task TellAnswersAsync(CancellationToken cancel)
    {
        var book = await shelf.CurrentAsync(cancel);
        string[] kinds = [.. new[] { AnswerKind.Taken, AnswerKind.Done }.Where(k => book.Listens($"alert.{k.Name()}")).Select(k => k.Name())];
        if (kinds.Length == 0)
        {
            return;
        }

        var now = clock.GetCurrentInstant();
        var since = now - Duration.FromMinutes(10);
        await using var db = await factory.CreateDbContextAsync(cancel);

        // Plan: ix_answers_at, then alert, event and the event made of it by their keys.
        var answers = await db
            .Answers.FromSql(
                $"""
                select w.* from answers w join alerts a on a.id = w.alert_id join events e on e.id = a.event_id
                    where w.at > {since} and w.kind = any({kinds}) and e.source <> {OwnEvents.Source}
                    and coalesce(w.note, '') not like 'too late: %' and not exists (select from events l
                        where l.source = {OwnEvents.Source} and l.event_id = 'answer-' || w.id) order by w.id limit {AtOnce}
                """
            )
            .AsNoTracking()
            .ToListAsync(cancel);
        if (answers.Count == 0)
        {
            return;
        }

        var around = await surroundings.GetAsync(cancel);
        Guid[] ids = [.. answers.Select(a => a.AlertId)];
        var alerts = await db.Alerts.AsNoTracking().Where(a => ids.Contains(a.Id)).ToDictionaryAsync(a => a.Id, cancel);
        await intake.TakeAsync(
            [
                .. answers.Select(w =>
                    OwnEvents.OfAlert(
                        $"answer-{w.Id}",
                        $"alert.{w.Kind.Name()}",
                        alerts[w.AlertId],
                        around,
                        now,
                        ("person", w.Person),
                        ("personName", around.NameOf(w.Person))
                    )
                ),
            ],
            cancel
        );
        signals.Raise(Topic.Pages);
    }
}
