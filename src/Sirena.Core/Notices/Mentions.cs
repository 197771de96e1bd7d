using System.Text.RegularExpressions;
using Sirena.Core.People;
using Sirena.Core.Rules;

namespace Sirena.Core.Notices;

/// <summary>Whom a note names: <c>@bram.osei</c>, <c>@kitchen</c>.</summary>
public static partial class Mentions
{
    /// <summary>The people and teams that a text names, each once, in its order; a name that belongs to nobody is not among them.</summary>
    public static IReadOnlyList<Recipient> Find(string text, StaffDirectory staff) =>
        [
            .. Names(text)
                .Select(n =>
                    staff.Person(n) is { ArchivedAt: null } ? (Recipient)new PersonRecipient(n)
                    : staff.Team(n) is not null ? new TeamRecipient(n)
                    : null!
                )
                .Where(r => r is not null),
        ];

    /// <summary>The names behind an @ that belong to nobody, with the nearest that does.</summary>
    public static IReadOnlyList<(string Name, string Hint)> Unknown(string text, StaffDirectory staff)
    {
        var all = staff.People.Where(p => p.ArchivedAt is null).Select(p => p.Id).Concat(staff.Teams.Select(t => t.Id)).ToArray();
        return [.. Names(text).Where(n => !all.Contains(n)).Select(n => (n, Closest.Hint(n, all)))];
    }

    private static IEnumerable<string> Names(string text) => Pattern().Matches(text).Select(m => m.Groups[1].Value.ToLowerInvariant()).Distinct();

    // Not inside a mail address: what stands before the @ is no letter, digit or dot.
    [GeneratedRegex(@"(?<![\w.])@([a-zA-Z0-9]+(?:[._-][a-zA-Z0-9]+)*)", RegexOptions.CultureInvariant)]
    private static partial Regex Pattern();
}
