using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Sirena.Engine.FirstDay;
using Sirena.Web.Access;

namespace Sirena.Web.Pages;

/// <summary>The way in leads to the orders; while nothing was ever answered, whoever may set things up is led to the first day.</summary>
public sealed class IndexModel(FirstDayReader first) : PageModel
{
    /// <summary>Leads there.</summary>
    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) =>
        Redirect(User.MayChange() && await first.IsFirstAsync(cancel) ? "/first-day" : "/orders");
}
