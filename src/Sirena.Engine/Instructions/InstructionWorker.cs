using System.Collections.Concurrent;
using System.Text.Encodings.Web;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Channels.Http;
using Sirena.Core.Deliveries;
using Sirena.Core.Instructions;
using Sirena.Engine.Sources;
using Sirena.Storage;
using Sirena.Storage.Instructions;

namespace Sirena.Engine.Instructions;

/// <summary>
/// Hands instructions to the order systems that are called: claims what is due under a lease, several at once but of one order one after the other, notes the
/// attempt before and the outcome after. The same leases, pauses
/// and marks as for messages hold.
/// </summary>
public sealed partial class InstructionWorker : Worker
{
    private const int Together = 64;
    private const int Hands = 16;
    private static readonly Duration Poll = Duration.FromSeconds(1);
    private static readonly TimeSpan Linger = TimeSpan.FromMilliseconds(5);
    private static readonly TimeSpan Renewal = TimeSpan.FromSeconds(3);
    private static readonly JsonSerializerOptions Readable = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };
    private static readonly Func<SirenaDb, Guid, Task<Known>> Find = EF.CompileAsyncQuery(
        (SirenaDb db, Guid id) =>
            db
                .Instructions.AsNoTracking()
                .Where(i => i.Id == id)
                .Select(i => new Known(i, db.Orders.Where(o => o.Number == i.OrderNumber).Select(o => (Instant?)o.ChangedAt).FirstOrDefault()))
                .First()
    );

    private readonly IDbContextFactory<SirenaDb> factory;
    private readonly InstructionQueue queue;
    private readonly SurroundingsCache surroundings;
    private readonly SourceSecrets secrets;
    private readonly InstructionCalls calls;
    private readonly Signals signals;
    private readonly IClock clock;
    private readonly ILogger log;
    private readonly Gathering<Ended, bool> outcomes;
    private readonly ConcurrentDictionary<Guid, Guid> held = [];
    private readonly ConcurrentDictionary<string, string> keys = [];
    private Task? noting;

    /// <summary>A worker on the queue.</summary>
    public InstructionWorker(
        IDbContextFactory<SirenaDb> factory,
        InstructionQueue queue,
        SurroundingsCache surroundings,
        SourceSecrets secrets,
        InstructionCalls calls,
        Signals signals,
        IClock clock,
        ILogger<InstructionWorker> log
    )
        : base(log)
    {
        (this.factory, this.queue, this.surroundings, this.secrets, this.calls, this.signals, this.clock, this.log) = (
            factory,
            queue,
            surroundings,
            secrets,
            calls,
            signals,
            clock,
            log
        );
        outcomes = new Gathering<Ended, bool>(1, Together, _ => 1, NoteAsync, log);
    }

    /// <inheritdoc/>
    protected override async Task RunAsync(CancellationToken stopping)
    {
        // Begun once, however often the work is begun again: it goes on as long as the node does.
        noting ??= outcomes.RunAsync(stopping);
        using var renewal = new Timer(_ => _ = RenewAsync(stopping), null, Renewal, Renewal);
        using var hands = new SemaphoreSlim(Hands);
        while (true)
        {
            await hands.WaitAsync(stopping);
            hands.Release();
            var around = await surroundings.GetAsync(stopping);
            string[] pushed = [.. around.Taking.Values.Where(t => t.Pushed).Select(t => t.Source.Id)];
            var claimed = pushed.Length == 0 ? [] : await queue.ClaimAsync(pushed, hands.CurrentCount, clock.GetCurrentInstant(), stopping);
            foreach (var one in claimed)
            {
                held[one.Id] = one.Lease;
                await hands.WaitAsync(stopping);
                _ = Task.Run(
                    async () =>
                    {
                        try
                        {
                            await SendAsync(one.Id, one.Lease, one.Attempt, around, stopping);
                        }
                        catch (Exception e) when (!stopping.IsCancellationRequested)
                        {
                            // Its lease runs out, and it is tried again with the same id.
                            log.LogError(e, "Instruction {Instruction} broke off; it is tried again when its lease runs out.", one.Id);
                        }
                        finally
                        {
                            held.TryRemove(one.Id, out _);
                            if (hands.Release() == 0)
                            {
                                // All hands were busy: more may wait.
                                signals.Wake(Topic.Instructions);
                            }
                        }
                    },
                    CancellationToken.None
                );
            }

            if (claimed.Count == 0)
            {
                // What comes within the next moment is claimed with it.
                await signals.WaitAsync(Topic.Instructions, Poll, stopping);
                await Task.Delay(Linger, stopping);
            }
        }
    }

    private async Task SendAsync(Guid id, Guid lease, int attempt, Surroundings around, CancellationToken cancel)
    {
        Known known;
        await using (var db = await factory.CreateDbContextAsync(cancel))
        {
            known = await Find(db, id);
        }

        if (around.Taking.GetValueOrDefault(known.Instruction.Source) is not { Pushed: true } taking)
        {
            return;
        }

        var key = (taking.Source.InstructionsSecret ?? taking.Source.Secret) is { } secret ? keys.GetOrAdd(secret, secrets.Open) : null;
        var answer = await calls.PostAsync(
            new Uri(taking.Source.InstructionsTo!),
            key,
            id,
            Body(known.Instruction, taking, known.Changed, clock.GetCurrentInstant()),
            cancel
        );
        NodeFigures.Instructed(known.Instruction.Source, answer.Outcome);
        await outcomes.TakeAsync(new Ended(id, lease, attempt, answer), cancel);
    }

    private async Task<IReadOnlyList<bool>> NoteAsync(IReadOnlyList<Ended> ended, CancellationToken cancel)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync(cancel);
        db.Database.AutoSavepointsEnabled = false;
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        Guid[] ids = [.. ended.Select(e => e.Id)];
        var held = await db
            .Instructions.FromSql($"select * from instructions where id = any({ids}) order by seq for update")
            .ToDictionaryAsync(i => i.Id, cancel);
        foreach (var (id, lease, attempt, answer) in ended)
        {
            var words = FarText.Clean(answer.Words, 500);
            var tried = db.InstructionAttempts.Attach(new InstructionAttempt { InstructionId = id, Number = attempt }).Entity;
            (tried.EndedAt, tried.Outcome, tried.Code, tried.Reply) = (now, answer.Outcome, answer.Code, words);
            db.Entry(tried).Property(a => a.Outcome).IsModified = true;
            if (!held.TryGetValue(id, out var mine))
            {
                continue;
            }

            if (mine.Lease == lease)
            {
                (mine.Lease, mine.LeaseUntil) = (null, null);
                Apply(mine, answer, words, now);
            }
            else if (answer.Outcome == AttemptOutcome.Accepted)
            {
                // Another node took over meanwhile; that it was taken is true all the same.
                mine.Take(now, words);
            }
        }

        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        signals.Raise(Topic.Pages);
        return [.. ended.Select(_ => true)];
    }

    private static void Apply(Instruction mine, InstructionAnswer answer, string words, Instant now)
    {
        switch (answer.Outcome)
        {
            case AttemptOutcome.Accepted:
                mine.Take(now, words);
                if (answer.Seen)
                {
                    mine.See(now, null);
                }

                break;
            case AttemptOutcome.Permanent:
                mine.Refuse(now, words);
                break;
            default:
                var next = RetrySchedule.Default.NextTry(Math.Max(1, mine.Tries), now, mine.Deadline, (Random.Shared.NextDouble() * 2) - 1);
                var asked = answer.RetryAfter is { } wait ? Instant.Min(now + wait, mine.Deadline - Duration.FromSeconds(1)) : (Instant?)null;
                if (next is null)
                {
                    mine.Fail(now, $"gave up after {mine.Tries} {(mine.Tries == 1 ? "try" : "tries")}: {words}");
                }
                else
                {
                    (mine.DueAt, mine.Words) = (asked is { } later ? Instant.Max(next.Value, later) : next.Value, words);
                }

                break;
        }
    }

    private async Task RenewAsync(CancellationToken cancel)
    {
        if (held.IsEmpty)
        {
            return;
        }

        try
        {
            await queue.RenewAsync([.. held.Select(h => (h.Key, h.Value))], clock.GetCurrentInstant(), cancel);
        }
        catch (Exception e) when (DatabaseFault.OfSurroundings(e))
        {
            // The next renewal is three seconds away, the lease holds for ten.
        }
    }

    // The order's newest event that is known goes with it.
    private sealed record Known(Instruction Instruction, Instant? Changed);

    private sealed record Ended(Guid Id, Guid Lease, int Attempt, InstructionAnswer Answer);
}
