using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Engine.Decide;
using Sirena.Engine.Rules;
using Sirena.Storage;

namespace Sirena.Engine.Ladders;

/// <summary>An alert with all that its life needs, as it is stored; changed through <see cref="Alert"/> and stored again.</summary>
public sealed class AlertInHand
{
    private readonly AlertStep[] known;

    internal AlertInHand(Alert alert, IEnumerable<AlertStep> steps, Rule? rule, RuleCase? one, LadderFacts facts)
    {
        (Alert, Rule, Case, Facts) = (alert, rule, one, facts);
        known = [.. steps];
        Steps = [.. known];
    }

    /// <summary>The alert.</summary>
    public Alert Alert { get; }

    /// <summary>Its steps, as its life leaves them.</summary>
    public List<AlertStep> Steps { get; }

    /// <summary>The version of the rule that raised it; <see langword="null"/> where that cannot be read.</summary>
    public Rule? Rule { get; }

    /// <summary>Its case.</summary>
    public RuleCase? Case { get; }

    /// <summary>What its steps' times are computed from.</summary>
    public LadderFacts Facts { get; }

    /// <summary>Hands the steps that came and went to the database; the rest is tracked.</summary>
    public async Task StoreAsync(SirenaDb db, CancellationToken cancel)
    {
        if (known.Except(Steps).ToArray() is { Length: > 0 } gone)
        {
            // At once and not with the rest: a step that comes may take the place of one that went.
            int[] indexes = [.. gone.Select(s => s.Index)];
            Array.ForEach(gone, s => db.Entry(s).State = EntityState.Detached);
            await db.AlertSteps.Where(s => s.AlertId == Alert.Id && indexes.Contains(s.Index)).ExecuteDeleteAsync(cancel);
        }

        db.AlertSteps.AddRange(Steps.Except(known));
    }
}

/// <summary>Takes alerts in hand: their steps, the rule's version, the order's due time.</summary>
public sealed class AlertLives(RuleShelf shelf, SurroundingsCache surroundings)
{
    /// <summary>How the reason begins of somebody who is left out of a step because a message of the alert went to them before.</summary>
    public const string ToldAlready = "told already at ";

    /// <summary>What the steps of a case are computed from.</summary>
    /// <param name="around">For the hours of work.</param>
    /// <param name="rule">The rule's version.</param>
    /// <param name="one">The case.</param>
    /// <param name="due">When the order is due.</param>
    public static LadderFacts FactsOf(Surroundings around, Rule? rule, RuleCase? one, Instant? due) =>
        new(one is null ? [] : one.Ladder, due, rule?.PullForward ?? true, around.HoursOf);

    /// <summary>
    /// Who is left out of a step, with the reason: nobody is told twice of an alert by its ladder, but by a step that comes again and those to whom it is
    /// passed on; and nobody who has declined.
    /// </summary>
    /// <param name="alert">The alert.</param>
    /// <param name="steps">Its steps.</param>
    /// <param name="step">The step that fires.</param>
    /// <param name="told">Its deliveries so far.</param>
    /// <param name="declined">The answers of those who declined.</param>
    /// <param name="zone">The business's time zone.</param>
    /// <returns>The reason by a person's id, or the address of somebody outside.</returns>
    public static IReadOnlyDictionary<string, string> Without(
        Alert alert,
        IEnumerable<AlertStep> steps,
        AlertStep step,
        IEnumerable<Delivery> told,
        IEnumerable<Answer> declined,
        DateTimeZone zone
    )
    {
        var without = new Dictionary<string, string>();
        if (step.Aim is not null)
        {
            return without;
        }

        var same = steps.Where(s => s.Rung == step.Rung && s.FiredAt is not null).Select(s => s.Index).ToHashSet();
        foreach (
            var d in told.Where(d =>
                    d.CreatedAt >= alert.BeganAt
                    && !same.Contains(d.Step)
                    && d.Audience != Audience.Customer
                    && (d.CarriedBy is not null || d.State is DeliveryState.Waiting or DeliveryState.HandedOver or DeliveryState.Landed)
                )
                .OrderBy(d => d.CreatedAt)
        )
        {
            without.TryAdd(
                d.Person ?? d.To.ToLowerInvariant(),
                $"{ToldAlready}{d.CreatedAt.InZone(zone).ToString("HH:mm", System.Globalization.CultureInfo.InvariantCulture)}"
            );
        }

        foreach (var answer in declined)
        {
            without[answer.Person.ToLowerInvariant()] = "declined";
        }

        return without;
    }

    /// <summary>One alert, whose row is locked.</summary>
    public async Task<AlertInHand> OfAsync(SirenaDb db, Alert alert, CancellationToken cancel) => (await OfAsync(db, [alert], cancel))[0];

    /// <summary>Several, whose rows are locked; in the same order.</summary>
    public async Task<IReadOnlyList<AlertInHand>> OfAsync(SirenaDb db, IReadOnlyCollection<Alert> alerts, CancellationToken cancel)
    {
        Guid[] ids = [.. alerts.Select(a => a.Id)];
        string[] orders = [.. alerts.Select(a => a.OrderNumber).OfType<string>().Distinct()];
        var stored = await db.AlertSteps.Where(s => ids.Contains(s.AlertId)).ToListAsync(cancel);

        // An alert that this very batch raised has its steps in hand only.
        var steps = stored
            .Concat(db.ChangeTracker.Entries<AlertStep>().Where(e => e.State == EntityState.Added && ids.Contains(e.Entity.AlertId)).Select(e => e.Entity))
            .OrderBy(s => s.Index)
            .ToLookup(s => s.AlertId);
        var due =
            orders.Length == 0
                ? []
                : await db.Orders.AsNoTracking().Where(o => orders.Contains(o.Number)).ToDictionaryAsync(o => o.Number, o => o.DueAt, cancel);
        var around = await surroundings.GetAsync(cancel);
        var inHand = new List<AlertInHand>(alerts.Count);
        foreach (var alert in alerts)
        {
            var (rule, one) = await shelf.OfAsync(alert, cancel);
            inHand.Add(
                new AlertInHand(
                    alert,
                    steps[alert.Id],
                    rule,
                    one,
                    FactsOf(around, rule, one, alert.OrderNumber is { } order ? due.GetValueOrDefault(order) : null)
                )
            );
        }

        return inHand;
    }
}
