using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Access;

/// <summary>
/// Where a form is sent on to when its session has ended (307 keeps its method and body). It does nothing but give the form back, sealed, beside the fields to
/// sign in
/// with, so it needs no token against forged calls.
/// </summary>
[AllowAnonymous]
[IgnoreAntiforgeryToken]
public sealed class KeptModel(KeptForms forms) : SirenaPage
{
    /// <summary>The page from which it was sent.</summary>
    [BindProperty(SupportsGet = true, Name = "return")]
    public string? ReturnUrl { get; set; }

    /// <summary>The sealed form.</summary>
    public string? Kept { get; private set; }

    /// <summary>Why it could not be kept.</summary>
    public string? Problem { get; private set; }

    /// <summary>Without a form there is only the sign-in.</summary>
    public IActionResult OnGet() => Redirect("/sign-in");

    /// <summary>Takes the form.</summary>
    public async Task<IActionResult> OnPostAsync()
    {
        if (!Url.IsLocalUrl(ReturnUrl))
        {
            return Redirect("/sign-in");
        }

        Kept = await forms.SealAsync(ReturnUrl!, Request);
        Problem = Kept is null ? "Your session has ended, and the form was too large to be kept. Sign in, then fill it in again." : null;
        ReturnUrl = KeptForms.PageOf(ReturnUrl!);
        Response.StatusCode = 401;
        return Page();
    }
}
