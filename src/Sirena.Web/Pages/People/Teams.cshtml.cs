using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Engine;
using Sirena.Formats.Rules;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.People;

/// <summary>Teams, sites with their managers and teams, and the business's quiet hours.</summary>
[Authorize(Policies.SeeAll)]
public sealed class TeamsModel(SirenaDb db, Signals signals) : PeoplePage
{
    /// <inheritdoc/>
    protected override string? Thing => "teams";

    /// <summary>What is wrong, or <see langword="null"/>.</summary>
    public string? Problem { get; private set; }

    /// <summary>Whoever can manage a site; with whoever does now, so that saving the rest changes nothing about it.</summary>
    public IEnumerable<Person> Staff(string? manager) =>
        Around.Staff.People.Where(p => p is { ArchivedAt: null, Outside: false } || p.Id == manager).OrderBy(p => p.Name, StringComparer.Ordinal);

    /// <summary>Shows them.</summary>
    public void OnGet() { }

    /// <summary>Saves a team: its name, and whether its people may opt out.</summary>
    public Task<IActionResult> OnPostTeamAsync(string? id, string? name, bool mayOptOut, CancellationToken cancel) =>
        SaveAsync(
            name,
            async () =>
            {
                var team = id is { Length: > 0 } ? await db.Teams.FirstOrDefaultAsync(t => t.Id == id, cancel) : null;
                if (team is null)
                {
                    var made = RuleReader.IdFrom(name!);
                    if (await db.Teams.AnyAsync(t => t.Id == made, cancel))
                    {
                        return $"There is a team '{made}' already.";
                    }

                    team = db.Teams.Add(new Team { Id = made, Name = name! }).Entity;
                }

                (team.Name, team.MayOptOut) = (name!.Trim(), mayOptOut);
                return null;
            },
            $"Saved the team {name}.",
            cancel
        );

    /// <summary>Saves a site.</summary>
    public Task<IActionResult> OnPostSiteAsync(string? id, string? name, string? manager, string? team, string? printer, CancellationToken cancel) =>
        SaveAsync(
            name,
            async () =>
            {
                var site = id is { Length: > 0 } ? await db.Sites.FirstOrDefaultAsync(s => s.Id == id, cancel) : null;
                if (site is null)
                {
                    var made = RuleReader.IdFrom(name!);
                    if (await db.Sites.AnyAsync(s => s.Id == made, cancel))
                    {
                        return $"There is a site '{made}' already.";
                    }

                    site = db.Sites.Add(new Site { Id = made, Name = name! }).Entity;
                }

                if (manager is { Length: > 0 } && manager != site.Manager && Around.Staff.Person(manager) is not { ArchivedAt: null })
                {
                    return $"There is no person '{manager}' any more. Choose one of the list, or nobody.";
                }

                if (team is { Length: > 0 } && Around.Staff.Team(team) is null)
                {
                    return $"There is no team '{team}' any more. Choose one of the list, or none.";
                }

                (site.Name, site.Manager, site.Team) = (name!.Trim(), string.IsNullOrEmpty(manager) ? null : manager, string.IsNullOrEmpty(team) ? null : team);
                site.Printer = string.IsNullOrWhiteSpace(printer) ? null : printer.Trim();
                if (site.Printer is not null && !PrinterAddress.TryParse(site.Printer, out _, out var fault))
                {
                    return $"'{site.Printer}' {fault}.";
                }

                return null;
            },
            $"Saved the site {name}.",
            cancel
        );

    /// <summary>Adds quiet hours of the business, or sets what passes them.</summary>
    public Task<IActionResult> OnPostQuietAsync(string? from, string? to, string[] days, string? passes, CancellationToken cancel) =>
        SaveAsync(
            "the business",
            async () =>
            {
                var business = await db.Businesses.SingleAsync(cancel);
                if (Names.IsNone<Urgency>(passes))
                {
                    return $"What passes the quiet is one of {string.Join(", ", Names.All<Urgency>())}.";
                }

                business.QuietPasses = Names.Parse<Urgency>(passes) ?? business.QuietPasses;
                if (string.IsNullOrWhiteSpace(from) && string.IsNullOrWhiteSpace(to))
                {
                    return null;
                }

                var (span, problem) = SpanForm.Read(from, to, days, "quiet");
                if (span is not null)
                {
                    business.Quiet.Add(span);
                }

                return problem;
            },
            "Saved the quiet hours of the business.",
            cancel
        );

    /// <summary>Ends quiet hours of the business.</summary>
    public Task<IActionResult> OnPostLoudAsync(int index, CancellationToken cancel) =>
        SaveAsync(
            "the business",
            async () =>
            {
                var business = await db.Businesses.SingleAsync(cancel);
                if (index < 0 || index >= business.Quiet.Count)
                {
                    return "Those quiet hours are no longer there.";
                }

                business.Quiet.RemoveAt(index);
                return null;
            },
            "Quiet hours of the business taken away.",
            cancel
        );

    private async Task<IActionResult> SaveAsync(string? name, Func<Task<string?>> change, string what, CancellationToken cancel)
    {
        if (!User.MayChange())
        {
            return Forbid();
        }

        Problem = !NameText.Fits(name, 120) ? "Give a name of at most 120 characters." : await change();
        if (Problem is not null)
        {
            Response.StatusCode = 422;
            return Page();
        }

        db.Audit.Add(
            new AuditEntry
            {
                At = Clock.Now,
                By = User.Name(),
                Thing = "teams",
                What = what,
            }
        );
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
        Said = what;
        return RedirectToPage();
    }
}
