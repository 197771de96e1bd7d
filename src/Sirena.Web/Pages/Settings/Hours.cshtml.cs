using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using Sirena.Core;
using Sirena.Core.Ladders;
using Sirena.Core.People;
using Sirena.Engine;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Web.Access;
using Sirena.Web.Api;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Settings;

/// <summary>The hours in which the business and its teams work, and the days on which nobody does: steps that count working time go by them.</summary>
[Authorize(Policies.Change)]
public sealed class HoursModel(SirenaDb db, Signals signals) : SirenaPage
{
    /// <inheritdoc/>
    protected override string? Thing => "hours";

    /// <summary>What is wrong.</summary>
    public string? Problem { get; private set; }

    /// <summary>When 30 minutes and 8 hours of working time from now are over, by the business's hours.</summary>
    public (Instant? Short, Instant? Long) Example
    {
        get
        {
            var hours = new WorkingHours(Around.Business.Hours, Around.Business.Holidays.Select(h => h.Date).ToHashSet(), Clock.Zone);
            return (hours.After(Clock.Now, Duration.FromMinutes(30)), hours.After(Clock.Now, Duration.FromHours(8)));
        }
    }

    /// <summary>Shows them.</summary>
    public void OnGet() { }

    /// <summary>Adds a span, of the business or of a team.</summary>
    public Task<IActionResult> OnPostAddAsync(string? team, string? from, string? to, string[] days, CancellationToken cancel) =>
        SaveAsync(
            async () =>
            {
                var (span, problem) = SpanForm.Read(from, to, days, "hours");
                if (span is null)
                {
                    return problem;
                }

                if (await HoursAsync(team, cancel) is not { } hours)
                {
                    return $"There is no team '{team}' any more. Choose one of the list.";
                }

                hours.Add(span);
                return null;
            },
            $"Added hours of work of {NameOf(team)}.",
            cancel
        );

    /// <summary>Takes a span away.</summary>
    public Task<IActionResult> OnPostDropAsync(string? team, int index, CancellationToken cancel) =>
        SaveAsync(
            async () =>
            {
                var hours = await HoursAsync(team, cancel);
                if (hours is null || index < 0 || index >= hours.Count)
                {
                    return "Those hours are no longer there.";
                }

                hours.RemoveAt(index);
                return null;
            },
            $"Took hours of work of {NameOf(team)} away.",
            cancel
        );

    /// <summary>Adds a holiday.</summary>
    public Task<IActionResult> OnPostHolidayAsync(string? date, string? name, CancellationToken cancel) =>
        SaveAsync(
            async () =>
            {
                if (Clock.ReadTyped(date) is not { } day)
                {
                    return WhenApi.Refusal("day", date, "The day");
                }

                if (!NameText.Fits(name, 60))
                {
                    return "Give the holiday a name of at most 60 characters.";
                }

                var business = await db.Businesses.SingleAsync(cancel);
                business.Holidays = [.. business.Holidays.Where(h => h.Date != day).Append(new Holiday(day, name.Trim())).OrderBy(h => h.Date)];
                return null;
            },
            $"Added the holiday {name}.",
            cancel
        );

    /// <summary>Takes a holiday away.</summary>
    public Task<IActionResult> OnPostWorkAsync(string? date, CancellationToken cancel) =>
        SaveAsync(
            async () =>
            {
                var business = await db.Businesses.SingleAsync(cancel);
                Holiday[] left = [.. business.Holidays.Where(h => LocalDatePattern.Iso.Format(h.Date) != date)];
                if (left.Length == business.Holidays.Count)
                {
                    return "That holiday is no longer there.";
                }

                business.Holidays = [.. left];
                return null;
            },
            $"Took the holiday of {date} away.",
            cancel
        );

    private string NameOf(string? team) => string.IsNullOrEmpty(team) ? "the business" : Around.NameOf(team);

    private async Task<List<WeeklySpan>?> HoursAsync(string? team, CancellationToken cancel) =>
        string.IsNullOrEmpty(team) ? (await db.Businesses.SingleAsync(cancel)).Hours : (await db.Teams.FirstOrDefaultAsync(t => t.Id == team, cancel))?.Hours;

    private async Task<IActionResult> SaveAsync(Func<Task<string?>> change, string what, CancellationToken cancel)
    {
        Problem = await change();
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
                Thing = "hours",
                What = what,
            }
        );
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
        Said = $"{what} It holds for alerts that are raised from now on.";
        return RedirectToPage();
    }
}
