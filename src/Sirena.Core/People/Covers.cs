using NodaTime;

namespace Sirena.Core.People;

/// <summary>Covers that lead back to whoever is away.</summary>
public static class Covers
{
    /// <summary>
    /// The first circle among people's leaves that hold at one time, as the ids along it, begin and end the same; <see langword="null"/> when there is none.
    /// </summary>
    public static IReadOnlyList<string>? Circle(IReadOnlyDictionary<string, Person> people)
    {
        foreach (var person in people.Values.OrderBy(p => p.Id, StringComparer.Ordinal))
        {
            foreach (var leave in person.Away.Where(a => a.Cover is not null))
            {
                if (Follow(people, [person.Id], leave.Cover!, leave.From, leave.To) is { } circle)
                {
                    return circle;
                }
            }
        }

        return null;
    }

    private static List<string>? Follow(IReadOnlyDictionary<string, Person> people, List<string> chain, string cover, Instant from, Instant to)
    {
        if (chain[0] == cover)
        {
            return [.. chain, cover];
        }

        if (chain.Contains(cover) || !people.TryGetValue(cover, out var person))
        {
            return null;
        }

        foreach (var leave in person.Away.Where(a => a.Cover is not null && a.From < to && a.To > from))
        {
            if (Follow(people, [.. chain, cover], leave.Cover!, Instant.Max(from, leave.From), Instant.Min(to, leave.To)) is { } circle)
            {
                return circle;
            }
        }

        return null;
    }
}
