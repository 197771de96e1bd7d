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

    /// <summary>What a person mended of it before it was taken.</summary>
    public RunEdits Edits { get; set; } = new();

    /// <summary>What it showed when it ended; <see langword="null"/> while it can still be taken, and after its time.</summary>
    public RunRows? Shown { get; set; }
}

/// <summary>What a person changed about a run before it is taken: cells that cannot be read, and what gone rows mean. The file stays as it came.</summary>
public sealed record RunEdits
{
    /// <summary>The meaning of a gone row whose order goes on: the row stays, and is asked about again.</summary>
    public const string Stays = "=stays";

    /// <summary>The meaning of a gone row that means nothing: the row is forgotten, and no event is made.</summary>
    public const string Nothing = "=nothing";

    /// <summary>Cells by their row's line and their column.</summary>
    public Dictionary<int, Dictionary<string, string>> Cells { get; init; } = [];

    /// <summary>What a gone row means, by its key: a status, <see cref="Stays"/> or <see cref="Nothing"/>.</summary>
    public Dictionary<string, string> Gone { get; init; } = [];

    /// <summary>With one cell as it should have been.</summary>
    public RunEdits With(int line, string column, string text) =>
        this with
        {
            Cells = new(Cells) { [line] = new(Cells.GetValueOrDefault(line) ?? []) { [column] = text } },
        };

    /// <summary>With a meaning of a gone row.</summary>
    public RunEdits With(string key, string meaning) => this with { Gone = new(Gone) { [key] = meaning } };

    /// <summary>A row's cells as they count.</summary>
    /// <param name="line">The line in which the row begins.</param>
    /// <param name="head">The columns.</param>
    /// <param name="cells">The cells as they came.</param>
    public string[] Mended(int line, string[] head, string[] cells) =>
        !Cells.TryGetValue(line, out var mends) || cells.Length > head.Length
            ? cells
            : [.. head.Select((column, i) => mends.GetValueOrDefault(column) ?? (i < cells.Length ? cells[i] : ""))];

    /// <summary>What a gone row means.</summary>
    /// <param name="key">The row.</param>
    /// <param name="usual">The status that the source sets for gone rows, or <see langword="null"/>.</param>
    public string MeaningOf(string key, string? usual) => Gone.GetValueOrDefault(key) ?? usual ?? Nothing;
}

/// <summary>The rows of a run that differ, as a page shows them: at most a thousand of each kind.</summary>
/// <param name="New">Rows that were not there before.</param>
/// <param name="Changed">Rows of which cells changed.</param>
/// <param name="Gone">The keys of rows that are gone.</param>
/// <param name="Bad">Rows that cannot be read.</param>
public sealed record RunRows(IReadOnlyList<NewRow> New, IReadOnlyList<RowChange> Changed, IReadOnlyList<string> Gone, IReadOnlyList<BadRow> Bad)
{
    /// <summary>None.</summary>
    public static RunRows None { get; } = new([], [], [], []);
}

/// <summary>A row that was not there before.</summary>
/// <param name="Line">The line in which it begins.</param>
/// <param name="Key">Its key.</param>
/// <param name="Cells">Its cells, without the key and the empty ones, in their order.</param>
public sealed record NewRow(int Line, string Key, IReadOnlyList<CellChange> Cells);

/// <summary>A cell that changed.</summary>
/// <param name="Column">The column.</param>
/// <param name="Before">What stood there.</param>
/// <param name="After">What stands there now.</param>
/// <param name="As">How the reading reads the column, where it is a time or a number.</param>
public sealed record CellChange(string Column, string? Before, string? After, CellRead? As = null);

/// <summary>What a cell was read as, in a form that a page can write in its own way.</summary>
/// <param name="Before">The time (RFC 3339) or number that stood there.</param>
/// <param name="After">The one that stands there now.</param>
public sealed record CellRead(string? Before, string? After);

/// <summary>A row of which cells changed.</summary>
/// <param name="Line">The line in which it begins.</param>
/// <param name="Key">Its key.</param>
/// <param name="Cells">The cells.</param>
public sealed record RowChange(int Line, string Key, IReadOnlyList<CellChange> Cells);

/// <summary>A row that cannot be read.</summary>
/// <param name="Row">The line in which it begins.</param>
/// <param name="Column">The column, or <see langword="null"/> for the whole row.</param>
/// <param name="Problem">What is wrong.</param>
public sealed record BadRow(int Row, string? Column, string Problem)
{
    /// <summary>The row's key, where it has one.</summary>
    public string? Key { get; init; }

    /// <summary>The cell as it came, where one cell is wrong and can be mended.</summary>
    public string? Cell { get; init; }
}

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
        missing.Count > 0
            ? $"{(missing.Count == 1 ? "The column" : "The columns")} {string.Join(", ", missing.Select(m => $"'{m}'"))} "
                + $"{(missing.Count == 1 ? "is" : "are")} missing."
        : before > 0 && gone > before * plan.GoneAtMost
            ? $"{gone} of {before} rows {(gone == 1 ? "is" : "are")} gone, {Percent(gone, before)}; up to {Percent(plan.GoneAtMost)} is usual."
        : before > 0 && changed > before * plan.ChangedAtMost
            ? $"{changed} of {before} rows changed, {Percent(changed, before)}; up to {Percent(plan.ChangedAtMost)} is usual."
        : null;

    private static string Percent(int part, int whole) => Percent((decimal)part / whole);

    private static string Percent(decimal share) => $"{Math.Round(share * 100)} %";
}
