using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Core.Sources;
using Sirena.Engine.Decide;
using Sirena.Engine.Intake;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Storage.Access;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Instructions;

/// <summary>
/// Watches what became of instructions: taken and not seen in time, not handed over by the deadline, without a yes for too long, held by a pause that is over.
/// Each of these becomes an event once, whichever node looks.
/// </summary>
public sealed class InstructionWatch(
    IDbContextFactory<SirenaDb> factory,
    SurroundingsCache surroundings,
    RuleShelf shelf,
    IntakeDesk intake,
    Signals signals,
    IClock clock,
    ILogger<InstructionWatch> log
) : Worker(log)
{
    /// <summary>Why an instruction is asked when a message has landed.</summary>
    public const string Landed = "a message of the alert has landed";

    private const int AtOnce = 100;
    private static readonly Duration LandedBack = Duration.FromHours(2);
    private static readonly TimeSpan Pause = TimeSpan.FromMilliseconds(500);

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping) => TurnsAsync(Pause, () => LookAsync(stopping), stopping);

    /// <summary>Looks once.</summary>
    public async Task LookAsync(CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        if (await MoveAsync(around, cancel))
        {
            signals.Raise(Topic.Instructions);
            signals.Raise(Topic.Pages);
        }

        await LandedAsync(around, cancel);
        await TellAsync(around, cancel);
    }

    // What rules ask when a message of theirs has landed, once an alert. Plan: the deliveries of those rules that landed of late.
    private async Task LandedAsync(Surroundings around, CancellationToken cancel)
    {
        var book = await shelf.CurrentAsync(cancel);
        string[] rules = [.. book.Rules.Where(r => r.Rule.Cases.Any(c => !c.OnLanded.IsEmpty)).Select(r => r.Rule.Id)];
        if (rules.Length == 0 || around.Taking.Count == 0)
        {
            return;
        }

        var now = clock.GetCurrentInstant();
        var since = now - LandedBack;
        await using var db = await factory.CreateDbContextAsync(cancel);
        var landed = await db
            .Deliveries.AsNoTracking()
            .Where(d =>
                rules.Contains(d.RuleId)
                && d.State == Core.Deliveries.DeliveryState.Landed
                && d.LandedAt > since
                && d.CreatedAt > since - LandedBack
                && d.OrderNumber != null
                && !db.Instructions.Any(i => i.AlertId == d.AlertId && i.Because == Landed)
            )
            .Select(d => d.AlertId)
            .Distinct()
            .OrderBy(a => a)
            .Take(AtOnce)
            .ToListAsync(cancel);
        foreach (var id in landed)
        {
            await using var transaction = await db.Database.BeginTransactionAsync(cancel);
            var alert = (await db.Alerts.FromSql($"select * from alerts where id = {id} for update").ToListAsync(cancel))[0];
            if (
                !await db.Instructions.AnyAsync(i => i.AlertId == id && i.Because == Landed, cancel)
                && await shelf.OfAsync(alert, cancel) is ({ } rule, { OnLanded: { IsEmpty: false } asks })
                && await db.Events.AsNoTracking().FirstOrDefaultAsync(e => e.Id == alert.EventId, cancel) is { } happened
                && await RuleAsks.AddAsync(db, [.. asks.Select(a => new RuleAsk(rule, alert.Version, a, id, false, Landed))], happened, around, now, cancel)
            )
            {
                signals.Raise(Topic.Instructions);
            }

            await db.SaveChangesAsync(cancel);
            await transaction.CommitAsync(cancel);
            db.ChangeTracker.Clear();
        }
    }

    private async Task<bool> MoveAsync(Surroundings around, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);

        // Plans: ix_instructions_taken, ix_instructions_due, ix_instructions_waits. What is just being sent is left alone; what waited behind others for as
        // long is tried once first.
        var candidates = await db
            .Instructions.FromSql(
                $"""
                select * from instructions where id in (
                    select id from instructions where state = 'taken' and taken_at + sight <= {now}
                    union all select i.id from instructions i where i.state = 'asked' and i.waits is null
                        and i.deadline + case when i.handed then interval '0' else interval '1 minute' end <= {now}
                        and (i.lease is null or i.lease_until < {now})
                        and not exists (select from instructions p where p.lane = i.lane and p.seq < i.seq and p.state in ('asked', 'taken')
                            and p.waits is null)
                    union all select id from instructions where state = 'asked' and waits is not null) order by asked_at limit {AtOnce} for update skip locked
                """
            )
            .ToListAsync(cancel);
        var moved = false;
        foreach (var one in candidates)
        {
            moved |=
                one.State == InstructionState.Taken ? one.Unsee(now)
                : one.Waits is InstructionWait.Pause ? await ReleasedAsync(db, one, around, now, cancel)
                : one.Waits is not null
                    ? one.AskedAt + Instruction.UsualPatience <= now && one.Drop(now, $"nobody said yes within {Instruction.UsualPatience.InWords()}")
                : one.Fail(
                    now,
                    one.Handed
                        ? $"gave up after {one.Tries} {(one.Tries == 1 ? "try" : "tries")}{(one.Words is { } words ? $": {words}" : "")}"
                        : "the order system did not fetch it in time"
                );
        }

        if (moved)
        {
            await db.SaveChangesAsync(cancel);
            await transaction.CommitAsync(cancel);
        }

        return moved;
    }

    // A pause that ended lets it go, unless what it held back was dropped with it.
    private static async Task<bool> ReleasedAsync(SirenaDb db, Instruction one, Surroundings around, Instant now, CancellationToken cancel)
    {
        if (one.AlertId is { } id && await db.Alerts.AsNoTracking().FirstOrDefaultAsync(a => a.Id == id, cancel) is { } alert)
        {
            return alert.Ended ? one.Drop(now, "what the pause held back was dropped") : alert.PausedBy is null && one.Go(now, null);
        }

        return around.PauseOf(one.RuleId ?? "", [], now) is null && one.Go(now, null);
    }

    private async Task TellAsync(Surroundings around, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);

        // Plans: ix_instructions_news, ix_instructions_waits.
        var news = await db
            .Instructions.FromSql(
                $"""
                select * from instructions where not trial and told is distinct from state and state in ('refused', 'unseen', 'failed', 'dropped')
                union all select * from instructions where waits is not null and state = 'asked' and waits <> 'pause' and told is null limit {AtOnce}
                """
            )
            .ToListAsync(cancel);
        if (news.Count == 0)
        {
            return;
        }

        var supervisors = await db
            .Users.AsNoTracking()
            .Where(u => u.Role == Role.Supervisor && u.RemovedAt == null && u.Person != null)
            .Select(u => u.Person!)
            .ToListAsync(cancel);
        await intake.TakeAsync([.. news.Select(i => Make(i, around, supervisors))], cancel);
        news.ForEach(i => i.Told = i.State);
        await db.SaveChangesAsync(cancel);
        signals.Raise(Topic.Pages);
    }

    private Arrival Make(Instruction one, Surroundings around, IReadOnlyList<string> supervisors)
    {
        var waits = one.Waits is not null;
        var said = new JsonObject
        {
            ["id"] = one.Id.ToString(),
            ["kind"] = one.Kind,
            ["with"] = one.Members,
            ["clause"] = InstructionDesk.Clause(one.Kind, one.Members, around),
            ["state"] = one.State.Name(),
            ["waits"] = one.Waits?.Name(),
            ["by"] = one.By,
            ["person"] = one.Person,
            ["rule"] = one.RuleId,
            ["because"] = one.Because,
            ["words"] = one.Words,
            ["source"] = one.Source,
        };

        // Whose yes it needs is told without a rule; so are the supervisors of rules that go in a circle.
        if (waits && one.Waits == InstructionWait.SecondYes && InstructionDesk.Kind(one, around) is { } kind)
        {
            var right = around.Business.RightOf(kind);
            said["tell"] = Recipients(
                right
                    .Teams.Select(t => ("team", t))
                    .Concat(
                        right.Roles.Contains("supervisor") || right.Teams.Length == 0 ? supervisors.Where(s => s != one.Person).Select(s => ("person", s)) : []
                    )
            );
        }
        else if (waits || one is { State: InstructionState.Dropped, Depth: > Instruction.LongestChain })
        {
            said["tell"] = Recipients(supervisors.Select(s => ("person", s)));
        }

        var type = waits ? Core.Orders.EventTypes.InstructionWaits : one.News!;
        return OwnEvents.Make(
            $"{type}-{one.Id}",
            type,
            one.OrderNumber ?? one.Source,
            new JsonObject { ["instruction"] = said },
            clock.GetCurrentInstant(),
            one.OrderNumber
        );
    }

    private static JsonArray Recipients(IEnumerable<(string Kind, string Id)> who) =>
        [.. who.Distinct().Select(w => (JsonNode)new JsonObject { [w.Kind] = w.Id })];
}
