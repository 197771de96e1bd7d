using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.People;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Pages.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Settings;

/// <summary>Who can sign in; invitations by mail.</summary>
[Authorize(Policies.Change)]
public sealed class UsersModel(SirenaDb db, UserManager<User> manager, SettingsMail mail) : SirenaPage
{
    private static readonly string NoSuchRole = $"What somebody may is one of {string.Join(", ", Names.All<Role>())}.";

    /// <summary>Everybody.</summary>
    public IReadOnlyList<User> Users { get; private set; } = [];

    /// <summary>What is wrong, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>The name of whoever is invited.</summary>
    [BindProperty]
    public string? Name { get; set; }

    /// <summary>Their mail address.</summary>
    [BindProperty]
    public string? Email { get; set; }

    /// <summary>Their role.</summary>
    [BindProperty]
    public string? Role { get; set; }

    /// <summary>Lists them.</summary>
    public Task OnGetAsync(CancellationToken cancel) => LoadAsync(cancel);

    /// <summary>Invites somebody.</summary>
    public async Task<IActionResult> OnPostInviteAsync(CancellationToken cancel)
    {
        if (!NameText.Fits(Name, 120) || !MailAddress.TryParse(Email, out var address, out var bad))
        {
            return await WrongAsync(
                !NameText.Fits(Name, 120)
                    ? "Give a name of at most 120 characters."
                    : $"The address {Email} has a mistake. Give one such as name@firm.example.",
                cancel
            );
        }

        if (Names.IsNone<Role>(Role))
        {
            return await WrongAsync(NoSuchRole, cancel);
        }

        var user = await manager.FindByEmailAsync(address.Value);
        if (user is { EmailConfirmed: true, RemovedAt: null })
        {
            return await WrongAsync($"{address} can sign in already.", cancel);
        }

        if (user is null)
        {
            var person = Around.Staff.People.FirstOrDefault(p => p.Contacts.Any(c => c.Address.Equals(address.Value, StringComparison.OrdinalIgnoreCase)))?.Id;
            user = new User
            {
                Id = Guid.CreateVersion7(),
                Name = Name.Trim(),
                Email = address.Value,
                UserName = address.Value,
                Person = person,
            };
            if (await manager.CreateAsync(user) is { Succeeded: false })
            {
                return await WrongAsync(
                    $"{address} was invited by somebody else in this moment. Look at the list, and invite again if it is not there.",
                    cancel
                );
            }
        }

        // Whoever was removed comes back as somebody new: no old password, token, link or session with them.
        await EndAllAsync(user.Id, cancel);
        (user.Name, user.Role, user.RemovedAt, user.EmailConfirmed, user.PasswordHash) = (
            Name.Trim(),
            Names.Parse<Role>(Role) ?? Storage.Access.Role.Staff,
            null,
            false,
            null
        );
        await manager.UpdateSecurityStampAsync(user);
        await manager.UpdateAsync(user);
        db.Audit.Add(
            new AuditEntry
            {
                At = Clock.Now,
                By = User.Name(),
                Thing = "users",
                What = $"Invited {user.Name} ({user.Email}) as {user.Role.Name()}.",
            }
        );
        await db.SaveChangesAsync(cancel);
        var link = PasswordModel.Link(Around.Business.BaseAddress, user, await manager.GeneratePasswordResetTokenAsync(user));
        var problem = await mail.SendAsync(
            user.Email!,
            $"{User.Name()} invites you to Sirena",
            $"{user.Name}, open this link within a day to set your password and sign in:\r\n{link}",
            cancel
        );
        if (problem is not null)
        {
            return await WrongAsync(
                $"The invitation could not be mailed: {problem}. Check the mail server under Business and mail, then invite again.",
                cancel
            );
        }

        Said = $"An invitation is on its way to {user.Email}. It works for a day.";
        return RedirectToPage();
    }

    /// <summary>Removes somebody, or takes an invitation back; the last supervisor stays.</summary>
    public Task<IActionResult> OnPostRemoveAsync(Guid id, CancellationToken cancel) =>
        ChangeAsync(
            id,
            staysSupervisor: false,
            async user =>
            {
                (user.RemovedAt, user.SecurityStamp, user.PasswordHash) = (Clock.Now, Guid.NewGuid().ToString("N"), null);
                await EndAllAsync(user.Id, cancel);
                return user.EmailConfirmed
                    ? ($"Removed {user.Name} ({user.Email}).", $"{user.Name} can no longer sign in.")
                    : ($"Took the invitation of {user.Name} ({user.Email}) back.", $"The invitation of {user.Name} is taken back: its link works no longer.");
            },
            cancel
        );

    /// <summary>Says what somebody may; the last supervisor stays one. Their sessions end, since those may what they might before.</summary>
    public async Task<IActionResult> OnPostRoleAsync(Guid id, string? may, CancellationToken cancel) =>
        Names.Parse<Role>(may) is not { } role
            ? await WrongAsync(NoSuchRole, cancel)
            : await ChangeAsync(
                id,
                staysSupervisor: role == Storage.Access.Role.Supervisor,
                async user =>
                {
                    var before = user.Role;
                    if (before == role)
                    {
                        return (null, $"{user.Name} is {role.Name()} already.");
                    }

                    (user.Role, user.SecurityStamp) = (role, Guid.NewGuid().ToString("N"));
                    await DatabaseSessions.EndAsync(db, user.Id, cancel);
                    return (
                        $"{user.Name} ({user.Email}) is {role.Name()}, was {before.Name()}.",
                        $"{user.Name} is {role.Name()} from now on{(user.EmailConfirmed ? " and signs in anew" : "")}."
                    );
                },
                cancel
            );

    // Changes somebody who is there, unless that would take the last supervisor away.
    private async Task<IActionResult> ChangeAsync(
        Guid id,
        bool staysSupervisor,
        Func<User, Task<(string? Happened, string Said)>> change,
        CancellationToken cancel
    )
    {
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var another = await db.AnotherSupervisorAsync(id, cancel);
        if (await db.Users.FirstOrDefaultAsync(u => u.Id == id && u.RemovedAt == null, cancel) is not { } user)
        {
            Said = "That user was removed already.";
            return RedirectToPage();
        }

        if (!another && !staysSupervisor && user is { Role: Storage.Access.Role.Supervisor, EmailConfirmed: true })
        {
            return await WrongAsync($"{user.Name} is the only supervisor who can sign in. Invite another, and wait until they have.", cancel);
        }

        var (happened, said) = await change(user);
        if (happened is not null)
        {
            db.Audit.Add(
                new AuditEntry
                {
                    At = Clock.Now,
                    By = User.Name(),
                    Thing = "users",
                    What = happened,
                }
            );
        }

        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        Said = said;
        return RedirectToPage();
    }

    private async Task EndAllAsync(Guid user, CancellationToken cancel)
    {
        await DatabaseSessions.EndAsync(db, user, cancel);
        await db
            .ApiTokens.Where(t => t.UserId == user && (t.RevokedAt == null || t.RevokedAt > Clock.Now))
            .ExecuteUpdateAsync(s => s.SetProperty(t => t.RevokedAt, Clock.Now), cancel);
        await db.OneTimeLinks.Where(l => l.UserId == user && l.UsedAt == null).ExecuteUpdateAsync(s => s.SetProperty(l => l.UsedAt, Clock.Now), cancel);
    }

    private async Task<IActionResult> WrongAsync(string problem, CancellationToken cancel)
    {
        Problem = problem;
        Response.StatusCode = 422;
        await LoadAsync(cancel);
        return Page();
    }

    private async Task LoadAsync(CancellationToken cancel) =>
        Users = await db.Users.AsNoTracking().OrderBy(u => u.RemovedAt != null).ThenBy(u => u.Name).ToListAsync(cancel);
}
