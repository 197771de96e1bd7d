using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Core.Orders;
using Sirena.Engine.Decide;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Proof;

/// <summary>The events that could not be decided, with their cause; each is decided anew by a button.</summary>
[Authorize(Policies.SeeAll)]
public sealed class UndecidedModel(SirenaDb db, DecideWorker worker) : SirenaPage
{
    private const int Most = 200;

    /// <summary>Those events, newest first; the newest 200.</summary>
    public IReadOnlyList<OrderEvent> Events { get; private set; } = [];

    /// <summary>How many there are.</summary>
    public int All { get; private set; }

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        Events = await db.Events.AsNoTracking().Where(e => e.SetAsideAt != null).OrderByDescending(e => e.Id).Take(Most).ToListAsync(cancel);
        All = Events.Count < Most ? Events.Count : await db.Events.CountAsync(e => e.SetAsideAt != null, cancel);
    }

    /// <summary>Decides one anew, or all.</summary>
    public async Task<IActionResult> OnPostAsync(long? id, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        var decided = await worker.AgainAsync(id, cancel);
        var left = await db.Events.CountAsync(e => e.SetAsideAt != null, cancel);
        Said =
            decided == 0
                ? "It still cannot be decided; the cause stands beside it."
                : $"{decided} decided anew, late.{(left > 0 ? $" {left} still cannot be." : "")}";
        return RedirectToPage();
    }
}
