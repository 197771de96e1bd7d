using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Engine;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Settings;

/// <summary>The keys of order systems: made, rotated, revoked.</summary>
[Authorize(Policies.Change)]
public sealed class SourcesModel(SirenaDb db, Signals signals) : SirenaPage
{
    /// <summary>All keys, those that work first.</summary>
    public IReadOnlyList<SourceKey> Keys { get; private set; } = [];

    /// <summary>A key that was made just now; it is shown once and never again.</summary>
    public string? Made { get; private set; }

    /// <summary>Whose it is.</summary>
    public string? MadeFor { get; private set; }

    /// <summary>What is wrong, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>A new order system's name.</summary>
    [BindProperty]
    public string? Name { get; set; }

    /// <summary>The prefix of its order numbers.</summary>
    [BindProperty]
    public string? Prefix { get; set; }

    /// <summary>Its limit.</summary>
    [BindProperty]
    public int PerMinute { get; set; } = 6_000;

    /// <summary>Lists them.</summary>
    public Task OnGetAsync(CancellationToken cancel) => LoadAsync(cancel);

    /// <summary>Makes one.</summary>
    public async Task<IActionResult> OnPostMakeAsync(CancellationToken cancel)
    {
        if (string.IsNullOrWhiteSpace(Name) || PerMinute is < 1 or > 10_000_000)
        {
            Problem = string.IsNullOrWhiteSpace(Name) ? "Give the order system a name." : "The limit is a number from 1 to 10,000,000 events a minute.";
            Response.StatusCode = 422;
            await LoadAsync(cancel);
            return Page();
        }

        return await MakeAsync(Name.Trim(), Prefix?.Trim() ?? "", PerMinute, "Made", cancel);
    }

    /// <summary>Makes a new one beside an old one, which works for one more hour.</summary>
    public async Task<IActionResult> OnPostRotateAsync(Guid id, CancellationToken cancel)
    {
        if (await db.SourceKeys.FirstOrDefaultAsync(k => k.Id == id && k.RevokedAt == null, cancel) is not { } old)
        {
            return RedirectToPage();
        }

        old.RevokedAt = Clock.Now + Duration.FromHours(1);
        return await MakeAsync(old.Name, old.Prefix, old.PerMinute, "Rotated", cancel);
    }

    /// <summary>Revokes one.</summary>
    public async Task<IActionResult> OnPostRevokeAsync(Guid id, CancellationToken cancel)
    {
        if (await db.SourceKeys.FirstOrDefaultAsync(k => k.Id == id && k.RevokedAt == null, cancel) is { } key)
        {
            key.RevokedAt = Clock.Now;
            db.Audit.Add(new AuditEntry { At = Clock.Now, By = User.Name(), Thing = "sources", What = $"Revoked a source key of {key.Name}." });
            await db.SaveChangesAsync(cancel);
            signals.Raise(Topic.Setup);
            Said = $"The key of {key.Name} works no longer.";
        }

        return RedirectToPage();
    }

    private async Task<IActionResult> MakeAsync(string name, string prefix, int perMinute, string what, CancellationToken cancel)
    {
        Made = Secrets.New("sk-");
        MadeFor = name;
        db.SourceKeys.Add(new SourceKey { Id = Guid.CreateVersion7(), Name = name, Prefix = prefix, PerMinute = perMinute, Hash = Secrets.Hash(Made), Start = Made[..8], CreatedAt = Clock.Now });
        db.Audit.Add(new AuditEntry { At = Clock.Now, By = User.Name(), Thing = "sources", What = $"{what} a source key of {name}." });
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
        await LoadAsync(cancel);
        return Page();
    }

    private async Task LoadAsync(CancellationToken cancel) =>
        Keys = await db.SourceKeys.AsNoTracking().OrderBy(k => k.RevokedAt != null).ThenByDescending(k => k.CreatedAt).ToListAsync(cancel);
}
