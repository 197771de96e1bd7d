using System.Collections.Frozen;
using Sirena.Core.Rules;

namespace Sirena.Core.People;

/// <summary>Everybody and every place, as of one moment.</summary>
public sealed class StaffDirectory
{
    private readonly FrozenDictionary<string, Person> people;
    private readonly FrozenDictionary<string, Team> teams;
    private readonly FrozenDictionary<string, Site> sites;
    private readonly ILookup<string, Person> members;
    private readonly FrozenDictionary<string, Person> byCode;

    /// <summary>Makes a directory.</summary>
    public StaffDirectory(IEnumerable<Person> people, IEnumerable<Team> teams, IEnumerable<Site> sites, Rota? rota = null)
    {
        Rota = rota ?? Rota.Empty;
        this.people = people.ToFrozenDictionary(p => p.Id);
        this.teams = teams.ToFrozenDictionary(t => t.Id);
        this.sites = sites.ToFrozenDictionary(s => s.Id);
        members = this.people.Values.OrderBy(p => p.Id, StringComparer.Ordinal).SelectMany(p => p.Teams.Select(t => (t, p))).ToLookup(x => x.t, x => x.p);
        byCode = this
            .people.Values.OrderBy(p => p.ArchivedAt is not null)
            .ThenBy(p => p.Id, StringComparer.Ordinal)
            .SelectMany(p => p.Codes.Select(c => (Code: c, Person: p)))
            .DistinctBy(x => x.Code.ToUpperInvariant())
            .ToFrozenDictionary(x => x.Code, x => x.Person, StringComparer.OrdinalIgnoreCase);
    }

    /// <summary>Customers' addresses that are to be told nothing more, lower case after the channel's name: <c>mail purser@corvane.example</c>.</summary>
    public IReadOnlySet<string> Refused { get; init; } = FrozenSet<string>.Empty;

    /// <summary>Who is on duty when.</summary>
    public Rota Rota { get; }

    /// <summary>The person whom the order system names by a code or by their id, or <see langword="null"/>.</summary>
    public Person? ByCode(string code) => byCode.GetValueOrDefault(code) ?? Person(code);

    /// <summary>The sites that a person manages.</summary>
    public IEnumerable<Site> ManagedBy(string person) => sites.Values.Where(s => s.Manager == person).OrderBy(s => s.Id, StringComparer.Ordinal);

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

    /// <summary>
    /// The id of a person of the house or a team as somebody writes them: the id itself, the whole name, or a first or last name that only one has; letters
    /// count without case and accents. <see langword="null"/> for nobody, or several.
    /// </summary>
    public string? IdOf(string written)
    {
        var wanted = TextFolding.Fold(written.Trim());
        string? Only(Func<string, bool> fits)
        {
            string[] found =
            [
                .. people
                    .Values.Where(p => p is { ArchivedAt: null, Outside: false } && fits(TextFolding.Fold(p.Name)))
                    .Select(p => p.Id)
                    .Concat(teams.Values.Where(t => fits(TextFolding.Fold(t.Name))).Select(t => t.Id))
                    .Take(2),
            ];
            return found.Length == 1 ? found[0] : null;
        }

        return Person(written)?.Id ?? Team(written)?.Id ?? Only(n => n == wanted) ?? Only(n => n.Split(' ').Contains(wanted));
    }

    /// <summary>The members of a team, by id.</summary>
    public IEnumerable<Person> Members(string team) => members[team];

    /// <summary>The name of a person, team or site by its id; the id where it is none of these.</summary>
    public string NameOf(string id) => Person(id)?.Name ?? Team(id)?.Name ?? Site(id)?.Name ?? id;
}
