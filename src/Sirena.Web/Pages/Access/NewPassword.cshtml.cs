using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Access;

/// <summary>Changes the password of whoever is signed in; every other session of theirs ends.</summary>
[EnableRateLimiting("sign-in")]
public sealed class NewPasswordModel(UserManager<User> users, SignInManager<User> signIn, Storage.SirenaDb db) : SirenaPage
{
    /// <summary>The password until now.</summary>
    [BindProperty]
    public string? Old { get; set; }

    /// <summary>The new one.</summary>
    [BindProperty]
    public string? Password { get; set; }

    /// <summary>Why not, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>Shows the form.</summary>
    public void OnGet() { }

    /// <summary>Changes it.</summary>
    public async Task<IActionResult> OnPostAsync()
    {
        if (await users.GetUserAsync(User) is not { } user)
        {
            return Forbid();
        }

        var result = await users.ChangePasswordAsync(user, Old ?? "", Password ?? "");
        if (result.Succeeded)
        {
            await DatabaseSessions.EndAsync(db, user.Id, HttpContext.RequestAborted);
            await signIn.SignInAsync(user, isPersistent: false);
            Said = "Your password is changed. You are signed out everywhere else.";
            return Redirect("/orders");
        }

        Problem = result.Errors.Any(e => e.Code == "PasswordMismatch") ? "The password until now is not right." : PasswordRule.Problem(result);
        Response.StatusCode = 422;
        return Page();
    }
}
