using System.Text.Json;
using System.Text.Json.Nodes;
using Npgsql;
using NpgsqlTypes;
using Sirena.Core.Sources;
using Sirena.Storage;

namespace Sirena.Engine.Sources;

/// <summary>The rows that a list's last run left, and its runs, in the database.</summary>
internal static class ListingRows
{
    private const int Together = 5_000;

    /// <summary>The run that left the rows that are there.</summary>
    public static async Task<string> LastAsync(NpgsqlConnection connection, string source, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand(
            "select id from listing_runs where source = $1 and state = 'taken' order by ended_at desc limit 1",
            connection
        )
        {
            Parameters = { new NpgsqlParameter { Value = source } },
        };
        return await command.ExecuteScalarAsync(cancel) is Guid id ? id.ToString("N") : "first";
    }

    /// <summary>The digests of the rows by their keys.</summary>
    public static async Task<Dictionary<string, long>> DigestsAsync(NpgsqlConnection connection, string source, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand("select key, digest from listing_rows where source = $1", connection)
        {
            Parameters = { new NpgsqlParameter { Value = source } },
        };
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var digests = new Dictionary<string, long>();
        while (await reader.ReadAsync(cancel))
        {
            digests[reader.GetString(0)] = reader.GetInt64(1);
        }

        return digests;
    }

    /// <summary>The cells of some rows.</summary>
    public static async Task<Dictionary<string, JsonObject>> CellsAsync(
        NpgsqlConnection connection,
        string source,
        IReadOnlyList<string> keys,
        CancellationToken cancel
    )
    {
        var cells = new Dictionary<string, JsonObject>();
        if (keys.Count == 0)
        {
            return cells;
        }

        await using var command = new NpgsqlCommand("select key, cells from listing_rows where source = $1 and key = any($2)", connection)
        {
            Parameters =
            {
                new NpgsqlParameter { Value = source },
                new NpgsqlParameter { Value = keys.ToArray() },
            },
        };
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            cells[reader.GetString(0)] = (JsonObject)JsonNode.Parse(reader.GetString(1))!;
        }

        return cells;
    }

    /// <summary>Leaves the rows as a run found them.</summary>
    public static async Task StoreAsync(NpgsqlConnection connection, string source, ListingWork work, CancellationToken cancel)
    {
        foreach (var rows in work.New.Concat(work.Changed).Chunk(Together))
        {
            await using var command = new NpgsqlCommand(
                "insert into listing_rows (source, key, cells, digest) select $1, * from unnest($2, $3, $4) on conflict (source, key) do update set "
                    + "cells = excluded.cells, digest = excluded.digest",
                connection
            );
            command.Parameters.Add(new NpgsqlParameter { Value = source });
            command.Parameters.Add(new NpgsqlParameter { Value = rows.Select(r => r.Key).ToArray() });
            command.Parameters.Add(
                new NpgsqlParameter { Value = rows.Select(r => r.Cells.GetRawText()).ToArray(), NpgsqlDbType = NpgsqlDbType.Array | NpgsqlDbType.Json }
            );
            command.Parameters.Add(new NpgsqlParameter { Value = rows.Select(r => r.Digest).ToArray() });
            await command.ExecuteNonQueryAsync(cancel);
        }

        if (work.Ended is { Count: > 0 } ended)
        {
            await using var command = new NpgsqlCommand("delete from listing_rows where source = $1 and key = any($2)", connection)
            {
                Parameters =
                {
                    new NpgsqlParameter { Value = source },
                    new NpgsqlParameter { Value = ended.Select(e => e.Key).ToArray() },
                },
            };
            await command.ExecuteNonQueryAsync(cancel);
        }
    }

    /// <summary>Notes a run, or what became of it.</summary>
    public static async Task NoteAsync(NpgsqlConnection connection, ListingRun run, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand(
            """
            insert into listing_runs (id, source, at, by, state, rows, new, changed, gone, bad, baseline, reason, content, charset, hash, ended_at, edits,
                shown)
            values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17::jsonb, $18::jsonb)
            on conflict (id) do update set state = excluded.state, rows = excluded.rows, new = excluded.new, changed = excluded.changed, gone = excluded.gone,
                bad = excluded.bad, baseline = excluded.baseline, reason = excluded.reason,
                ended_at = excluded.ended_at, shown = excluded.shown
            """,
            connection
        );
        foreach (
            var value in new object?[]
            {
                run.Id,
                run.Source,
                run.At,
                run.By,
                Core.Names.Name(run.State),
                run.Rows,
                run.New,
                run.Changed,
                run.Gone,
                run.Bad,
                run.Baseline,
                run.Reason,
                run.Content,
                run.Charset,
                run.Hash,
                run.EndedAt,
                JsonColumn.Write(run.Edits),
                run.Shown is null ? null : JsonColumn.Write(run.Shown),
            }
        )
        {
            command.Parameters.Add(new NpgsqlParameter { Value = value ?? DBNull.Value });
        }

        await command.ExecuteNonQueryAsync(cancel);
    }
}
