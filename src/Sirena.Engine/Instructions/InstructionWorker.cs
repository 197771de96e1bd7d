using System.Collections.Concurrent;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using NodaTime;
using NodaTime.Text;
using Sirena.Channels.Http;
using Sirena.Core.Deliveries;
using Sirena.Core.Instructions;
using Sirena.Engine.Intake;
using Sirena.Engine.Sources;
using Sirena.Storage;
using Sirena.Storage.Instructions;

namespace Sirena.Engine.Instructions;

/// <summary>
/// Hands instructions to the order systems that are called: claims what is due under a lease, several at once but of one order one after the other, notes the attempt before and the outcome after. The same leases, pauses
/// and marks as for messages hold.
/// </summary>
public sealed class InstructionWorker(IDbContextFactory<SirenaDb> factory, InstructionQueue queue, SurroundingsCache surroundings, SourceSecrets secrets, InstructionCalls calls, Signals signals, IClock clock, ILogger<InstructionWorker> log) : Worker(log)
{
    private const int Hands = 16;
    private static readonly Duration Poll = Duration.FromSeconds(1);
    private static readonly TimeSpan Renewal = TimeSpan.FromSeconds(3);
    private static readonly JsonSerializerOptions Readable = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };
    private readonly ConcurrentDictionary<Guid, Guid> held = [];

    /// <inheritdoc/>
    protected override async Task RunAsync(CancellationToken stopping)
    {
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
                            await SendAsync(one.Id, one.Lease, one.Attempt, one.MayBeTwice, around, stopping);
                        }
                        catch (Exception e) when (!stopping.IsCancellationRequested)
                        {
                            // Its lease runs out, and it is tried again with the same id.
                            log.LogError(e, "Instruction {Instruction} broke off; it is tried again when its lease runs out.", one.Id);
                        }
                        finally
                        {
                            held.TryRemove(one.Id, out _);
                            hands.Release();
                            signals.Wake(Topic.Instructions);
                        }
                    }, CancellationToken.None);
            }

            if (claimed.Count == 0)
            {
                await signals.WaitAsync(Topic.Instructions, Poll, stopping);
            }
        }
    }

    private async Task SendAsync(Guid id, Guid lease, int attempt, bool mayBeTwice, Surroundings around, CancellationToken cancel)
    {
        Instruction instruction;
        await using (var db = await factory.CreateDbContextAsync(cancel))
        {
            instruction = await db.Instructions.AsNoTracking().FirstAsync(i => i.Id == id, cancel);
            if (around.Taking.GetValueOrDefault(instruction.Source) is not { Pushed: true } taking)
            {
                return;
            }

            var body = await BodyAsync(db, instruction, taking, clock.GetCurrentInstant(), cancel);
            var key = (taking.Source.InstructionsSecret ?? taking.Source.Secret) is { } secret ? secrets.Open(secret) : null;
            var answer = await calls.PostAsync(new Uri(taking.Source.InstructionsTo!), key, id, body, cancel);
            NodeFigures.Instructed(instruction.Source, answer.Outcome);
            await NoteAsync(id, lease, attempt, mayBeTwice, answer);
        }
    }

    private async Task NoteAsync(Guid id, Guid lease, int attempt, bool mayBeTwice, InstructionAnswer answer)
    {
        var now = clock.GetCurrentInstant();
        await using var db = await factory.CreateDbContextAsync();
        await using var transaction = await db.Database.BeginTransactionAsync();
        var mine = (await db.Instructions.FromSql($"select * from instructions where id = {id} for update").ToListAsync()).FirstOrDefault();
        var words = FarText.Clean(answer.Words, 500);
        await db.InstructionAttempts.Where(a => a.InstructionId == id && a.Number == attempt).ExecuteUpdateAsync(u => u.SetProperty(a => a.EndedAt, now).SetProperty(a => a.Outcome, answer.Outcome).SetProperty(a => a.Code, answer.Code).SetProperty(a => a.Reply, words));
        if (mine is not null && mine.Lease == lease)
        {
            (mine.Lease, mine.LeaseUntil) = (null, null);
            mine.MayBeTwice |= mayBeTwice && answer.Outcome is AttemptOutcome.Accepted or AttemptOutcome.Unknown;
            Apply(mine, answer, words, now);
        }
        else if (mine is not null && answer.Outcome == AttemptOutcome.Accepted)
        {
            // Another node took over meanwhile; that it was taken is true all the same.
            mine.Take(now, words);
        }

        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        signals.Raise(Topic.Pages);
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

    /// <summary>An instruction as the order system reads it: a CloudEvent, structured.</summary>
    public static async Task<byte[]> BodyAsync(SirenaDb db, Instruction instruction, TakingSource taking, Instant now, CancellationToken cancel)
    {
        var number = NumberThere(instruction, taking);
        var known = instruction.OrderNumber is { } order ? await db.Events.Where(e => e.OrderNumber == order).OrderByDescending(e => e.Seq).Select(e => (Instant?)e.Time).FirstOrDefaultAsync(cancel) : null;
        var data = new JsonObject
        {
            ["instruction"] = new JsonObject { ["id"] = instruction.Id.ToString(), ["kind"] = instruction.Kind, ["with"] = instruction.Members },
            ["order"] = number is null ? null : new JsonObject { ["number"] = number, ["time"] = known is { } time ? InstantPattern.ExtendedIso.Format(time) : null },
            ["by"] = instruction.By,
            ["because"] = instruction.Because,
        };
        if (instruction.Tell is { } tell)
        {
            data["tell"] = new JsonObject { ["customer"] = tell.Customer, ["staff"] = tell.Staff, ["by"] = tell.By };
        }

        var body = new JsonObject
        {
            ["specversion"] = "1.0",
            ["id"] = instruction.Id.ToString(),
            ["source"] = OwnEvents.Source,
            ["type"] = "instruction." + instruction.Kind,
            ["subject"] = number ?? taking.Source.Id,
            ["time"] = InstantPattern.ExtendedIso.Format(now),
            ["datacontenttype"] = "application/json",
            ["data"] = data,
        };
        return Encoding.UTF8.GetBytes(body.ToJsonString(Readable));
    }

    /// <summary>The order's number as its source knows it, without the prefix.</summary>
    public static string? NumberThere(Instruction instruction, TakingSource taking) =>
        instruction.OrderNumber is { } order && taking.Source.Prefix.Length > 0 && order.StartsWith(taking.Source.Prefix, StringComparison.Ordinal) ? order[taking.Source.Prefix.Length..] : instruction.OrderNumber;

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
}
