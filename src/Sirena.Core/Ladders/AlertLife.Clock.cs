using NodaTime;
using Sirena.Core.Rules;

namespace Sirena.Core.Ladders;

public sealed partial class Alert
{
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
