using Npgsql;
using NpgsqlTypes;

namespace Sirena.Demo.World;

/// <summary>A column of a bulk copy.</summary>
public sealed record Column<T>(string Name, NpgsqlDbType Type, Func<T, object?> Value);

/// <summary>Copies many rows into a table in PostgreSQL's binary form.</summary>
public static class BulkCopy
{
    /// <summary>Copies the rows.</summary>
    public static async Task CopyAsync<T>(this NpgsqlConnection connection, string table, IEnumerable<T> rows, params Column<T>[] columns)
    {
        await using var writer = await connection.BeginBinaryImportAsync(
            $"copy {table} ({string.Join(", ", columns.Select(c => $"\"{c.Name}\""))}) from stdin (format binary)"
        );
        foreach (var row in rows)
        {
            await writer.StartRowAsync();
            foreach (var column in columns)
            {
                if (column.Value(row) is { } value)
                {
                    await writer.WriteAsync(value, column.Type);
                }
                else
                {
                    await writer.WriteNullAsync();
                }
            }
        }

        await writer.CompleteAsync();
    }
}
