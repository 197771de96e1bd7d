using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Rules;
using Sirena.Formats.Documents;
using Sirena.Formats.Rules;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Engine.Rules;

/// <summary>How a save ended.</summary>
/// <param name="Saved">The version in force, or <see langword="null"/>.</param>
/// <param name="Created">It is the rule's first version.</param>
/// <param name="Errors">The document's mistakes, else empty.</param>
/// <param name="Conflict">Why it cannot be saved although it has no mistake, or <see langword="null"/>.</param>
public sealed record RuleSave(RuleVersion? Saved, bool Created, IReadOnlyList<DocumentError> Errors, string? Conflict)
{
    /// <summary>Another version was saved since the one that it was made from.</summary>
    public bool Stale { get; init; }
}

/// <summary>Saves, turns and archives rules. Each change makes a new version of the rule book, in force for the next event that is taken in.</summary>
public sealed class RuleDesk(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, Signals signals, IClock clock)
{
    /// <summary>Reads and saves a document.</summary>
    /// <param name="text">The document.</param>
    /// <param name="yaml">It is YAML, else JSON.</param>
    /// <param name="id">The id under which it is put, or <see langword="null"/> for a new rule.</param>
    /// <param name="by">The name of whoever saves it.</param>
    /// <param name="note">Why, in their words, or <see langword="null"/>.</param>
    /// <param name="after">The version that it was made from, which must still be in force; <see langword="null"/> replaces any.</param>
    public async Task<RuleSave> SaveAsync(string text, bool yaml, string? id, string by, CancellationToken cancel, string? note = null, int? after = null)
    {
        var (rule, errors) = RuleReader.Read(text, yaml, await NamesAsync(cancel), id);
        if (rule is null)
        {
            return new RuleSave(null, false, errors, null);
        }

        if (id is not null && rule.Id != id)
        {
            return new RuleSave(
                null,
                false,
                [new DocumentError("id", null, null, $"The document's id is '{rule.Id}', the address says '{id}'. Make them the same or leave the id out.")],
                null
            );
        }

        return await SaveAsync(rule, replace: id is not null, given: DocumentHasId(text, yaml), new Saving(by, note, After: after), cancel);
    }

    /// <summary>The names that a document may use.</summary>
    public async Task<KnownNames> NamesAsync(CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        await using var db = await factory.CreateDbContextAsync(cancel);
        var ladders = (await db.Ladders.AsNoTracking().ToListAsync(cancel)).ToDictionary(l => l.Id, l => SharedLadders.StepsOf(l));
        return new KnownNames(
            around.Staff.People.Where(p => p.ArchivedAt is null).Select(p => p.Id).ToHashSet(),
            around.Staff.Teams.Select(t => t.Id).ToHashSet(),
            around.Statuses.Select(s => s.Id).ToHashSet(),
            ladders
        )
        {
            Instructions = around.KindsTaken,
        };
    }

    /// <summary>Turns a rule on or off, as a new version.</summary>
    /// <param name="id">The rule's id.</param>
    /// <param name="on">On or off.</param>
    /// <param name="by">The name of whoever does it.</param>
    /// <param name="note">Why, or <see langword="null"/>.</param>
    /// <param name="until">When it goes on again by itself, or <see langword="null"/> for not.</param>
    /// <returns>The version in force, or <see langword="null"/> when there is no such rule.</returns>
    public async Task<RuleVersion?> TurnAsync(string id, bool on, string by, CancellationToken cancel, string? note = null, Instant? until = null)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var current = await db.RuleVersions.AsNoTracking().FirstOrDefaultAsync(v => v.RuleId == id && v.BookTo == null, cancel);
        return current is null
            ? null
            : (await SaveAsync(RuleShelf.Parse(current) with { On = on }, replace: true, given: true, new Saving(by, note, on ? null : until), cancel)).Saved;
    }

    /// <summary>Puts an old version in force again, as a new one. An archived rule stays archived.</summary>
    /// <returns>The version in force, or <see langword="null"/> when there is no such rule or version.</returns>
    public async Task<RuleVersion?> RestoreAsync(string id, int version, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var old = await db.RuleVersions.AsNoTracking().FirstOrDefaultAsync(v => v.RuleId == id && v.Version == version, cancel);
        return old is null
            ? null
            : (await SaveAsync(RuleShelf.Parse(old), replace: true, given: true, new Saving(by, $"as in version {version}"), cancel)).Saved;
    }

    /// <summary>Turns on what was off until now or earlier.</summary>
    /// <returns>The ids of the rules.</returns>
    public async Task<IReadOnlyList<string>> TurnOnAsync(CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        var due = await db.RuleVersions.AsNoTracking().Where(v => v.BookTo == null && v.OffUntil <= now).ToListAsync(cancel);
        var turned = new List<string>();
        foreach (var version in due)
        {
            // Another node may have been first: then the version is no longer the one in force, and nothing is saved.
            var saved = await SaveAsync(
                RuleShelf.Parse(version) with
                {
                    On = true,
                },
                replace: true,
                given: true,
                new Saving("Sirena", "its time off is over", After: version.Version),
                cancel
            );
            turned.AddRange(saved.Saved is null ? [] : [version.RuleId]);
        }

        return turned;
    }

    /// <summary>Archives a rule: its open alerts burn on, its id is not used again.</summary>
    /// <param name="id">The rule's id.</param>
    /// <param name="by">The name of whoever does it.</param>
    /// <param name="cancel">Breaks it off.</param>
    /// <param name="after">The version that is meant, or <see langword="null"/> for whichever is in force.</param>
    /// <returns>Whether there was such a rule in force; <see langword="null"/> where another version than the meant one is.</returns>
    public async Task<bool?> ArchiveAsync(string id, string by, CancellationToken cancel, int? after = null)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var book = await NextBookAsync(db, cancel);
        var current = await db.RuleVersions.FirstOrDefaultAsync(v => v.RuleId == id && v.BookTo == null, cancel);
        if (current is null || (after is not null && after != current.Version))
        {
            return current is null ? false : null;
        }

        current.BookTo = book;
        db.Audit.Add(
            new AuditEntry
            {
                At = clock.GetCurrentInstant(),
                By = by,
                Thing = $"rule:{id}",
                What = $"Archived the rule '{current.Name}' ({id}), version {current.Version}.",
            }
        );
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);
        return true;
    }

    private async Task<RuleSave> SaveAsync(Rule rule, bool replace, bool given, Saving saving, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);

        // The book's row is locked first: saves stand in a row, and intake sees the old version or the new one, never half.
        var book = await NextBookAsync(db, cancel);
        if (!replace && !given)
        {
            rule = rule with { Id = await FreeIdAsync(db, rule.Id, cancel) };
        }

        var latest = await db.RuleVersions.Where(v => v.RuleId == rule.Id).OrderByDescending(v => v.Version).FirstOrDefaultAsync(cancel);
        if (latest is { BookTo: not null })
        {
            return new RuleSave(null, false, [], $"The id '{rule.Id}' belonged to a rule that was archived, and an id is not used again. Choose another id.");
        }

        if (latest is not null && !replace)
        {
            return new RuleSave(null, false, [], $"There is a rule '{rule.Id}' already. PUT replaces it; or choose another id.");
        }

        if (saving.After is { } after && latest?.Version != after)
        {
            return new RuleSave(null, false, [], "Another version was saved meanwhile.") { Stale = true };
        }

        if (latest is not null)
        {
            latest.BookTo = book;
        }

        var now = clock.GetCurrentInstant();
        var saved = new RuleVersion
        {
            RuleId = rule.Id,
            Version = (latest?.Version ?? 0) + 1,
            Name = rule.Name,
            Document = RuleWriter.Write(rule).ToJsonString(),
            BookFrom = book,
            SavedAt = now,
            SavedBy = saving.By,
            Note = string.IsNullOrWhiteSpace(saving.Note) ? null : saving.Note.Trim(),
            OffUntil = saving.OffUntil,
        };
        await db.SaveChangesAsync(cancel);
        db.RuleVersions.Add(saved);
        db.Audit.Add(
            new AuditEntry
            {
                At = now,
                By = saving.By,
                Thing = $"rule:{rule.Id}",
                What = $"Saved the rule '{rule.Name}' ({rule.Id}) as version {saved.Version}{(saved.Note is null ? "" : $": {saved.Note}")}.",
            }
        );
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);
        return new RuleSave(saved, latest is null, [], null);
    }

    /// <summary>Who saves a version, why, until when it is off, and the version after which alone it may be saved.</summary>
    private sealed record Saving(string By, string? Note = null, Instant? OffUntil = null, int? After = null);

    private static async Task<long> NextBookAsync(SirenaDb db, CancellationToken cancel) =>
        (await db.Database.SqlQuery<long>($"update rule_book set version = version + 1 returning version").ToListAsync(cancel))[0];

    private static async Task<string> FreeIdAsync(SirenaDb db, string id, CancellationToken cancel)
    {
        var used = await db.RuleVersions.Where(v => v.RuleId.StartsWith(id)).Select(v => v.RuleId).Distinct().ToListAsync(cancel);
        return Ids.Free(id, used.Contains);
    }

    private static bool DocumentHasId(string text, bool yaml) => DocumentText.Read(text, yaml).Node is MapNode map && map["id"] is not null;
}
