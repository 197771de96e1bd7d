using System.Collections.Frozen;

namespace Sirena.Core.People;

/// <summary>Everybody and every place, as of one moment.</summary>
public sealed class StaffDirectory
{
    private readonly FrozenDictionary<string, Person> people;
    private readonly FrozenDictionary<string, Team> teams;
    private readonly FrozenDictionary<string, Site> sites;
    private readonly ILookup<string, Person> members;

    /// <summary>Makes a directory.</summary>
    public StaffDirectory(IEnumerable<Person> people, IEnumerable<Team> teams, IEnumerable<Site> sites)
    {
        this.people = people.ToFrozenDictionary(p => p.Id);
        this.teams = teams.ToFrozenDictionary(t => t.Id);
        this.sites = sites.ToFrozenDictionary(s => s.Id);
        members = this.people.Values.OrderBy(p => p.Id, StringComparer.Ordinal).SelectMany(p => p.Teams.Select(t => (t, p))).ToLookup(x => x.t, x => x.p);
    }

    /// <summary>Every person, those archived among them.</summary>
    public IReadOnlyCollection<Person> People => people.Values;

    /// <summary>Every team.</summary>
    public IReadOnlyCollection<Team> Teams => teams.Values;

    /// <summary>Every site.</summary>
    public IReadOnlyCollection<Site> Sites => sites.Values;

    /// <summary>The person of that id, or <see langword="null"/>.</summary>
    public Person? Person(string id) => people.GetValueOrDefault(id);

    /// <summary>The team of that id, or <see langword="null"/>.</summary>
    public Team? Team(string id) => teams.GetValueOrDefault(id);

    /// <summary>The site of that id, or <see langword="null"/>.</summary>
    public Site? Site(string id) => sites.GetValueOrDefault(id);

    /// <summary>The members of a team, by id.</summary>
    public IEnumerable<Person> Members(string team) => members[team];

    /// <summary>The name of a person, team or site by its id; the id where it is none of these.</summary>
    public string NameOf(string id) => Person(id)?.Name ?? Team(id)?.Name ?? Site(id)?.Name ?? id;
}
