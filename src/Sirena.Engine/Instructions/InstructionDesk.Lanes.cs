using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;
using NodaTime;
using Sirena.Core.Instructions;
using Sirena.Storage;

namespace Sirena.Engine.Instructions;

public sealed partial class InstructionDesk
{
    /// <summary>Waits for the lane, which is this transaction's until it ends.</summary>
    /// <returns>The place of what is asked next in it.</returns>
    internal static async Task<long> LockAsync(SirenaDb db, string lane, CancellationToken cancel) => (await LockAsync(db, [lane], 1, cancel))[0];

    // Several lanes always in the same order, so that no two wait for each other; the places are drawn when all are locked.
    private static Task<List<long>> LockAsync(SirenaDb db, string[] lanes, int places, CancellationToken cancel)
    {
        string[] named = [.. lanes.Select(l => "instructions " + l)];
        return db
            .Database.SqlQuery<long>(
                $"""
                select nextval('instruction_seq') as "Value" from
                    (select count(*) from (select pg_advisory_xact_lock(lane)
                        from (select distinct hashtextextended(n, 0) lane from unnest({named}) n order by 1) sorted offset 0) each) locked,
                    generate_series(1, {places})
                """
            )
            .ToListAsync(cancel);
    }

    /// <summary>What is under way in some lanes as it is stored, in its order.</summary>
    internal static async Task<List<Instruction>> UnderWayAsync(SirenaDb db, string[] lanes, CancellationToken cancel) =>
        await UnderWayOf(db, lanes).ToListAsync(cancel);

    /// <summary>Adds one to the transaction in hand, at its place among all. Its lane is locked.</summary>
    internal static Instruction Add(SirenaDb db, InstructionDraft draft, long seq) => db.Instructions.Add(draft.Build(seq)).Entity;

    internal static InstructionDraft Make(TakingSource taking, string lane, InstructionAsk ask, Instant now, string? because) =>
        new(taking, lane, ask, now, because);

    private async Task KeepAsync(SirenaDb db, IDbContextTransaction transaction, CancellationToken cancel)
    {
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Instructions);
        signals.Raise(Topic.Pages);
    }

    private static async Task<Instruction?> HoldAsync(SirenaDb db, Guid id, CancellationToken cancel) =>
        (await db.Instructions.FromSql($"select * from instructions where id = {id} for update").ToListAsync(cancel)).FirstOrDefault();
}
