using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Sirena.Core.Sources;
using Sirena.Engine.Sources;
using Sirena.Formats.Sources;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Sources;

/// <summary>A list: dropped here, looked at before it is real, taken or refused; and its earlier runs.</summary>
[Authorize(Policies.SeeAll)]
[RequestSizeLimit(ListingFile.Largest + (64 * 1024))]
public sealed class ListingModel(SourceShelf shelf, ListingDesk desk, SourceFigures figures) : SirenaPage
{
    /// <summary>The source.</summary>
    [BindProperty(SupportsGet = true)]
    public string Id { get; set; } = "";

    /// <summary>The source as it is.</summary>
    public Source Source { get; private set; } = null!;

    /// <summary>What the run that is looked at shows.</summary>
    public RunResult? Result { get; private set; }

    /// <summary>The runs, the newest first.</summary>
    public IReadOnlyList<ListingRun> Runs { get; private set; } = [];

    /// <summary>Why the file is no list, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>Shows the runs.</summary>
    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await LoadAsync(cancel) ? Page() : NotFound();

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
            Problem = file is null ? "Choose a file first." : file.Length == 0 ? "The file is empty." : "A list holds at most 50 MB.";
        }
        else
        {
            using var bytes = new MemoryStream();
            await file.CopyToAsync(bytes, cancel);
            Result = await desk.RunAsync(Id, bytes.ToArray(), null, only: true, User.Name(), cancel);
            Problem = Result?.Problem;
        }

        if (Problem is not null)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        }

        await LoadAsync(cancel);
        return Page();
    }

    /// <summary>Takes a run.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostTakeAsync(Guid run, bool silent, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Said = await desk.TakeAsync(Id, run, silent ? false : null, cancel) is { Run: { } taken }
            ? $"{taken.New} new, {taken.Changed} changed and {taken.Gone} gone {(taken.New + taken.Changed + taken.Gone == 1 ? "row is" : "rows are")} taken{(silent ? ", and nobody is told" : "")}."
            : "This run was taken or refused meanwhile.";
        return Redirect($"/sources/{Uri.EscapeDataString(Id)}/listing");
    }

    /// <summary>Refuses a run.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostRefuseAsync(Guid run, string? reason, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Said = await desk.RefuseAsync(Id, run, reason, User.Name(), cancel) ? "The run is refused; nothing of it is real." : "This run was taken or refused meanwhile.";
        return Redirect($"/sources/{Uri.EscapeDataString(Id)}/listing");
    }

    private async Task<bool> LoadAsync(CancellationToken cancel)
    {
        if (await shelf.FindAsync(Id, cancel) is not { Source: { Kind: SourceKind.Listing } source })
        {
            return false;
        }

        (Source, Runs) = (source, await figures.RunsAsync(Id, 30, cancel));
        return true;
    }
}
