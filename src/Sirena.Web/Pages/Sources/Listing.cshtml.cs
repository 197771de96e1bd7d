using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using NodaTime;
using NodaTime.Text;
using Sirena.Core;
using Sirena.Core.Orders;
using Sirena.Core.Sources;
using Sirena.Engine.Sources;
using Sirena.Formats.Sources;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Sources;

/// <summary>A list: dropped here, looked at and mended before it is real, taken or refused; and its earlier runs.</summary>
[Authorize(Policies.SeeAll)]
[RequestSizeLimit(ListingFile.Largest + (64 * 1024))]
public sealed class ListingModel(SourceShelf shelf, ListingDesk desk, SourceFigures figures) : SirenaPage
{
    private const int Few = 8;
    private const int PageSize = 200;

    /// <summary>The source.</summary>
    [BindProperty(SupportsGet = true)]
    public string Id { get; set; } = "";

    /// <summary>The run that is looked at.</summary>
    [BindProperty(SupportsGet = true)]
    public Guid? Run { get; set; }

    /// <summary>Which of its rows: new, changed, gone, bad; absent for some of each.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Show { get; set; }

    /// <summary>Which page of them, from 1.</summary>
    [BindProperty(SupportsGet = true)]
    public int At { get; set; } = 1;

    /// <summary>The source as it is.</summary>
    public Source Source { get; private set; } = null!;

    /// <summary>What the run that is looked at shows.</summary>
    public RunResult? Result { get; private set; }

    /// <summary>The rows of it, group by group.</summary>
    public IReadOnlyList<RunGroup> Groups { get; private set; } = [];

    /// <summary>The orders of gone rows as they are known, by their numbers.</summary>
    public IReadOnlyDictionary<string, Order> Gone { get; private set; } = new Dictionary<string, Order>();

    /// <summary>The runs, the newest first.</summary>
    public IReadOnlyList<ListingRun> Runs { get; private set; } = [];

    /// <summary>Why the file is no list, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>The run can still be mended, taken or refused.</summary>
    public bool IsOpen => Result?.Run is { State: RunState.Tried or RunState.Waits, Content: not null };

    /// <summary>Shows the runs, or one of them.</summary>
    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }

        if (Run is { } run)
        {
            Result = await desk.LookAsync(Id, run, cancel);
            Problem = Result?.Problem;
            if (Result is null)
            {
                return NotFound();
            }
        }

        await GroupAsync(cancel);
        return Page();
    }

    /// <summary>Looks at a file; nothing of it is real.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostTryAsync(IFormFile? file, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }

        if (file is null || file.Length is 0 or > ListingFile.Largest)
        {
            Problem =
                file is null ? "Choose a file first."
                : file.Length == 0 ? "The file is empty."
                : "A list holds at most 50 MB.";
        }
        else
        {
            using var bytes = new MemoryStream();
            await file.CopyToAsync(bytes, cancel);
            var tried = await desk.RunAsync(Id, bytes.ToArray(), null, only: true, User.Name(), cancel);
            Problem = tried?.Problem;
            if (tried?.Run is { } run)
            {
                return Redirect(Address(run.Id));
            }
        }

        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        await LoadAsync(cancel);
        return Page();
    }

    /// <summary>Mends one cell of a run; the file itself stays as it came.</summary>
    [SavesNothing]
    public Task<IActionResult> OnPostMendAsync(Guid run, int line, string column, string? text, CancellationToken cancel) =>
        EditAsync(run, edits => edits.With(line, column, text is { Length: > 10_000 } ? text[..10_000] : text ?? ""), cancel);

    /// <summary>Says what a gone row means.</summary>
    [SavesNothing]
    public Task<IActionResult> OnPostMeansAsync(Guid run, string key, string meaning, CancellationToken cancel) =>
        !User.MayChange() ? Task.FromResult<IActionResult>(Forbid())
        : meaning is RunEdits.Stays or RunEdits.Nothing || Around.Statuses.Any(s => s.Id == meaning) ? EditAsync(run, edits => edits.With(key, meaning), cancel)
        : Task.FromResult<IActionResult>(BadRequest());

    /// <summary>Takes a run.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostTakeAsync(Guid run, bool silent, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Said = await desk.TakeAsync(Id, run, silent ? false : null, cancel) is { Run: { } taken }
            ? $"{taken.New} new, {taken.Changed} changed and {taken.Gone} gone {(taken.New + taken.Changed + taken.Gone == 1 ? "row is" : "rows are")} "
                + $"taken{(silent ? ", and nobody is told" : "")}"
                + $"{(taken.Bad > 0 ? $"; {taken.Bad} that cannot be read {(taken.Bad == 1 ? "is" : "are")} left out" : "")}."
            : "This run was taken or refused meanwhile.";
        return Redirect(Address(null));
    }

    /// <summary>Refuses a run.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostRefuseAsync(Guid run, string? reason, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Said = await desk.RefuseAsync(Id, run, reason, User.Name(), cancel)
            ? "The run is refused; nothing of it is real."
            : "This run was taken or refused meanwhile.";
        return Redirect(Address(null));
    }

    /// <summary>The address of a run, of some of its rows.</summary>
    public string Address(Guid? run, string? show = null, int at = 1) =>
        $"/sources/{Uri.EscapeDataString(Id)}/listing{(run is null ? "" : $"?run={run}{(show is null ? "" : $"&show={show}")}{(at > 1 ? $"&at={at}" : "")}")}";

    /// <summary>A cell for a person: a time in the business's zone, an amount with its groups; else as it came.</summary>
    public string Written(string? cell, string? read) =>
        read is null
            ? cell is { Length: > 0 }
                ? cell
                : "nothing"
            : InstantPattern.ExtendedIso.Parse(read) is { Success: true } time
                ? Clock.Day(time.Value)
                : decimal.TryParse(read, System.Globalization.CultureInfo.InvariantCulture, out var number)
                    ? number.ToString(decimal.Truncate(number) == number ? "#,##0" : "#,##0.00##", System.Globalization.CultureInfo.InvariantCulture)
                    : read;

    /// <summary>How a run divides into its kinds of rows, as parts of a bar 520 wide; each kind that is there can be seen.</summary>
    public static IEnumerable<(string Name, double From, double Wide)> Shares(IReadOnlyList<(string Name, int Count)> kinds)
    {
        const double bar = 520,
            least = 4,
            gap = 2;
        var there = kinds.Where(k => k.Count > 0).ToArray();
        var (all, room, at) = (Math.Max(1, there.Sum(k => k.Count)), bar - (there.Length * (least + gap)), 0.0);
        foreach (var (name, count) in there)
        {
            var wide = least + (room * count / all);
            yield return (name, at, wide);
            at += wide + gap;
        }
    }

    /// <summary>By which rules an order's row would tell somebody.</summary>
    public IReadOnlyList<string> RulesOf(string key) => [.. Result!.Told.Where(t => t.Order == Source.Prefix + key).Select(t => t.Rule).Distinct()];

    private async Task<IActionResult> EditAsync(Guid run, Func<RunEdits, RunEdits> edit, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (await desk.EditAsync(Id, run, edit, cancel) is null)
        {
            Said = "This run was taken or refused meanwhile.";
            return Redirect(Address(null));
        }

        return Redirect(Address(run, Show, At));
    }

    private async Task GroupAsync(CancellationToken cancel)
    {
        if (Result is not { Run: { } run, Rows: { } rows })
        {
            return;
        }

        RunGroup Group<T>(string name, int count, IReadOnlyList<T> all, Func<T, string?> key)
        {
            // Those that tell somebody first.
            var told = Result.Told.Select(t => t.Order).ToHashSet();
            var ordered = all.OrderBy(r => key(r) is { } k && told.Contains(Source.Prefix + k) ? 0 : 1).ToArray();
            var whole = Show == name;
            return new RunGroup(
                name,
                count,
                all.Count,
                [.. (whole ? ordered.Skip((At - 1) * PageSize).Take(PageSize) : ordered.Take(Few)).Cast<object>()],
                whole ? Paging.Pages(all.Count, PageSize) : 1
            );
        }

        RunGroup[] groups =
        [
            Group("new", run.New, rows.New, r => r.Key),
            Group("changed", run.Changed, rows.Changed, r => r.Key),
            Group("gone", run.Gone, rows.Gone, k => k),
            Group("bad", run.Bad, rows.Bad, b => b.Key),
        ];
        Groups = [.. groups.Where(g => g.Count > 0 && (string.IsNullOrEmpty(Show) || g.Name == Show))];
        Gone = await figures.OrdersAsync([.. groups[2].Rows.Cast<string>().Select(k => Source.Prefix + k)], cancel);
    }

    private async Task<bool> LoadAsync(CancellationToken cancel)
    {
        if (await shelf.FindAsync(Id, cancel) is not { Source: { Kind: SourceKind.Listing } source })
        {
            return false;
        }

        At = Math.Clamp(At, 1, 1_000);
        (Source, Runs) = (source, await figures.RunsAsync(Id, 30, cancel));
        return true;
    }
}

/// <summary>Rows of a run of one kind.</summary>
/// <param name="Name">The kind: new, changed, gone, bad.</param>
/// <param name="Count">How many there are.</param>
/// <param name="Shown">How many can be shown.</param>
/// <param name="Rows">Those of this page.</param>
/// <param name="Pages">How many pages there are.</param>
public sealed record RunGroup(string Name, int Count, int Shown, IReadOnlyList<object> Rows, int Pages);
