using Microsoft.EntityFrameworkCore;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;
using Sirena.Storage.Access;

namespace Sirena.Engine.Wordings;

public sealed partial class WordingDesk
{
    /// <summary>The rules in force that use a wording, by name or because it is the one for their event.</summary>
    public async Task<ILookup<string, Rule>> UsersAsync(CancellationToken cancel) =>
        (await shelf.CurrentAsync(cancel))
            .Rules.Select(r => r.Rule)
            .SelectMany(r =>
                r.Cases.SelectMany(c => c.Ladder.Select(s => s.Wording ?? c.Wording).Append(c.Wording))
                    .SelectMany(w => w is not null ? [w] : r.When.Select(ShippedWordings.IdFor))
                    .Distinct()
                    .Select(w => (w, r))
            )
            .Distinct()
            .ToLookup(x => x.w, x => x.r);

    /// <summary>A wording as it is in force, read anew; <see langword="null"/> for none.</summary>
    public async Task<Wording?> FindAsync(string id, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return await db.Wordings.AsNoTracking().FirstOrDefaultAsync(w => w.Id == id, cancel) is { } own
            ? new Wording(own.Id, own.Name, [.. own.Texts])
            : ShippedWordings.Find(id);
    }

    /// <summary>Saves wordings, or changes to shipped ones, all or none. They are in force from the next message.</summary>
    public async Task SaveAsync(IReadOnlyCollection<Wording> wordings, string by, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        string[] ids = [.. wordings.Select(w => w.Id)];
        var stored = await db.Wordings.Where(w => ids.Contains(w.Id)).ToDictionaryAsync(w => w.Id, cancel);
        foreach (var wording in wordings)
        {
            if (!stored.TryGetValue(wording.Id, out var own))
            {
                // A list may name one twice: the last stands.
                own = new StoredWording
                {
                    Id = wording.Id,
                    Name = wording.Name,
                    SavedBy = by,
                };
                stored.Add(own.Id, own);
                db.Wordings.Add(own);
            }

            (own.Name, own.Texts, own.SavedAt, own.SavedBy) = (wording.Name, [.. wording.Texts], now, by);
            db.Audit.Add(
                new AuditEntry
                {
                    At = now,
                    By = by,
                    Thing = $"wording:{wording.Id}",
                    What = $"Saved the wording '{wording.Name}' ({wording.Id}).",
                }
            );
        }

        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
    }

    /// <summary>Sets a shipped wording back, or takes one of the supervisor's own away that no rule names.</summary>
    /// <returns>What stands in the way, or <see langword="null"/>.</returns>
    public async Task<string?> RemoveAsync(string id, string by, CancellationToken cancel)
    {
        if (ShippedWordings.Find(id) is null && (await UsersAsync(cancel))[id].ToArray() is { Length: > 0 } users)
        {
            return $"The rule '{users[0].Name}' names it{(users.Length > 1 ? $", and {users.Length - 1} more" : "")}. Choose another wording there first.";
        }

        await using var db = await factory.CreateDbContextAsync(cancel);
        if (await db.Wordings.Where(w => w.Id == id).ExecuteDeleteAsync(cancel) == 0)
        {
            return "There is no such wording, or it is as it was shipped.";
        }

        db.Audit.Add(
            new AuditEntry
            {
                At = clock.GetCurrentInstant(),
                By = by,
                Thing = $"wording:{id}",
                What = ShippedWordings.Find(id) is null ? $"Removed the wording {id}." : $"Set the wording {id} back to what was shipped.",
            }
        );
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Setup);
        return null;
    }
}
