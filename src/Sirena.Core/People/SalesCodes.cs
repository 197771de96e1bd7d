namespace Sirena.Core.People;

/// <summary>The codes by which the order system names people as salesperson. One that two have would tell only one of them, whichever it is.</summary>
public static class SalesCodes
{
    /// <summary>
    /// The code of a person that somebody else has as well, and who; <see langword="null"/> when each is theirs alone. Case counts for nothing, and whoever is
    /// archived is told nothing, so that their codes are free.
    /// </summary>
    public static (string Code, Person Of)? Taken(Person person, IEnumerable<Person> people) =>
        person.ArchivedAt is not null
            ? null
            : people
                .Where(o => o.Id != person.Id && o.ArchivedAt is null)
                .OrderBy(o => o.Id, StringComparer.Ordinal)
                .SelectMany(o => person.Codes.Where(c => o.Codes.Contains(c, StringComparer.OrdinalIgnoreCase)).Select(c => (c, o)))
                .Cast<(string, Person)?>()
                .FirstOrDefault();

    /// <summary>What is said of one that is taken.</summary>
    public static string Sentence(string code, Person of) => $"The code '{code}' belongs to {of.Name}. Take it away there first, or leave it out.";
}
