using NodaTime;
using Sirena.Core.Rules;

namespace Sirena.Core.Ladders;

/// <summary>An answer as it is given.</summary>
/// <param name="Kind">What is said.</param>
/// <param name="Person">Who says it.</param>
/// <param name="DoneWithin">How long whoever takes it has; nothing for no limit.</param>
public sealed record AnswerGiven(AnswerKind Kind, string Person, Duration DoneWithin = default)
{
    /// <summary>To whom it is passed on: a person or a team.</summary>
    public Recipient? Aim { get; init; }

    /// <summary>Until when it is put off.</summary>
    public Instant? Until { get; init; }

    /// <summary>Everybody else who was told has declined, or was not reached.</summary>
    public bool NobodyLeft { get; init; }
}

/// <summary>
/// The life of an alert: all that changes its state, and the times of its steps, stands here and nowhere else. Who calls it stores the alert and the steps in
/// hand: those that were added to the list and those
/// that were taken out of it too.
/// </summary>
/// <remarks>
/// The clock runs from when the ladder began. It stands still while somebody has the alert, while a pause holds it, and while all messages of the step that
/// fired last are held; a step's time is its delay plus what
/// the clock has stood, computed anew whenever that changes. A step before the order's due time knows no clock.
/// </remarks>
public sealed partial class Alert
{
    /// <summary>How late a step before the order's due time may fire: what a node needs to see that it is due.</summary>
    public static Duration Grace { get; } = Duration.FromMinutes(1);

    /// <summary>How often an alert may be put off.</summary>
    public const int MostPutOff = 2;

    /// <summary>Done and withdrawn are left by nothing.</summary>
    public bool Ended => State is AlertState.Done or AlertState.Withdrawn;

    /// <summary>The ladder begins: its steps are planned from this moment, what has not fired of an earlier one is dropped.</summary>
    /// <param name="steps">The steps so far.</param>
    /// <param name="facts">The ladder that holds from now on.</param>
    /// <param name="now">The moment.</param>
    /// <param name="aim">Whom the first of them tells at once, where it is passed on.</param>
    public void Begin(List<AlertStep> steps, LadderFacts facts, Instant now, Recipient? aim = null)
    {
        steps.RemoveAll(s => s.FiredAt is null);
        (BeganAt, Stood, HeldUntil, StoppedAt) = (now, Duration.Zero, null, PausedBy is null ? null : now);
        if (aim is not null)
        {
            steps.Add(Aimed(steps, aim, StepCause.Passed, now));
        }

        var from = steps.Select(s => s.Index).DefaultIfEmpty(0).Max();
        steps.AddRange(LadderClock.Plan(facts.Ladder, now, facts.Due, facts.Pull, facts.Hours).Select(t => Planned(from + t.Place, t, now)));
    }

    /// <summary>Steps have fired together, or the first telling went out.</summary>
    /// <param name="fired">The steps, the latest last, each with until when all its messages are held, or <see langword="null"/> when one went.</param>
    /// <param name="steps">All steps.</param>
    /// <param name="facts">The ladder.</param>
    /// <param name="now">The moment.</param>
    public void Fired(IReadOnlyList<(AlertStep Step, Instant? Held)> fired, List<AlertStep> steps, LadderFacts facts, Instant now)
    {
        foreach (var (step, _) in fired)
        {
            step.FiredAt = now;
        }

        Told(fired[^1].Held, now);
        Time(steps, facts, now);
    }

    /// <summary>Why a step that is due does not fire after all, or <see langword="null"/>.</summary>
    public static string? Skips(AlertStep step, LadderFacts facts, Instant now) =>
        step.Rung > 0
        && step.Rung <= facts.Ladder.Count
        && facts.Ladder[step.Rung - 1].Clock == StepClock.BeforeDue
        && facts.Due is { } due
        && now > due + Grace
            ? "the order's due time has passed"
            : null;

    /// <summary>Takes an answer.</summary>
    /// <param name="given">The answer.</param>
    /// <param name="steps">All steps.</param>
    /// <param name="facts">The ladder.</param>
    /// <param name="now">The moment.</param>
    /// <param name="nameOf">Names a person.</param>
    public Answering Answer(AnswerGiven given, List<AlertStep> steps, LadderFacts facts, Instant now, Func<string, string> nameOf)
    {
        var holder = State == AlertState.Taken ? TakenBy : null;
        var others = holder is not null && holder != given.Person;
        if (Ended)
        {
            return new Answering(OverBecause(nameOf), Conflict: true, Noted: given.Kind is AnswerKind.Taken or AnswerKind.Declined);
        }

        if (others && given.Kind != AnswerKind.Declined)
        {
            return new Answering(
                given.Kind switch
                {
                    AnswerKind.Done => $"{nameOf(holder!)} has it; only they, or a supervisor in their name, can say that it is done.",
                    AnswerKind.Passed => $"{nameOf(holder!)} has it; only they, or a supervisor in their name, can pass it on.",
                    _ => $"{nameOf(holder!)} has it already.",
                },
                Conflict: true,
                Noted: false
            );
        }

        if (given.Kind == AnswerKind.Later && WhyNotLater(given.Until, facts.Due, now) is { } problem)
        {
            return new Answering(problem, Conflict: false, Noted: false);
        }

        var had = holder == given.Person;
        switch (given.Kind)
        {
            case AnswerKind.Taken when had:
                return new Answering(null, Conflict: false, Noted: false);
            case AnswerKind.Taken:
                Have(given.Person, given.DoneWithin > Duration.Zero ? now + given.DoneWithin : null, now);
                break;
            case AnswerKind.Later:
                PutOff++;
                Have(given.Person, given.Until, now);
                break;
            case AnswerKind.Done:
                (State, TakenBy, TakenAt, EndedAt, DoneBy) = (AlertState.Done, TakenBy ?? given.Person, TakenAt ?? now, now, null);
                break;
            case AnswerKind.Passed:
                Reopen(now);
                Begin(steps, facts, now, given.Aim ?? throw new ArgumentException("Passing on says to whom.", nameof(given)));
                Told(null, now);
                break;
            case AnswerKind.Declined when had:
                HolderGone(steps, facts, now);
                break;
            case AnswerKind.Declined when State == AlertState.Open && given.NobodyLeft:
                Hurry(steps, StepCause.Declined, now);
                break;
        }

        return new Answering(null, Conflict: false, Noted: true);
    }

    /// <summary>Whoever has it did not have it done by their time, or put it off until now: it burns on, and they are told again first.</summary>
    public void Late(List<AlertStep> steps, LadderFacts facts, Instant now)
    {
        var aim = new PersonRecipient(TakenBy!);
        Reopen(now);
        Time(steps, facts, now);
        steps.Add(Aimed(steps, aim, StepCause.Due, now));
    }

    /// <summary>Whoever has it cannot, or is there no more: it is open again, and the next step fires at once.</summary>
    public void HolderGone(List<AlertStep> steps, LadderFacts facts, Instant now)
    {
        Reopen(now);
        Time(steps, facts, now);
        Hurry(steps, StepCause.Declined, now);
    }

    /// <summary>The next step fires at once. One that does so already keeps the cause that it has, also for whoever looked at the clock before.</summary>
    public static void Hurry(List<AlertStep> steps, StepCause cause, Instant now)
    {
        if (steps.Where(s => s.FiredAt is null).MinBy(s => s.Index) is { Cause: StepCause.Due or StepCause.OrderDue } next && next.DueAt > now)
        {
            (next.DueAt, next.Cause) = (now, cause);
        }
    }

    /// <summary>The last wait has run: it lapses, unless something is ahead or holds it.</summary>
    /// <returns>Whether it did.</returns>
    public bool Lapse(IEnumerable<AlertStep> steps, Instant now)
    {
        if (State != AlertState.Open || PausedBy is not null || WaitsUntil is null || WaitsUntil > now || steps.Any(s => s.FiredAt is null))
        {
            return false;
        }

        (State, EndedAt) = (AlertState.Lapsed, now);
        return true;
    }

    /// <summary>The order has moved on.</summary>
    public void Withdraw(Instant now) => (State, EndedAt, DoneBy, PausedBy, PausedAt, StoppedAt) = (AlertState.Withdrawn, now, null, null, null, null);

    /// <summary>Nothing is left to wait for: those who were told only read.</summary>
    public void Settle(Instant now) => (State, EndedAt) = (AlertState.Done, now);

    /// <summary>
    /// A match of the same rule and order that raises the case or the urgency: told anew, with the new case's ladder after it. One that had lapsed is open
    /// again.
    /// </summary>
    /// <param name="steps">All steps.</param>
    /// <param name="facts">The new case's ladder.</param>
    /// <param name="held">Until when all messages are held, or <see langword="null"/>.</param>
    /// <param name="now">The moment.</param>
    public void Rejoin(List<AlertStep> steps, LadderFacts facts, Instant? held, Instant now)
    {
        (State, EndedAt) = (AlertState.Open, null);
        Begin(steps, facts, now);
        Told(held, now);
        Time(steps, facts, now);
    }

    /// <summary>A pause begins to hold it.</summary>
    public void Hold(int pause, Instant now)
    {
        (PausedBy, PausedAt) = (pause, now);
        StoppedAt ??= now;
    }

    /// <summary>No pause holds it any longer. Whoever has it gets the time of the pause on top.</summary>
    public void Resume(List<AlertStep> steps, LadderFacts facts, Instant now)
    {
        DoneBy += now - (PausedAt ?? now);
        (PausedBy, PausedAt) = (null, null);
        if (State != AlertState.Taken)
        {
            Run(now);
        }

        Time(steps, facts, now);
    }
}
