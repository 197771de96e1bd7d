using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Ladders;
using Sirena.Engine.Ladders;
using Sirena.Storage;
using Sirena.Web.Access;
using Sirena.Web.Api;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Pauses;

/// <summary>A pause with what it holds.</summary>
/// <param name="Pause">The pause.</param>
/// <param name="Held">What it holds, the first 500.</param>
/// <param name="Count">How many it holds.</param>
public sealed record PauseView(Pause Pause, IReadOnlyList<HeldAlert> Held, int Count);

/// <summary>Holds alerts back until a time, and decides what becomes of those that were.</summary>
[Authorize(Policies.SeeAll)]
public sealed class IndexModel(SirenaDb db, PauseDesk desk) : SirenaPage
{
    /// <summary>How many of what a pause holds are listed.</summary>
    public const int MostListed = 200;

    /// <summary>What is chosen in the form when the page is opened from a rule or a team.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Scope { get; set; }

    /// <summary>Those that hold or wait for a decision.</summary>
    public IReadOnlyList<PauseView> Open { get; private set; } = [];

    /// <summary>Those that ended, newest first.</summary>
    public IReadOnlyList<Pause> Ended { get; private set; } = [];

    /// <summary>What is wrong with the form.</summary>
    public string? Problem { get; private set; }

    /// <summary>The reason in the form.</summary>
    public string Reason { get; private set; } = "";

    /// <summary>The end in the form.</summary>
    public string Until { get; private set; } = "";

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        Until = (Clock.Now + Duration.FromHours(1)).InZone(Clock.Zone).LocalDateTime.ToString("yyyy-MM-dd'T'HH:mm", null);
        await LoadAsync(cancel);
    }

    /// <summary>Begins one.</summary>
    public async Task<IActionResult> OnPostAsync(string? scope, string? until, string? reason, bool asks, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        var (pause, problem) = Clock.Read(until) is { } end
            ? await desk.BeginAsync(scope ?? "", end, reason ?? "", asks, User.Name(), cancel)
            : (null, WhenApi.Refusal("moment", until, "The end of the pause"));
        if (pause is not null)
        {
            Said = $"{Core.Sentences.Capital(PauseDesk.Words(pause.Scope, Around))} is paused until {Clock.Short(pause.Until)}.";
            return Redirect("/pauses");
        }

        (Problem, Scope, Reason, Until) = (problem, scope, reason ?? "", until ?? "");
        Response.StatusCode = 422;
        await LoadAsync(cancel);
        return Page();
    }

    /// <summary>Sends or drops what one holds: all of it, which ends the pause, or what was chosen.</summary>
    /// <param name="id">The pause.</param>
    /// <param name="what"><c>send</c>, <c>drop</c>, <c>send-some</c> or <c>drop-some</c>.</param>
    /// <param name="some">Those that were chosen.</param>
    /// <param name="held">How many the page showed; more than these are not dropped unseen.</param>
    /// <param name="cancel">Ends it.</param>
    public async Task<IActionResult> OnPostReleaseAsync(int id, string? what, Guid[] some, int? held, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (what is not ("send" or "drop" or "send-some" or "drop-some"))
        {
            Said = "Nothing was done: say whether what is held is sent or dropped.";
            return Redirect("/pauses");
        }

        if (what == "drop" && (await desk.CountsAsync(cancel)).GetValueOrDefault(id) > (held ?? 0))
        {
            Said = "More has been held back since that page was drawn, so nothing was dropped. Here is all of it.";
            return Redirect("/pauses");
        }

        var send = what is "send" or "send-some";
        var only = what is "send-some" or "drop-some";
        if (only && some.Length == 0)
        {
            Said = "Nothing was chosen, so nothing was done. Tick the alerts first.";
            return Redirect("/pauses");
        }

        var count = await desk.ReleaseAsync(id, only ? some : null, send, User.Name(), cancel);
        Said =
            count is null ? "This pause has ended already."
            : count == 0 ? "The pause is over. It held nothing back."
            : $"{count} {(count == 1 ? "alert" : "alerts")} {(send ? "sent on their way" : "dropped; each says so in its trail")}.";
        return Redirect("/pauses");
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        var counts = await desk.CountsAsync(cancel);
        var open = new List<PauseView>();
        foreach (var pause in await db.Pauses.AsNoTracking().Where(p => p.EndedAt == null).OrderBy(p => p.Until).ToListAsync(cancel))
        {
            open.Add(new PauseView(pause, await desk.HeldAsync(pause.Id, cancel), counts.GetValueOrDefault(pause.Id)));
        }

        Open = open;
        Ended = await db.Pauses.AsNoTracking().Where(p => p.EndedAt != null).OrderByDescending(p => p.EndedAt).Take(10).ToListAsync(cancel);
    }
}
