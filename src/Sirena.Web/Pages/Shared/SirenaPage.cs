using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.RazorPages;
using NodaTime;
using Sirena.Core.Wordings;
using Sirena.Engine;
using Sirena.Web.Access;

namespace Sirena.Web.Pages.Shared;

/// <summary>A page with what every page needs: the business, its people, and the time.</summary>
public abstract class SirenaPage : PageModel
{
    /// <summary>The business, its people and statuses.</summary>
    public Surroundings Around { get; private set; } = null!;

    /// <summary>The moment of the page, in the business's time zone.</summary>
    public DeskTime Clock { get; private set; } = null!;

    /// <summary>The page's texts in its reader's language.</summary>
    public StaffWords L { get; private set; } = StaffWords.English;

    /// <summary>The texts around the page, which are the same on all pages of one reader: staff read them in their language.</summary>
    public StaffWords Frame => User.SeesAll() ? StaffWords.English : new(OfReader);

    /// <summary>The request comes from htmx and wants a part of the page.</summary>
    public bool WantsPart => Request.Headers.ContainsKey("HX-Request");

    /// <summary>Something was asked for by its id: on a phone it stands alone, without the list it is from.</summary>
    public bool Named => Request.Query.ContainsKey("id");

    /// <summary>A sentence on what was just done; it stands until the next action.</summary>
    [Microsoft.AspNetCore.Mvc.TempData]
    public string? Said { get; set; }

    /// <summary>A sentence of this answer alone, where the page is shown at once instead of being asked for again.</summary>
    public string? SaidHere { get; protected set; }

    /// <summary>Whether whoever asks may at all; asked before any handler says a word.</summary>
    protected virtual bool Admits => true;

    /// <summary>The language of the page: its reader's on the pages of staff and customers, English on those of supervisors.</summary>
    protected virtual TextLanguage PageLanguage => TextLanguage.En;

    /// <summary>
    /// The saved thing that this page's forms change, as the audit log names it; <see langword="null"/> for none. Its forms carry the version that they were
    /// drawn from, and
    /// a form that somebody else overtook is not saved but shown beside what is there now.
    /// </summary>
    protected virtual string? Thing => null;

    // The framework would take the method's name for a handler of a method called PAGE.
    /// <inheritdoc/>
    [NonHandler]
    public override async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        var services = HttpContext.RequestServices;
        Around = await services.GetRequiredService<SurroundingsCache>().GetAsync(HttpContext.RequestAborted);
        Clock = new DeskTime(services.GetRequiredService<IClock>().GetCurrentInstant(), Around.Business.Zone);
        ViewData[nameof(SirenaPage)] = this;
        Speak(PageLanguage);
        if (!Admits)
        {
            context.Result = Forbid();
            return;
        }

        // A page that nothing was asked of has read nothing that it could show.
        if (context.HandlerMethod is null && !HttpMethods.IsGet(Request.Method) && !HttpMethods.IsHead(Request.Method))
        {
            context.Result = NotFound();
            return;
        }

        await using (
            var held = await SavedThings.HoldAsync(
                Thing,
                context,
                HttpContext.RequestServices.GetRequiredService<Microsoft.EntityFrameworkCore.IDbContextFactory<Storage.SirenaDb>>()
            )
        )
        {
            if (held.Since is { Count: > 0 } since)
            {
                Response.StatusCode = StatusCodes.Status409Conflict;
                context.Result = new Microsoft.AspNetCore.Mvc.ViewResult
                {
                    ViewName = "Meanwhile",
                    ViewData = new Microsoft.AspNetCore.Mvc.ViewFeatures.ViewDataDictionary<SirenaPage>(ViewData, this)
                    {
                        ["Meanwhile"] = await Meanwhile.OfAsync(since, Request),
                    },
                    TempData = TempData,
                };
                return;
            }

            await next();
        }

        if (Request.Headers.ContainsKey("X-Sirena-Follow"))
        {
            // A page that follows the news reads the sentence for nobody: it stays for whoever did what it says.
            TempData.Keep();
        }
    }

    /// <summary>Says everything in a language from here on: where the reader is known only by what the page reads first.</summary>
    protected void Speak(TextLanguage language) => (L, Clock) = (new StaffWords(language), Clock with { Language = language });

    /// <summary>The language of the signed-in person.</summary>
    protected TextLanguage OfReader => TextLanguage.Of(User.FindFirst("person")?.Value is { } me ? Around.Staff.Person(me)?.Language : null);

    /// <summary>The first language that the browser asks for and that ships.</summary>
    protected TextLanguage BrowserLanguage =>
        Request
            .GetTypedHeaders()
            .AcceptLanguage.OrderByDescending(a => a.Quality ?? 1)
            .Select(a => TextLanguage.All.FirstOrDefault(l => a.Value.StartsWith(l.Code, StringComparison.OrdinalIgnoreCase)))
            .OfType<TextLanguage>()
            .FirstOrDefault()
        ?? TextLanguage.En;

    /// <summary>A mail's HTML alone in a sandbox: it loads nothing and runs nothing; the logo is put in.</summary>
    protected ContentResult Sandboxed(string html)
    {
        Response.Headers.ContentSecurityPolicy = "sandbox; default-src 'none'; img-src data:; style-src 'unsafe-inline'; frame-ancestors 'self'";
        html = Around.Business.Logo is { } logo
            ? html.Replace("cid:logo", "data:image/png;base64," + Convert.ToBase64String(logo), StringComparison.Ordinal)
            : html;
        return Content(html, "text/html; charset=utf-8");
    }
}
