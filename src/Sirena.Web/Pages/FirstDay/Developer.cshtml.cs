using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;
using Sirena.Engine.FirstDay;
using Sirena.Engine.Intake;
using Sirena.Engine.Sources;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.FirstDay;

/// <summary>The station of the first day that somebody with a supervisor's link sees: how an order system is connected, and what became of its calls.</summary>
[AllowAnonymous]
[EnableRateLimiting("answers")]
[ResponseCache(NoStore = true, Location = ResponseCacheLocation.None)]
public sealed class DeveloperModel(DeveloperLinks links, FirstDayReader reader, RefusedCalls refused, SourceDesk sources, SourceShelf shelf) : SirenaPage
{
    /// <summary>The link's key.</summary>
    [BindProperty(SupportsGet = true)]
    public string Link { get; set; } = "";

    /// <summary>Who gave the link; <see langword="null"/> when it does not work.</summary>
    public string? GivenBy => links.GivenBy(Link);

    /// <summary>The door; <see langword="null"/> when the link does not work.</summary>
    public OrderDoor? Door { get; private set; }

    /// <summary>What is wrong, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>No event of an order system was understood yet: until then the link makes keys.</summary>
    public bool MakesKeys => Door is { Order: null or { MadeUp: true } };

    /// <summary>Shows it.</summary>
    public async Task OnGetAsync(CancellationToken cancel) => await LoadAsync(null, cancel);

    /// <summary>Makes a key, once for each press, in place of the one before.</summary>
    [SavesNothing]
    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        await LoadAsync(null, cancel);
        if (GivenBy is { } by && MakesKeys)
        {
            (var key, Problem) = await OrderDoor.MakeKeyAsync(shelf, sources, $"{by}, by a link given away", cancel);
            await LoadAsync(key, cancel);
        }

        return Page();
    }

    private async Task LoadAsync(string? key, CancellationToken cancel)
    {
        if (GivenBy is null)
        {
            Response.StatusCode = StatusCodes.Status404NotFound;
            return;
        }

        var facts = await reader.ReadAsync(cancel);
        Door = new OrderDoor($"{Around.Business.BaseAddress}/api/events", Around.Business.Currency, key, facts.Order, refused.Newest, Clock);
    }
}
