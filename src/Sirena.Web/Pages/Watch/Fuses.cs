using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;
using Sirena.Engine;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Watch;

/// <summary>Makes fuses with the names that a reader knows: of an alert, or of a rule that is being written.</summary>
/// <param name="around">The business.</param>
/// <param name="reader">The id of the person who reads it and stands on it as "you"; <see langword="null"/> for a supervisor's view.</param>
/// <param name="language">Their language; English without one.</param>
public sealed class Fuses(Surroundings around, string? reader = null, TextLanguage? language = null)
{
    /// <summary>An alert's fuse.</summary>
    /// <param name="one">The alert with its steps and messages.</param>
    /// <param name="due">When its order is due, where that is to be drawn.</param>
    public Fuse Of(BurningAlert one, Instant? due = null) =>
        Fuse.Of(
            one.Alert,
            one.Steps,
            one.Deliveries,
            due,
            d =>
                d.Person is { } p
                    ? p == reader
                        ? Word("you")
                        : Surname(around.NameOf(p))
                    : d.To,
            s => Ahead(s, one.Case?.Ladder ?? [])
        );

    /// <summary>The fuse of a rule's case as it would burn for an alert that is raised now.</summary>
    public string? Draft(RuleCase one, Rule rule, DeskTime clock)
    {
        var plan = LadderClock.Plan(one.Ladder, clock.Now, null, rule.PullForward, around.HoursOf);
        if (plan.Count == 0)
        {
            return null;
        }

        FuseKnot[] knots =
        [
            new FuseKnot(clock.Now, true, Names(one.Tell), []),
            .. plan.OrderBy(p => p.At).Select(p => new FuseKnot(p.At, false, Names(one.Ladder[p.Rung - 1].Tell), [])),
        ];
        var span = knots[^1].At - clock.Now;
        return new FuseDrawing(clock.Now, span / 30, span * 1.06, clock).Draw(
            new Fuse(clock.Now, knots, null, null, null),
            $"How it would burn: {string.Join(", ", knots.Skip(1).Select(k => $"after {(k.At - clock.Now).InWords()} {k.Names}"))}",
            null
        );
    }

    /// <summary>Whom a step that has not fired will tell.</summary>
    public string Ahead(AlertStep step, IReadOnlyList<LadderStep> ladder) =>
        step.Aim is { } aim ? around.NameOf(aim.Id)
        : step.Rung < 1 || step.Rung > ladder.Count ? ""
        : Names(ladder[step.Rung - 1].Tell);

    private string Names(IEnumerable<Recipient> tell) =>
        string.Join(", ", tell.Select(r => r is PersonRecipient p && p.Person == reader ? Word("you") : r.Brief(around.NameOf, Word)));

    private string Word(string english) => (language ?? TextLanguage.En).Word(english);

    private static string Surname(string name) => name.Split(' ')[^1];
}
