using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Sirena.Storage.Access;

namespace Sirena.Web.Pages.Access;

/// <summary>Lets somebody out.</summary>
public sealed class SignOutModel(SignInManager<User> signIn) : PageModel
{
    /// <summary>Opening the address changes nothing.</summary>
    public IActionResult OnGet() => Redirect("/orders");

    /// <summary>Signs out.</summary>
    public async Task<IActionResult> OnPostAsync()
    {
        await signIn.SignOutAsync();
        return Redirect("/sign-in");
    }
}
