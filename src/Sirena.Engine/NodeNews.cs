using System.Collections.Concurrent;
using Microsoft.Extensions.Logging;
using Npgsql;
using Sirena.Core;

namespace Sirena.Engine;

/// <summary>
/// Carries signals between nodes over PostgreSQL's listen and notify. A notification is sent after the commit and gathered for about 5 ms: inside the
/// transaction it would put all commits in a row. A lost one costs seconds, because every worker polls slowly behind it.
/// </summary>
public sealed class NodeNews(NpgsqlDataSource source, Signals signals, ILogger<NodeNews> log) : Worker(log)
{
    private const string ChannelName = "sirena";
    private readonly ConcurrentDictionary<Topic, bool> outgoing = [];
    private readonly SemaphoreSlim some = new(0);
    private readonly string node = Guid.NewGuid().ToString("N")[..12];

    /// <inheritdoc/>
    protected override async Task RunAsync(CancellationToken stopping)
    {
        signals.Raised += Note;
        try
        {
            await Task.WhenAll(TellAsync(stopping), ListenAsync(stopping));
        }
        finally
        {
            signals.Raised -= Note;
        }
    }

    private void Note(Topic topic)
    {
        if (outgoing.TryAdd(topic, true))
        {
            some.Release();
        }
    }

    private async Task TellAsync(CancellationToken cancel)
    {
        while (true)
        {
            await some.WaitAsync(cancel);
            await Task.Delay(5, cancel);
            var topics = outgoing.Keys.ToArray();
            foreach (var topic in topics)
            {
                outgoing.TryRemove(topic, out _);
            }

            if (topics.Length == 0)
            {
                continue;
            }

            try
            {
                await using var command = source.CreateCommand("select pg_notify($1, $2)");
                command.Parameters.Add(new NpgsqlParameter { Value = ChannelName });
                command.Parameters.Add(new NpgsqlParameter { Value = $"{node} {string.Join(' ', topics.Select(t => t.Name()))}" });
                await command.ExecuteNonQueryAsync(cancel);
            }
            catch (Exception e) when (Sirena.Storage.DatabaseFault.OfSurroundings(e) && !cancel.IsCancellationRequested)
            {
                log.LogWarning("News for the other nodes was lost: {Problem}", e.Message);
            }
        }
    }

    private async Task ListenAsync(CancellationToken cancel)
    {
        while (true)
        {
            try
            {
                await using var connection = await source.OpenConnectionAsync(cancel);
                connection.Notification += (_, e) => Hear(e.Payload);
                await using (var listen = new NpgsqlCommand($"listen {ChannelName}", connection))
                {
                    await listen.ExecuteNonQueryAsync(cancel);
                }

                // What was said while nobody listened is found by looking.
                Array.ForEach(Enum.GetValues<Topic>(), signals.Wake);
                while (true)
                {
                    await connection.WaitAsync(cancel);
                }
            }
            catch (Exception e) when (Sirena.Storage.DatabaseFault.OfSurroundings(e) && !cancel.IsCancellationRequested)
            {
                log.LogWarning("The link to the database's news is lost, trying again: {Problem}", e.Message);
                await Task.Delay(1000, cancel);
            }
        }
    }

    private void Hear(string payload)
    {
        var words = payload.Split(' ');
        if (words[0] == node)
        {
            return;
        }

        foreach (var topic in words.Skip(1).Select(w => Names.Parse<Topic>(w)).OfType<Topic>())
        {
            signals.Wake(topic);
        }
    }
}
