using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Access;

/// <summary>Sets a password by a mailed link: an invitation, or a forgotten one.</summary>
[AllowAnonymous]
[EnableRateLimiting("sign-in")]
public sealed class PasswordModel(UserManager<User> users, SignInManager<User> signIn, Storage.SirenaDb db) : SirenaPage
{
    /// <summary>The user.</summary>
    [BindProperty(SupportsGet = true)]
    public string? UserId { get; set; }

    /// <summary>The link's token.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Token { get; set; }

    /// <summary>The new password.</summary>
    [BindProperty]
    public string? Password { get; set; }

    /// <summary>Why not, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>The link that leads here.</summary>
    public static string Link(string baseAddress, User user, string token) =>
        $"{baseAddress}/password{QueryString.Create("userId", user.Id.ToString()).Add("token", token)}";

    /// <summary>Shows the form.</summary>
    public void OnGet() { }

    /// <summary>Sets it.</summary>
    public async Task<IActionResult> OnPostAsync()
    {
        var user = UserId is null ? null : await users.FindByIdAsync(UserId);
        var result = user is { RemovedAt: null }
            ? await users.ResetPasswordAsync(user, Token ?? "", Password ?? "")
            : IdentityResult.Failed(new IdentityError { Code = "InvalidToken" });
        if (result.Succeeded)
        {
            user!.EmailConfirmed = true;
            await users.UpdateAsync(user);
            await DatabaseSessions.EndAsync(db, user.Id, HttpContext.RequestAborted);
            await signIn.SignInAsync(user, isPersistent: false);
            return Redirect("/orders");
        }

        Problem = result.Errors.Any(e => e.Code == "InvalidToken")
            ? "This link was used already, or is older than a day. Ask for a new one."
            : PasswordRule.Problem(result);
        Response.StatusCode = 422;
        return Page();
    }
}
