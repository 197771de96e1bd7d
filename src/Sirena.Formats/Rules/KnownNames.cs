using System.Collections.Immutable;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;

namespace Sirena.Formats.Rules;

/// <summary>What a rule document may name: an unknown one is a mistake at its place.</summary>
/// <param name="People">Ids of people who can be told.</param>
/// <param name="Teams">Ids of teams.</param>
/// <param name="Statuses">Ids of statuses.</param>
/// <param name="Ladders">The shared ladders by id.</param>
public sealed record KnownNames(
    IReadOnlyCollection<string> People,
    IReadOnlyCollection<string> Teams,
    IReadOnlyCollection<string> Statuses,
    IReadOnlyDictionary<string, ImmutableArray<LadderStep>> Ladders
)
{
    /// <summary>The instructions that some source takes, by name.</summary>
    public IReadOnlyDictionary<string, InstructionKind> Instructions { get; init; } = new Dictionary<string, InstructionKind>();
}
