using Microsoft.AspNetCore.Authorization;
using NodaTime;
using Sirena.Core.People;
using Sirena.Engine.Rules;
using Sirena.Web.Access;

namespace Sirena.Web.Pages.People;

/// <summary>A person's row of the week.</summary>
public sealed record PersonRow(Person Person, IReadOnlyList<Duty> Duties, IReadOnlyList<(Instant From, Instant To, string For)> Covers);

/// <summary>Everybody by team: how they are reached, when they work this week, and where nobody would be.</summary>
[Authorize(Policies.SeeAll)]
public sealed class IndexModel(RuleShelf shelf) : PeoplePage
{
    /// <summary>The teams with their people; those of no team last.</summary>
    public IReadOnlyList<(string Name, string? Team, IReadOnlyList<PersonRow> Rows)> Teams { get; private set; } = [];

    /// <summary>The teams that have a rota and nobody on duty now, with the next time at which somebody comes.</summary>
    public IReadOnlyList<(Team Team, Duty? Next)> Empty { get; private set; } = [];

    /// <summary>How many people are on duty now.</summary>
    public int OnDuty { get; private set; }

    /// <summary>The coverage of the rule with the most dark hours of those that tell whoever is on duty.</summary>
    public CoverageView? Coverage { get; private set; }

    /// <summary>Whoever is archived.</summary>
    public IReadOnlyList<Person> Archived { get; private set; } = [];

    /// <summary>Lists them.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        var (staff, drawing) = (Around.Staff, Drawing);
        var here = staff.People.Where(p => p.ArchivedAt is null).ToArray();
        Archived = [.. staff.People.Where(p => p.ArchivedAt is not null).OrderBy(p => p.Name, StringComparer.Ordinal)];
        var duties = staff.Teams.SelectMany(t => staff.Rota.Between(t.Id, drawing.Begin, drawing.End)).ToLookup(d => d.Person);
        var covers = here.SelectMany(p => Covered(p, duties[p.Id])).ToLookup(c => c.Cover, c => (c.From, c.To, c.For));
        IReadOnlyList<PersonRow> Rows(IEnumerable<Person> people) =>
            [.. people.OrderBy(p => p.Name, StringComparer.Ordinal).Select(p => new PersonRow(p, [.. duties[p.Id].OrderBy(d => d.From)], [.. covers[p.Id]]))];
        Teams =
        [
            .. staff
                .Teams.OrderBy(t => t.Name, StringComparer.Ordinal)
                .Select(t => (t.Name, (string?)t.Id, Rows(here.Where(p => p.Teams.FirstOrDefault() == t.Id))))
                .Where(t => t.Item3.Count > 0),
            .. here.Any(p => p.Teams.Count == 0) ? new[] { ("No team", (string?)null, Rows(here.Where(p => p.Teams.Count == 0))) } : [],
        ];
        OnDuty = staff.Teams.SelectMany(t => staff.Rota.OnDuty(t.Id, Clock.Now)).Select(d => d.Person).Distinct().Count();
        Empty =
        [
            .. staff
                .Teams.Where(t => staff.Rota.Has(t.Id) && !staff.Rota.OnDuty(t.Id, Clock.Now).Any())
                .OrderBy(t => t.Name, StringComparer.Ordinal)
                .Select(t => (t, staff.Rota.Next(t.Id, Clock.Now))),
        ];
        var book = await shelf.CurrentAsync(cancel);
        Coverage = book
            .Rules.Where(r => r.Rule.On && r.Rule.Cases.Any(c => c.Tell.OfType<Core.Rules.DutyRecipient>().Any()))
            .Select(r => CoverageView.Of(r.Rule, Around, Monday, Clock))
            .MaxBy(c => c.Coverage.DarkHours < 160 ? c.Coverage.DarkHours : 0);
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
    public string Heading =>
        $"{OnDuty} on duty now{(Empty.Count == 0 ? "" : $", {Empty[0].Team.Name} has nobody{(Empty[0].Next is { } next ? $" until {Clock.Short(next.From)}" : "")}{(Empty.Count > 1 ? $", nor have {Empty.Count - 1} other teams" : "")}")}";
}
