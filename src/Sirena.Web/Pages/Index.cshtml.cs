using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Sirena.Web.Pages;

/// <summary>The way in leads to the orders.</summary>
public sealed class IndexModel : PageModel
{
    /// <summary>Leads there.</summary>
    public IActionResult OnGet() => Redirect("/orders");
}
