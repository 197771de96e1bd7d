using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Sirena.Web.Pages;

/// <summary>
/// The strip alone, as the page asks for it when something changed. It has no sentence of its own to show: reading one would take it from the page that does.
/// </summary>
public sealed class StripModel : PageModel;
