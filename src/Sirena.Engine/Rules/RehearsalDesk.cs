using System.Collections.Concurrent;
using NodaTime;
using Npgsql;
using Sirena.Core.Insight;
using Sirena.Core.Rules;
using Sirena.Storage.Orders;

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

    /// <summary>How much of the period was looked at, 0 to 1.</summary>
    public double Share => at is { } reached && to > from ? Math.Clamp((reached - from) / (to - from), 0, 1) : 0;

    private Instant? at;

    internal void Count(Instant? reached)
    {
        Interlocked.Increment(ref events);
        at = reached ?? at;
    }

    /// <inheritdoc/>
    public void Dispose() => Stop.Dispose();
}

/// <summary>What the whole book over past events showed.</summary>
/// <param name="Overlaps">Rules that tell the same people of the same orders.</param>
/// <param name="Floods">Rules that tell one person too often within an hour.</param>
public sealed record BookHints(IReadOnlyList<Overlap> Overlaps, IReadOnlyList<Flood> Floods);

/// <summary>Runs drafts over past events. Nobody is told and nothing is stored; a running one lives on this node until it was fetched or stopped.</summary>
public sealed class RehearsalDesk(PastEvents past, NpgsqlDataSource source, SurroundingsCache surroundings, RuleShelf shelf, IClock clock)
{
    private const int MostKept = 20;

    // More alerts than that for one person in an hour are too many; rules that meet for fewer orders are left alone.
    private const int MostAnHour = 10;
    private const int LeastOverlap = 5;
    private static readonly Duration HintsHold = Duration.FromMinutes(30);
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

    /// <summary>By person: how many of the alerts that they were told of in a period nobody answered, and how many they had.</summary>
    public async Task<IReadOnlyDictionary<string, (int Unanswered, int Of)>> UnansweredAsync(Instant from, Instant to, CancellationToken cancel)
    {
        // Plan: the alerts of the period, then their deliveries by alert; each alert counts once a person.
        await using var command = source.CreateCommand(
            """
            select d.person, count(distinct a.id) filter (where a.state = 'lapsed')::int, count(distinct a.id)::int
            from alerts a join deliveries d on d.alert_id = a.id where a.raised_at >= $1 and a.raised_at < $2 and d.person is not null group by 1
            """
        );
        command.Parameters.Add(new NpgsqlParameter { Value = from });
        command.Parameters.Add(new NpgsqlParameter { Value = to });
        var found = new Dictionary<string, (int, int)>();
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            found[reader.GetString(0)] = (reader.GetInt32(1), reader.GetInt32(2));
        }

        return found;
    }

    /// <summary>
    /// The whole book over the last 30 days, for hints. It is worked out aside, again when the book changes or after half an hour; until the first is there it
    /// is <see langword="null"/>.
    /// </summary>
    public async Task<BookHints?> HintsAsync(CancellationToken cancel)
    {
        var book = await shelf.CurrentAsync(cancel);
        var now = clock.GetCurrentInstant();
        lock (hintsLock)
        {
            if (hints is null || (hints.Value.Made.IsCompleted && (hints.Value.Book != book.Version || now - hints.Value.At > HintsHold)))
            {
                hints = (book.Version, now, Task.Run(() => RunAsync(book, now - Duration.FromDays(30), now), CancellationToken.None));
            }

            known = hints.Value.Made.IsCompletedSuccessfully ? hints.Value.Made.Result : known;
            return known;
        }
    }

    private readonly Lock hintsLock = new();
    private (long Book, Instant At, Task<BookHints> Made)? hints;
    private BookHints? known;

    private async Task<BookHints> RunAsync(RuleBook book, Instant from, Instant to)
    {
        var around = await surroundings.GetAsync(CancellationToken.None);
        var run = new BookRehearsal(book, around.Staff, around.Business);
        await foreach (var happened in past.ReadAsync(from, to, (_, _) => true, CancellationToken.None))
        {
            run.Take(happened!);
        }

        return new BookHints(run.Overlaps(LeastOverlap), run.Floods(MostAnHour));
    }

    private async Task<Rehearsal> RunAsync(RunningRehearsal made, Rule draft, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var old = (await shelf.CurrentAsync(cancel)).Rules.FirstOrDefault(r => r.Rule.Id == draft.Id);
        var (first, second) = (
            new RehearsalRun(new CompiledRule(draft with { On = true }, 0), around.Staff, around.Business),
            old is null ? null : new RehearsalRun(old, around.Staff, around.Business)
        );

        // One look at each event of the period, in the order of intake, without holding them; those that neither wants are only counted.
        await foreach (
            var happened in past.ReadAsync(made.From, made.To, (type, subject) => first.Wants(type, subject) || second?.Wants(type, subject) == true, cancel)
        )
        {
            made.Count(happened?.Received);
            if (happened is not null)
            {
                first.Take(happened);
                second?.Take(happened);
            }
        }

        return new Rehearsal(made.Events, first.Alerts, second?.Alerts ?? [])
        {
            Asks = first.Asks,
            Heard = first.Heard,
            Cases = first.Cases,
        };
    }
}
