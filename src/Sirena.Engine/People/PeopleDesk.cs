using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.People;
using Sirena.Formats.Documents;
using Sirena.Formats.People;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Engine.People;

/// <summary>Saves people: all that is listed in one transaction, or nothing; each change with what was before and after in the audit log.</summary>
public sealed partial class PeopleDesk(IDbContextFactory<SirenaDb> factory, Signals signals, IClock clock)
{
    /// <summary>Merges a document by id: a listed person is replaced whole, others stay. Teams that are not known are made.</summary>
    /// <param name="document">The people and their mistakes.</param>
    /// <param name="takeGood">Takes the good ones where others have mistakes; else mistakes refuse all.</param>
    /// <param name="by">The name of whoever saves.</param>
    /// <param name="stale">Whether what stands there is another version than the caller's, asked within the transaction; <see langword="null"/> for not
    /// asking.</param>
    /// <param name="meant">Who those are of whom only the name is known: by their key the id of the person who is meant, or what <see cref="Likeness"/>
    /// says.</param>
    public async Task<PeopleSave> SaveAsync(
        PeopleDocument document,
        bool takeGood,
        string by,
        CancellationToken cancel,
        Func<JsonObject?, bool>? stale = null,
        IReadOnlyDictionary<string, string>? meant = null
    )
    {
        var errors = new List<DocumentError>(document.Errors);
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        await db.Database.ExecuteSqlAsync($"select pg_advisory_xact_lock(hashtextextended('people', 0))", cancel);
        var known = (await db.People.ToListAsync(cancel)).ToDictionary(p => p.Id, p => p.InOrder());
        var zone = (await db.Businesses.AsNoTracking().SingleAsync(cancel)).Zone;
        var alike = new List<Likeness>();
        var good = Found(document.Good, known, meant ?? new Dictionary<string, string>(), alike, errors);
        Covered(good, known, errors);
        Managed(good, errors);
        Circles(good, known, errors);
        Coded(good, known, errors);
        if ((errors.Count > 0 && !takeGood) || good.Count == 0)
        {
            return new PeopleSave([], [], errors, false) { Alike = alike };
        }

        var now = clock.GetCurrentInstant();
        var sites = await db.Sites.ToListAsync(cancel);
        foreach (var team in good.SelectMany(g => g.Person.Teams).Distinct().Except(await db.Teams.Select(t => t.Id).ToListAsync(cancel)))
        {
            db.Teams.Add(new Team { Id = team, Name = team });
        }

        var (made, replaced) = (new List<string>(), new List<string>());
        foreach (var entry in good)
        {
            var before = known.TryGetValue(entry.Person.Id, out var old) ? PeopleWriter.Write(old, sites.Where(s => s.Manager == old.Id), zone) : null;
            if (stale?.Invoke(before) == true)
            {
                return new PeopleSave([], [], [], false) { Stale = true };
            }

            var person = old ?? db.People.Add(new Person { Id = entry.Person.Id, Name = entry.Person.Name }).Entity;
            Put(entry, person, now);
            if (entry.Manages is { } manages)
            {
                sites.ForEach(s =>
                    s.Manager =
                        manages.Contains(s.Id) ? person.Id
                        : s.Manager == person.Id ? null
                        : s.Manager
                );
            }

            (before is null ? made : replaced).Add(person.Id);
            Note(db, by, now, person, before, PeopleWriter.Write(person, sites.Where(s => s.Manager == person.Id), zone));
        }

        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);
        signals.Raise(Topic.Pages);
        return new PeopleSave(made, replaced, errors, true) { Alike = alike };
    }

    /// <summary>Changes one person, and writes the audit log.</summary>
    /// <param name="id">The person's id.</param>
    /// <param name="by">The name of whoever changes.</param>
    /// <param name="change">Changes the person; a sentence when it cannot be done.</param>
    /// <returns><see langword="null"/>, or the sentence; nothing is changed then.</returns>
    public async Task<string?> ChangeAsync(string id, string by, Func<Person, SirenaDb, string?> change, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        await db.Database.ExecuteSqlAsync($"select pg_advisory_xact_lock(hashtextextended('people', 0))", cancel);
        var people = (await db.People.ToListAsync(cancel)).ToDictionary(p => p.Id, p => p.InOrder());
        if (!people.TryGetValue(id, out var person))
        {
            return "There is no such person.";
        }

        var zone = (await db.Businesses.AsNoTracking().SingleAsync(cancel)).Zone;
        var sites = await db.Sites.ToListAsync(cancel);
        var before = PeopleWriter.Write(person, sites.Where(s => s.Manager == id), zone);
        if (change(person, db) is { } problem)
        {
            return problem;
        }

        if (Covers.Circle(people) is { } circle)
        {
            return "The covers would go in a circle at one time: "
                + $"{string.Join(" → ", circle.Select(c => people.TryGetValue(c, out var p) ? p.Name : c))}. Choose another cover.";
        }

        if (SalesCodes.Taken(person, people.Values) is (var code, var of))
        {
            return SalesCodes.Sentence(code, of);
        }

        person.NumberContacts();
        var after = PeopleWriter.Write(person, sites.Where(s => s.Manager == id), zone);
        Note(db, by, clock.GetCurrentInstant(), person, before, after);
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);
        signals.Raise(Topic.Pages);
        return null;
    }

    private static void Put(PersonEntry entry, Person person, Instant now)
    {
        var (from, given) = (entry.Person, entry.Given);
        bool Gives(string member) => entry.Gives(member);
        person.Name = Gives("name") ? from.Name : person.Name;
        person.Email = Gives("email") ? from.Email : person.Email;
        person.Language = Gives("language") ? from.Language : person.Language;
        person.Post = Gives("post") ? from.Post : person.Post;
        person.Teams = Gives("teams") ? from.Teams : person.Teams;
        person.Codes = Gives("codes") ? from.Codes : person.Codes;
        person.Outside = Gives("outside") ? from.Outside : person.Outside;
        person.OptOuts = Gives("optOuts") ? from.OptOuts : person.OptOuts;
        person.Quiet = Gives("quiet") ? from.Quiet : person.Quiet;
        person.Away = Gives("away") ? from.Away : person.Away;
        person.First = Gives("first") ? from.First : person.First;
        person.ArchivedAt =
            !Gives("archived") ? person.ArchivedAt
            : from.ArchivedAt is null ? null
            : person.ArchivedAt ?? now;

        // A contact point keeps what is known of it unless the document says otherwise.
        ContactPoint[] kept = [.. person.Contacts.Where(c => !Gives("contacts") && !Gives(c.Channel.Name()))];
        ContactPoint[] points = [.. from.Contacts.Select(c => !Gives("contacts") && person.Contacts.Find(o => Same(o, c)) is { } old ? old : c)];
        person.Contacts.Clear();
        person.Contacts.AddRange([.. points, .. kept]);
        person.NumberContacts();
    }

    private static bool Same(ContactPoint a, ContactPoint b) => a.Channel == b.Channel && a.Address.Equals(b.Address, StringComparison.OrdinalIgnoreCase);

    // By our id, else by mail address, never by name: two people may be called alike, and one of them would lose what is theirs.
    private static List<PersonEntry> Found(
        IReadOnlyList<PersonEntry> entries,
        Dictionary<string, Person> known,
        IReadOnlyDictionary<string, string> meant,
        List<Likeness> alike,
        List<DocumentError> errors
    )
    {
        var (good, taken) = (new List<PersonEntry>(), new HashSet<string>());
        foreach (var entry in entries)
        {
            if (entry.FoundByMail && meant.GetValueOrDefault(entry.Person.Id) == Likeness.Nobody)
            {
                continue;
            }

            var (id, problem) = entry.FoundByMail ? ByMail(entry, known, meant.GetValueOrDefault(entry.Person.Id), alike) : (entry.Person.Id, null);
            problem ??= taken.Add(id) ? null : $"'{id}' stands twice in the file.";
            if (problem is not null)
            {
                errors.Add(new DocumentError("id", entry.Line, 1, problem));
            }
            else
            {
                good.Add(id == entry.Person.Id ? entry : entry with { Person = entry.Person.As(id) });
            }
        }

        return good;
    }

    private static (string Id, string? Problem) ByMail(PersonEntry entry, Dictionary<string, Person> known, string? meant, List<Likeness> likes)
    {
        var mails = entry.Person.Mails.ToHashSet(StringComparer.OrdinalIgnoreCase);
        var found = known.Values.Where(p => p.Mails.Any(mails.Contains)).ToList();
        var alike = known.GetValueOrDefault(entry.Person.Id)
            ?? known.Values.FirstOrDefault(p => p.ArchivedAt is null && p.Name.Equals(entry.Person.Name, StringComparison.OrdinalIgnoreCase));
        if (found.Count == 0 && alike is not null)
        {
            likes.Add(new Likeness(entry.Line, entry.Person.Id, entry.Person.Name, [.. entry.Person.Mails.Distinct(StringComparer.OrdinalIgnoreCase)], alike));
            if (meant is not null && (known.ContainsKey(meant) || meant == Likeness.Other))
            {
                return (meant == Likeness.Other ? Ids.Free(entry.Person.Id, known.ContainsKey) : meant, null);
            }
        }

        return found.Count == 1 ? (found[0].Id, null)
            : found.Count > 1
                ? (
                    "",
                    $"The mail addresses of {entry.Person.Name} belong to several: {string.Join(" and ", found.Select(p => p.Id))}. Give the id of "
                        + "whoever is meant."
                )
            : alike is not null
                ? (
                    "",
                    $"Somebody called {alike.Name} is there already ({alike.Id}), with no mail address of these. If it is the same person, give the id "
                        + $"{alike.Id} or one of their addresses; else give an id of its own."
                )
            : (entry.Person.Id, null);
    }

    private static void Note(SirenaDb db, string by, Instant now, Person person, JsonObject? before, JsonObject after)
    {
        string[] changed =
        [
            .. after
                .Where(m => before is null || !JsonNode.DeepEquals(m.Value, before[m.Key]))
                .Select(m => m.Key)
                .Union(before?.Select(m => m.Key).Where(k => !after.ContainsKey(k)) ?? []),
        ];
        if (before is not null && changed.Length == 0)
        {
            return;
        }

        var what = before is null
            ? $"Added {person.Name}."
            : $"Changed {person.Name}: {string.Join("; ", changed.Select(m => $"{m} was {Word(before[m])}, is {Word(after[m])}"))}.";
        static string Word(JsonNode? value) => value?.ToJsonString() ?? "nothing";
        db.Audit.Add(
            new AuditEntry
            {
                At = now,
                By = by,
                Thing = $"person:{person.Id}",
                What = what,
            }
        );
    }
}
