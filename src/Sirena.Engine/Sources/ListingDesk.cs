using System.Buffers.Binary;
using System.IO.Compression;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;
using NpgsqlTypes;
using Sirena.Core.Orders;
using Sirena.Core.Sources;
using Sirena.Engine.Intake;
using Sirena.Formats.Sources;
using Sirena.Storage;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Sources;

/// <summary>What a run shows.</summary>
/// <param name="Run">The run.</param>
/// <param name="New">The keys of new rows, at most a thousand.</param>
/// <param name="Changed">Rows of which cells changed, at most a thousand.</param>
/// <param name="Gone">The keys of gone rows, at most a thousand.</param>
/// <param name="Bad">Rows that cannot be read, at most a thousand.</param>
/// <param name="Told">Who would be told, or was.</param>
/// <param name="Problem">Why the file is no list at all; then nothing of it was kept.</param>
public sealed record RunResult(ListingRun? Run, IReadOnlyList<string> New, IReadOnlyList<RowChange> Changed, IReadOnlyList<string> Gone, IReadOnlyList<BadRow> Bad, IReadOnlyList<WouldBeTold> Told, string? Problem = null);

/// <summary>
/// Takes lists: each run is compared with the rows that the run before left, by their key, and the difference becomes events. Rows, events and the mark of the run commit together. A run that looks broken waits for a
/// person; a file that is cut off is not read.
/// </summary>
public sealed class ListingDesk(
    IDbContextFactory<SirenaDb> factory, NpgsqlDataSource database, SourceShelf shelf, SurroundingsCache surroundings, EventIntake intake, IntakeDesk own, WouldTell wouldTell, MissedDesk missed, SourcePulse pulse, Signals signals, IClock clock)
{
    /// <summary>Why a list is not taken whose source is gone.</summary>
    public const string NoList = "There is no such list among the sources any more.";

    private const string Unread = "It had no reading yet.";
    private const int Shown = 1_000;
    private const int Together = 5_000;

    /// <summary>Takes a file, or looks at it only.</summary>
    /// <param name="sourceId">The source.</param>
    /// <param name="bytes">The file.</param>
    /// <param name="charset">Its declared character set, or <see langword="null"/>.</param>
    /// <param name="only">It is looked at only: nothing of it is real.</param>
    /// <param name="by">Who brings it.</param>
    /// <param name="cancel">Breaks it off; nothing is half done.</param>
    /// <param name="tell">The first run tells too.</param>
    /// <returns>The run; <see langword="null"/> where there is no such source.</returns>
    public async Task<RunResult?> RunAsync(string sourceId, byte[] bytes, string? charset, bool only, string by, CancellationToken cancel, bool tell = false)
    {
        if (await shelf.FindAsync(sourceId, cancel) is not { Source: { Kind: SourceKind.Listing, Listing: { } plan } source } live)
        {
            return null;
        }

        var now = clock.GetCurrentInstant();
        var run = new ListingRun { Id = Guid.CreateVersion7(), Source = sourceId, At = now, By = by, Charset = charset, Content = Packed(bytes), Hash = SHA256.HashData(bytes) };
        if (live is not { Reader: { } reader, Reading: { } reading })
        {
            return await UnreadAsync(plan, run, bytes, cancel);
        }

        return await WorkAsync(source, plan, reading, reader, run, bytes, only ? Wish.Try : Wish.Take, tell ? true : null, cancel);
    }

    // A list of which nobody has said yet which column is what: it is kept, so that its columns can be clicked.
    private async Task<RunResult> UnreadAsync(ListingPlan plan, ListingRun run, byte[] bytes, CancellationToken cancel)
    {
        var (file, problem) = ListingFile.Open(bytes, run.Charset ?? plan.Charset, plan.Separator);
        if (file is not null)
        {
            // The last one is enough: a list that is fetched comes again every few minutes.
            await using var db = await factory.CreateDbContextAsync(cancel);
            await db.ListingRuns.Where(r => r.Source == run.Source && r.State == RunState.Tried && r.Reason == Unread).ExecuteDeleteAsync(cancel);
            (run.State, run.Rows, run.Reason) = (RunState.Tried, file.Rows().Count(), Unread);
            await NoteAsync(run, cancel);
        }

        return new RunResult(null, [], [], [], [], [], problem ?? "This list has no reading yet: say which column is what, then hand it over again.");
    }

    /// <summary>Takes a run that was tried, or waits: what differs now becomes real.</summary>
    /// <param name="sourceId">The source.</param>
    /// <param name="id">The run.</param>
    /// <param name="tell">Whether the rules are asked; <see langword="null"/> for as usual: of all but the first run.</param>
    /// <param name="cancel">Breaks it off.</param>
    public async Task<RunResult?> TakeAsync(string sourceId, Guid id, bool? tell, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var run = await db.ListingRuns.AsNoTracking().FirstOrDefaultAsync(r => r.Id == id && r.Source == sourceId, cancel);
        if (run?.Content is null || run.State is not (RunState.Tried or RunState.Waits)
            || await shelf.FindAsync(sourceId, cancel) is not { Source: { Kind: SourceKind.Listing, Listing: { } plan } source, Reader: { } reader, Reading: { } reading })
        {
            return null;
        }

        return await WorkAsync(source, plan, reading, reader, run, Unpacked(run.Content), Wish.Force, tell, cancel);
    }

    /// <summary>Refuses a run that was tried, or waits.</summary>
    /// <returns>Whether there was one.</returns>
    public async Task<bool> RefuseAsync(string sourceId, Guid id, string? reason, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var now = clock.GetCurrentInstant();
        var why = string.IsNullOrWhiteSpace(reason) ? $"Refused by {by}." : $"Refused by {by}: {reason.Trim()}";
        var done = await db.ListingRuns.Where(r => r.Id == id && r.Source == sourceId && (r.State == RunState.Tried || r.State == RunState.Waits))
            .ExecuteUpdateAsync(u => u.SetProperty(r => r.State, RunState.Refused).SetProperty(r => r.Reason, why).SetProperty(r => r.EndedAt, now), cancel);
        signals.Raise(Topic.Pages);
        return done > 0;
    }

    private async Task<RunResult> WorkAsync(Source source, ListingPlan plan, Reading reading, BodyReader reader, ListingRun run, byte[] bytes, Wish wish, bool? tell, CancellationToken cancel)
    {
        var (file, problem) = ListingFile.Open(bytes, run.Charset ?? plan.Charset, plan.Separator);
        if (file is null)
        {
            return new RunResult(null, [], [], [], [], [], problem);
        }

        string[] wanted = [plan.Key, .. reading.Fields.SelectMany(f => new[] { f.Value }.Concat(f.Value.Join)).Select(v => v.Column).OfType<string>()];
        string[] missing = [.. wanted.Distinct().Where(c => !file.Head.Contains(c))];
        if (missing.Contains(plan.Key))
        {
            return new RunResult(null, [], [], [], [], [], $"The column '{plan.Key}' is missing, which tells one row from another. The first line names {string.Join(", ", file.Head.Take(12))}.");
        }

        await using var connection = await database.OpenConnectionAsync(cancel);
        var work = new ListingWork(file, plan, reader, await DigestsAsync(connection, source.Id, cancel));
        var last = await LastAsync(connection, source.Id, cancel);
        if (work.Read() is { } cut)
        {
            return new RunResult(null, [], [], [], [], [], cut);
        }

        var before = await CellsAsync(connection, source.Id, work.ChangedKeys, cancel);
        var changed = work.Changes(before);
        (run.Rows, run.New, run.Changed, run.Gone, run.Bad) = (work.Rows, work.New.Count, changed.Count, work.Gone.Count, work.Bad.Count);
        run.Baseline = work.Before == 0;
        run.Reason = Doubt.Of(plan, work.Before, changed.Count, work.Gone.Count, missing);
        run.State = wish == Wish.Try ? RunState.Tried : run.Reason is not null && wish != Wish.Force ? RunState.Waits : RunState.Taken;
        run.EndedAt = run.State == RunState.Taken ? clock.GetCurrentInstant() : null;
        var events = plan.Role == ListingRole.Check ? [] : Events(source, plan, last, work, before);
        var tells = tell ?? !run.Baseline;
        var told = tells ? await wouldTell.OfAsync(events, source.Prefix, cancel) : [];
        if (run.State == RunState.Taken)
        {
            await StoreAsync(source, plan, run, work, events, !tells, cancel);
        }
        else
        {
            await NoteAsync(run, cancel);
        }

        if (run.State == RunState.Waits)
        {
            await DoubtAsync(source, run, cancel);
        }

        signals.Raise(Topic.Pages);
        return new RunResult(run, [.. work.New.Take(Shown).Select(r => r.Key)], [.. changed.Take(Shown)], [.. work.Gone.Take(Shown)], [.. work.Bad.Take(Shown)], told);
    }

    private async Task StoreAsync(Source source, ListingPlan plan, ListingRun run, ListingWork work, IReadOnlyList<IncomingEvent> events, bool silent, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        var words = (await surroundings.GetAsync(cancel)).Words;
        foreach (var one in events)
        {
            words.Apply(one.Data);
        }

        Arrival[] arrivals = [.. events.Select(e => new Arrival(e, source.Prefix, now) { Crowd = events.Count > 100, By = source.Id, Silent = silent })];
        // A run of more than that would hold more locks than the server has: the events before the last part are taken in by themselves. Their ids are those of the run before and of the row, so that a run which is broken
        // off and handed over again makes none of them twice.
        var from = 0;
        for (; arrivals.Length - from > EventIntake.Together; from += EventIntake.Together)
        {
            await intake.StoreAsync(arrivals[from..(from + EventIntake.Together)], cancel);
        }

        await intake.StoreAsync(arrivals[from..], cancel, async connection =>
        {
            await RowsAsync(connection, source.Id, work, cancel);
            await RunAsync(connection, run, cancel);
        });
        if (events.Count > 0)
        {
            pulse.Note(source.Id, events.Count, now);
            signals.Raise(Topic.Events);
        }

        if (plan.Role == ListingRole.Check)
        {
            await missed.CompareAsync(source, plan, run, work.Listed(words, source.Prefix), cancel);
        }
    }

    private static List<IncomingEvent> Events(Source source, ListingPlan plan, string last, ListingWork work, IReadOnlyDictionary<string, JsonObject> before)
    {
        var events = new List<IncomingEvent>();
        var things = plan.Role == ListingRole.Things;
        IncomingEvent Made(string key, long digest, string type, JsonObject data) =>
            new($"{last}-{key}-{digest:x16}", source.EventSource, type, things ? (data["stock"]?["sku"]?.ToString() ?? key) : data["order"]?["number"]?.ToString(), null, data);
        foreach (var row in work.New)
        {
            events.Add(Made(row.Key, row.Digest, things ? "stock.changed" : "order.placed", (JsonObject)row.Data.DeepClone()));
        }

        foreach (var row in work.Changed)
        {
            var status = !things && before.TryGetValue(row.Key, out var cells) && work.StatusOf(cells) is var was && was != work.StatusOf(row.Cells);
            events.Add(Made(row.Key, row.Digest, things ? "stock.changed" : status ? "order.status-changed" : "order.changed", (JsonObject)row.Data.DeepClone()));
        }

        // The key is the order's number where a list is of orders.
        if (plan.Gone is { } gone && !things)
        {
            events.AddRange(work.Gone.Select(g => Made("gone-" + g, 0, "order.status-changed", new JsonObject { ["order"] = new JsonObject { ["number"] = g, ["status"] = gone } })));
        }

        return events;
    }

    private Task DoubtAsync(Source source, ListingRun run, CancellationToken cancel) =>
        own.TakeAsync([OwnEvents.OfSource($"source.doubtful-{run.Id:N}", "source.doubtful", source, run.At, ("run", run.Id.ToString()), ("reason", run.Reason))], cancel);

    // The run that left the rows that are there.
    private static async Task<string> LastAsync(NpgsqlConnection connection, string source, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand("select id from listing_runs where source = $1 and state = 'taken' order by ended_at desc limit 1", connection) { Parameters = { new NpgsqlParameter { Value = source } } };
        return await command.ExecuteScalarAsync(cancel) is Guid id ? id.ToString("N") : "first";
    }

    private static async Task<Dictionary<string, long>> DigestsAsync(NpgsqlConnection connection, string source, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand("select key, digest from listing_rows where source = $1", connection) { Parameters = { new NpgsqlParameter { Value = source } } };
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var digests = new Dictionary<string, long>();
        while (await reader.ReadAsync(cancel))
        {
            digests[reader.GetString(0)] = reader.GetInt64(1);
        }

        return digests;
    }

    private static async Task<Dictionary<string, JsonObject>> CellsAsync(NpgsqlConnection connection, string source, IReadOnlyList<string> keys, CancellationToken cancel)
    {
        var cells = new Dictionary<string, JsonObject>();
        if (keys.Count == 0)
        {
            return cells;
        }

        await using var command = new NpgsqlCommand("select key, cells from listing_rows where source = $1 and key = any($2)", connection) { Parameters = { new NpgsqlParameter { Value = source }, new NpgsqlParameter { Value = keys.ToArray() } } };
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            cells[reader.GetString(0)] = (JsonObject)JsonNode.Parse(reader.GetString(1))!;
        }

        return cells;
    }

    private static async Task RowsAsync(NpgsqlConnection connection, string source, ListingWork work, CancellationToken cancel)
    {
        foreach (var rows in work.New.Concat(work.Changed).Chunk(Together))
        {
            await using var command = new NpgsqlCommand(
                "insert into listing_rows (source, key, cells, digest) select $1, * from unnest($2, $3, $4) on conflict (source, key) do update set cells = excluded.cells, digest = excluded.digest", connection);
            command.Parameters.Add(new NpgsqlParameter { Value = source });
            command.Parameters.Add(new NpgsqlParameter { Value = rows.Select(r => r.Key).ToArray() });
            command.Parameters.Add(new NpgsqlParameter { Value = rows.Select(r => r.Cells.GetRawText()).ToArray(), NpgsqlDbType = NpgsqlDbType.Array | NpgsqlDbType.Json });
            command.Parameters.Add(new NpgsqlParameter { Value = rows.Select(r => r.Digest).ToArray() });
            await command.ExecuteNonQueryAsync(cancel);
        }

        if (work.Gone.Count > 0)
        {
            await using var command = new NpgsqlCommand("delete from listing_rows where source = $1 and key = any($2)", connection) { Parameters = { new NpgsqlParameter { Value = source }, new NpgsqlParameter { Value = work.Gone.ToArray() } } };
            await command.ExecuteNonQueryAsync(cancel);
        }
    }

    private async Task NoteAsync(ListingRun run, CancellationToken cancel)
    {
        await using var connection = await database.OpenConnectionAsync(cancel);
        await RunAsync(connection, run, cancel);
    }

    private static async Task RunAsync(NpgsqlConnection connection, ListingRun run, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand(
            """
            insert into listing_runs (id, source, at, by, state, rows, new, changed, gone, bad, baseline, reason, content, charset, hash, ended_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16)
            on conflict (id) do update set state = excluded.state, rows = excluded.rows, new = excluded.new, changed = excluded.changed, gone = excluded.gone, bad = excluded.bad, baseline = excluded.baseline, reason = excluded.reason, ended_at = excluded.ended_at
            """, connection);
        foreach (var value in new object?[] { run.Id, run.Source, run.At, run.By, Core.Names.Name(run.State), run.Rows, run.New, run.Changed, run.Gone, run.Bad, run.Baseline, run.Reason, run.Content, run.Charset, run.Hash, run.EndedAt })
        {
            command.Parameters.Add(new NpgsqlParameter { Value = value ?? DBNull.Value });
        }

        await command.ExecuteNonQueryAsync(cancel);
    }

    private static byte[] Packed(byte[] bytes)
    {
        using var kept = new MemoryStream();
        using (var packing = new BrotliStream(kept, CompressionLevel.Fastest, leaveOpen: true))
        {
            packing.Write(bytes);
        }

        return kept.ToArray();
    }

    internal static byte[] Unpacked(byte[] packed)
    {
        using var opened = new MemoryStream();
        using var reading = new BrotliStream(new MemoryStream(packed), CompressionMode.Decompress);
        reading.CopyTo(opened);
        return opened.ToArray();
    }

    private enum Wish
    {
        Try,
        Take,
        Force,
    }
}

/// <summary>A row as it stands in the file.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Cells">Its cells by column.</param>
/// <param name="Digest">The digest of its cells.</param>
/// <param name="Data">The event's data that it reads as.</param>
internal sealed record ReadRow(string Key, JsonElement Cells, long Digest, JsonObject Data);

/// <summary>One reading of a file against what the run before left: rows are looked at one by one, and only what differs is kept.</summary>
internal sealed class ListingWork(ListingFile file, ListingPlan plan, BodyReader reader, Dictionary<string, long> before)
{
    private const int MostBad = 10_000;
    private readonly HashSet<string> seen = [];
    private readonly List<JsonObject> listed = [];

    /// <summary>The rows of the run before.</summary>
    public int Before { get; } = before.Count;

    /// <summary>The rows of the file.</summary>
    public int Rows { get; private set; }

    public List<ReadRow> New { get; } = [];

    public List<ReadRow> Changed { get; } = [];

    public List<string> Gone { get; } = [];

    public List<BadRow> Bad { get; } = [];

    public IReadOnlyList<string> ChangedKeys => [.. Changed.Select(c => c.Key)];

    /// <summary>Reads all rows.</summary>
    /// <returns>Why the file is cut off, or <see langword="null"/>.</returns>
    public string? Read()
    {
        var key = Array.IndexOf(file.Head, plan.Key);
        ListingRow? last = null;
        var badKeys = new HashSet<string>();
        foreach (var row in file.Rows())
        {
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
                .. row.Cells.EnumerateObject().Where(c => old[c.Name]?.ToString() != c.Value.GetString()).Select(c => new CellChange(c.Name, old[c.Name]?.ToString(), c.Value.GetString())),
                .. old.Where(c => !row.Cells.TryGetProperty(c.Key, out _)).Select(c => new CellChange(c.Key, c.Value?.ToString(), null)),
            ];
            if (cells.Length > 0)
            {
                changes.Add(new RowChange(row.Key, cells));
            }
        }

        return changes;
    }

    /// <summary>The status that cells read as.</summary>
    public string? StatusOf(JsonElement cells) => reader.Row(cells).Data?["order"]?["status"]?.ToString();

    /// <summary>The status that kept cells read as.</summary>
    public string? StatusOf(JsonObject cells) => StatusOf(JsonSerializer.SerializeToElement(cells));

    /// <summary>The orders of a check.</summary>
    public IReadOnlyList<ListedOrder> Listed(StatusWords words, string prefix) =>
    [
        .. listed.Select(l => l["order"]).OfType<JsonObject>().Where(o => o["number"] is not null).Select(o =>
            new ListedOrder(prefix + o["number"]!, o["status"]?.ToString() is { } status ? words.IdOf(status) : null, Core.Orders.Fields.Facts.Time(o["placedAt"]?.ToString()), o.ToJsonString())).DistinctBy(l => l.Number),
    ];

    private void Take(ListingRow row, string id, long digest, bool known, bool same, HashSet<string> badKeys)
    {
        var cells = JsonSerializer.SerializeToElement(file.Cells(row));
        var (data, problems) = reader.Row(cells);
        if (data is null)
        {
            badKeys.Add(id);
            foreach (var problem in problems)
            {
                Note(new BadRow(row.Line, problem.Path, $"{(problem.Found is null ? "nothing stands there" : $"'{problem.Found}' stands there")}, wanted is {problem.Wanted}"));
            }

            return;
        }

        if (plan.Role == ListingRole.Check)
        {
            listed.Add(data);
        }

        if (!same)
        {
            (known ? Changed : New).Add(new ReadRow(id, cells, digest, data));
        }
    }

    private BadRow? Wrong(ListingRow row, string id) =>
        row.Problem is not null ? new BadRow(row.Line, null, row.Problem)
        : id.Length is 0 or > 200 ? new BadRow(row.Line, plan.Key, id.Length == 0 ? "the key is empty" : "the key is longer than 200 characters")
        : row.Cells.Any(c => c.Contains('\0', StringComparison.Ordinal)) ? new BadRow(row.Line, null, "a cell holds a zero character")
        : !seen.Add(id) ? new BadRow(row.Line, plan.Key, $"'{Formats.Documents.Quoting.Cut(id)}' stands twice; the first row counts") : null;

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
