using System.Security.Claims;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Settings;

/// <summary>The tokens by which programs act for whoever is signed in.</summary>
public sealed class TokensModel(SirenaDb db) : SirenaPage
{
    /// <summary>Their tokens.</summary>
    public IReadOnlyList<ApiToken> Tokens { get; private set; } = [];

    /// <summary>A token that was made just now; it is shown once and never again.</summary>
    public string? Made { get; private set; }

    /// <summary>What is wrong, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>How long a name may be, in characters.</summary>
    public const int MostName = 80;

    /// <summary>What a new one is for.</summary>
    [BindProperty]
    public string? Name { get; set; }

    private Guid Me => Guid.Parse(User.FindFirstValue(ClaimTypes.NameIdentifier)!);

    /// <summary>Lists them.</summary>
    public Task OnGetAsync(CancellationToken cancel) => LoadAsync(cancel);

    /// <summary>Makes one.</summary>
    public async Task<IActionResult> OnPostMakeAsync(CancellationToken cancel)
    {
        if (!NameText.Fits(Name, MostName))
        {
            Problem = $"Say in one line of at most {MostName} characters what it is for: a token that nobody can place is never revoked.";
            Response.StatusCode = 422;
            await LoadAsync(cancel);
            return Page();
        }

        Made = Secrets.New(TokenScheme.Start);
        db.ApiTokens.Add(
            new ApiToken
            {
                Id = Guid.CreateVersion7(),
                UserId = Me,
                Name = Name.Trim(),
                Hash = Secrets.Hash(Made),
                CreatedAt = Clock.Now,
            }
        );
        db.Audit.Add(
            new AuditEntry
            {
                At = Clock.Now,
                By = User.Name(),
                What = $"Made a token for '{Name.Trim()}'.",
            }
        );
        await db.SaveChangesAsync(cancel);
        await LoadAsync(cancel);
        return Page();
    }

    /// <summary>Revokes one.</summary>
    public async Task<IActionResult> OnPostRevokeAsync(Guid id, CancellationToken cancel)
    {
        if (await db.ApiTokens.FirstOrDefaultAsync(t => t.Id == id && t.UserId == Me && t.RevokedAt == null, cancel) is { } token)
        {
            token.RevokedAt = Clock.Now;
            db.Audit.Add(
                new AuditEntry
                {
                    At = Clock.Now,
                    By = User.Name(),
                    What = $"Revoked the token for '{token.Name}'.",
                }
            );
            await db.SaveChangesAsync(cancel);
        }

        return RedirectToPage();
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        var me = Me;
        Tokens = await db
            .ApiTokens.AsNoTracking()
            .Where(t => t.UserId == me)
            .OrderBy(t => t.RevokedAt != null)
            .ThenByDescending(t => t.CreatedAt)
            .ToListAsync(cancel);
    }
}
