namespace Sirena.Core;

/// <summary>Ids that are made from names.</summary>
public static class Ids
{
    /// <summary>The id itself, or with the first number behind it that is free: <c>dario.neves-2</c>.</summary>
    /// <param name="id">The id that is wished for.</param>
    /// <param name="taken">Whether an id is taken.</param>
    public static string Free(string id, Func<string, bool> taken) =>
        !taken(id) ? id : Enumerable.Range(2, int.MaxValue - 2).Select(n => $"{id}-{n}").First(i => !taken(i));
}
