using NodaTime;
using Sirena.Core.Rules;

namespace Sirena.Core.Ladders;

/// <summary>What the times of an alert's steps are computed from.</summary>
/// <param name="Ladder">The steps of its case.</param>
/// <param name="Due">When its order is due, or <see langword="null"/>.</param>
/// <param name="Pull">Its rule pulls steps forward to the due time.</param>
/// <param name="Hours">The hours of work that hold for a step.</param>
public sealed record LadderFacts(IReadOnlyList<LadderStep> Ladder, Instant? Due, bool Pull, Func<LadderStep, WorkingHours> Hours)
{
    /// <summary>No ladder: nothing is timed by it.</summary>
    public static LadderFacts None { get; } = new([], null, true, _ => throw new InvalidOperationException("Without a ladder no step has hours."));
}

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

/// <summary>What became of an answer.</summary>
/// <param name="Problem">Why it was not taken, or <see langword="null"/>.</param>
/// <param name="Conflict">Somebody else has the alert, or it is over.</param>
/// <param name="Noted">It stands among the alert's answers, whether it changed anything or not.</param>
public sealed record Answering(string? Problem, bool Conflict, bool Noted);

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

    /// <summary>The next step fires at once.</summary>
    public static void Hurry(List<AlertStep> steps, StepCause cause, Instant now)
    {
        if (steps.Where(s => s.FiredAt is null).MinBy(s => s.Index) is { } next && next.DueAt > now)
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

    /// <summary>
    /// Puts the steps ahead at their times: after the order's due time has changed, or the clock has stood. Steps that never come are taken out, those that
    /// come now are added.
    /// </summary>
    public void Time(List<AlertStep> steps, LadderFacts facts, Instant now)
    {
        if (StoppedAt is not null || Ended)
        {
            return;
        }

        var times = LadderClock.Plan(facts.Ladder, BeganAt, facts.Due, facts.Pull, facts.Hours, Stood).ToLookup(t => t.Rung);
        var began = steps.Where(s => s.Rung == 0 && (s.Index == 0 || s.Cause == StepCause.Passed)).Select(s => s.Index).DefaultIfEmpty(0).Max();
        var free = steps.Select(s => s.Index).DefaultIfEmpty(-1).Max() + 1;
        for (var rung = 1; rung <= facts.Ladder.Count; rung++)
        {
            RungTime[] planned = [.. times[rung]];
            AlertStep[] own = [.. steps.Where(s => s.Rung == rung && s.Index >= began).OrderBy(s => s.Index)];
            AlertStep[] left = [.. own.Where(s => s.FiredAt is null)];
            for (var i = 1; i <= left.Length; i++)
            {
                if (i > planned.Length)
                {
                    steps.Remove(left[^i]);
                }
                else if (left[^i].Cause is StepCause.Due or StepCause.OrderDue)
                {
                    // Of a step that comes again, the times that are left are the last ones.
                    (left[^i].DueAt, left[^i].Cause) = (Instant.Max(now, planned[^i].At), planned[^i].Pulled ? StepCause.OrderDue : StepCause.Due);
                }
            }

            if (own.Length == 0)
            {
                foreach (var time in planned)
                {
                    steps.Add(Planned(free++, time, now));
                }
            }
        }
    }

    private AlertStep Planned(int index, RungTime time, Instant now) =>
        new()
        {
            AlertId = Id,
            Index = index,
            Rung = time.Rung,
            DueAt = Instant.Max(now, time.At),
            Cause = time.Pulled ? StepCause.OrderDue : StepCause.Due,
        };

    private AlertStep Aimed(List<AlertStep> steps, Recipient aim, StepCause cause, Instant now) =>
        new()
        {
            AlertId = Id,
            Index = steps.Select(s => s.Index).DefaultIfEmpty(-1).Max() + 1,
            Rung = 0,
            Aim = aim,
            DueAt = now,
            Cause = cause,
        };

    private void Have(string person, Instant? doneBy, Instant now)
    {
        (State, TakenBy, TakenAt, EndedAt, DoneBy) = (AlertState.Taken, person, now, null, doneBy);
        StoppedAt ??= now;
    }

    private void Reopen(Instant now)
    {
        (State, TakenBy, TakenAt, DoneBy, EndedAt) = (AlertState.Open, null, null, null, null);
        if (PausedBy is null)
        {
            Run(now);
        }
    }

    private void Run(Instant now)
    {
        if (StoppedAt is { } since)
        {
            // Standing for two reasons at once counts once.
            var stood = Duration.Max(Duration.Zero, now - Instant.Max(since, HeldUntil ?? since));
            (Stood, WaitsUntil, StoppedAt) = (Stood + stood, WaitsUntil + stood, null);
        }
    }

    // Somebody was told, or will be when what is held is released: the last wait begins then.
    private void Told(Instant? held, Instant now)
    {
        // What an earlier step's hold gave ahead is taken back as far as it has not passed: the clock looks at the latest alone.
        Stood -= HeldUntil is { } before && before > now ? before - now : Duration.Zero;
        HeldUntil = held > now ? held : null;
        Stood += HeldUntil is { } until ? until - now : Duration.Zero;
        WaitsUntil = (HeldUntil ?? now) + Urgency.Deadline();
    }

    private string? WhyNotLater(Instant? until, Instant? due, Instant now) =>
        PutOff >= MostPutOff ? "It was put off twice already: take it, pass it on, or say that you cannot."
        : until is not { } at || at <= now ? "Say until when: a time that lies ahead."
        : due is { } end && at > end ? "It cannot be put off beyond the order's due time."
        : null;

    private string OverBecause(Func<string, string> nameOf) =>
        State == AlertState.Withdrawn ? "It was withdrawn: the order has moved on."
        : TakenBy is { } by ? $"It is done already, by {nameOf(by)}."
        : "It is done already.";
}
