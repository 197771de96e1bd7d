using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;
using Sirena.Storage.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Access;

/// <summary>Lets somebody in.</summary>
[AllowAnonymous]
[EnableRateLimiting("sign-in")]
public sealed class SignInModel(SignInManager<User> signIn, UserManager<User> users) : SirenaPage
{
    /// <summary>The mail address.</summary>
    [BindProperty]
    public string? Email { get; set; }

    /// <summary>The password.</summary>
    [BindProperty]
    public string? Password { get; set; }

    /// <summary>Stay signed in when the browser closes.</summary>
    [BindProperty]
    public bool Keep { get; set; }

    /// <summary>Where to go after.</summary>
    [BindProperty(SupportsGet = true)]
    public string? ReturnUrl { get; set; }

    /// <summary>Why not, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>Shows the form.</summary>
    public IActionResult OnGet() => User.Identity?.IsAuthenticated == true ? Redirect(Back) : Page();

    /// <summary>Tries.</summary>
    public async Task<IActionResult> OnPostAsync()
    {
        var user = await users.FindByEmailAsync(Email?.Trim() ?? "");
        var result = user is { RemovedAt: null } ? await signIn.PasswordSignInAsync(user, Password ?? "", Keep, lockoutOnFailure: true) : Microsoft.AspNetCore.Identity.SignInResult.Failed;
        if (result.Succeeded)
        {
            return Redirect(Back);
        }

        Problem = result.IsLockedOut ? "Too many wrong passwords. Wait five minutes, or set a new password by mail." : "This mail address and password do not belong together. Check both, or set a new password by mail.";
        Response.StatusCode = 422;
        return Page();
    }

    private string Back => Url.IsLocalUrl(ReturnUrl) ? ReturnUrl! : "/orders";
}
