using Sirena.Core.Sources;

namespace Sirena.Engine.Sources;

/// <summary>What a run shows.</summary>
/// <param name="Run">The run.</param>
/// <param name="Rows">The rows that differ, at most a thousand of each kind.</param>
/// <param name="Told">Who would be told, or was.</param>
/// <param name="Problem">Why the file is no list at all; then nothing of it was kept.</param>
public sealed record RunResult(ListingRun? Run, RunRows Rows, IReadOnlyList<WouldBeTold> Told, string? Problem = null)
{
    /// <summary>A file that is no list.</summary>
    public static RunResult Unreadable(string? problem) => new(null, RunRows.None, [], problem);
}
