using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Engine.Decide;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Storage.Deliveries;

namespace Sirena.Engine.Ladders;

/// <summary>How an answer ended.</summary>
/// <param name="Alert">The alert as it stands now; <see langword="null"/> when there is none.</param>
/// <param name="Problem">Why the answer was not taken, or <see langword="null"/>.</param>
/// <param name="Conflict">Somebody else has the alert, or it is over.</param>
public sealed record Answered(Alert? Alert, string? Problem, bool Conflict)
{
    /// <summary>Whoever answers was not told of it.</summary>
    public bool NotTold { get; init; }
}

/// <summary>Takes answers: from a link, a reply, a page or the API. Two that come at once meet on the alert's row; the first has it.</summary>
public sealed class AnswerDesk(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, RuleShelf shelf, LaterNews news, Signals signals, IClock clock)
{
    /// <summary>The link's alert and what belongs to it, while it works; <see langword="null"/> for a wrong or an expired one alike.</summary>
    public async Task<AnswerLink?> LinkAsync(string key, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var hash = Secrets.Hash(key);
        var now = clock.GetCurrentInstant();
        return await db.AnswerLinks.AsNoTracking().FirstOrDefaultAsync(l => l.Hash == hash && l.ExpiresAt > now, cancel);
    }

    /// <summary>Answers an alert, and those of which the answered message stood for too.</summary>
    /// <param name="id">The alert.</param>
    /// <param name="person">Who answers: a person's id, or the address of somebody outside.</param>
    /// <param name="answer">What they say.</param>
    /// <param name="via"><c>link</c>, <c>reply</c>, <c>screen</c>, <c>api</c>.</param>
    /// <param name="enteredBy">Who entered it for them, or <see langword="null"/>.</param>
    /// <param name="note">Their words, or <see langword="null"/>.</param>
    /// <param name="to">To whom it is passed on: a person or a team, by id or by name; only for passing on.</param>
    /// <param name="delivery">The delivery whose link or reply it was, or <see langword="null"/>.</param>
    public async Task<Answered> AnswerAsync(Guid id, string person, AnswerKind answer, string via, string? enteredBy, string? note, Guid? delivery, CancellationToken cancel, string? to = null)
    {
        var around = await surroundings.GetAsync(cancel);
        to = to is null ? null : around.Staff.IdOf(to) ?? to;
        var aim = to is null ? null : around.Staff.Person(to) is { ArchivedAt: null } ? $"person:{to}" : around.Staff.Team(to) is not null ? $"team:{to}" : null;
        if (answer == AnswerKind.Passed && (aim is null || to == person))
        {
            return new Answered(null, to is null ? "Say to whom it is passed on: a person or a team." : to == person ? "It cannot be passed on to oneself." : $"There is no person and no team '{to}'.{Closest.Hint(to, around.Staff.People.SelectMany(p => new[] { p.Id, p.Name }).Concat(around.Staff.Teams.SelectMany(t => new[] { t.Id, t.Name })))}", false);
        }

        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        Guid[] also = delivery is null ? [] : await db.Deliveries.Where(d => d.CarriedBy == delivery).Select(d => d.AlertId).Distinct().ToArrayAsync(cancel);
        Guid[] ids = [id, .. also];

        // The rows are locked in the order of their ids, so that two answers wait for each other and never both win.
        var alerts = (await db.Alerts.FromSql($"select * from alerts where id = any({ids}) order by id for update").ToListAsync(cancel)).ToDictionary(a => a.Id);
        if (!alerts.TryGetValue(id, out var alert))
        {
            return new Answered(null, "There is no such alert.", false);
        }

        // Staff answer what they were told of, by whichever way; a supervisor answers for anyone, and it is recorded who entered it.
        if (enteredBy is null && delivery is null && alert.TakenBy != person && !await db.Deliveries.AnyAsync(d => d.AlertId == id && d.Person == person, cancel))
        {
            return new Answered(alert, $"{around.NameOf(person)} was not told of this alert.", false) { NotTold = true };
        }

        var verdict = Answering.Of(alert, person, answer, around.NameOf);
        if (verdict.Problem is not null)
        {
            return new Answered(alert, verdict.Problem, verdict.Conflict);
        }

        // What nobody has to work on is done once it was read.
        answer = answer == AnswerKind.Taken && OwnRules.IsOwn(alert.RuleId) ? AnswerKind.Done : answer;
        var now = clock.GetCurrentInstant();
        foreach (var one in alerts.Values.Where(a => a.Id == id || Answering.Of(a, person, answer, around.NameOf).Problem is null))
        {
            Apply(one, Answering.Of(one, person, answer, around.NameOf).State, person, answer, now);
            one.DoneBy = answer == AnswerKind.Taken ? await DoneByAsync(one, now, cancel) : one.State == AlertState.Taken ? one.DoneBy : null;
            db.Answers.Add(new Answer { AlertId = one.Id, Person = person, Kind = answer.Name(), At = now, Via = via, EnteredBy = enteredBy, Note = answer == AnswerKind.Passed ? $"to {around.NameOf(to!)}{(note is null ? "" : ": " + note)}" : note });
        }

        if (answer == AnswerKind.Passed)
        {
            await ReaimAsync(db, alert, aim!, around, now, cancel);
        }

        await db.SaveChangesAsync(cancel);
        if (answer == AnswerKind.Declined)
        {
            // When all who were told decline, the next step fires at once.
            await db.Database.ExecuteSqlAsync(
                $"""
                update alert_steps n set due_at = least(n.due_at, {now}) where n.alert_id = any({ids}) and n.fired_at is null and n.index = (select min(x.index) from alert_steps x where x.alert_id = n.alert_id and x.fired_at is null)
                  and not exists (select from deliveries d where d.alert_id = n.alert_id and d.person is not null and d.state <> 'skipped' and not exists (select from answers w where w.alert_id = d.alert_id and w.person = d.person and w.kind = 'declined'))
                """, cancel);
        }

        await transaction.CommitAsync(cancel);
        if (delivery is { } from)
        {
            // An answer proves that the message arrived.
            await news.LandedAsync(from, "answered", $"{around.NameOf(person)}: {answer.Name()}, by {via}", answered: true, now, cancel);
        }

        signals.Raise(Topic.Pages);
        return new Answered(alert, null, false);
    }

    // By when it is to be done, as the rule's version says.
    private async Task<Instant?> DoneByAsync(Alert alert, Instant now, CancellationToken cancel) =>
        ((await shelf.OfAsync(alert, cancel)).Rule?.DoneWithin ?? alert.Urgency.DoneWithin()) is var within && within > Duration.Zero ? now + within : null;

    // The ladder begins anew: what has fired stays, what has not is replaced.
    private async Task ReaimAsync(SirenaDb db, Alert alert, string aim, Surroundings around, Instant now, CancellationToken cancel)
    {
        var from = await db.AlertSteps.Where(s => s.AlertId == alert.Id && s.FiredAt != null).Select(s => (int?)s.Index).MaxAsync(cancel) ?? -1;
        await db.AlertSteps.Where(s => s.AlertId == alert.Id && s.FiredAt == null).ExecuteDeleteAsync(cancel);
        var happened = await db.Events.AsNoTracking().FirstAsync(e => e.Id == alert.EventId, cancel);
        var (rule, one) = await shelf.OfAsync(alert, cancel);
        db.AlertSteps.AddRange(new LadderPlan(around, now).Anew(happened, one?.Ladder ?? [], rule?.PullForward ?? true, alert, aim, from + 1));
    }

    private static void Apply(Alert alert, AlertState state, string person, AnswerKind answer, Instant now)
    {
        alert.State = state;
        switch (answer)
        {
            case AnswerKind.Taken:
                (alert.TakenBy, alert.TakenAt, alert.EndedAt) = (person, now, null);
                break;
            case AnswerKind.Done:
                (alert.TakenBy, alert.TakenAt, alert.EndedAt) = (alert.TakenBy ?? person, alert.TakenAt ?? now, now);
                break;
            case AnswerKind.Passed:
                (alert.TakenBy, alert.TakenAt, alert.EndedAt) = (null, null, null);
                break;
            case AnswerKind.Declined when state == AlertState.Open && alert.TakenBy == person:
                (alert.TakenBy, alert.TakenAt) = (null, null);
                break;
        }
    }
}
