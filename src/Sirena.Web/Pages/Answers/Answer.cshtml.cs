using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Engine;
using Sirena.Engine.Ladders;
using Sirena.Storage;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Answers;

/// <summary>The page behind a message's link: what the message said, and the button. Opening it changes nothing.</summary>
[AllowAnonymous]
[EnableRateLimiting("answers")]
[ResponseCache(NoStore = true, Location = ResponseCacheLocation.None)]
public sealed class AnswerModel(SirenaDb db, AnswerDesk desk) : SirenaPage
{
    /// <summary>The link's key.</summary>
    [BindProperty(SupportsGet = true)]
    public string Key { get; set; } = "";

    /// <summary>The link; <see langword="null"/> for a wrong or an expired one.</summary>
    public AnswerLink? Link { get; private set; }

    /// <summary>Its alert.</summary>
    public Alert? Alert { get; private set; }

    /// <summary>The message as it was sent.</summary>
    public Message? Message { get; private set; }

    /// <summary>Why the answer was not taken.</summary>
    public string? Problem { get; private set; }

    /// <summary>The answer was taken just now.</summary>
    public bool Taken { get; private set; }

    /// <summary>The reader has it.</summary>
    public bool IsMine => Alert is { State: AlertState.Taken } a && a.TakenBy == Reader;

    private string Reader => Link!.Person ?? Link.Contact;

    /// <summary>Shows it.</summary>
    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await LoadAsync(cancel) ? Page() : NotFoundPage();

    /// <summary>Answers.</summary>
    public async Task<IActionResult> OnPostAsync(string answer, CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFoundPage();
        }

        var kind = Names.Parse<AnswerKind>(answer) ?? AnswerKind.Taken;
        var answered = await desk.AnswerAsync(Link!.AlertId, Reader, kind, "link", null, null, Link.DeliveryId, cancel);
        (Problem, Taken) = (answered.Problem, answered.Problem is null);
        await LoadAsync(cancel);
        return Page();
    }

    private async Task<bool> LoadAsync(CancellationToken cancel)
    {
        Response.Headers["Referrer-Policy"] = "no-referrer";
        Link = await desk.LinkAsync(Key, cancel);
        if (Link is null)
        {
            return false;
        }

        Alert = await db.Alerts.AsNoTracking().FirstOrDefaultAsync(a => a.Id == Link.AlertId, cancel);
        Message = await db.Messages.AsNoTracking().FirstOrDefaultAsync(m => m.DeliveryId == Link.DeliveryId, cancel);
        return Alert is not null && Message is not null;
    }

    private PageResult NotFoundPage()
    {
        Link = null;
        Response.StatusCode = 404;
        return Page();
    }
}
