using System.Buffers.Binary;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Orders;
using Sirena.Core.Sources;
using Sirena.Formats.Sources;

namespace Sirena.Engine.Sources;

/// <summary>A row as it stands in the file.</summary>
/// <param name="Line">The line in which it begins.</param>
/// <param name="Key">Its key.</param>
/// <param name="Cells">Its cells by column.</param>
/// <param name="Digest">The digest of its cells.</param>
/// <param name="Data">The event's data that it reads as.</param>
internal sealed record ReadRow(int Line, string Key, JsonElement Cells, long Digest, JsonObject Data)
{
    /// <summary>As a page shows it.</summary>
    /// <param name="keyColumn">The column of the key.</param>
    /// <param name="reads">What a cell was read as.</param>
    public NewRow Row(string keyColumn, Func<string, JsonObject?, string?> reads) =>
        new(
            Line,
            Key,
            [
                .. Cells
                    .EnumerateObject()
                    .Where(c => c.Name != keyColumn && c.Value.GetString() is { Length: > 0 })
                    .Select(c => new CellChange(c.Name, null, c.Value.GetString(), reads(c.Name, Data) is { } read ? new CellRead(null, read) : null)),
            ]
        );
}

/// <summary>A gone row that counts as ended.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Status">The status that its order takes, or <see langword="null"/> for none.</param>
internal sealed record EndedRow(string Key, string? Status);

/// <summary>One reading of a file against what the run before left: rows are looked at one by one, and only what differs is kept.</summary>
internal sealed class ListingWork(ListingFile file, ListingPlan plan, Reading reading, BodyReader reader, RunEdits edits, Dictionary<string, long> before)
{
    private const int MostBad = 10_000;
    private readonly HashSet<string> seen = [];
    private readonly List<(JsonObject Data, Instant? At)> listed = [];
    private readonly Dictionary<string, FieldReading> columns = reading
        .Fields.Where(f => f.Value.Column is not null)
        .DistinctBy(f => f.Value.Column)
        .ToDictionary(f => f.Value.Column!);

    /// <summary>The rows of the run before.</summary>
    public int Before { get; } = before.Count;

    /// <summary>The rows of the file.</summary>
    public int Rows { get; private set; }

    public List<ReadRow> New { get; } = [];

    public List<ReadRow> Changed { get; } = [];

    public List<string> Gone { get; } = [];

    /// <summary>The gone rows that count as ended, with what they mean; those that stay are none of them.</summary>
    public IReadOnlyList<EndedRow> Ended =>
        [
            .. Gone.Select(k => (Key: k, Meaning: edits.MeaningOf(k, plan.Gone)))
                .Where(g => g.Meaning != RunEdits.Stays)
                .Select(g => new EndedRow(g.Key, g.Meaning == RunEdits.Nothing ? null : g.Meaning)),
        ];

    public List<BadRow> Bad { get; } = [];

    public IReadOnlyList<string> ChangedKeys => [.. Changed.Select(c => c.Key)];

    /// <summary>Reads all rows.</summary>
    /// <returns>Why the file is cut off, or <see langword="null"/>.</returns>
    public string? Read()
    {
        var key = Array.IndexOf(file.Head, plan.Key);
        ListingRow? last = null;
        var badKeys = new HashSet<string>();
        foreach (var came in file.Rows())
        {
            var row = came with { Cells = edits.Mended(came.Line, file.Head, came.Cells) };
            (last, Rows) = (row, Rows + 1);
            var id = key < row.Cells.Length ? row.Cells[key].Trim() : "";
            if (Wrong(row, id) is { } wrong)
            {
                Note(wrong);
                badKeys.Add(id);
                continue;
            }

            var digest = Digest(row.Cells);
            var known = before.TryGetValue(id, out var was);
            if (known && was == digest && plan.Role != ListingRole.Check)
            {
                continue;
            }

            Take(row, id, digest, known, known && was == digest, badKeys);
        }

        if (last?.Problem is not null && file.EndsOpen)
        {
            return $"The file ends within a row, in line {last.Line}: {last.Problem}. It is cut off, or still being written; nothing of it was read.";
        }

        Gone.AddRange(before.Keys.Where(k => !seen.Contains(k) && !badKeys.Contains(k)));
        return null;
    }

    /// <summary>The changed rows with their cells before and after; rows of which the order of columns alone changed are none.</summary>
    public IReadOnlyList<RowChange> Changes(IReadOnlyDictionary<string, JsonObject> were)
    {
        var changes = new List<RowChange>();
        foreach (var row in Changed.ToArray())
        {
            var old = were.GetValueOrDefault(row.Key) ?? [];
            CellChange[] cells =
            [
                .. row
                    .Cells.EnumerateObject()
                    .Where(c => old[c.Name]?.ToString() != c.Value.GetString())
                    .Select(c => Change(c.Name, old, c.Value.GetString(), row.Data)),
                .. old.Where(c => !row.Cells.TryGetProperty(c.Key, out _)).Select(c => new CellChange(c.Key, c.Value?.ToString(), null)),
            ];
            if (cells.Length > 0)
            {
                changes.Add(new RowChange(row.Line, row.Key, cells));
            }
        }

        return changes;
    }

    /// <summary>A time or number that a column was read as, in RFC 3339 or with a decimal point; <see langword="null"/> for other columns.</summary>
    public string? ReadOf(string column, JsonObject? data) =>
        columns.GetValueOrDefault(column) is var (field, value)
        && field.Members.Aggregate((JsonNode?)data, (node, name) => (node as JsonObject)?[name]) is JsonValue found
        && (found.GetValueKind() == JsonValueKind.Number || field.As == ReadAs.Time || value.Forms.Count > 0)
            ? found.ToString()
            : null;

    /// <summary>The status that cells read as.</summary>
    public string? StatusOf(JsonElement cells) => reader.Row(cells).Data?["order"]?["status"]?.ToString();

    /// <summary>The status that kept cells read as.</summary>
    public string? StatusOf(JsonObject cells) => StatusOf(JsonSerializer.SerializeToElement(cells));

    /// <summary>The orders of a check.</summary>
    public IReadOnlyList<ListedOrder> Listed(StatusWords words, string prefix) =>
        [
            .. listed
                .Select(l => (Order: l.Data["order"] as JsonObject, l.At))
                .Where(l => l.Order?["number"] is not null)
                .Select(l => new ListedOrder(
                    prefix + l.Order!["number"],
                    l.Order["status"]?.ToString() is { } status ? words.IdOf(status) : null,
                    Core.Orders.Fields.Facts.Time(l.Order["placedAt"]?.ToString()),
                    l.At,
                    l.Order.ToJsonString()
                ))
                .DistinctBy(l => l.Number),
        ];

    private CellChange Change(string column, JsonObject old, string? now, JsonObject data)
    {
        var (was, after) = (ReadOf(column, reader.Row(JsonSerializer.SerializeToElement(old)).Data), ReadOf(column, data));
        return new CellChange(column, old[column]?.ToString(), now, was is null && after is null ? null : new CellRead(was, after));
    }

    private void Take(ListingRow row, string id, long digest, bool known, bool same, HashSet<string> badKeys)
    {
        var cells = JsonSerializer.SerializeToElement(file.Cells(row));
        var (data, problems) = reader.Row(cells);
        if (data is null)
        {
            badKeys.Add(id);
            foreach (var problem in problems)
            {
                var cell = Array.IndexOf(file.Head, problem.Path);
                Note(
                    new BadRow(
                        row.Line,
                        problem.Path,
                        $"{(problem.Found is null ? "nothing stands there" : $"'{problem.Found}' stands there")}, wanted is {problem.Wanted}"
                    )
                    {
                        Key = id,
                        Cell = cell < 0 ? null : row.Cells[cell],
                    }
                );
            }

            return;
        }

        if (plan.Role == ListingRole.Check)
        {
            listed.Add((data, reader.TimeOf(cells)));
        }

        if (!same)
        {
            (known ? Changed : New).Add(new ReadRow(row.Line, id, cells, digest, data));
        }
    }

    private BadRow? Wrong(ListingRow row, string id) =>
        row.Problem is not null ? new BadRow(row.Line, null, row.Problem)
        : id.Length is 0 or > 200 ? new BadRow(row.Line, plan.Key, id.Length == 0 ? "the key is empty" : "the key is longer than 200 characters")
        : row.Cells.Any(c => c.Contains('\0', StringComparison.Ordinal)) ? new BadRow(row.Line, null, "a cell holds a zero character")
        : !seen.Add(id) ? new BadRow(row.Line, plan.Key, $"'{Quoting.Cut(id)}' stands twice; the first row counts")
        : null;

    private void Note(BadRow bad)
    {
        if (Bad.Count < MostBad)
        {
            Bad.Add(bad);
        }
    }

    private long Digest(string[] cells)
    {
        Span<byte> hash = stackalloc byte[32];
        SHA256.HashData(Encoding.UTF8.GetBytes(string.Join('\u001F', file.Head) + '\u001E' + string.Join('\u001F', cells)), hash);
        return BinaryPrimitives.ReadInt64BigEndian(hash);
    }
}
