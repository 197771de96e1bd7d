using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Access;

/// <summary>What the form to sign in with shows.</summary>
public sealed record SignInFields(string? Said, string? Problem, string? ReturnUrl, string? Email, bool Keep, string? Kept);

/// <summary>Lets somebody in.</summary>
[AllowAnonymous]
[EnableRateLimiting("sign-in")]
public sealed class SignInModel(SignInManager<User> signIn, UserManager<User> users, KeptForms forms) : SirenaPage
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

    /// <summary>The form that was filled in when the session ended, sealed.</summary>
    [BindProperty]
    public string? Kept { get; set; }

    /// <summary>That form, once its writer is signed in again.</summary>
    public KeptForm? Restored { get; private set; }

    /// <summary>Why not, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>Shows the form.</summary>
    public IActionResult OnGet() => User.Identity?.IsAuthenticated == true ? Redirect(Back) : Page();

    /// <summary>Tries.</summary>
    public async Task<IActionResult> OnPostAsync()
    {
        var user = await users.FindByEmailAsync(Email?.Trim() ?? "");
        var result = user is { RemovedAt: null }
            ? await signIn.PasswordSignInAsync(user, Password ?? "", Keep, lockoutOnFailure: true)
            : Microsoft.AspNetCore.Identity.SignInResult.Failed;
        if (result.Succeeded && forms.Open(Kept) is { } form)
        {
            // The token in the form that is shown has to be theirs.
            HttpContext.User = await signIn.CreateUserPrincipalAsync(user!);
            Restored = form;
            return Page();
        }

        if (result.Succeeded)
        {
            return Redirect(Back);
        }

        if (user is not { RemovedAt: null } || result.IsLockedOut)
        {
            // A name that is not known costs the same time as a wrong password.
            users.PasswordHasher.VerifyHashedPassword(Nobody, NobodysPassword, Password ?? "");
        }

        Problem =
            "This mail address and password do not belong together, or there were too many wrong ones. Check both; after eight wrong ones wait five "
            + "minutes, or set a new password by mail.";
        Response.StatusCode = 422;
        return Page();
    }

    private static readonly User Nobody = new() { Name = "nobody" };
    private static readonly string NobodysPassword = new PasswordHasher<User>().HashPassword(Nobody, "what nobody types");

    private string Back => Url.IsLocalUrl(ReturnUrl) ? ReturnUrl! : "/orders";
}
