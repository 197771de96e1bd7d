using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Core.Orders;
using Sirena.Engine.Dispatch;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Orders;

/// <summary>Try it on myself: what an event would send, sent to whoever tries alone.</summary>
[Authorize(Policies.Change)]
public sealed class MyselfModel(MyTrial trial, SirenaDb db) : SirenaPage
{
    /// <summary>Sirena's own number of the event.</summary>
    [BindProperty(SupportsGet = true)]
    public long Id { get; set; }

    /// <summary>The event.</summary>
    public OrderEvent Event { get; private set; } = null!;

    /// <summary>What it would send, or what became of it.</summary>
    public IReadOnlyList<TrialMessage> Messages { get; private set; } = [];

    /// <summary>It was sent.</summary>
    public bool Sent { get; private set; }

    /// <summary>Shows what would be sent.</summary>
    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await LoadAsync(cancel) ? Page() : NotFound();

    /// <summary>Sends it.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }

        (Messages, Sent) = (await trial.SendAsync(Messages, cancel), true);
        return Page();
    }

    private async Task<bool> LoadAsync(CancellationToken cancel)
    {
        if (await db.Events.AsNoTracking().FirstOrDefaultAsync(e => e.Id == Id, cancel) is not { } happened)
        {
            return false;
        }

        var me = User.FindFirst("person")?.Value is { } person ? Around.Staff.Person(person) : null;
        (Event, Messages) = (
            happened,
            await trial.LookAsync(happened, me, User.Identity?.Name is { } mail && mail.Contains('@', StringComparison.Ordinal) ? mail : me?.Email, cancel)
        );
        return true;
    }
}
