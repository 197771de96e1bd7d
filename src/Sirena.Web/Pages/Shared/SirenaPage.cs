using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.RazorPages;
using NodaTime;
using Sirena.Engine;

namespace Sirena.Web.Pages.Shared;

/// <summary>A page with what every page needs: the business, its people, and the time.</summary>
public abstract class SirenaPage : PageModel
{
    /// <summary>The business, its people and statuses.</summary>
    public Surroundings Around { get; private set; } = null!;

    /// <summary>The moment of the page, in the business's time zone.</summary>
    public DeskTime Clock { get; private set; } = null!;

    /// <summary>The request comes from htmx and wants a part of the page.</summary>
    public bool WantsPart => Request.Headers.ContainsKey("HX-Request");

    /// <summary>A sentence on what was just done; it stands until the next action.</summary>
    [Microsoft.AspNetCore.Mvc.TempData]
    public string? Said { get; set; }

    /// <summary>A sentence of this answer alone, where the page is shown at once instead of being asked for again.</summary>
    public string? SaidHere { get; protected set; }

    /// <summary>Whether whoever asks may at all; asked before any handler says a word.</summary>
    protected virtual bool Admits => true;

    // The framework would take the method's name for a handler of a method called PAGE.
    /// <inheritdoc/>
    [NonHandler]
    public override async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        var services = HttpContext.RequestServices;
        Around = await services.GetRequiredService<SurroundingsCache>().GetAsync(HttpContext.RequestAborted);
        Clock = new DeskTime(services.GetRequiredService<IClock>().GetCurrentInstant(), Around.Business.Zone);
        if (!Admits)
        {
            context.Result = Forbid();
            return;
        }

        await next();
        if (Request.Headers.ContainsKey("X-Sirena-Follow"))
        {
            // A page that follows the news reads the sentence for nobody: it stays for whoever did what it says.
            TempData.Keep();
        }
    }
}
