using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Orders;
using Sirena.Core.Rules;
using Sirena.Engine.Rules;
using Sirena.Formats.Rules;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Engine.Orders;

/// <summary>Changes the list of statuses and the events of the business's own. What is in use cannot vanish.</summary>
public sealed partial class StatusDesk(IDbContextFactory<SirenaDb> factory, RuleShelf shelf, Signals signals, IClock clock)
{
    /// <summary>The marks of the design's own set.</summary>
    public static IReadOnlyList<string> Marks { get; } =
    [
        "received",
        "credit",
        "picking",
        "galley",
        "loaded",
        "alongside",
        "signed",
        "cancelled",
        "drum",
        "coil",
        "hook",
        "seal",
        "crane",
        "reel",
        "steps",
        "lamp",
        "sheet",
        "gate",
    ];

    /// <summary>Saves a status. Orders that came with one of its words move into it.</summary>
    /// <returns>Its id, or the mistakes by the member that they concern.</returns>
    public async Task<(string? Id, IReadOnlyDictionary<string, string> Problems)> SaveAsync(StatusEdit edit, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await BeginAsync(db, cancel);
        var all = await db.Statuses.OrderBy(s => s.Position).ToListAsync(cancel);
        var name = edit.Name?.Trim() ?? "";
        var id = edit.Id ?? edit.NewId ?? RuleReader.IdFrom(name);
        var words = StatusWords.Read(edit.Words).Where(w => TextFolding.Fold(w) != TextFolding.Fold(id)).ToArray();
        var problems = Check(edit, name, id, words, all);
        if (problems.Count > 0)
        {
            return (null, problems);
        }

        var status = all.Find(s => s.Id == edit.Id)
            ?? db.Statuses.Add(
                new Status
                {
                    Id = id,
                    Name = name,
                    Mark = edit.Mark!,
                    Position = all.Select(s => s.Position).DefaultIfEmpty().Max() + 1,
                }
            ).Entity;
        var before = edit.Id is null ? null : Said(status);
        (status.Name, status.Mark, status.Words) = (name, edit.Mark!, words);
        status.Kind = Core.Names.Parse<StatusKind>(edit.Kind) ?? StatusKind.Open;
        status.Tone =
            edit.Tone is null ? status.Tone
            : edit.Tone.Length == 0 ? null
            : edit.Tone;
        status.Follows = edit.Follows is { } follows ? [.. follows.Distinct()] : status.Follows;
        status.CustomerSees = string.IsNullOrWhiteSpace(edit.CustomerSees) ? null : edit.CustomerSees.Trim();
        status.AllowedMinutes = int.TryParse(edit.AllowedMinutes?.Trim(), out var minutes) ? minutes : null;
        status.BacklogLimit = int.TryParse(edit.BacklogLimit?.Trim(), out var most) ? most : null;
        status.BacklogSince = status.BacklogLimit is null ? null : status.BacklogSince;
        await db.SaveChangesAsync(cancel);

        // Orders that waited under one of its words, or its name or id written otherwise, stand in it now; whether an order is open follows its status.
        var means = new StatusWords([.. all.Where(s => s.Id != id), status]);
        var strange = await db
            .Database.SqlQuery<string>(
                $"select distinct status as \"Value\" from orders o where status is not null and not exists (select from statuses s where s.id = o.status)"
            )
            .ToListAsync(cancel);
        string[] waited = [.. strange.Where(w => means.IdOf(w) == id)];
        await db.Database.ExecuteSqlAsync(
            $"""
            update orders set status = {id}, document = jsonb_set(document::jsonb, array['status'], to_jsonb({id}::text))::json
                where status = any({waited})
            """,
            cancel
        );
        await db.Database.ExecuteSqlAsync($"update orders set open = {!status.Closed} where status = {id} and open = {status.Closed}", cancel);
        await SayAsync(
            db,
            by,
            $"status:{id}",
            before is null ? $"Added the status '{name}' ({id}): {Said(status)}." : $"Changed the status '{name}' ({id}) from {before} to {Said(status)}.",
            cancel
        );
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);
        return (id, problems);
    }

    /// <summary>Puts a status to a place in the usual way of an order.</summary>
    /// <param name="id">The status.</param>
    /// <param name="place">Its place from 1; beyond the ends it stands at the end.</param>
    /// <param name="by">Who does.</param>
    /// <param name="cancel">Ends it.</param>
    public async Task PlaceAsync(string id, int place, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await BeginAsync(db, cancel);
        var all = await db.Statuses.OrderBy(s => s.Position).ToListAsync(cancel);
        var at = all.FindIndex(s => s.Id == id);
        var to = Math.Clamp(place - 1, 0, Math.Max(0, all.Count - 1));
        if (at < 0 || to == at)
        {
            return;
        }

        var moved = all[at];
        all.RemoveAt(at);
        all.Insert(to, moved);
        for (var i = 0; i < all.Count; i++)
        {
            all[i].Position = i + 1;
        }

        await SayAsync(db, by, "statuses", $"Moved the status '{moved.Name}' to place {to + 1}.", cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);
    }

    /// <summary>Takes a status out of the list.</summary>
    /// <returns>Why it cannot vanish, or <see langword="null"/> when it is gone.</returns>
    public async Task<string?> RemoveAsync(string id, string by, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await BeginAsync(db, cancel);
        if (await db.Statuses.FindAsync([id], cancel) is not { } status)
        {
            return $"There is no status '{id}'.";
        }

        var orders = await db.Orders.Where(o => o.Status == id).OrderBy(o => o.Number).Take(10_001).CountAsync(cancel);
        if (orders > 0)
        {
            return $"'{status.Name}' cannot vanish: {(orders > 10_000 ? "more than 10,000" : orders)} "
                + $"{(orders == 1 ? "order stands" : "orders stand")} in it. Move them on in the order system, or change its name or kind instead.";
        }

        var rules = (await shelf.CurrentAsync(cancel)).Rules.Where(r => Names(r.Rule, id)).Select(r => r.Rule.Name).ToArray();
        if (rules.Length > 0)
        {
            return $"'{status.Name}' cannot vanish: {(rules.Length == 1 ? "a rule names" : "rules name")} it ({string.Join(", ", rules.Take(5))}). "
                + $"Change {(rules.Length == 1 ? "that rule" : "those rules")} first.";
        }

        foreach (var before in await db.Statuses.Where(s => s.Follows.Contains(id)).ToListAsync(cancel))
        {
            before.Follows = [.. before.Follows.Where(f => f != id)];
        }

        db.Statuses.Remove(status);
        await SayAsync(db, by, $"status:{id}", $"Removed the status '{status.Name}' ({id}), {Said(status)}.", cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);
        return null;
    }

    private static Dictionary<string, string> Check(StatusEdit edit, string name, string id, string[] words, List<Status> all)
    {
        var problems = new Dictionary<string, string>();
        var others = all.Where(s => s.Id != edit.Id).ToArray();
        if (!NameText.Fits(name, 40))
        {
            problems["name"] = name.Length == 0 ? "A status needs a name." : "A name is one line of at most 40 characters.";
        }
        else if (Array.Find(others, s => s.Id == id || TextFolding.Fold(s.Name) == TextFolding.Fold(name)) is { } same)
        {
            problems["name"] = $"There is a status '{same.Name}' already. Choose another name.";
        }

        if (edit.Id is null && RuleReader.IdFrom(id) != id)
        {
            problems["id"] = $"'{id}' is no id: it is made of lower-case letters, digits and hyphens.";
        }

        if (!Marks.Contains(edit.Mark))
        {
            problems["mark"] = $"Choose a mark: one of {string.Join(", ", Marks)}.";
        }
        else if (Array.Find(others, s => s.Mark == edit.Mark) is { } taken)
        {
            problems["mark"] = $"'{taken.Name}' has this mark. Choose another.";
        }

        if (edit.Tone is { Length: > 0 } tone && StatusTones.All.All(t => t.Id != tone))
        {
            problems["tone"] =
                $"'{tone}' is no tone. Choose one of {string.Join(", ", StatusTones.All.Select(t => t.Id))}, or none for the one of its "
                + $"kind.{Core.Closest.Hint(tone, StatusTones.All.Select(t => t.Id))}";
        }

        if (Core.Names.Parse<StatusKind>(edit.Kind) is null)
        {
            problems["kind"] = "Choose open, closed or final.";
        }

        if (edit.Follows?.FirstOrDefault(f => others.All(o => o.Id != f)) is { } unknown)
        {
            problems["follows"] = $"There is no other status '{unknown}' that could follow.{Core.Closest.Hint(unknown, others.Select(o => o.Id))}";
        }

        foreach (var word in words)
        {
            if (Array.Find(others, s => s.Words.Prepend(s.Id).Prepend(s.Name).Any(w => TextFolding.Fold(w) == TextFolding.Fold(word))) is { } owner)
            {
                problems["words"] = $"'{Quoting.Cut(word)}' means '{owner.Name}' already. Take it away there first.";
            }
        }

        if (!string.IsNullOrWhiteSpace(edit.BacklogLimit) && (!int.TryParse(edit.BacklogLimit.Trim(), out var most) || most is < 0 or > 1_000_000))
        {
            problems["backlog"] = $"'{edit.BacklogLimit.Trim()}' is no number of orders. Write 10, or leave it empty for no limit.";
        }

        if (!string.IsNullOrWhiteSpace(edit.AllowedMinutes) && (!int.TryParse(edit.AllowedMinutes.Trim(), out var minutes) || minutes is < 1 or > 525_600))
        {
            problems["allowed"] =
                $"'{edit.AllowedMinutes.Trim()}' is no number of minutes. Write 75 for an hour and a quarter, or leave it empty for no limit.";
        }

        if (edit.CustomerSees?.Length > 120)
        {
            problems["sees"] = "What the customer reads is longer than 120 characters.";
        }

        return problems;
    }

    private static bool Names(Rule rule, string status) =>
        rule.WithdrawAt.Contains(status) || rule.Leaves.Any(l => l.Field is "order.status" or "change.before" or "change.after" && l.Wants(status));

    private static string Said(Status s) =>
        $"{s.Kind.Name()}, mark {s.Mark}{(s.Tone is { } tone ? $" in {tone}" : "")}, words [{string.Join(", ", s.Words)}], "
        + $"{(s.CustomerSees is { } sees ? $"customers read '{sees}'" : "internal")}, "
        + $"{(s.AllowedMinutes is { } m ? $"{m} min allowed" : "no time limit")}{(s.BacklogLimit is { } most ? $", at most {most} unaccepted" : "")}"
        + $"{(s.Follows.Length > 0 ? $", followed by {string.Join(" or ", s.Follows)}" : "")}";

    // Changes of the list stand in a row.
    private static async Task<Microsoft.EntityFrameworkCore.Storage.IDbContextTransaction> BeginAsync(SirenaDb db, CancellationToken cancel)
    {
        var transaction = await db.Database.BeginTransactionAsync(cancel);
        await db.Database.ExecuteSqlAsync($"select pg_advisory_xact_lock(hashtextextended('statuses', 0))", cancel);
        return transaction;
    }

    private async Task SayAsync(SirenaDb db, string by, string thing, string what, CancellationToken cancel)
    {
        db.Audit.Add(
            new AuditEntry
            {
                At = clock.GetCurrentInstant(),
                By = by,
                Thing = thing,
                What = what,
            }
        );
        await db.SaveChangesAsync(cancel);
    }
}
