using NodaTime;

namespace Sirena.Core.Ladders;

/// <summary>A step's time.</summary>
/// <param name="Rung">Its place in the ladder, from 1.</param>
/// <param name="At">When it is due.</param>
/// <param name="Pulled">It was pulled forward because the order is due sooner.</param>
/// <param name="Place">Its place among all times of the ladder, repeats counted, from 1; the rung where nothing repeats.</param>
public sealed record RungTime(int Rung, Instant At, bool Pulled, int Place);

/// <summary>When the steps of a ladder are due (semantics 18): each counts from when the alert was raised, whatever became of the others.</summary>
public static class LadderClock
{
    /// <summary>When a step is due; <see langword="null"/> when that never comes: before the due time of an order that has none.</summary>
    /// <param name="step">The step.</param>
    /// <param name="raised">When the alert was raised.</param>
    /// <param name="due">When the order is due, or <see langword="null"/>.</param>
    /// <param name="hours">The hours of work.</param>
    public static Instant? Due(LadderStep step, Instant raised, Instant? due, WorkingHours hours) =>
        step.Clock switch
        {
            StepClock.After => raised + step.Delay,
            StepClock.AfterWorking => hours.After(raised, step.Delay),
            _ => due is { } at && at >= raised ? Instant.Max(raised, at - step.Delay) : null,
        };

    /// <summary>
    /// The times of a whole ladder. When the order is due before the next step would come, that one is pulled forward to the due time; the others keep theirs.
    /// A step whose time never comes is left out.
    /// </summary>
    /// <param name="ladder">The steps.</param>
    /// <param name="raised">When the alert was raised, or when the ladder began anew.</param>
    /// <param name="due">When the order is due, or <see langword="null"/>. One that has passed pulls nothing.</param>
    /// <param name="pull">Steps are pulled forward.</param>
    /// <param name="hours">The hours of work that hold for a step.</param>
    /// <param name="stood">How long the clock has stood still since: steps before the due time know no clock.</param>
    public static IReadOnlyList<RungTime> Plan(
        IReadOnlyList<LadderStep> ladder,
        Instant raised,
        Instant? due,
        bool pull,
        Func<LadderStep, WorkingHours> hours,
        Duration stood = default
    )
    {
        var (plan, place) = (new List<RungTime>(ladder.Count), 1);
        for (var i = 0; i < ladder.Count; place += 1 + (ladder[i].Repeat?.Times ?? 0), i++)
        {
            // A working time that does not come within a year comes with the order's due time at the latest.
            if (
                (
                    Due(ladder[i], ladder[i].Clock == StepClock.BeforeDue ? raised : raised + stood, due, hours(ladder[i]))
                    ?? (pull && ladder[i].Clock == StepClock.AfterWorking ? due + Duration.FromDays(400) : null)
                ) is
                { } at
            )
            {
                for (var again = 0; again <= (ladder[i].Repeat?.Times ?? 0); again++)
                {
                    plan.Add(new RungTime(i + 1, at + (again * (ladder[i].Repeat?.Every ?? Duration.Zero)), false, place + again));
                }
            }
        }

        if (pull && due is { } end && end > raised && plan.Where(p => p.At > end).MinBy(p => p.At) is { } next)
        {
            plan[plan.IndexOf(next)] = next with { At = end, Pulled = true };
        }

        return plan;
    }
}
