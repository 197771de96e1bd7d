using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;
using Sirena.Storage.Access;
using Sirena.Web.Pages.Settings;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Access;

/// <summary>Mails a link for a new password. The answer is the same whether the address is known or not.</summary>
[AllowAnonymous]
[EnableRateLimiting("sign-in")]
public sealed class ForgotModel(UserManager<User> users, SettingsMail mail) : SirenaPage
{
    /// <summary>The address.</summary>
    [BindProperty]
    public string? Email { get; set; }

    /// <summary>The form was sent.</summary>
    public bool Done { get; private set; }

    /// <summary>Shows the form.</summary>
    public void OnGet() { }

    /// <summary>Sends the link.</summary>
    public async Task OnPostAsync()
    {
        Done = true;
        if (await users.FindByEmailAsync(Email?.Trim() ?? "") is { RemovedAt: null } user)
        {
            var token = await users.GeneratePasswordResetTokenAsync(user);
            mail.Begin(
                user.Email!,
                "Set a new password",
                "Somebody, probably you, asked for a new password. Open this link within a day to set "
                    + $"it:\r\n{PasswordModel.Link(Around.Business.BaseAddress, user, token)}\r\n\r\nIf it was not you, leave it: nothing has changed."
            );
        }
    }
}
