using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Sirena.Engine.People;
using Sirena.Formats.People;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.People;

/// <summary>People as files: YAML, CSV and vCard, in and out.</summary>
[Authorize(Policies.SeeAll)]
public sealed class FilesModel(PeopleDesk desk) : PeoplePage
{
    /// <summary>How the import ended, or <see langword="null"/>.</summary>
    public PeopleSave? Save { get; private set; }

    /// <summary>How many rows of the file have no mistake.</summary>
    public int Good { get; private set; }

    /// <summary>What keeps the file from being read, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>The file, base64, to be sent again with who is meant; <see langword="null"/> where nothing is asked.</summary>
    public string? Kept { get; private set; }

    /// <summary>The file's name.</summary>
    public string Called { get; private set; } = "";

    /// <summary>The good rows are taken where others have mistakes.</summary>
    public bool Take { get; private set; }

    /// <summary>Who was said to be meant, by their key in the file.</summary>
    public IReadOnlyDictionary<string, string> Meant { get; private set; } = new Dictionary<string, string>();

    /// <summary>Shows the page.</summary>
    public void OnGet() { }

    /// <summary>Reads a file.</summary>
    /// <param name="file">YAML, JSON, CSV or vCard.</param>
    /// <param name="take"><c>all</c> or nothing, or the <c>good</c> rows.</param>
    /// <param name="kept">The file again, base64, when the page has asked who is meant.</param>
    /// <param name="called">The name of that file.</param>
    /// <param name="meant">Who is meant, by their key in the file.</param>
    public async Task<IActionResult> OnPostAsync(
        IFormFile? file,
        string? take,
        string? kept,
        string? called,
        Dictionary<string, string> meant,
        CancellationToken cancel
    )
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        var bytes = file is { Length: > 0 and <= FormFiles.Most } ? await file.BytesAsync(cancel) : FormFiles.Kept(kept);
        if (bytes is not { Length: > 0 and <= FormFiles.Most })
        {
            Problem = "Choose a file of at most 4 MB.";
            Response.StatusCode = 422;
            return Page();
        }

        string[] sites = [.. Around.Staff.Sites.Select(s => s.Id)];
        Called = file?.FileName ?? called ?? "";
        var document = PeopleFile.Read(bytes, null, Path.GetExtension(Called).TrimStart('.').ToLowerInvariant(), Clock.Zone, sites);
        if (document is null)
        {
            Problem = $"'{Called}' is none of .yaml, .json, .jsonl, .csv and .vcf.";
            Response.StatusCode = 422;
            return Page();
        }

        Good = document.Good.Count;
        (Take, Meant) = (take == "good", meant);
        Save = await desk.SaveAsync(document, Take, User.Name(), cancel, meant: meant);
        Kept = !Save.Taken && Save.Alike.Count > 0 ? Convert.ToBase64String(bytes) : null;
        Response.StatusCode = Save.Taken ? 200 : 422;
        return Page();
    }
}
