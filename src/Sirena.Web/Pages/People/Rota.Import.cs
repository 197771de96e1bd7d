using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Engine.People;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.People;

public sealed partial class RotaModel
{
    /// <summary>Replaces the rota by a calendar file.</summary>
    public async Task<IActionResult> OnPostImportAsync(IFormFile? file, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (!await LoadAsync(cancel) || file is null || file.Length is 0 or > FormFiles.Most)
        {
            Problem = "Choose a calendar file (.ics) of at most 4 MB.";
            return await WrongAsync(cancel);
        }

        return await ImportAsync(await file.BytesAsync(cancel), file.FileName, LessConsent.None, cancel);
    }

    /// <summary>Replaces the rota by a calendar that takes away more than half of it, after the page has asked.</summary>
    public async Task<IActionResult> OnPostImportLessAsync(string? kept, string? called, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (!await LoadAsync(cancel) || FormFiles.Kept(kept) is not { } bytes)
        {
            Problem = "Choose the calendar file again.";
            return await WrongAsync(cancel);
        }

        return await ImportAsync(bytes, called ?? "the file", LessConsent.Less, cancel);
    }

    private async Task<IActionResult> ImportAsync(byte[] bytes, string called, LessConsent consent, CancellationToken cancel)
    {
        var saved = await desk.PutAsync(Of.Id, bytes, null, consent, User.Name(), cancel);
        if (saved.Errors.Count > 0)
        {
            Problem =
                $"Nothing was imported. {string.Join(" ", saved.Errors.Take(5).Select(e => $"{(e.Line is { } line ? $"Line {line}: " : "")}{e.Problem}"))}"
                + $"{(saved.Errors.Count > 5 ? $" And {saved.Errors.Count - 5} more." : "")}";
            return await WrongAsync(cancel);
        }

        if (saved.Difference is not null)
        {
            Asked = (saved.Difference, Convert.ToBase64String(bytes), called);
            return await WrongAsync(cancel);
        }

        Said = $"The rota of {Of.Name} now has {saved.Shifts} {(saved.Shifts == 1 ? "entry" : "entries")} from {Quoting.Cut(called, 80)}.";

        // Both go to the next page in a cookie, which has no room for a novel.
        LeftOut = saved.LeftOut.Count == 0 ? null : string.Join("\n", saved.LeftOut.Take(12).Select(l => $"Line {l.Line}: {Quoting.Cut(l.What)}, {l.Because}"));
        return RedirectToPage(new { Team, week = Iso(Monday) });
    }

    /// <summary>Makes an address to which a calendar program can subscribe.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostFeedAsync(CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }

        var key = Secrets.New("ck-");
        db.ApiTokens.Add(
            new ApiToken
            {
                Id = Guid.CreateVersion7(),
                UserId = Guid.Parse(User.FindFirst(System.Security.Claims.ClaimTypes.NameIdentifier)!.Value),
                Name = $"Calendar of {Of.Name}",
                Feed = $"team:{Of.Id}",
                Hash = Secrets.Hash(key),
                CreatedAt = Clock.Now,
            }
        );
        await db.SaveChangesAsync(cancel);
        Feed = $"{Around.Business.BaseAddress}/rota/{Of.Id}.ics?key={key}";
        return RedirectToPage(new { Team, week = Iso(Monday) });
    }

    /// <summary>Revokes such an address.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostRevokeAsync(Guid id, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        await db
            .ApiTokens.Where(t => t.Id == id && t.Feed != null && t.RevokedAt == null)
            .ExecuteUpdateAsync(s => s.SetProperty(t => t.RevokedAt, Clock.Now), cancel);
        Said = "That calendar address opens nothing any more.";
        return RedirectToPage(new { Team, week = Iso(Monday) });
    }
}
