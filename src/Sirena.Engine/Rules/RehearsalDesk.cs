using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core.Insight;
using Sirena.Core.Rules;
using Sirena.Storage;

namespace Sirena.Engine.Rules;

/// <summary>A rehearsal that goes on, or has ended.</summary>
public sealed class RunningRehearsal(Instant from, Instant to) : IDisposable
{
    private int events;

    /// <summary>Its id.</summary>
    public Guid Id { get; } = Guid.CreateVersion7();

    /// <summary>The period.</summary>
    public Instant From => from;

    /// <summary>Its end.</summary>
    public Instant To => to;

    /// <summary>How many events were looked at so far.</summary>
    public int Events => events;

    /// <summary>Stops it.</summary>
    public CancellationTokenSource Stop { get; } = new();

    /// <summary>The result.</summary>
    public Task<Rehearsal> Result { get; internal set; } = null!;

    internal void Count() => Interlocked.Increment(ref events);

    /// <inheritdoc/>
    public void Dispose() => Stop.Dispose();
}

/// <summary>Runs drafts over past events. Nobody is told and nothing is stored; a running one lives on this node until it was fetched or stopped.</summary>
public sealed class RehearsalDesk(IDbContextFactory<SirenaDb> factory, SurroundingsCache surroundings, RuleShelf shelf)
{
    private const int MostKept = 20;
    private readonly ConcurrentDictionary<Guid, RunningRehearsal> running = [];

    /// <summary>The rehearsal of that id, or <see langword="null"/>.</summary>
    public RunningRehearsal? Find(Guid id) => running.GetValueOrDefault(id);

    /// <summary>Begins one.</summary>
    public RunningRehearsal Begin(Rule draft, Instant from, Instant to)
    {
        var made = new RunningRehearsal(from, to);
        running[made.Id] = made;
        foreach (var old in running.Values.Where(r => r.Result is { IsCompleted: true }).OrderBy(r => r.Id).SkipLast(MostKept))
        {
            running.TryRemove(old.Id, out _);
        }

        var token = made.Stop.Token;
        made.Result = Task.Run(() => RunAsync(made, draft, token), token);
        return made;
    }

    /// <summary>Stops one and forgets it.</summary>
    /// <returns>Whether there was one.</returns>
    public bool End(Guid id)
    {
        if (!running.TryRemove(id, out var found))
        {
            return false;
        }

        found.Stop.Cancel();
        return true;
    }

    private async Task<Rehearsal> RunAsync(RunningRehearsal made, Rule draft, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var old = (await shelf.CurrentAsync(cancel)).Rules.FirstOrDefault(r => r.Rule.Id == draft.Id);
        var (first, second) = (new RehearsalRun(new CompiledRule(draft with { On = true }, 0), around.Staff, around.Business), old is null ? null : new RehearsalRun(old, around.Staff, around.Business));
        await using var db = await factory.CreateDbContextAsync(cancel);

        // One look at each event of the period, in the order of intake, without holding them all. Plan: the primary key of events, which grow with time.
        await foreach (var happened in db.Events.AsNoTracking().Where(e => e.Received >= made.From && e.Received < made.To).OrderBy(e => e.Id).AsAsyncEnumerable().WithCancellation(cancel))
        {
            made.Count();
            if (first.Wants(happened))
            {
                first.Take(happened);
            }

            if (second?.Wants(happened) == true)
            {
                second.Take(happened);
            }
        }

        return new Rehearsal(made.Events, first.Alerts, second?.Alerts ?? []);
    }
}
