using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using NodaTime;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Web.Access;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.People;

/// <summary>A person's row of the week.</summary>
public sealed record PersonRow(Person Person, IReadOnlyList<Duty> Duties, IReadOnlyList<(Instant From, Instant To, string For)> Covers);

/// <summary>Everybody by team: how they are reached, when they work this week, and where nobody would be.</summary>
[Authorize(Policies.SeeAll)]
public sealed class IndexModel(DarkestRule darkest) : PeoplePage
{
    /// <summary>How many people a page shows.</summary>
    public const int PageSize = 60;

    /// <summary>Words that a person's name, addresses or teams must hold.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Find { get; set; }

    /// <summary>The team that is shown; all where it is missing.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Team { get; set; }

    /// <summary>The page, from 1.</summary>
    [BindProperty(SupportsGet = true)]
    public int At { get; set; } = 1;

    /// <summary>How many people fit the filter.</summary>
    public int Found { get; private set; }

    /// <summary>How many pages they take.</summary>
    public int Pages => Paging.Pages(Found, PageSize);

    /// <summary>Whether only some are asked for.</summary>
    public bool Filtered => !string.IsNullOrWhiteSpace(Find) || !string.IsNullOrEmpty(Team);

    /// <summary>The teams with their people; those of no team last.</summary>
    public IReadOnlyList<(string Name, string? Team, IReadOnlyList<PersonRow> Rows)> Teams { get; private set; } = [];

    /// <summary>The teams that have a rota and nobody on duty now, with the next time at which somebody comes.</summary>
    public IReadOnlyList<(Team Team, Duty? Next)> Empty { get; private set; } = [];

    /// <summary>How many people are on duty now.</summary>
    public int OnDuty { get; private set; }

    /// <summary>Whoever is archived.</summary>
    public IReadOnlyList<Person> Archived { get; private set; } = [];

    /// <summary>Lists them.</summary>
    public void OnGet()
    {
        var (staff, drawing) = (Around.Staff, Drawing);
        var here = staff.People.Where(p => p.ArchivedAt is null).ToArray();
        Archived = [.. staff.People.Where(p => p.ArchivedAt is not null).OrderBy(p => p.Name, StringComparer.Ordinal)];
        var names = staff.Teams.ToDictionary(t => t.Id, t => t.Name);
        string NameOf(Person person) => person.Teams.Count > 0 ? names.GetValueOrDefault(person.Teams[0], person.Teams[0]) : "";
        var found = here.Where(p => (string.IsNullOrEmpty(Team) || p.Teams.Contains(Team)) && Fits(p, names))
            .OrderBy(p => p.Teams.Count == 0)
            .ThenBy(NameOf, StringComparer.Ordinal)
            .ThenBy(p => p.Teams.FirstOrDefault(), StringComparer.Ordinal)
            .ThenBy(p => p.Name, StringComparer.Ordinal)
            .ToArray();
        Found = found.Length;
        At = Math.Clamp(At, 1, Pages);
        var shown = found.Skip((At - 1) * PageSize).Take(PageSize).ToArray();
        var duties = staff.Teams.SelectMany(t => staff.Rota.Between(t.Id, drawing.Begin, drawing.End)).ToLookup(d => d.Person);
        var covers = here.Where(p => p.Away.Count > 0).SelectMany(p => Covered(p, duties[p.Id])).ToLookup(c => c.Cover, c => (c.From, c.To, c.For));
        Teams =
        [
            .. shown
                .GroupBy(p => p.Teams.FirstOrDefault())
                .Select(g =>
                    (
                        g.Key is null ? "No team" : names.GetValueOrDefault(g.Key, g.Key),
                        g.Key,
                        (IReadOnlyList<PersonRow>)[.. g.Select(p => new PersonRow(p, [.. duties[p.Id].OrderBy(d => d.From)], [.. covers[p.Id]]))]
                    )
                ),
        ];
        OnDuty = staff.Teams.SelectMany(t => staff.Rota.OnDuty(t.Id, Clock.Now)).Select(d => d.Person).Distinct().Count();
        Empty =
        [
            .. staff
                .Teams.Where(t => staff.Rota.Has(t.Id) && !staff.Rota.OnDuty(t.Id, Clock.Now).Any())
                .OrderBy(t => t.Name, StringComparer.Ordinal)
                .Select(t => (t, staff.Rota.Next(t.Id, Clock.Now))),
        ];
    }

    /// <summary>
    /// The coverage of the rule with the most dark hours of those that tell whoever is on duty: asked for by the page once it stands, since many rules take
    /// their time.
    /// </summary>
    public async Task<IActionResult> OnGetCoverageAsync(CancellationToken cancel) =>
        await darkest.OfAsync(Monday, Around, Clock, cancel) is { } coverage ? Partial("_Darkest", coverage) : Content("");

    /// <summary>This page's address with another page or week.</summary>
    /// <param name="at">The page, from 1.</param>
    /// <param name="week">A day of the week; <see langword="null"/> for this one.</param>
    public string Address(int at, LocalDate? week) =>
        "/people"
        + QueryString.Create(
            new Dictionary<string, string?>
            {
                ["find"] = Find,
                ["team"] = Team,
                ["week"] = week is { } day ? Iso(day) : null,
                ["at"] = at > 1 ? at.ToString(System.Globalization.CultureInfo.InvariantCulture) : null,
            }.Where(p => !string.IsNullOrEmpty(p.Value))
        );

    private bool Fits(Person person, Dictionary<string, string> teams)
    {
        var words = TextFolding.Fold(Find ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries);
        return words.Length == 0
            || TextFolding.Fold(
                string.Join(
                    ' ',
                    [
                        person.Name,
                        person.Id,
                        person.Email,
                        .. person.Contacts.Select(c => c.Address),
                        .. person.Teams.Select(t => teams.GetValueOrDefault(t, t)),
                    ]
                )
            )
                is var all
                && words.All(w => all.Contains(w, StringComparison.Ordinal));
    }

    // The shifts that somebody serves for one who is away, at the end of the chain of covers.
    private IEnumerable<(string Cover, Instant From, Instant To, string For)> Covered(Person person, IEnumerable<Duty> duties)
    {
        foreach (var duty in duties)
        {
            var (who, seen) = (person, new HashSet<string>());
            while (who is not null && seen.Add(who.Id) && who.Away.Find(a => a.Holds(duty.From)) is { } leave)
            {
                who = leave.Cover is { } cover ? Around.Staff.Person(cover) : null;
            }

            if (who is not null && who != person)
            {
                yield return (who.Id, duty.From, duty.To, person.Name);
            }
        }
    }

    /// <summary>The fact in the heading.</summary>
    public string Heading
    {
        get
        {
            if (Empty.Count == 0)
            {
                return $"{OnDuty} on duty now";
            }

            var until = Empty[0].Next is { } next ? $" until {Clock.Short(next.From)}" : "";
            return $"{OnDuty} on duty now, {Empty[0].Team.Name} has nobody{until}{(Empty.Count > 1 ? $", nor have {Empty.Count - 1} other teams" : "")}";
        }
    }
}
