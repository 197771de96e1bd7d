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

    /// <summary>Shows the page.</summary>
    public void OnGet()
    {
    }

    /// <summary>Reads a file.</summary>
    /// <param name="file">YAML, JSON, CSV or vCard.</param>
    /// <param name="take"><c>all</c> or nothing, or the <c>good</c> rows.</param>
    public async Task<IActionResult> OnPostAsync(IFormFile? file, string? take, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (file is null || file.Length is 0 or > 4 * 1024 * 1024)
        {
            Problem = "Choose a file of at most 4 MB.";
            Response.StatusCode = 422;
            return Page();
        }

        string[] sites = [.. Around.Staff.Sites.Select(s => s.Id)];
        var document = PeopleFile.Read(await file.BytesAsync(cancel), null, Path.GetExtension(file.FileName).TrimStart('.').ToLowerInvariant(), Clock.Zone, sites);
        if (document is null)
        {
            Problem = $"'{file.FileName}' is none of .yaml, .json, .jsonl, .csv and .vcf.";
            Response.StatusCode = 422;
            return Page();
        }

        Good = document.Good.Count;
        Save = await desk.SaveAsync(document, take == "good", User.Name(), cancel);
        Response.StatusCode = Save.Taken ? 200 : 422;
        return Page();
    }
}
