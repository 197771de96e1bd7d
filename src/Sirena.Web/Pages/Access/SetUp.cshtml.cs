using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;
using Microsoft.EntityFrameworkCore;
using Sirena.Core.People;
using Sirena.Engine;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Access;

/// <summary>The first start: makes the first supervisor, once, by the link that the node printed.</summary>
[AllowAnonymous]
[EnableRateLimiting("sign-in")]
public sealed class SetUpModel(SirenaDb db, UserManager<User> users, SignInManager<User> signIn, Engine.Rules.RuleDesk rules, Signals signals) : SirenaPage
{
    /// <summary>The link's secret.</summary>
    [BindProperty(SupportsGet = true)]
    public string Secret { get; set; } = "";

    /// <summary>The business's name.</summary>
    [BindProperty]
    public string? Business { get; set; }

    /// <summary>The supervisor's name.</summary>
    [BindProperty]
    public string? Name { get; set; }

    /// <summary>Their mail address.</summary>
    [BindProperty]
    public string? Email { get; set; }

    /// <summary>Their password.</summary>
    [BindProperty]
    public string? Password { get; set; }

    /// <summary>Why not, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>The link works.</summary>
    public bool CanTry { get; private set; }

    /// <summary>Shows the form.</summary>
    public async Task OnGetAsync(CancellationToken cancel) => await FindAsync(cancel);

    /// <summary>Sets up.</summary>
    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        if (await FindAsync(cancel) is not { } link)
        {
            return Page();
        }

        if (string.IsNullOrWhiteSpace(Business) || string.IsNullOrWhiteSpace(Name) || !MailAddress.TryParse(Email, out var address, out _))
        {
            return Wrong("Give the business's name, your name and a mail address.");
        }

        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var user = new User { Id = Guid.CreateVersion7(), Name = Name.Trim(), Email = address.Value, UserName = address.Value, EmailConfirmed = true, Role = Role.Supervisor };
        if (await users.CreateAsync(user, Password ?? "") is { Succeeded: false } failed)
        {
            return Wrong(failed.Errors.First().Description);
        }

        link.UsedAt = Clock.Now;
        (await db.Businesses.SingleAsync(cancel)).Name = Business.Trim();
        db.Audit.Add(new AuditEntry { At = Clock.Now, By = user.Name, What = "Set Sirena up." });
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);

        // The first rule: whoever set Sirena up hears of it when a gateway breaks, nobody answers or a rule raises too many alerts. It can be changed or archived like any other.
        await rules.SaveAsync($"name: Trouble\nwhen: [gateway.failing, gateway.restored, gateway.budget-low, alert.lapsed, rule.storm]\ntell: [ {{ address: \"{address.Value}\", outside: true }} ]\nby: {{ allAtOnce: [mail] }}", yaml: true, null, user.Name, cancel);
        await signIn.SignInAsync(user, isPersistent: false);
        return Redirect("/settings");
    }

    private PageResult Wrong(string problem)
    {
        Problem = problem;
        Response.StatusCode = 422;
        return Page();
    }

    private async Task<OneTimeLink?> FindAsync(CancellationToken cancel)
    {
        var hash = Secrets.Hash(Secret);
        var link = await db.OneTimeLinks.FirstOrDefaultAsync(l => l.Hash == hash && l.UserId == null && l.UsedAt == null && l.ExpiresAt > Clock.Now, cancel);
        CanTry = link is not null && !await db.Users.AnyAsync(cancel);
        if (!CanTry)
        {
            Problem = "Sirena is set up already, or the link is older than a day. Start the node again on an empty database to get a new one.";
            Response.StatusCode = 404;
        }

        return CanTry ? link : null;
    }
}
