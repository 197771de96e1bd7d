using NodaTime;
using Sirena.Core.Rules;

namespace Sirena.Core.Ladders;

/// <summary>
/// Alerts of a rule, of a team or of everything are held back until a time: they are raised, nobody is told of them, and the ladders of those that are open
/// stand still. Nothing is lost: what was held back goes out
/// when the pause ends, or somebody decides.
/// </summary>
public sealed class Pause
{
    /// <summary>Everything.</summary>
    public const string All = "all";

    /// <summary>The due time of what is held back: never by itself.</summary>
    public static Instant Held { get; } = Instant.FromUtc(9000, 1, 1, 0, 0);

    /// <summary>Its number.</summary>
    public int Id { get; init; }

    /// <summary><c>all</c>, <c>rule:</c> and a rule's id, or <c>team:</c> and a team's id.</summary>
    public required string Scope { get; init; }

    /// <summary>Why, in the words of whoever made it.</summary>
    public required string Reason { get; init; }

    /// <summary>Who made it.</summary>
    public required string By { get; init; }

    /// <summary>Since when.</summary>
    public Instant Since { get; init; }

    /// <summary>Until when.</summary>
    public Instant Until { get; set; }

    /// <summary>When its time is over, what it holds back waits for somebody to decide, instead of going out.</summary>
    public bool Asks { get; init; }

    /// <summary>When it ended, or <see langword="null"/> while it holds.</summary>
    public Instant? EndedAt { get; set; }

    /// <summary>What became of what it held back, in words, once it ended.</summary>
    public string? Outcome { get; set; }

    /// <summary>Its time is over and it holds back nothing new; what it held waits for somebody to decide.</summary>
    public bool Over(Instant now) => now >= Until;

    /// <summary>It holds back the alerts of a rule's case. One that names a team does so where the case tells the team, whole or whoever is on duty.</summary>
    public bool Holds(string rule, IEnumerable<Recipient> tell) =>
        Scope.Split(':', 2) switch
        {
            [All] => true,
            ["rule", var id] => id == rule,
            ["team", var team] => tell.Any(r => r is TeamRecipient t && t.Team == team || r is DutyRecipient d && d.Team == team),
            _ => false,
        };
}

/// <summary>A ladder that many rules use.</summary>
public sealed class SharedLadder
{
    /// <summary>Its id, lower-case words and hyphens.</summary>
    public required string Id { get; init; }

    /// <summary>Its name.</summary>
    public required string Name { get; set; }

    /// <summary>Its steps, the JSON list of a rule document.</summary>
    public required string Steps { get; set; }

    /// <summary>When it was last saved.</summary>
    public Instant SavedAt { get; set; }

    /// <summary>Who saved it.</summary>
    public required string SavedBy { get; set; }
}
