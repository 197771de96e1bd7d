using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Instructions;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Engine.Intake;
using Sirena.Storage;

namespace Sirena.Engine.Instructions;

/// <summary>Recognises in events what was asked for: an instruction is done when an event shows it, and only then.</summary>
public static class InstructionSeen
{
    private static readonly Duration Back = Duration.FromDays(2);
    private static readonly Duration ClocksApart = Duration.FromSeconds(2);

    /// <summary>What some events may show: all that was asked for in their lanes and is not over, held within the transaction in hand.</summary>
    public static async Task<ILookup<string, Instruction>> OpenAsync(
        SirenaDb db,
        IEnumerable<OrderEvent> events,
        Surroundings around,
        Instant now,
        CancellationToken cancel
    )
    {
        string[] lanes = around.Taking.Count == 0 ? [] : [.. events.Select(LaneOf).OfType<string>().Distinct()];
        var since = now - Back;

        // Plan: ix_instructions_to_see, for each lane.
        var open =
            lanes.Length == 0
                ? []
                : await db
                    .Instructions.FromSql(
                        $"""
                        select * from instructions where lane = any({lanes}) and state in ('asked', 'taken', 'unseen', 'failed') and waits is null
                            and asked_at > {since} order by seq for update
                        """
                    )
                    .ToListAsync(cancel);
        return open.ToLookup(i => i.Lane);
    }

    /// <summary>Marks what an event shows, and notes on the event whom it is to tell. Within the transaction that decides it.</summary>
    /// <param name="open">What it may show, see <see cref="OpenAsync"/>.</param>
    /// <returns>Whether anything was seen.</returns>
    public static async Task<bool> LookAsync(
        SirenaDb db,
        OrderEvent happened,
        ILookup<string, Instruction> open,
        Surroundings around,
        Instant now,
        CancellationToken cancel
    )
    {
        happened.Tell ??= Chosen(happened, around);
        if (happened.Source == OwnEvents.Source)
        {
            return false;
        }

        var shown = LaneOf(happened) is { } lane && open.Contains(lane) ? See(happened, open[lane], around, now) : null;
        await IntakeKeeper.NoteAsync(db, happened, shown, cancel);
        return shown is not null;
    }

    private static string? LaneOf(OrderEvent happened) =>
        happened.Source == OwnEvents.Source ? null
        : happened.OrderNumber is { } order ? InstructionDesk.LaneOf(order)
        : happened is { Type: EventTypes.IntakeClosed or EventTypes.IntakeOpened, CameBy: { } source } ? InstructionDesk.LaneOfSource(source)
        : null;

    // The first that it shows.
    private static Instruction? See(OrderEvent happened, IEnumerable<Instruction> open, Surroundings around, Instant now)
    {
        var sight = new InstructionSight(new Facts(happened, around.Business.Zone, around.Business.Currency), around.Statuses);
        Instruction? first = null;
        foreach (var one in open.Where(i => happened.OrderNumber is null ? happened.Received + ClocksApart >= i.AskedAt : happened.Seq > i.OrderSeq))
        {
            if (InstructionDesk.Kind(one, around) is { } kind && kind.Shown(sight, one.Members) && one.See(now, happened.Id))
            {
                first ??= one;
                happened.CausedBy ??= one.Id;
                happened.Tell ??= one.Tell;
            }
        }

        return first;
    }

    // What the order system itself says of whom to tell.
    private static TellChoice? Chosen(OrderEvent happened, Surroundings around)
    {
        if (Facts.Member(happened.DataJson, "tell") is not { ValueKind: JsonValueKind.Object } tell)
        {
            return null;
        }

        bool Told(string name) => Facts.Member(tell, name).ValueKind != JsonValueKind.False;
        var by = Facts.Text(tell, "by")
            ?? (
                happened.CameBy is { } source && around.Taking.GetValueOrDefault(source) is { } taking
                    ? taking.Source.Name
                    : happened.CameBy ?? "the order system"
            );
        return new TellChoice(Told("customer"), Told("staff"), Core.Deliveries.FarText.Clean(by, 80)) is { All: false } chosen ? chosen : null;
    }
}
