using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using NodaTime.Text;
using Sirena.Core.Instructions;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Sources;
using Sirena.Storage;

namespace Sirena.Engine.Instructions;

/// <summary>
/// Keeps the intake of sources at what it is to be: opens it when its time is over or the backlog is gone because of which a rule closed it, closes and opens
/// it by its hours. What somebody did by hand within a span of
/// its hours stands until that span ends.
/// </summary>
public sealed class IntakeKeeper(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, Signals signals, IClock clock, ILogger<IntakeKeeper> log)
    : Worker(log)
{
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(2);
    private static readonly Duration NotSoon = Duration.FromMinutes(10);

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping) => TurnsAsync(Pause, () => LookAsync(stopping), stopping);

    /// <summary>Looks at each source once.</summary>
    public async Task LookAsync(CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        foreach (var taking in around.Taking.Values.Where(t => t.Kinds.ContainsKey("intake")))
        {
            await LookAsync(taking, around, cancel);
        }
    }

    /// <summary>Notes on a source what an event says of its intake; within the transaction that decides the event.</summary>
    internal static async Task NoteAsync(SirenaDb db, OrderEvent happened, Instruction? shown, CancellationToken cancel)
    {
        if (
            happened is not { Type: EventTypes.IntakeClosed or EventTypes.IntakeOpened, CameBy: { } id }
            || await db.Sources.FirstOrDefaultAsync(s => s.Id == id && s.RemovedAt == null, cancel) is not { } source
            || source.IntakeSince > happened.Time
        )
        {
            return;
        }

        var said = Facts.Member(happened.DataJson, "intake");
        var with = shown?.Members ?? [];
        (source.IntakeClosed, source.IntakeSince) = (happened.Type == EventTypes.IntakeClosed, happened.Time);
        source.IntakeUntil = source.IntakeClosed ? Facts.Time(Facts.Text(said, "until") ?? InstructionKinds.Text(with, "until")) : null;
        source.IntakeReason = source.IntakeClosed ? Facts.Text(said, "reason") ?? InstructionKinds.Text(with, "reason") : null;
    }

    private async Task LookAsync(TakingSource taking, Surroundings around, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        var source = await db.Sources.AsNoTracking().FirstOrDefaultAsync(s => s.Id == taking.Source.Id && s.RemovedAt == null, cancel);
        var (state, until, reason) = source is null ? default : await WishAsync(db, source, around, now, cancel);
        if (source is null || state is null)
        {
            return;
        }

        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var lane = InstructionDesk.LaneOfSource(source.Id);
        var seq = await InstructionDesk.LockAsync(db, lane, cancel);
        var soon = now - NotSoon;
        if (
            await db.Instructions.AnyAsync(
                i =>
                    i.Lane == lane
                    && (
                        i.State == InstructionState.Asked
                        || i.State == InstructionState.Taken
                        || (i.AskedAt > soon && i.Person == null && i.State != InstructionState.Seen)
                    ),
                cancel
            )
        )
        {
            // It is being asked, or was asked of late and not done: the event of that says so.
            return;
        }

        var with = new JsonObject { ["state"] = state, ["reason"] = reason };
        if (until is { } at)
        {
            with["until"] = InstantPattern.ExtendedIso.Format(at);
        }

        InstructionDesk.Add(
            db,
            InstructionDesk.Make(taking, lane, new InstructionAsk("intake", with.ToJsonString()), now, reason) with
            {
                By = $"hours of {source.Name}",
            },
            seq
        );
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Instructions);
        signals.Raise(Topic.Pages);
    }

    private static async Task<(string? State, Instant? Until, string? Reason)> WishAsync(
        SirenaDb db,
        Source source,
        Surroundings around,
        Instant now,
        CancellationToken cancel
    )
    {
        var hours = source.IntakeHours?.At(now, around.Business.Zone, around.Business.Holidays);
        if (source.IntakeClosed)
        {
            if (source.IntakeUntil <= now)
            {
                return hours is { Open: false } shut
                    ? source.IntakeSince is not null && shut.Until != source.IntakeUntil
                        ? ("closed", shut.Until, shut.Because)
                        : default
                    : ("open", null, "its time is over");
            }

            return source.IntakeUntil is null && await BacklogIsGoneAsync(db, source, cancel) ? ("open", null, "the backlog is gone") : default;
        }

        // Opened by hand within this closed span: it stands until the span ends.
        var byHand =
            source is { IntakeSince: { } since, IntakeHours: { } plan }
            && plan.At(since, around.Business.Zone, around.Business.Holidays) is { Open: false } then
            && then.Until == hours?.Until;
        return hours is { Open: false } closed && !byHand ? ("closed", closed.Until, closed.Because) : default;
    }

    // A rule closed it because of a backlog, and the status is no longer over its limit.
    private static async Task<bool> BacklogIsGoneAsync(SirenaDb db, Source source, CancellationToken cancel)
    {
        var lane = InstructionDesk.LaneOfSource(source.Id);
        var last = await db
            .Instructions.AsNoTracking()
            .Where(i => i.Lane == lane && i.State == InstructionState.Seen)
            .OrderByDescending(i => i.Seq)
            .FirstOrDefaultAsync(cancel);
        return last is { RuleId: not null, EventId: { } id }
            && await db.Events.AsNoTracking().FirstOrDefaultAsync(e => e.Id == id && e.Type == "order.backlog", cancel) is { Subject: { } status }
            && await db.Statuses.AnyAsync(s => s.Id == status && s.BacklogSince == null, cancel);
    }
}
