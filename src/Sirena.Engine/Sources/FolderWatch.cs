using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using Npgsql;
using Sirena.Core.Sources;
using Sirena.Engine.Intake;
using Sirena.Formats.Sources;
using Sirena.Storage;

namespace Sirena.Engine.Sources;

/// <summary>
/// Watches folders for lists and documents. A file is read when its size and time have stood still for five seconds, then moved to <c>done/</c>, or to
/// <c>bad/</c> with a text beside it that says why. One node reads a file: whoever holds the
/// folder's lock in the database.
/// </summary>
public sealed class FolderWatch(
    IDbContextFactory<SirenaDb> factory,
    NpgsqlDataSource database,
    ListingDesk desk,
    ArrivalDesk arrivals,
    SurroundingsCache surroundings,
    SourceFolders folders,
    IntakeDesk intake,
    Signals signals,
    IClock clock,
    ILogger<FolderWatch> log
) : Worker(log)
{
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(2);
    private static readonly TimeSpan Still = TimeSpan.FromSeconds(5);
    private readonly Dictionary<string, (long Size, DateTime Written, DateTime Since)> seen = [];

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping) => TurnsAsync(Pause, () => LookAsync(stopping), stopping);

    /// <summary>Looks into each folder once.</summary>
    public async Task LookAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        foreach (
            var source in await db
                .Sources.AsNoTracking()
                .Where(s => s.RemovedAt == null && s.On && (s.Kind == SourceKind.Listing || s.Kind == SourceKind.Documents))
                .ToListAsync(cancel)
        )
        {
            if (source.Listing?.Folder is not { } folder)
            {
                continue;
            }

            var problem = folders.Problem(folder);
            try
            {
                if (problem is null)
                {
                    await LookAsync(source, folder, cancel);
                }
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                problem = $"The folder cannot be used: {e.Message}";
            }

            await SayAsync(db, source, problem, cancel);
        }
    }

    // One node says it: whoever notes it first.
    private async Task SayAsync(SirenaDb db, Source source, string? problem, CancellationToken cancel)
    {
        if (
            problem == source.FetchProblem
            || await db
                .Sources.Where(s => s.Id == source.Id && s.FetchProblem == source.FetchProblem)
                .ExecuteUpdateAsync(u => u.SetProperty(s => s.FetchProblem, problem), cancel) == 0
        )
        {
            return;
        }

        if ((problem is null) != (source.FetchProblem is null) && source.Listing?.Url is null)
        {
            await intake.TakeAsync([OwnEvents.OfReach(source, problem, clock.GetCurrentInstant())], cancel);
        }

        signals.Raise(Topic.Pages);
    }

    private async Task LookAsync(Source source, string folder, CancellationToken cancel)
    {
        string[] endings = source.Kind == SourceKind.Documents ? [".xml"] : [".csv", ".tsv", ".txt", ".jsonl"];
        foreach (
            var file in Directory.EnumerateFiles(folder).Where(f => endings.Contains(Path.GetExtension(f).ToLowerInvariant())).Order(StringComparer.Ordinal)
        )
        {
            if (StoodStill(file))
            {
                await ReadAsync(source, folder, file, cancel);
            }
        }
    }

    private bool StoodStill(string file)
    {
        var info = new FileInfo(file);
        var now = DateTime.UtcNow;
        if (!seen.TryGetValue(file, out var was) || was.Size != info.Length || was.Written != info.LastWriteTimeUtc)
        {
            seen[file] = (info.Length, info.LastWriteTimeUtc, now);
            return false;
        }

        return now - was.Since >= Still;
    }

    private async Task ReadAsync(Source source, string folder, string file, CancellationToken cancel)
    {
        await using var held = await SessionLock.TryAsync(database, "folder " + source.Id, cancel);
        if (held is null || !File.Exists(file))
        {
            return;
        }

        // Where the file cannot be moved it must not be read again and again: that is found out first.
        Directory.CreateDirectory(Path.Combine(folder, "done"));
        Directory.CreateDirectory(Path.Combine(folder, "bad"));
        var bytes = await File.ReadAllBytesAsync(file, cancel);
        var problem =
            source.Kind == SourceKind.Documents ? await DocumentAsync(source, bytes, cancel)
            : await desk.RunAsync(source.Id, bytes, null, only: false, Path.GetFileName(file), cancel) is { } result ? result.Problem
            : ListingDesk.NoList;
        var to = Free(Path.Combine(folder, problem is null ? "done" : "bad"), Path.GetFileName(file));
        if (problem is not null)
        {
            await File.WriteAllTextAsync(to + ".why.txt", problem + Environment.NewLine, cancel);
        }

        File.Move(file, to);
        seen.Remove(file);
    }

    // A document goes the way of those that are posted; what is wrong with it is said beside the file at once.
    private async Task<string?> DocumentAsync(Source source, byte[] bytes, CancellationToken cancel)
    {
        var read = UblReader.Read(bytes, (await surroundings.GetAsync(cancel)).Business.Zone);
        await arrivals.StoreAsync(
            new ArrivedBody
            {
                Source = source.Id,
                At = clock.GetCurrentInstant(),
                Size = bytes.Length,
                Content = bytes,
                MediaType = "application/xml",
                Hash = SHA256.HashData(bytes),
            },
            cancel
        );
        return read.Problems.Count == 0 ? null : string.Join(Environment.NewLine, read.Problems.Select(p => p.Sentence));
    }

    private static string Free(string folder, string name)
    {
        var to = Path.Combine(folder, name);
        return !File.Exists(to)
            ? to
            : Path.Combine(folder, $"{Path.GetFileNameWithoutExtension(name)}-{DateTime.UtcNow:yyyyMMdd-HHmmss-fff}{Path.GetExtension(name)}");
    }
}
