using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.Orders;

namespace Sirena.Engine.Orders;

public sealed partial class StatusDesk
{
    /// <summary>Adds an event of the business's own, or changes its words.</summary>
    /// <returns>The mistake, or <see langword="null"/>.</returns>
    public async Task<string?> SaveEventAsync(string? type, string? name, string? phrase, string by, CancellationToken cancel)
    {
        (type, name, phrase) = (type?.Trim() ?? "", name?.Trim() ?? "", phrase?.Trim().TrimEnd('.') ?? "");
        if (!EventTypes.IsType(type) || !type.Contains('.', StringComparison.Ordinal))
        {
            return $"'{type}' cannot be an event: lower-case words joined by dots, such as order.seal-broken. Those that begin with order. carry an order.";
        }

        if (EventTypes.All.Contains(type))
        {
            return $"Sirena knows '{type}' already: {EventTypes.Phrase(type)}.";
        }

        if (!NameText.Fits(name, 40) || !NameText.Fits(phrase, 80))
        {
            return "An event needs a name of at most 40 characters and the words after 'When' of at most 80, such as: an order's seal is broken.";
        }

        await using var db = await factory.CreateDbContextAsync(cancel);
        var kind = await db.EventKinds.FindAsync([type], cancel);
        if (kind is null)
        {
            db.EventKinds.Add(
                new EventKind
                {
                    Type = type,
                    Name = name,
                    Phrase = phrase,
                }
            );
        }
        else
        {
            (kind.Name, kind.Phrase) = (name, phrase);
        }

        await SayAsync(db, by, $"event:{type}", $"Named the event '{type}': {name}, 'when {phrase}'.", cancel);
        signals.Raise(Topic.Setup);
        return null;
    }

    /// <summary>Takes an event out of the list; events that come are kept and shown all the same.</summary>
    /// <returns>Why it cannot vanish, or <see langword="null"/>.</returns>
    public async Task<string?> RemoveEventAsync(string type, string by, CancellationToken cancel)
    {
        var rules = (await shelf.CurrentAsync(cancel)).Rules.Where(r => r.Rule.When.Contains(type)).Select(r => r.Rule.Name).ToArray();
        if (rules.Length > 0)
        {
            return $"'{type}' cannot vanish: {string.Join(", ", rules.Take(5))} {(rules.Length == 1 ? "listens" : "listen")} to it.";
        }

        await using var db = await factory.CreateDbContextAsync(cancel);
        await db.EventKinds.Where(k => k.Type == type).ExecuteDeleteAsync(cancel);
        await SayAsync(db, by, $"event:{type}", $"Removed the event '{type}' from the list.", cancel);
        signals.Raise(Topic.Setup);
        return null;
    }
}
