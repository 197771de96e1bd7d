namespace Sirena.Core.Sources;

/// <summary>A reading that Sirena proposes, and why.</summary>
/// <param name="Reading">The reading.</param>
/// <param name="Because">For each member that it fills, a sentence.</param>
public sealed record Proposal(Reading Reading, IReadOnlyDictionary<string, string> Because);
