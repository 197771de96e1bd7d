using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using NodaTime;
using Sirena.Core.Sources;
using Sirena.Engine.Sources;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Orders;

/// <summary>What the order system knows and Sirena has not heard: taken over, or set aside.</summary>
[Authorize(Policies.SeeAll)]
public sealed class MissingModel(MissedDesk desk, SourceFigures figures, MissedDays days) : SirenaPage
{
    /// <summary>Only what this list shows.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Source { get; set; }

    /// <summary>What counts and is not set aside.</summary>
    public IReadOnlyList<MissedOrder> Items { get; private set; } = [];

    /// <summary>Whom each would have told, by the order.</summary>
    public ILookup<string?, WouldBeTold> Told { get; private set; } = Enumerable.Empty<WouldBeTold>().ToLookup(t => t.Order);

    /// <summary>The lists that are compared, and when they last were.</summary>
    public IReadOnlyList<(Source Source, Instant? At)> Checks { get; private set; } = [];

    /// <summary>The day of the source beside the check, or <see langword="null"/>.</summary>
    public MissedDay? Day { get; private set; }

    /// <summary>The differences whose own time the order system's list says, with that time, where it is of today.</summary>
    public IReadOnlyList<(MissedOrder Order, Instant At)> Timed =>
        [.. Items.Where(i => i.ThereAt >= Clock.Midnight && i.ThereAt <= Clock.Now).Select(i => (i, i.ThereAt!.Value))];

    /// <summary>Shows it.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        Items = await desk.OpenAsync(string.IsNullOrEmpty(Source) ? null : Source, cancel);
        Told = (await desk.WouldTellAsync(Items.Take(200), cancel)).ToLookup(t => t.Order);
        Checks = await figures.ChecksAsync(cancel);
        var which = string.IsNullOrEmpty(Source)
            ? Items is [var first, ..]
                ? first.Source
                : Checks is [var one, ..]
                    ? one.Source.Id
                    : null
            : Source;
        var check = Checks.FirstOrDefault(c => c.Source.Id == which).Source;
        Day = check is null ? null : await days.OfAsync(check, cancel);
    }

    /// <summary>Makes the missed events now.</summary>
    public async Task<IActionResult> OnPostTakeOverAsync(string[] one, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        var done = await EachAsync(one, async (source, order) => await desk.TakeOverAsync(source, order, User.Name(), cancel) is not null);
        return done == 0
            ? await RefusedAsync("Nothing was taken over: choose orders that are still missing and not gone there.", cancel)
            : Done($"{done} {(done == 1 ? "order is" : "orders are")} taken over as of now; the rules decide who is told.");
    }

    /// <summary>Sets differences aside.</summary>
    public async Task<IActionResult> OnPostSetAsideAsync(string[] one, string? reason, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        if (one.Length == 0 || reason?.Trim() is not { Length: > 2 and <= 500 } why)
        {
            return await RefusedAsync($"Nothing was set aside: {(one.Length == 0 ? "choose orders" : "say why, in 3 to 500 characters")}.", cancel);
        }

        var done = await EachAsync(one, (source, order) => desk.SetAsideAsync(source, order, why, User.Name(), cancel));
        return done == 0
            ? await RefusedAsync("Nothing was set aside: what was chosen differs no longer.", cancel)
            : Done(
                $"{done} {(done == 1 ? "difference is" : "differences are")} set aside; {(done == 1 ? "it comes" : "they come")} back when the order changes "
                    + "there again."
            );
    }

    // How many of the chosen it was done to.
    private static async Task<int> EachAsync(string[] chosen, Func<string, string, Task<bool>> does)
    {
        var done = 0;
        foreach (var item in chosen)
        {
            done += item.Split('|', 2) is [var source, var order] && await does(source, order) ? 1 : 0;
        }

        return done;
    }

    private RedirectResult Done(string said)
    {
        Said = said;
        return Redirect("/orders/missing" + (string.IsNullOrEmpty(Source) ? "" : "?source=" + Uri.EscapeDataString(Source)));
    }

    private async Task<PageResult> RefusedAsync(string why, CancellationToken cancel)
    {
        SaidHere = why;
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        await OnGetAsync(cancel);
        return Page();
    }
}
