using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Engine.Decide;
using Sirena.Engine.Instructions;
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
public sealed class AnswerDesk(
    IDbContextFactory<SirenaDb> factory,
    SurroundingsCache surroundings,
    AlertLives lives,
    LaterNews news,
    Signals signals,
    IClock clock
)
{
    /// <summary>What is said to whoever sends no answer, or none that there is.</summary>
    public const string NoAnswer = "Choose one of the answers.";

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
    /// <param name="until">Until when it is put off; only for later.</param>
    /// <param name="delivery">The delivery whose link or reply it was, or <see langword="null"/>.</param>
    public async Task<Answered> AnswerAsync(
        Guid id,
        string person,
        AnswerKind answer,
        string via,
        string? enteredBy,
        string? note,
        Guid? delivery,
        CancellationToken cancel,
        string? to = null,
        Instant? until = null
    )
    {
        var around = await surroundings.GetAsync(cancel);
        to = to is null ? null : around.Staff.IdOf(to) ?? to;
        Recipient? aim =
            to is null ? null
            : around.Staff.Person(to) is { ArchivedAt: null } ? new PersonRecipient(to)
            : around.Staff.Team(to) is not null ? new TeamRecipient(to)
            : null;
        if (answer == AnswerKind.Passed && (aim is null || to == person))
        {
            return new Answered(
                null,
                to is null ? "Say to whom it is passed on: a person or a team."
                    : to == person ? "It cannot be passed on to oneself."
                    : $"There is no person and no team '{to}'.{Closest.Hint(to, Known(around.Staff))}",
                false
            );
        }

        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        Guid[] also = delivery is null ? [] : await db.Deliveries.Where(d => d.CarriedBy == delivery).Select(d => d.AlertId).Distinct().ToArrayAsync(cancel);
        Guid[] ids = [id, .. also];

        // The rows are locked in the order of their ids, so that two answers wait for each other and never both win.
        var alerts = (await db.Alerts.FromSql($"select * from alerts where id = any({ids}) order by id for update").ToListAsync(cancel)).ToDictionary(a =>
            a.Id
        );
        if (!alerts.TryGetValue(id, out var alert))
        {
            return new Answered(null, "There is no such alert.", false);
        }

        // Staff answer what they were told of, by whichever way; a supervisor answers for anyone, and it is recorded who entered it.
        if (
            enteredBy is null
            && delivery is null
            && alert.TakenBy != person
            && !await db.Deliveries.AnyAsync(d => d.AlertId == id && d.Person == person, cancel)
        )
        {
            return new Answered(alert, $"{around.NameOf(person)} was not told of this alert.", false) { NotTold = true };
        }

        var now = clock.GetCurrentInstant();
        var asked = false;
        Answering? verdict = null;
        foreach (var life in (await lives.OfAsync(db, alerts.Values, cancel)).OrderBy(l => l.Alert.Id != id))
        {
            // What nobody has to work on is done once it was read; each of several by its own.
            var one = life.Alert;
            var kind = answer == AnswerKind.Taken && OwnRules.IsOwn(one.RuleId) ? AnswerKind.Done : answer;
            if (one.Id != id && (kind is AnswerKind.Passed or AnswerKind.Later))
            {
                continue;
            }

            var given = new AnswerGiven(kind, person, life.Rule?.DoneWithin ?? one.Urgency.DoneWithin())
            {
                Aim = aim,
                Until = until,
                NobodyLeft = kind == AnswerKind.Declined && await NobodyLeftAsync(db, one.Id, person, cancel),
            };
            var said = one.Answer(given, life.Steps, life.Facts, now, around.NameOf);
            verdict ??= said;
            if (one.Id == id && said.Problem is not null && !said.Noted)
            {
                return new Answered(alert, said.Problem, said.Conflict);
            }

            if (said.Noted)
            {
                db.Answers.Add(
                    new Answer
                    {
                        AlertId = one.Id,
                        Person = person,
                        Kind = kind,
                        At = now,
                        Via = via,
                        EnteredBy = enteredBy,
                        Note = Words(kind, to, until, note, said.Problem, around),
                    }
                );
            }

            if (
                said is { Noted: true, Problem: null }
                && life.Case?.OnAnswer.FirstOrDefault(a => a.Answer == kind) is { } then
                && await db.Events.AsNoTracking().FirstOrDefaultAsync(e => e.Id == one.EventId, cancel) is { } happened
            )
            {
                asked |= await RuleAsks.AddAsync(
                    db,
                    [
                        .. then.Do.Select(ask => new RuleAsk(
                            life.Rule!,
                            one.Version,
                            ask,
                            one.Id,
                            one.PausedBy is not null,
                            $"{kind.Name()} by {around.NameOf(person)}"
                        )),
                    ],
                    happened,
                    around,
                    now,
                    cancel
                );
            }

            await life.StoreAsync(db, cancel);
            if (one.Id == id && said.Problem is not null)
            {
                break;
            }
        }

        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        NodeFigures.Answer(answer.Name());
        if (asked)
        {
            signals.Raise(Topic.Instructions);
        }

        if (delivery is { } from)
        {
            // An answer proves that the message arrived.
            await news.LandedAsync(from, "answered", $"{around.NameOf(person)}: {answer.Name()}, by {via}", answered: true, now, cancel);
        }

        signals.Raise(Topic.Pages);
        return new Answered(alert, verdict!.Problem, verdict.Conflict);
    }

    private static string? Words(AnswerKind kind, string? to, Instant? until, string? note, string? late, Surroundings around)
    {
        var words = kind switch
        {
            AnswerKind.Passed => $"to {around.NameOf(to!)}",
            AnswerKind.Later =>
                $"until {until!.Value.InZone(around.Business.Zone).ToString("ddd d MMM HH:mm", System.Globalization.CultureInfo.InvariantCulture)}",
            _ => late is null ? "" : Core.Ladders.Answer.TooLate + late,
        };
        return words.Length == 0 ? note
            : note is null ? words
            : $"{words}: {note}";
    }

    private static string[] Known(StaffDirectory staff) =>
        [.. staff.People.SelectMany(p => new[] { p.Id, p.Name }), .. staff.Teams.SelectMany(t => new[] { t.Id, t.Name })];

    // Whoever else was told has declined too, or was not reached.
    private static async Task<bool> NobodyLeftAsync(SirenaDb db, Guid alert, string person, CancellationToken cancel) =>
        !await db.Deliveries.AnyAsync(
            d =>
                d.AlertId == alert
                && d.Person != null
                && d.Person != person
                && (d.CarriedBy != null || d.State == DeliveryState.Waiting || d.State == DeliveryState.HandedOver || d.State == DeliveryState.Landed)
                && !db.Answers.Any(w => w.AlertId == alert && w.Person == d.Person && w.Kind == AnswerKind.Declined),
            cancel
        );
}
