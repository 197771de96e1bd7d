using NodaTime;
using Sirena.Core.Deliveries;

namespace Sirena.Core.Ladders;

/// <summary>How soon a fuse burns to its next knot.</summary>
public enum FuseHeat
{
    /// <summary>More than five minutes off, or nothing lies ahead.</summary>
    Far,

    /// <summary>Within five minutes.</summary>
    Near,

    /// <summary>Within 90 seconds, or burnt out.</summary>
    Hot,
}

/// <summary>A message's mark below a knot.</summary>
public sealed record FuseMark(Channel Channel, DeliveryState State, bool Answered);

/// <summary>A step on the fuse.</summary>
/// <param name="At">When it fired, or will.</param>
/// <param name="Fired">It fired.</param>
/// <param name="Names">Who was told, or whom it will tell.</param>
/// <param name="Marks">What became of its messages; for one ahead none.</param>
public sealed record FuseKnot(Instant At, bool Fired, string Names, IReadOnlyList<FuseMark> Marks);

/// <summary>
/// An alert as a line that burns towards its next step: knots, times and states, without geometry. It burns from the raising to now while nobody has it, is cut
/// where somebody took it, and burnt out where it lapsed.
/// </summary>
/// <param name="Begin">When the alert was raised.</param>
/// <param name="Knots">Its steps in order of time.</param>
/// <param name="CutAt">When somebody took it, or <see langword="null"/>.</param>
/// <param name="BurntAt">When it lapsed, or <see langword="null"/>.</param>
/// <param name="DueAt">When the order is due, or <see langword="null"/>.</param>
public sealed record Fuse(Instant Begin, IReadOnlyList<FuseKnot> Knots, Instant? CutAt, Instant? BurntAt, Instant? DueAt)
{
    private static readonly Duration NearBy = Duration.FromMinutes(5);
    private static readonly Duration HotBy = Duration.FromSeconds(90);

    /// <summary>The next step, where the alert burns towards one.</summary>
    public FuseKnot? Next => CutAt is null && BurntAt is null ? Knots.FirstOrDefault(k => !k.Fired) : null;

    /// <summary>How soon it burns to its next knot.</summary>
    public FuseHeat Heat(Instant now) =>
        CutAt is not null ? FuseHeat.Far
        : BurntAt is not null ? FuseHeat.Hot
        : Next is not { } next || next.At - now > NearBy ? FuseHeat.Far
        : next.At - now > HotBy ? FuseHeat.Near
        : FuseHeat.Hot;

    /// <summary>
    /// By this the Watch orders alerts: burnt-out ones first, then the next to burn down, then those that burn without an end, then those that somebody has.
    /// </summary>
    public (int Rank, Instant At) Order =>
        BurntAt is { } burnt ? (0, burnt)
        : CutAt is { } cut ? (3, cut)
        : Next is { } next ? (1, next.At)
        : (2, Begin);

    /// <summary>The fuse of an alert.</summary>
    /// <param name="alert">The alert.</param>
    /// <param name="steps">Its steps.</param>
    /// <param name="deliveries">Its messages.</param>
    /// <param name="dueAt">When its order is due.</param>
    /// <param name="nameOf">Names who was told by a delivery.</param>
    /// <param name="ahead">Names whom a step that has not fired will tell.</param>
    public static Fuse Of(
        Alert alert,
        IEnumerable<AlertStep> steps,
        IReadOnlyCollection<Delivery> deliveries,
        Instant? dueAt,
        Func<Delivery, string> nameOf,
        Func<AlertStep, string> ahead
    )
    {
        var knots = steps
            .Select(s =>
            {
                Delivery[] own = [.. deliveries.Where(d => d.Step == s.Index)];
                var names = s.FiredAt is null ? ahead(s) : string.Join(", ", own.Select(nameOf).Distinct());
                return new FuseKnot(
                    s.FiredAt ?? s.DueAt,
                    s.FiredAt is not null,
                    names,
                    s.FiredAt is null ? [] : [.. own.Select(d => new FuseMark(d.Channel, d.Stands, d.Answered))]
                );
            })
            .OrderBy(k => k.At)
            .ThenByDescending(k => k.Fired)
            .ToList();
        var cut = alert.State is AlertState.Taken or AlertState.Done ? alert.TakenAt ?? alert.RaisedAt : (Instant?)null;
        return new Fuse(alert.RaisedAt, knots, cut, alert.State == AlertState.Lapsed ? alert.EndedAt : null, dueAt);
    }
}
