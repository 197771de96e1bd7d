using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
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

    /// <summary>The business's time zone; the browser proposes its own.</summary>
    [BindProperty]
    public string? Zone { get; set; }

    /// <summary>The zones that there are.</summary>
    public static IEnumerable<string> Zones =>
        NodaTime
            .DateTimeZoneProviders.Tzdb.Ids.Where(id => id.Contains('/', StringComparison.Ordinal) && !id.StartsWith("Etc/", StringComparison.Ordinal))
            .Order(StringComparer.Ordinal);

    /// <summary>The address at which the browser found Sirena.</summary>
    public string Base => $"{Request.Scheme}://{Request.Host}";

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

        if (!NameText.Fits(Business, 100) || !NameText.Fits(Name, 100) || !MailAddress.TryParse(Email, out var address, out _))
        {
            return Wrong("Give the business's name and yours, each in one line of at most 100 characters, and a mail address.");
        }

        if (NodaTime.DateTimeZoneProviders.Tzdb.GetZoneOrNull(Zone?.Trim() ?? "") is null)
        {
            return Wrong($"'{Zone}' is no time zone. Choose one from the list, such as Europe/Lisbon.");
        }

        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var user = new User
        {
            Id = Guid.CreateVersion7(),
            Name = Name.Trim(),
            Email = address.Value,
            UserName = address.Value,
            EmailConfirmed = true,
            Role = Role.Supervisor,
            Person = Formats.People.PersonId.From(Name),
        };
        if (await users.CreateAsync(user, Password ?? "") is { Succeeded: false } failed)
        {
            return Wrong(failed.Errors.First().Description);
        }

        link.UsedAt = Clock.Now;
        var business = await db.Businesses.SingleAsync(cancel);
        (business.Name, business.TimeZone, business.BaseAddress) = (Business.Trim(), Zone!.Trim(), Base);
        if (!await db.People.AnyAsync(p => p.Id == user.Person, cancel))
        {
            db.People.Add(
                new Person
                {
                    Id = user.Person,
                    Name = user.Name,
                    Email = address.Value,
                    Contacts = [new ContactPoint { Channel = Core.Deliveries.Channel.Mail, Address = address.Value }],
                }
            );
        }

        db.Audit.Add(
            new AuditEntry
            {
                At = Clock.Now,
                By = user.Name,
                What = "Set Sirena up.",
            }
        );
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);

        // The first rule: whoever set Sirena up hears of it when a gateway breaks, nobody answers or a rule raises too many alerts. It can be changed or
        // archived like any other.
        await rules.SaveAsync(
            $"name: Trouble\nwhen: [gateway.failing, gateway.restored, gateway.budget-low, alert.lapsed, rule.storm]\ntell: [ {{ person: {user.Person} "
                + $"}} ]\nby: {{ allAtOnce: [mail] }}",
            yaml: true,
            null,
            user.Name,
            cancel
        );
        await signIn.SignInAsync(user, isPersistent: false);
        return Redirect("/first-day");
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
