namespace Sirena.Core.People;

/// <summary>
/// A shift of a team, once or repeated: one VEVENT of RFC 5545. Several of one uid belong together: the series, and the nights that differ from it.
/// </summary>
public sealed class Shift
{
    /// <summary>Its number, a version 7 UUID.</summary>
    public Guid Id { get; init; }

    /// <summary>The team's id.</summary>
    public required string Team { get; init; }

    /// <summary>The calendar's own id for it (UID).</summary>
    public required string Uid { get; init; }

    /// <summary>The ids of those on duty; empty for an exception that leaves them as the series has them.</summary>
    public List<string> People { get; set; } = [];

    /// <summary>The VEVENT, lines ended by CR LF.</summary>
    public required string Component { get; set; }

    /// <summary>It means the wall clock: 22:00 to 06:00 ends at 06:00 also in the nights in which the clocks change. Calendars elsewhere count hours.</summary>
    public bool WallClock { get; set; }
}

/// <summary>Somebody's time on duty.</summary>
/// <param name="Person">The person's id.</param>
/// <param name="From">Its begin.</param>
/// <param name="To">Its end, not included.</param>
/// <param name="Shift">The shift that it comes from.</param>
/// <param name="Place">The site at which it is served, as the calendar writes it; <see langword="null"/> for the whole team.</param>
/// <param name="Repeats">The shift repeats.</param>
public sealed record Duty(string Person, NodaTime.Instant From, NodaTime.Instant To, Guid Shift, string? Place, bool Repeats);
