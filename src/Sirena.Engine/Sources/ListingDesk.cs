using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;
using Sirena.Core.Sources;
using Sirena.Engine.Intake;
using Sirena.Formats.Sources;
using Sirena.Storage;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Sources;

/// <summary>
/// Takes lists: each run is compared with the rows that the run before left, by their key, and the difference becomes events. Rows, events and the mark of the
/// run commit together. A run that looks broken waits for a
/// person; a file that is cut off is not read.
/// </summary>
public sealed partial class ListingDesk(
    IDbContextFactory<SirenaDb> factory,
    NpgsqlDataSource database,
    SourceShelf shelf,
    SurroundingsCache surroundings,
    EventIntake intake,
    IntakeDesk own,
    WouldTell wouldTell,
    MissedDesk missed,
    SourcePulse pulse,
    Signals signals,
    IClock clock
)
{
    /// <summary>Why a list is not taken whose source is gone.</summary>
    public const string NoList = "There is no such list among the sources any more.";

    private const string Unread = "It had no reading yet.";
    private const int Shown = 1_000;
    private const int Kept = 200;

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
        var run = new ListingRun
        {
            Id = Guid.CreateVersion7(),
            Source = sourceId,
            At = now,
            By = by,
            Charset = charset,
            Content = Packed(bytes),
            Hash = SHA256.HashData(bytes),
        };
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

        return RunResult.Unreadable(problem ?? "This list has no reading yet: say which column is what, then hand it over again.");
    }

    /// <summary>Takes a run that was tried, or waits: what differs now becomes real.</summary>
    /// <param name="sourceId">The source.</param>
    /// <param name="id">The run.</param>
    /// <param name="tell">Whether the rules are asked; <see langword="null"/> for as usual: of all but the first run.</param>
    /// <param name="cancel">Breaks it off.</param>
    public Task<RunResult?> TakeAsync(string sourceId, Guid id, bool? tell, CancellationToken cancel) => OpenedAsync(sourceId, id, Wish.Force, tell, cancel);

    /// <summary>What a run shows: one that can still be taken against the rows of now, one that has ended as it was.</summary>
    /// <returns><see langword="null"/> where there is no such run.</returns>
    public async Task<RunResult?> LookAsync(string sourceId, Guid id, CancellationToken cancel)
    {
        if (await OpenedAsync(sourceId, id, Wish.Look, null, cancel) is { } open)
        {
            return open;
        }

        await using var db = await factory.CreateDbContextAsync(cancel);
        return await db.ListingRuns.AsNoTracking().FirstOrDefaultAsync(r => r.Id == id && r.Source == sourceId, cancel) is { } run
            ? new RunResult(run, run.Shown ?? RunRows.None, [])
            : null;
    }

    /// <summary>Changes what a person mended of a run that was tried, or waits.</summary>
    /// <returns>What it shows then; <see langword="null"/> where it was taken or refused meanwhile.</returns>
    public async Task<RunResult?> EditAsync(string sourceId, Guid id, Func<RunEdits, RunEdits> edit, CancellationToken cancel)
    {
        await using (var db = await factory.CreateDbContextAsync(cancel))
        await using (var whole = await db.Database.BeginTransactionAsync(cancel))
        {
            var run = await db.ListingRuns.FromSql($"select * from listing_runs where id = {id} for update").SingleOrDefaultAsync(cancel);
            if (run?.Source != sourceId || !IsOpen(run))
            {
                return null;
            }

            run.Edits = edit(run.Edits);
            await db.SaveChangesAsync(cancel);
            await whole.CommitAsync(cancel);
        }

        if (await OpenedAsync(sourceId, id, Wish.Count, null, cancel) is not { Run: { } counted } edited)
        {
            return null;
        }

        // Only while it is open still: what somebody took meanwhile stays taken.
        await using var counting = await factory.CreateDbContextAsync(cancel);
        await counting
            .ListingRuns.Where(r => r.Id == id && (r.State == RunState.Tried || r.State == RunState.Waits))
            .ExecuteUpdateAsync(
                u =>
                    u.SetProperty(r => r.New, counted.New)
                        .SetProperty(r => r.Changed, counted.Changed)
                        .SetProperty(r => r.Gone, counted.Gone)
                        .SetProperty(r => r.Bad, counted.Bad)
                        .SetProperty(r => r.Reason, counted.Reason),
                cancel
            );
        return edited;
    }

    /// <summary>Refuses a run that was tried, or waits.</summary>
    /// <returns>Whether there was one.</returns>
    public async Task<bool> RefuseAsync(string sourceId, Guid id, string? reason, string by, CancellationToken cancel)
    {
        var shown = (await OpenedAsync(sourceId, id, Wish.Count, null, cancel))?.Rows;
        await using var db = await factory.CreateDbContextAsync(cancel);
        var now = clock.GetCurrentInstant();
        var why = string.IsNullOrWhiteSpace(reason) ? $"Refused by {by}." : $"Refused by {by}: {reason.Trim()}";
        var done = await db
            .ListingRuns.Where(r => r.Id == id && r.Source == sourceId && (r.State == RunState.Tried || r.State == RunState.Waits))
            .ExecuteUpdateAsync(
                u =>
                    u.SetProperty(r => r.State, RunState.Refused)
                        .SetProperty(r => r.Reason, why)
                        .SetProperty(r => r.EndedAt, now)
                        .SetProperty(r => r.Shown, Few(shown)),
                cancel
            );
        signals.Raise(Topic.Pages);
        return done > 0;
    }

    private static bool IsOpen(ListingRun run) => run.Content is not null && run.State is RunState.Tried or RunState.Waits;

    private async Task<RunResult?> OpenedAsync(string sourceId, Guid id, Wish wish, bool? tell, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return
            await db.ListingRuns.AsNoTracking().FirstOrDefaultAsync(r => r.Id == id && r.Source == sourceId, cancel) is { } run
            && IsOpen(run)
            && await shelf.FindAsync(sourceId, cancel)
                is { Source: { Kind: SourceKind.Listing, Listing: { } plan } source, Reader: { } reader, Reading: { } reading }
            ? await WorkAsync(source, plan, reading, reader, run, Unpacked(run.Content!), wish, tell, cancel)
            : null;
    }

    private async Task<RunResult> WorkAsync(
        Source source,
        ListingPlan plan,
        Reading reading,
        BodyReader reader,
        ListingRun run,
        byte[] bytes,
        Wish wish,
        bool? tell,
        CancellationToken cancel
    )
    {
        var (file, problem) = ListingFile.Open(bytes, run.Charset ?? plan.Charset, plan.Separator);
        if (file is null)
        {
            return RunResult.Unreadable(problem);
        }

        string[] wanted = [plan.Key, .. reading.Fields.SelectMany(f => new[] { f.Value }.Concat(f.Value.Join)).Select(v => v.Column).OfType<string>()];
        string[] missing = [.. wanted.Distinct().Where(c => !file.Head.Contains(c))];
        if (missing.Contains(plan.Key))
        {
            return RunResult.Unreadable(
                $"The column '{plan.Key}' is missing, which tells one row from another. The first line names {string.Join(", ", file.Head.Take(12))}."
            );
        }

        await using var connection = await database.OpenConnectionAsync(cancel);
        var work = new ListingWork(file, plan, reading, reader, run.Edits, await ListingRows.DigestsAsync(connection, source.Id, cancel));
        var last = await ListingRows.LastAsync(connection, source.Id, cancel);
        if (work.Read() is { } cut)
        {
            return RunResult.Unreadable(cut);
        }

        var before = await ListingRows.CellsAsync(connection, source.Id, work.ChangedKeys, cancel);
        var changed = work.Changes(before);
        (run.Rows, run.New, run.Changed, run.Gone, run.Bad) = (work.Rows, work.New.Count, changed.Count, work.Gone.Count, work.Bad.Count);
        run.Baseline = work.Before == 0;
        run.Reason = Doubt.Of(plan, work.Before, changed.Count, work.Gone.Count, missing);
        run.State = wish switch
        {
            Wish.Try => RunState.Tried,
            Wish.Force => RunState.Taken,
            Wish.Take => run.Reason is null ? RunState.Taken : RunState.Waits,
            _ => run.State,
        };
        run.EndedAt = run.State == RunState.Taken ? clock.GetCurrentInstant() : null;
        var events = plan.Role == ListingRole.Check ? [] : Events(source, plan, last, work, before);
        var tells = tell ?? !run.Baseline;
        var told = tells && wish != Wish.Count ? await wouldTell.OfAsync(events, source.Prefix, cancel) : [];
        var rows = new RunRows(
            [.. work.New.Take(Shown).Select(r => r.Row(plan.Key, work.ReadOf))],
            [.. changed.Take(Shown)],
            [.. work.Gone.Take(Shown)],
            [.. work.Bad.Take(Shown)]
        );
        if (wish is Wish.Look or Wish.Count)
        {
            return new RunResult(run, rows, told);
        }

        if (run.State == RunState.Taken)
        {
            run.Shown = Few(rows);
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
        return new RunResult(run, rows, told);
    }

    private enum Wish
    {
        /// <summary>Only what it would change, and whom it would tell.</summary>
        Look,

        /// <summary>Only what it would change.</summary>
        Count,

        /// <summary>It is looked at for the first time.</summary>
        Try,

        /// <summary>It is taken, unless it looks broken.</summary>
        Take,

        /// <summary>It is taken.</summary>
        Force,
    }
}
