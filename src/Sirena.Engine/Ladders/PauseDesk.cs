using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Storage.Access;

namespace Sirena.Engine.Ladders;

/// <summary>
/// Begins and ends pauses. What a pause holds keeps its place: its messages wait, its ladder stands still; on release both go on as if the pause had not been.
/// </summary>
public sealed class PauseDesk(
    IDbContextFactory<SirenaDb> factory,
    RuleShelf shelf,
    AlertLives lives,
    SurroundingsCache surroundings,
    Signals signals,
    IClock clock
)
{
    /// <summary>Begins one. Open alerts in its scope are held from now on, new ones as they are raised.</summary>
    /// <param name="scope"><c>all</c>, <c>rule:</c> and an id, or <c>team:</c> and an id.</param>
    /// <param name="until">Its end.</param>
    /// <param name="reason">Why.</param>
    /// <param name="asks">At its end somebody decides.</param>
    /// <param name="by">Who begins it.</param>
    /// <returns>The pause, or what is wrong.</returns>
    public async Task<(Pause? Pause, string? Problem)> BeginAsync(string scope, Instant until, string reason, bool asks, string by, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        var around = await surroundings.GetAsync(cancel);
        var what = PauseScope.Parse(scope) switch
        {
            { Rule: { } rule } when !around.Rules.ContainsKey(rule) => null,
            { Team: { } team } when around.Staff.Team(team) is null => null,
            var read => read,
        };
        var problem =
            what is null ? "Choose what is to be paused: everything, a rule or a team."
            : until <= now ? "The pause would be over already. Choose a time that lies ahead."
            : until > now + Duration.FromDays(31) ? "A pause lasts a month at most. Turn a rule off instead."
            : string.IsNullOrWhiteSpace(reason) ? "Say why: it stands in the strip on every page."
            : null;
        if (problem is not null)
        {
            return (null, problem);
        }

        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var pause = new Pause
        {
            Scope = what!,
            Reason = reason.Trim(),
            By = by,
            Since = now,
            Until = until,
            Asks = asks,
        };
        db.Pauses.Add(pause);
        await db.SaveChangesAsync(cancel);
        Guid[] held = [.. await InScopeAsync(db, pause, cancel)];
        await HoldAsync(db, pause, held, now, cancel);
        db.Audit.Add(
            new AuditEntry
            {
                At = now,
                By = by,
                What =
                    $"Paused {Words(what!, around)} until {until.InZone(around.Business.Zone).ToString("ddd d MMM HH:mm", null)}: {pause.Reason} "
                    + $"({held.Length} open alerts held).",
            }
        );
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);
        signals.Raise(Topic.Pages);
        return (pause, null);
    }

    /// <summary>What a scope is called.</summary>
    public static string Words(PauseScope scope, Surroundings around) =>
        scope switch
        {
            { Rule: { } rule } => $"'{around.RuleName(rule)}'",
            { Team: { } team } => around.Staff.NameOf(team),
            _ => "everything",
        };

    /// <summary>What a pause holds back, oldest first.</summary>
    public async Task<IReadOnlyList<HeldAlert>> HeldAsync(int pause, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var alerts = await db.Alerts.AsNoTracking().Where(a => a.PausedBy == pause).OrderBy(a => a.RaisedAt).Take(500).ToListAsync(cancel);
        var counts = await db
            .Deliveries.Where(d => d.PausedBy == pause)
            .GroupBy(d => d.AlertId)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, cancel);
        return [.. alerts.Select(a => new HeldAlert(a, counts.GetValueOrDefault(a.Id)))];
    }

    /// <summary>How many alerts each pause holds.</summary>
    public async Task<IReadOnlyDictionary<int, int>> CountsAsync(CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        return await db
            .Alerts.Where(a => a.PausedBy != null)
            .GroupBy(a => a.PausedBy!.Value)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, cancel);
    }

    /// <summary>Sends or drops what a pause holds, all of it or some; when nothing is left the pause ends.</summary>
    /// <param name="id">The pause.</param>
    /// <param name="some">The alerts, or <see langword="null"/> for all, which ends the pause.</param>
    /// <param name="send">They are sent; else dropped.</param>
    /// <param name="by">Who decides.</param>
    /// <returns>How many alerts were decided on; <see langword="null"/> when there is no such pause, or it has ended.</returns>
    public async Task<int?> ReleaseAsync(int id, IReadOnlyCollection<Guid>? some, bool send, string by, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var pause = (await db.Pauses.FromSql($"select * from pauses where id = {id} and ended_at is null for update").ToListAsync(cancel)).FirstOrDefault();
        if (pause is null)
        {
            return null;
        }

        var held = await db.Alerts.FromSql($"select * from alerts where paused_by = {id} order by id for update").ToListAsync(cancel);
        var chosen = some is null ? held : held.FindAll(a => some.Contains(a.Id));
        var others = (await db.Pauses.AsNoTracking().Where(p => p.EndedAt == null && p.Id != id).ToListAsync(cancel)).FindAll(p => !p.Over(now));
        foreach (var life in await lives.OfAsync(db, chosen, cancel))
        {
            // What another pause holds too stays with that one.
            var alert = life.Alert;
            if (send && others.FirstOrDefault(p => p.Holds(alert.RuleId, life.Case?.Tell ?? [])) is { } other)
            {
                alert.Hold(other.Id, alert.PausedAt ?? now);
                await db
                    .Deliveries.Where(d => d.AlertId == alert.Id && d.PausedBy == id)
                    .ExecuteUpdateAsync(s => s.SetProperty(d => d.PausedBy, other.Id), cancel);
                continue;
            }

            await (send ? SendAsync(db, life, now, cancel) : DropAsync(db, life, pause, by, now, cancel));
        }

        if (some is null || (pause.Over(now) && chosen.Count == held.Count))
        {
            pause.EndedAt = now;
            pause.Outcome =
                chosen.Count == 0 ? "it held nothing back" : $"{chosen.Count} {(chosen.Count == 1 ? "alert" : "alerts")} {(send ? "sent" : "dropped")} by {by}";
        }

        var around = await surroundings.GetAsync(cancel);
        db.Audit.Add(
            new AuditEntry
            {
                At = now,
                By = by,
                What =
                    $"{(send ? "Sent" : "Dropped")} {chosen.Count} held back by the pause of "
                    + $"{Words(pause.Scope, around)}{(pause.EndedAt is null ? "" : ", which ended")}.",
            }
        );
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Setup);
        signals.Raise(Topic.Deliveries);
        signals.Raise(Topic.Pages);
        return chosen.Count;
    }

    /// <summary>Ends the pauses whose time is over: what they hold goes out. One that asks only ends by itself when it holds nothing.</summary>
    public async Task EndDueAsync(CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        foreach (
            var id in await db
                .Pauses.Where(p => p.EndedAt == null && p.Until <= now && (!p.Asks || !db.Alerts.Any(a => a.PausedBy == p.Id)))
                .Select(p => p.Id)
                .ToListAsync(cancel)
        )
        {
            await ReleaseAsync(id, null, send: true, "Sirena", cancel);
        }
    }

    private async Task<IReadOnlyList<Guid>> InScopeAsync(SirenaDb db, Pause pause, CancellationToken cancel)
    {
        var open = await db
            .Alerts.AsNoTracking()
            .Where(a => (a.State == AlertState.Open || a.State == AlertState.Taken) && a.PausedBy == null && !a.RuleId.StartsWith("sirena."))
            .ToListAsync(cancel);
        var found = new List<Guid>();
        foreach (var alert in open)
        {
            if (pause.Holds(alert.RuleId, await TellAsync(alert, cancel)))
            {
                found.Add(alert.Id);
            }
        }

        return found;
    }

    private async Task<IEnumerable<Recipient>> TellAsync(Alert alert, CancellationToken cancel) => (await shelf.OfAsync(alert, cancel)).Case?.Tell ?? [];

    private static async Task HoldAsync(SirenaDb db, Pause pause, Guid[] alerts, Instant now, CancellationToken cancel)
    {
        // In the order of ids, as everybody locks them.
        foreach (
            var alert in await db
                .Alerts.FromSql($"select * from alerts where id = any({alerts}) and state in ('open', 'taken') and paused_by is null order by id for update")
                .ToListAsync(cancel)
        )
        {
            alert.Hold(pause.Id, now);
        }

        await db.SaveChangesAsync(cancel);
        await db
            .Deliveries.Where(d => alerts.Contains(d.AlertId) && d.State == DeliveryState.Waiting && d.Lease == null)
            .ExecuteUpdateAsync(
                s =>
                    s.SetProperty(d => d.PausedBy, pause.Id)
                        .SetProperty(d => d.DueAt, Pause.Held)
                        .SetProperty(d => d.Deadline, Pause.Held)
                        .SetProperty(d => d.Reason, $"held back by a pause: {pause.Reason}"),
                cancel
            );
    }

    private static async Task SendAsync(SirenaDb db, AlertInHand life, Instant now, CancellationToken cancel)
    {
        var alert = life.Alert;
        var deadline = now + alert.Urgency.Deadline();
        await db
            .Deliveries.Where(d => d.AlertId == alert.Id && d.PausedBy != null && d.Channel == Channel.Screen)
            .ExecuteUpdateAsync(
                s =>
                    s.SetProperty(d => d.PausedBy, (int?)null)
                        .SetProperty(d => d.State, DeliveryState.HandedOver)
                        .SetProperty(d => d.HandedOverAt, now)
                        .SetProperty(d => d.DueAt, now)
                        .SetProperty(d => d.Deadline, deadline)
                        .SetProperty(d => d.Reason, "sent after a pause"),
                cancel
            );
        await db
            .Deliveries.Where(d => d.AlertId == alert.Id && d.PausedBy != null)
            .ExecuteUpdateAsync(
                s =>
                    s.SetProperty(d => d.PausedBy, (int?)null)
                        .SetProperty(d => d.DueAt, now)
                        .SetProperty(d => d.Deadline, deadline)
                        .SetProperty(d => d.Reason, "sent after a pause"),
                cancel
            );
        await BurnOnAsync(db, life, now, cancel);
    }

    // An alert that was raised in the pause is over with its messages; one from before burns on, without what was held back.
    private static async Task DropAsync(SirenaDb db, AlertInHand life, Pause pause, string by, Instant now, CancellationToken cancel)
    {
        var alert = life.Alert;
        await db
            .Deliveries.Where(d => d.AlertId == alert.Id && d.PausedBy != null)
            .ExecuteUpdateAsync(
                s =>
                    s.SetProperty(d => d.PausedBy, (int?)null)
                        .SetProperty(d => d.State, DeliveryState.Skipped)
                        .SetProperty(d => d.DueAt, now)
                        .SetProperty(d => d.Deadline, now)
                        .SetProperty(d => d.Reason, $"dropped by {by} after a pause"),
                cancel
            );
        if (alert.PausedAt >= alert.RaisedAt && alert.RaisedAt >= pause.Since)
        {
            alert.Withdraw(now);
        }
        else
        {
            await BurnOnAsync(db, life, now, cancel);
        }
    }

    // The clocks of an alert go on with what was left when it was paused.
    private static async Task BurnOnAsync(SirenaDb db, AlertInHand life, Instant now, CancellationToken cancel)
    {
        life.Alert.Resume(life.Steps, life.Facts, now);
        await life.StoreAsync(db, cancel);
    }
}
