using NodaTime;

namespace Sirena.Core;

/// <summary>
/// The stretch of time that is taken from outside and worked with: 1970 to 2199. What lies beyond cannot be shown in every time zone, nor computed in every
/// calendar.
/// </summary>
public static class KnownTime
{
    /// <summary>Its begin.</summary>
    public static Instant Earliest { get; } = NodaConstants.UnixEpoch;

    /// <summary>Its end, not included.</summary>
    public static Instant Latest { get; } = Instant.FromUtc(2200, 1, 1, 0, 0);

    /// <summary>
    /// The instant of a time with an offset. At the ends of the calendar, its first and its last year, the offset may lead out of it, which no instant can
    /// say: all of such a year is as far away as can be.
    /// </summary>
    public static Instant Of(OffsetDateTime at) =>
        at.Year switch
        {
            >= 9_999 => Instant.MaxValue,
            <= -9_998 => Instant.MinValue,
            _ => at.ToInstant(),
        };

    /// <summary>Whether an instant lies in it.</summary>
    public static bool Holds(Instant at) => at >= Earliest && at < Latest;

    /// <summary>Whether a day lies in it.</summary>
    public static bool Holds(LocalDate day) => day.Year is >= 1970 and < 2200;

    /// <summary>Whether ticks since 1970, as cursors carry them, are safely within it.</summary>
    public static bool HoldsTicks(long ticks) => ticks is >= 0 and < 72_000_000_000_000_000;

    /// <summary>The instant, or the nearest that lies in it.</summary>
    public static Instant Nearest(Instant at) =>
        at < Earliest ? Earliest
        : at >= Latest ? Latest - Duration.FromSeconds(1)
        : at;
}
