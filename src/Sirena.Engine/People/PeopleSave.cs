using Sirena.Formats.Documents;

namespace Sirena.Engine.People;

/// <summary>How saving people ended.</summary>
/// <param name="Made">The ids of new people.</param>
/// <param name="Replaced">The ids of people who were there before.</param>
/// <param name="Errors">The mistakes, each with its place.</param>
/// <param name="Taken">Whether anything was stored.</param>
public sealed record PeopleSave(IReadOnlyList<string> Made, IReadOnlyList<string> Replaced, IReadOnlyList<DocumentError> Errors, bool Taken)
{
    /// <summary>Somebody changed one of them since the version that the caller names.</summary>
    public bool Stale { get; init; }

    /// <summary>Those of the file of whom only the name says who they are; each is among the mistakes until it is said.</summary>
    public IReadOnlyList<Likeness> Alike { get; init; } = [];
}
