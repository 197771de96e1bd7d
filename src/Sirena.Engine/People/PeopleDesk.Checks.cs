using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.People;
using Sirena.Formats.Documents;
using Sirena.Formats.People;

namespace Sirena.Engine.People;

public sealed partial class PeopleDesk
{
    private static void Covered(List<PersonEntry> good, Dictionary<string, Person> known, List<DocumentError> errors)
    {
        foreach (var entry in good.ToArray())
        {
            foreach (
                var cover in entry
                    .Person.Away.Select(a => a.Cover)
                    .OfType<string>()
                    .Where(c => !known.ContainsKey(c) && !good.Exists(g => g.Person.Id == c))
                    .Distinct()
            )
            {
                errors.Add(
                    new DocumentError(
                        $"{entry.Person.Id}.away.cover",
                        null,
                        null,
                        $"{entry.Person.Name} is to be covered by '{cover}', and there is no such person.{Closest.Hint(cover, known.Keys)}"
                    )
                );
                good.Remove(entry);
            }
        }
    }

    private static void Managed(List<PersonEntry> good, List<DocumentError> errors)
    {
        foreach (var site in good.SelectMany(g => (g.Manages ?? []).Select(s => (Site: s, g.Person.Name))).GroupBy(x => x.Site).Where(g => g.Count() > 1))
        {
            errors.Add(
                new DocumentError(
                    "manages",
                    null,
                    null,
                    $"The site '{site.Key}' has one manager, and {string.Join(" and ", site.Select(s => s.Name))} are both given."
                )
            );
            good.RemoveAll(g => g.Manages?.Contains(site.Key) == true);
        }
    }

    private static void Coded(List<PersonEntry> good, Dictionary<string, Person> known, List<DocumentError> errors)
    {
        var all = known.ToDictionary(k => k.Key, k => k.Value);
        foreach (var entry in good)
        {
            all[entry.Person.Id] = Seen(entry, known.GetValueOrDefault(entry.Person.Id));
        }

        foreach (var entry in good.Where(g => g.Gives("codes") || g.Gives("archived")).ToArray())
        {
            if (SalesCodes.Taken(all[entry.Person.Id], all.Values) is (var code, var of))
            {
                errors.Add(new DocumentError($"{entry.Person.Id}.codes", entry.Line, null, SalesCodes.Sentence(code, of)));
                good.Remove(entry);
            }
        }
    }

    // What of a person decides whose a code is, as it would be after the entry.
    private static Person Seen(PersonEntry entry, Person? old) =>
        new()
        {
            Id = entry.Person.Id,
            Name = entry.Gives("name") || old is null ? entry.Person.Name : old.Name,
            Codes = entry.Gives("codes") ? entry.Person.Codes : old?.Codes ?? [],
            ArchivedAt = entry.Gives("archived") ? entry.Person.ArchivedAt : old?.ArchivedAt,
        };

    private static void Circles(List<PersonEntry> good, Dictionary<string, Person> known, List<DocumentError> errors)
    {
        while (true)
        {
            var all = known.ToDictionary(k => k.Key, k => k.Value);
            foreach (var entry in good.Where(g => g.Gives("away")))
            {
                all[entry.Person.Id] = entry.Person;
            }

            if (Covers.Circle(all) is not { } circle || good.RemoveAll(g => circle.Contains(g.Person.Id)) == 0)
            {
                return;
            }

            errors.Add(
                new DocumentError(
                    $"{circle[0]}.away.cover",
                    null,
                    null,
                    $"The covers go in a circle at one time: {string.Join(" → ", circle)}. Let one of them be covered by somebody else."
                )
            );
        }
    }
}
