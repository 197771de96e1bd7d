using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Formats.Documents;
using Sirena.Formats.Rules;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Engine.Rules;

/// <summary>
/// Ladders that many rules use. A rule's version keeps the steps as they were when it was saved, so a change makes a new version of each rule that uses the
/// ladder, and open alerts keep theirs.
/// </summary>
public sealed class SharedLadders(IDbContextFactory<SirenaDb> factory, RuleDesk rules, RuleShelf shelf, Signals signals, IClock clock)
{
    /// <summary>All of them, by name.</summary>
    public async Task<IReadOnlyList<SharedLadder>> AllAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return await db.Ladders.AsNoTracking().OrderBy(l => l.Name).ToListAsync(cancel);
    }

    /// <summary>The steps of one, as they were checked when it was saved.</summary>
    public static ImmutableArray<LadderStep> StepsOf(SharedLadder ladder) => LadderReader.ReadLadder(ladder.Steps, yaml: false, null).Steps;

    /// <summary>
    /// What follows for the rules that use one that was saved, to be put behind a sentence: <c>, with a new version of the 2 rules that use it</c>; nothing
    /// where none does.
    /// </summary>
    public static string Followed(int rules) =>
        rules == 0 ? "" : $", with a new version of {(rules == 1 ? "the rule" : $"the {rules} rules")} that {(rules == 1 ? "uses" : "use")} it";

    /// <summary>The rules in force that use a ladder.</summary>
    public async Task<IReadOnlyList<Rule>> UsersAsync(string id, CancellationToken cancel) =>
        [.. (await shelf.CurrentAsync(cancel)).Rules.Select(r => r.Rule).Where(r => r.Cases.Any(c => c.SharedLadder == id))];

    /// <summary>Saves one, and each rule that uses it anew.</summary>
    /// <param name="id">Its id, or <see langword="null"/> for one that is made from the name.</param>
    /// <param name="name">Its name.</param>
    /// <param name="steps">Its steps, a JSON or YAML list.</param>
    /// <param name="by">Who saves it.</param>
    /// <returns>The ladder with how many rules follow it, or the mistakes.</returns>
    public async Task<(SharedLadder? Saved, int Rules, IReadOnlyList<DocumentError> Errors)> SaveAsync(
        string? id,
        string name,
        string steps,
        bool yaml,
        string by,
        CancellationToken cancel
    )
    {
        var names = await rules.NamesAsync(cancel);
        var (read, errors) = LadderReader.ReadLadder(steps, yaml, names);
        if (!NameText.Fits(name, 80))
        {
            errors = [.. errors, new DocumentError("name", null, null, "Give the ladder a name of at most 80 characters.")];
        }

        var isNew = id is null;
        id ??= RuleReader.IdOfNew(name);
        if (isNew && names.Ladders.ContainsKey(id))
        {
            errors = [.. errors, new DocumentError("name", null, null, $"There is a shared ladder '{id}' already. Choose another name.")];
        }

        if (errors.Count > 0)
        {
            return (null, 0, errors);
        }

        var now = clock.GetCurrentInstant();
        var users = await UsersAsync(id, cancel);
        var with = names with { Ladders = new Dictionary<string, ImmutableArray<LadderStep>>(names.Ladders) { [id] = read } };
        DocumentError[] behind =
        [
            .. users
                .Select(r => (Rule: r, RuleReader.Read(RuleWriter.Write(r).ToJsonString(), yaml: false, with, r.Id).Errors))
                .Where(r => r.Errors.Count > 0)
                .Select(r => $"The rule '{r.Rule.Name}' uses it and cannot follow: {r.Errors[0].Problem} Mend that rule first.")
                .Select(problem => new DocumentError("rules", null, null, problem)),
        ];
        if (behind.Length > 0)
        {
            return (null, 0, behind);
        }

        await using var db = await factory.CreateDbContextAsync(cancel);
        var ladder = await db.Ladders.FirstOrDefaultAsync(l => l.Id == id, cancel);
        var document = RuleWriter.Write(read).ToJsonString();
        if (ladder is null)
        {
            ladder = new SharedLadder
            {
                Id = id,
                Name = name.Trim(),
                Steps = document,
                SavedBy = by,
                SavedAt = now,
            };
            db.Ladders.Add(ladder);
        }
        else
        {
            (ladder.Name, ladder.Steps, ladder.SavedBy, ladder.SavedAt) = (name.Trim(), document, by, now);
        }

        db.Audit.Add(
            new AuditEntry
            {
                At = now,
                By = by,
                Thing = $"ladder:{id}",
                What = $"Saved the shared ladder '{ladder.Name}' ({id}).",
            }
        );
        await db.SaveChangesAsync(cancel);
        foreach (var rule in users)
        {
            // The reader puts the ladder's new steps into the document.
            await rules.SaveAsync(RuleWriter.Write(rule).ToJsonString(), yaml: false, rule.Id, by, cancel, $"the shared ladder '{ladder.Name}' was changed");
        }

        signals.Raise(Topic.Setup);
        return (ladder, users.Count, []);
    }

    /// <summary>Takes one away that no rule uses.</summary>
    /// <returns>What stands in the way, or <see langword="null"/>.</returns>
    public async Task<string?> RemoveAsync(string id, string by, CancellationToken cancel)
    {
        if (await UsersAsync(id, cancel) is { Count: > 0 } users)
        {
            return $"It is used by {string.Join(", ", users.Take(3).Select(r => $"'{r.Name}'"))}{(users.Count > 3 ? $" and {users.Count - 3} more" : "")}. "
                + $"Give {(users.Count == 1 ? "this rule" : "these rules")} steps of {(users.Count == 1 ? "its" : "their")} own first.";
        }

        await using var db = await factory.CreateDbContextAsync(cancel);
        if (await db.Ladders.Where(l => l.Id == id).ExecuteDeleteAsync(cancel) == 0)
        {
            return "There is no such ladder.";
        }

        db.Audit.Add(
            new AuditEntry
            {
                At = clock.GetCurrentInstant(),
                By = by,
                Thing = $"ladder:{id}",
                What = $"Removed the shared ladder {id}.",
            }
        );
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
        return null;
    }
}
