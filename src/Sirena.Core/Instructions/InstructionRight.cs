namespace Sirena.Core.Instructions;

/// <summary>Who may use a kind of instruction.</summary>
public sealed record InstructionRight
{
    /// <summary>The kind.</summary>
    public required string Kind { get; init; }

    /// <summary>The roles: <c>staff</c>, <c>supervisor</c>.</summary>
    public string[] Roles { get; init; } = [];

    /// <summary>The teams.</summary>
    public string[] Teams { get; init; } = [];

    /// <summary>It needs a second person's yes.</summary>
    public bool SecondYes { get; init; }

    /// <summary>What holds where nothing is set: supervisors use all, staff what can be undone.</summary>
    public static InstructionRight Usual(InstructionKind kind) =>
        new() { Kind = kind.Name, Roles = kind.Final || kind.OfSource ? ["supervisor"] : ["staff", "supervisor"] };

    /// <summary>Whether somebody may use it.</summary>
    /// <param name="role">Their role.</param>
    /// <param name="teams">Their teams.</param>
    public bool Permits(string role, IEnumerable<string> teams) => Roles.Contains(role) || teams.Intersect(Teams).Any();
}
