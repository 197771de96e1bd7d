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
    /// <summary>The due time of what is held back: never by itself.</summary>
    public static Instant Held { get; } = Instant.FromUtc(9000, 1, 1, 0, 0);

    /// <summary>Its number.</summary>
    public int Id { get; init; }

    /// <summary>What it holds back.</summary>
    public required PauseScope Scope { get; init; }

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
        Scope switch
        {
            { Rule: { } id } => id == rule,
            { Team: { } team } => tell.Any(r => r.OfTeam == team),
            _ => true,
        };
}

/// <summary>What a pause holds back: everything, a rule's alerts, or what tells a team.</summary>
/// <param name="Rule">The rule's id, or <see langword="null"/>.</param>
/// <param name="Team">The team's id, or <see langword="null"/>.</param>
public sealed record PauseScope(string? Rule = null, string? Team = null)
{
    /// <summary>Everything.</summary>
    public static PauseScope All { get; } = new();

    /// <summary>As one text: <c>all</c>, <c>rule:</c> and a rule's id, or <c>team:</c> and a team's id.</summary>
    public string Key =>
        Rule is not null ? "rule:" + Rule
        : Team is not null ? "team:" + Team
        : "all";

    /// <summary>Reads such a text; <see langword="null"/> for any other.</summary>
    public static PauseScope? Parse(string? key) =>
        key?.Split(':', 2) switch
        {
            ["all"] => All,
            ["rule", { Length: > 0 } rule] => new(Rule: rule),
            ["team", { Length: > 0 } team] => new(Team: team),
            _ => null,
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
