using System.Collections.Concurrent;
using Microsoft.Extensions.Logging;
using NodaTime;
using Npgsql;
using Sirena.Core;
using Sirena.Storage;

namespace Sirena.Engine.Sources;

/// <summary>
/// Counts what comes from each source, by hour, and when it last came: in this node's memory, written once a second for all. They are figures, not events: a
/// node that dies loses one second of them.
/// </summary>
public sealed class SourcePulse(QueueSource queue, ILogger<SourcePulse> log) : Worker(log)
{
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(1);
    private ConcurrentDictionary<(string Source, Instant Hour), (int Events, Instant Last)> counts = [];

    /// <summary>Notes events of a source.</summary>
    public void Note(string source, int events, Instant at) =>
        counts.AddOrUpdate((source, at.Hour()), _ => (events, at), (_, old) => (old.Events + events, Instant.Max(old.Last, at)));

    /// <inheritdoc/>
    protected override Task RunAsync(CancellationToken stopping) => TurnsAsync(Pause, () => WriteAsync(stopping), stopping);

    /// <summary>Writes what was counted.</summary>
    public async Task WriteAsync(CancellationToken cancel)
    {
        if (counts.IsEmpty)
        {
            return;
        }

        var taken = Interlocked.Exchange(ref counts, []);
        try
        {
            var rows = taken.OrderBy(c => c.Key.Source, StringComparer.Ordinal).ThenBy(c => c.Key.Hour).ToArray();
            await using var connection = await queue.Source.OpenConnectionAsync(cancel);
            await using var batch = new NpgsqlBatch(connection);
            Add(
                batch,
                "insert into source_hours (source, hour, events) select * from unnest($1, $2, $3) on conflict (source, hour) do update set events = "
                    + "source_hours.events + excluded.events",
                rows.Select(r => r.Key.Source).ToArray(),
                rows.Select(r => r.Key.Hour).ToArray(),
                rows.Select(r => r.Value.Events).ToArray()
            );
            Add(
                batch,
                "update sources s set last_at = greatest(s.last_at, u.at) from (select source, max(at) at from unnest($1, $2) x(source, at) group by "
                    + "1) u where s.id = u.source",
                rows.Select(r => r.Key.Source).ToArray(),
                rows.Select(r => r.Value.Last).ToArray()
            );
            await batch.ExecuteNonQueryAsync(cancel);
        }
        catch
        {
            // The figures wait for the database, like everything else.
            foreach (var ((source, _), (events, last)) in taken)
            {
                Note(source, events, last);
            }

            throw;
        }
    }

    private static void Add(NpgsqlBatch batch, string sql, params object[] values)
    {
        var command = new NpgsqlBatchCommand(sql);
        foreach (var value in values)
        {
            command.Parameters.Add(new NpgsqlParameter { Value = value });
        }

        batch.BatchCommands.Add(command);
    }
}
