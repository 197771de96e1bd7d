using Sirena.Core;
using Sirena.Core.Instructions;

namespace Sirena.Engine.Instructions;

public sealed partial class InstructionDesk
{
    /// <summary>What the order system says to an instruction that it fetched, or took before.</summary>
    /// <returns>The instruction as it stands now; <see langword="null"/> where the source has none of that id; with a problem where it cannot be.</returns>
    public async Task<(Instruction? Instruction, string? Problem)> ResultAsync(string source, Guid id, string state, string? words, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        if (await HoldAsync(db, id, cancel) is not { } held || held.Source != source || held.Waits is not null)
        {
            return (null, null);
        }

        var now = clock.GetCurrentInstant();
        held.Handed = true;
        var counts = state switch
        {
            "taken" => held.Take(now, words) || held.TakenAt is not null,
            "seen" => held.State == InstructionState.Seen || held.See(now, null),
            _ => held.State == InstructionState.Refused || held.Refuse(now, words ?? "refused without a word"),
        };
        if (!counts)
        {
            return (held, $"It is {held.State.Name()} already: a result can no longer change that.");
        }

        held.Words = words ?? held.Words;
        await KeepAsync(db, transaction, cancel);
        return (held, null);
    }

    /// <summary>Ends the wait of one: it goes, or it is stopped.</summary>
    public Task<WishEnd> SettleAsync(Guid id, bool stop, Asker by, CancellationToken cancel) => stop ? DropAsync(id, by, cancel) : ApproveAsync(id, by, cancel);

    /// <summary>The second yes, or a supervisor's where a rule asked too often.</summary>
    public async Task<WishEnd> ApproveAsync(Guid id, Asker by, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        if (await HoldAsync(db, id, cancel) is not { } held)
        {
            return WishEnd.No(404, "There is no such instruction.");
        }

        if (held.Waits is not (InstructionWait.SecondYes or InstructionWait.Limit) || held.State != InstructionState.Asked)
        {
            return WishEnd.No(409, $"It does not wait for a yes: it is {held.State.Name()}.", held);
        }

        var may = held.Waits == InstructionWait.Limit ? by.Role == "supervisor" : Kind(held, around) is { } kind && May(by, kind, around, offered: false);
        if (!may || (held.Waits == InstructionWait.SecondYes && (held.By == by.Name && held.Person == by.Person)))
        {
            return WishEnd.No(403, may ? "Whoever asks cannot say the second yes: it takes another person." : "You may not say yes to this.", held);
        }

        held.Go(clock.GetCurrentInstant(), by.Name);
        await KeepAsync(db, transaction, cancel);
        return new WishEnd(held, 200, null, []);
    }

    /// <summary>Stops one before it goes.</summary>
    public async Task<WishEnd> DropAsync(Guid id, Asker by, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        await using var db = await factory.CreateDbContextAsync(cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        if (await HoldAsync(db, id, cancel) is not { } held)
        {
            return WishEnd.No(404, "There is no such instruction.");
        }

        var own = held.Person is not null ? held.Person == by.Person : held.RuleId is null && held.By == by.Name;
        if (
            !own
            && by.Role != "supervisor"
            && !(held.Waits == InstructionWait.SecondYes && Kind(held, around) is { } kind && May(by, kind, around, offered: false))
        )
        {
            return WishEnd.No(403, "Only whoever asked, or a supervisor, can stop it.", held);
        }

        if (!held.Drop(clock.GetCurrentInstant(), $"stopped by {by.Name}"))
        {
            return WishEnd.No(
                409,
                held.State == InstructionState.Asked ? "It has gone to the order system and cannot be called back." : $"It is {held.State.Name()} already.",
                held
            );
        }

        await KeepAsync(db, transaction, cancel);
        return new WishEnd(held, 200, null, []);
    }
}
