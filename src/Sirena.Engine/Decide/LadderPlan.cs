using NodaTime;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;

namespace Sirena.Engine.Decide;

/// <summary>The steps of an alert with their times, as they are stored.</summary>
/// <param name="around">The business's hours, and its teams'.</param>
/// <param name="now">The moment.</param>
public sealed class LadderPlan(Surroundings around, Instant now)
{
    /// <summary>When the event's order is due, after the event or before it; <see langword="null"/> for no due time.</summary>
    public static Instant? DueAt(OrderEvent happened, bool before = false) => Facts.Member(before ? happened.Before : happened.After, "dueAt") is { ValueKind: System.Text.Json.JsonValueKind.String } at ? Facts.Time(at.GetString()) : null;

    /// <summary>The steps that wait when an alert is raised; one whose time never comes is not among them.</summary>
    public IEnumerable<AlertStep> Ahead(OrderEvent happened, Decision decision, Alert alert) =>
        LadderClock.Plan(decision.Case!.Ladder, alert.RaisedAt, DueAt(happened), decision.Rule.PullForward, around.HoursOf).Select(t => Step(alert, t.Place, t));

    /// <summary>The ladder from its first step anew, for an alert that was passed on at this moment: first whom it goes to, then the case's steps counted from now.</summary>
    /// <param name="happened">The event that raised the alert.</param>
    /// <param name="ladder">The case's ladder.</param>
    /// <param name="pull">The rule pulls steps forward.</param>
    /// <param name="alert">The alert.</param>
    /// <param name="aim"><c>person:</c> or <c>team:</c> and an id.</param>
    /// <param name="from">The first index that is free.</param>
    public IEnumerable<AlertStep> Anew(OrderEvent happened, IReadOnlyList<LadderStep> ladder, bool pull, Alert alert, string aim, int from) =>
        LadderClock.Plan(ladder, now, DueAt(happened), pull, around.HoursOf).Select(t => Step(alert, from + t.Place, t)).Prepend(Aimed(alert, aim, from));

    /// <summary>A step of its own that tells one person or team at this moment.</summary>
    public AlertStep Aimed(Alert alert, string aim, int index) => new() { AlertId = alert.Id, Index = index, Rung = 0, Aim = aim, DueAt = now, Told = "[]", Left = "[]" };

    /// <summary>Puts the steps that wait at the times that a new due time of the order gives them. Those that stood still keep what they gained.</summary>
    /// <param name="steps">The steps of an open alert.</param>
    /// <param name="rule">The rule's version.</param>
    /// <param name="one">The case.</param>
    /// <param name="raised">From when the ladder counts.</param>
    /// <param name="before">The due time until now.</param>
    /// <param name="after">The new one.</param>
    public void Retime(IReadOnlyCollection<AlertStep> steps, Rule rule, RuleCase one, Instant raised, Instant? before, Instant? after)
    {
        var then = LadderClock.Plan(one.Ladder, raised, before, rule.PullForward, around.HoursOf).ToLookup(t => t.Rung);
        var anew = LadderClock.Plan(one.Ladder, raised, after, rule.PullForward, around.HoursOf).ToLookup(t => t.Rung);
        foreach (var rung in steps.Where(s => s.FiredAt is null && s.Aim is null).GroupBy(s => s.Rung))
        {
            // Of a step that comes again, the times that are left are the last ones.
            AlertStep[] left = [.. rung.OrderBy(s => s.Index)];
            RungTime[] was = [.. then[rung.Key]], times = [.. anew[rung.Key]];
            for (var i = 1; i <= Math.Min(left.Length, times.Length); i++)
            {
                var (step, time) = (left[^i], times[^i]);
                var stood = i <= was.Length && !was[^i].Pulled && one.Ladder[rung.Key - 1].Clock != StepClock.BeforeDue ? step.DueAt - was[^i].At : Duration.Zero;
                (step.DueAt, step.PulledForward) = (Instant.Max(now, time.At + (time.Pulled ? Duration.Zero : stood)), time.Pulled);
            }
        }
    }

    private static AlertStep Step(Alert alert, int index, RungTime time) => new() { AlertId = alert.Id, Index = index, Rung = time.Rung, DueAt = time.At, PulledForward = time.Pulled, Told = "[]", Left = "[]" };
}
