using NodaTime;

namespace Sirena.Core.Sources;

/// <summary>Where a run of a list stands.</summary>
public enum RunState
{
    /// <summary>It was looked at; nothing of it is real.</summary>
    Tried,

    /// <summary>It is taken in.</summary>
    Taken,

    /// <summary>It looks broken and waits for a person.</summary>
    Waits,

    /// <summary>A person refused it.</summary>
    Refused,
}

/// <summary>One run of a list: what came, what differed from the run before, and what became of it.</summary>
public sealed class ListingRun
{
    /// <summary>Its number.</summary>
    public Guid Id { get; init; }

    /// <summary>The source.</summary>
    public required string Source { get; init; }

    /// <summary>When it came.</summary>
    public Instant At { get; init; }

    /// <summary>Who brought it.</summary>
    public required string By { get; init; }

    /// <summary>Its state.</summary>
    public RunState State { get; set; }

    /// <summary>Its rows.</summary>
    public int Rows { get; set; }

    /// <summary>Rows that were not there before.</summary>
    public int New { get; set; }

    /// <summary>Rows of which a cell changed.</summary>
    public int Changed { get; set; }

    /// <summary>Rows that are gone.</summary>
    public int Gone { get; set; }

    /// <summary>Rows that cannot be read.</summary>
    public int Bad { get; set; }

    /// <summary>It is the first one: what it brings tells nobody.</summary>
    public bool Baseline { get; set; }

    /// <summary>Why it waits, or was refused.</summary>
    public string? Reason { get; set; }

    /// <summary>The file as it came, compressed; <see langword="null"/> after its time.</summary>
    public byte[]? Content { get; set; }

    /// <summary>Its character set as it was declared, or <see langword="null"/>.</summary>
    public string? Charset { get; init; }

    /// <summary>SHA-256 of the file.</summary>
    public byte[] Hash { get; init; } = [];

    /// <summary>When it was taken or refused.</summary>
    public Instant? EndedAt { get; set; }
}

/// <summary>A cell that changed.</summary>
/// <param name="Column">The column.</param>
/// <param name="Before">What stood there.</param>
/// <param name="After">What stands there now.</param>
public sealed record CellChange(string Column, string? Before, string? After);

/// <summary>A row of which cells changed.</summary>
public sealed record RowChange(string Key, IReadOnlyList<CellChange> Cells);

/// <summary>A row that cannot be read.</summary>
/// <param name="Row">The line in which it begins.</param>
/// <param name="Column">The column, or <see langword="null"/> for the whole row.</param>
/// <param name="Problem">What is wrong.</param>
public sealed record BadRow(int Row, string? Column, string Problem);

/// <summary>What looks broken about a run, by the source's own limits.</summary>
public static class Doubt
{
    /// <summary>In a sentence; <see langword="null"/> where nothing does.</summary>
    /// <param name="plan">The limits.</param>
    /// <param name="before">The rows of the run before; 0 for none.</param>
    /// <param name="changed">Rows of which a cell changed.</param>
    /// <param name="gone">Rows that are gone.</param>
    /// <param name="missing">Columns that the reading names and the file lacks.</param>
    public static string? Of(ListingPlan plan, int before, int changed, int gone, IReadOnlyList<string> missing) =>
        missing.Count > 0 ? $"{(missing.Count == 1 ? "The column" : "The columns")} {string.Join(", ", missing.Select(m => $"'{m}'"))} {(missing.Count == 1 ? "is" : "are")} missing."
        : before > 0 && gone > before * plan.GoneAtMost ? $"{gone} of {before} rows {(gone == 1 ? "is" : "are")} gone, {Percent(gone, before)}; up to {Percent(plan.GoneAtMost)} is usual."
        : before > 0 && changed > before * plan.ChangedAtMost ? $"{changed} of {before} rows changed, {Percent(changed, before)}; up to {Percent(plan.ChangedAtMost)} is usual." : null;

    private static string Percent(int part, int whole) => Percent((decimal)part / whole);

    private static string Percent(decimal share) => $"{Math.Round(share * 100)} %";
}
