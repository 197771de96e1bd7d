using System.Collections.Frozen;

namespace Sirena.Core;

/// <summary>Ids that are made from names, and those that nothing can have.</summary>
public static class Ids
{
    /// <summary>Under which address a new thing is made: the id of none, for its page could not be opened.</summary>
    public const string New = "new";

    /// <summary>The words that stand in the addresses of pages where the id of a rule would.</summary>
    public static FrozenSet<string> NoRule { get; } = [New, "ladders"];

    /// <summary>The words that stand in the addresses of pages where the id of a person would.</summary>
    public static FrozenSet<string> NoPerson { get; } = [New, "coverage", "files", "notices", "rota", "teams", "who"];

    /// <summary>What is said of an id that is such a word.</summary>
    public static string Kept(string id) => $"'{id}' is a word of Sirena's own addresses, and a page of that id could not be opened. Choose another id.";

    /// <summary>The id itself, or with the first number behind it that is free: <c>dario.neves-2</c>.</summary>
    /// <param name="id">The id that is wished for.</param>
    /// <param name="taken">Whether an id is taken.</param>
    public static string Free(string id, Func<string, bool> taken) =>
        !taken(id) ? id : Enumerable.Range(2, int.MaxValue - 2).Select(n => $"{id}-{n}").First(i => !taken(i));
}
