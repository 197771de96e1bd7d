using System.Text.Json;
using NodaTime;
using Npgsql;
using NpgsqlTypes;
using Sirena.Core;
using Sirena.Core.Sources;

namespace Sirena.Storage.Sources;

/// <summary>What became of a body when it was read.</summary>
/// <param name="Id">The body.</param>
/// <param name="State">Its state from now on.</param>
/// <param name="Problem">Why it was not understood.</param>
/// <param name="Events">The ids of its events.</param>
public sealed record ReadArrival(long Id, ArrivalState State, BodyProblem? Problem, string[] Events);

/// <summary>Bodies between the call that brought them and their reading: put on disk as they came, taken in the order in which they came.</summary>
public sealed class ArrivalQueue(QueueSource queue)
{
    private const int MostRefused = 50;
    private readonly NpgsqlDataSource source = queue.Source;

    /// <summary>Puts bodies on disk, in their order.</summary>
    /// <returns>Their numbers.</returns>
    public async Task<IReadOnlyList<long>> StoreAsync(IReadOnlyList<ArrivedBody> bodies, CancellationToken cancel)
    {
        await using var command = source.CreateCommand(
            """
            insert into arrivals (source, at, size, content, media_type, headers, hash, state)
            select u.source, u.at, u.size, u.content, u.media_type, u.headers::jsonb, u.hash, 'waiting'
                from unnest($1, $2, $3, $4, $5, $6, $7) with ordinality u(source, at, size, content, media_type, headers, hash, n) order by n returning id
            """
        );
        Add(
            command,
            bodies.Select(b => b.Source).ToArray(),
            bodies.Select(b => b.At).ToArray(),
            bodies.Select(b => b.Size).ToArray(),
            bodies.Select(b => b.Content!).ToArray(),
            bodies.Select(b => b.MediaType).ToArray(),
            bodies.Select(b => JsonSerializer.Serialize(b.Headers)).ToArray(),
            bodies.Select(b => b.Hash!).ToArray()
        );
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var ids = new List<long>(bodies.Count);
        while (await reader.ReadAsync(cancel))
        {
            ids.Add(reader.GetInt64(0));
        }

        return ids;
    }

    /// <summary>Notes a call that did not prove itself: when, why, how large, from where. The last fifty of a source are kept.</summary>
    public async Task RefuseAsync(ArrivedBody body, CancellationToken cancel)
    {
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var batch = new NpgsqlBatch(connection);
        var insert = new NpgsqlBatchCommand(
            "insert into arrivals (source, at, size, state, problem, address, headers) values ($1, $2, $3, 'refused', $4, $5, '{}')"
        );
        Add(insert.Parameters, body.Source, body.At, body.Size);
        insert.Parameters.Add(Problem(body.Problem));
        Add(insert.Parameters, (object?)body.Address ?? DBNull.Value);
        batch.BatchCommands.Add(insert);
        var prune = new NpgsqlBatchCommand(
            "delete from arrivals where source = $1 and state = 'refused' and id < (select min(id) from (select id from arrivals where source = $1 and "
                + "state = 'refused' order by id desc limit $2) kept)"
        );
        Add(prune.Parameters, body.Source, MostRefused);
        batch.BatchCommands.Add(prune);
        await batch.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>The sources of which bodies wait.</summary>
    public async Task<IReadOnlyList<string>> WaitingAsync(CancellationToken cancel)
    {
        // Plan: one look into the index of waiting ones for each source, of which there are few.
        await using var command = source.CreateCommand(
            "select s.id from sources s where exists (select from arrivals a where a.source = s.id and a.state = 'waiting')"
        );
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var ids = new List<string>();
        while (await reader.ReadAsync(cancel))
        {
            ids.Add(reader.GetString(0));
        }

        return ids;
    }

    /// <summary>
    /// Holds a source's bodies for this node, so that they are read in the order in which they came.
    /// </summary>
    /// <returns>The hold, or <see langword="null"/> while another node has it.</returns>
    public async Task<Hold?> HoldAsync(string sourceId, CancellationToken cancel) =>
        await SessionLock.TryAsync(source, "arrivals " + sourceId, cancel) is { } held ? new Hold(held, sourceId) : null;

    /// <summary>A source's bodies, held.</summary>
    public sealed class Hold(SessionLock held, string sourceId) : IAsyncDisposable
    {
        private readonly NpgsqlConnection connection = held.Connection;

        /// <summary>The next bodies that wait, the oldest first.</summary>
        public async Task<IReadOnlyList<ArrivedBody>> NextAsync(int most, CancellationToken cancel)
        {
            await using var command = new NpgsqlCommand(
                "select id, at, size, content, media_type, headers, hash, again from arrivals where source = $1 and state = 'waiting' order by id limit $2",
                connection
            );
            Add(command, sourceId, most);
            await using var reader = await command.ExecuteReaderAsync(cancel);
            var bodies = new List<ArrivedBody>();
            while (await reader.ReadAsync(cancel))
            {
                bodies.Add(
                    new ArrivedBody
                    {
                        Id = reader.GetInt64(0),
                        Source = sourceId,
                        At = reader.GetFieldValue<Instant>(1),
                        Size = reader.GetInt32(2),
                        Content = reader.IsDBNull(3) ? null : reader.GetFieldValue<byte[]>(3),
                        MediaType = reader.IsDBNull(4) ? null : reader.GetString(4),
                        Headers = JsonSerializer.Deserialize<Dictionary<string, string>>(reader.GetString(5)) ?? [],
                        Hash = reader.IsDBNull(6) ? null : reader.GetFieldValue<byte[]>(6),
                        Again = reader.GetBoolean(7),
                    }
                );
            }

            return bodies;
        }

        /// <summary>For each of some bodies the first of the day before it that was the same, byte by byte, and made an event.</summary>
        public async Task<IReadOnlyDictionary<long, long>> SameAsync(IReadOnlyList<ArrivedBody> bodies, CancellationToken cancel)
        {
            await using var command = new NpgsqlCommand(
                """
                select b.id, min(a.id) from unnest($2, $3, $4) b(id, hash, at)
                    join arrivals a on a.source = $1 and a.hash = b.hash and a.id < b.id and a.state = 'understood' and a.at > b.at - interval '24 hours'
                    group by 1
                """,
                connection
            );
            Add(command, sourceId, bodies.Select(b => b.Id).ToArray(), bodies.Select(b => b.Hash!).ToArray(), bodies.Select(b => b.At).ToArray());
            await using var reader = await command.ExecuteReaderAsync(cancel);
            var same = new Dictionary<long, long>();
            while (await reader.ReadAsync(cancel))
            {
                same[reader.GetInt64(0)] = reader.GetInt64(1);
            }

            return same;
        }

        /// <summary>Notes what became of some bodies.</summary>
        public async Task NoteAsync(IReadOnlyList<ReadArrival> read, int reading, CancellationToken cancel)
        {
            await using var command = new NpgsqlCommand(
                """
                update arrivals a set state = u.state, problem = u.problem::jsonb, events = coalesce(string_to_array(nullif(u.events, ''), E'\n'), '{}'),
                    reading_version = $5 from unnest($1, $2, $3, $4) u(id, state, problem, events) where a.id = u.id
                """,
                connection
            );
            Add(
                command,
                read.Select(r => r.Id).ToArray(),
                read.Select(r => r.State.Name()).ToArray(),
                read.Select(r => r.Problem is null ? null : JsonSerializer.Serialize(r.Problem, JsonSerializerOptions.Web)).ToArray(),
                read.Select(r => string.Join('\n', r.Events)).ToArray(),
                reading
            );
            await command.ExecuteNonQueryAsync(cancel);
        }

        /// <inheritdoc/>
        public ValueTask DisposeAsync() => held.DisposeAsync();
    }

    private static void Add(NpgsqlCommand command, params object[] values) => Add(command.Parameters, values);

    private static void Add(NpgsqlParameterCollection parameters, params object[] values)
    {
        foreach (var value in values)
        {
            parameters.Add(new NpgsqlParameter { Value = value });
        }
    }

    private static NpgsqlParameter Problem(BodyProblem? problem) =>
        new() { Value = problem is null ? DBNull.Value : JsonSerializer.Serialize(problem, JsonSerializerOptions.Web), NpgsqlDbType = NpgsqlDbType.Jsonb };
}
