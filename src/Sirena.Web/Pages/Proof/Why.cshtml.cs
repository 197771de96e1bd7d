using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Sirena.Web.Access;

namespace Sirena.Web.Pages.Proof;

/// <summary>Leads from the ledger to the order that answers why a person was told or not.</summary>
[Authorize(Policies.SeeAll)]
public sealed class WhyModel : PageModel
{
    /// <summary>Goes there.</summary>
    public IActionResult OnGet(string? order, string? person) =>
        Redirect(
            string.IsNullOrWhiteSpace(order)
                ? "/proof"
                : $"/orders/{Uri.EscapeDataString(order.Trim().ToUpperInvariant())}?why={Uri.EscapeDataString(person ?? "")}#why"
        );
}
