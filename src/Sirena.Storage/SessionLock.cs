using Npgsql;

namespace Sirena.Storage;

/// <summary>An advisory lock of PostgreSQL by name, held by a line of its own: whatever happens to the node, it ends with that line.</summary>
public sealed class SessionLock : IAsyncDisposable
{
    private readonly string name;

    private SessionLock(NpgsqlConnection connection, string name) => (Connection, this.name) = (connection, name);

    /// <summary>The line that holds it.</summary>
    public NpgsqlConnection Connection { get; }

    /// <summary>Takes a lock, and waits while somebody else holds it.</summary>
    /// <param name="database">Where.</param>
    /// <param name="name">Its name.</param>
    /// <param name="cancel">Breaks it off.</param>
    public static async Task<SessionLock> TakeAsync(NpgsqlDataSource database, string name, CancellationToken cancel) =>
        (await AskAsync(database, "select pg_advisory_lock(hashtextextended($1, 0))", name, cancel))!;

    /// <summary>Takes a lock, or not.</summary>
    /// <param name="database">Where.</param>
    /// <param name="name">Its name.</param>
    /// <param name="cancel">Breaks it off.</param>
    /// <returns>The lock, or <see langword="null"/> while somebody else holds it.</returns>
    public static Task<SessionLock?> TryAsync(NpgsqlDataSource database, string name, CancellationToken cancel) =>
        AskAsync(database, "select pg_try_advisory_lock(hashtextextended($1, 0))", name, cancel);

    // What asks for a lock answers with nothing once it has it, what tries with whether it has it.
    private static async Task<SessionLock?> AskAsync(NpgsqlDataSource database, string sql, string name, CancellationToken cancel)
    {
        var connection = await database.OpenConnectionAsync(cancel);
        var held = false;
        try
        {
            await using var command = Command(sql, connection, name);
            held = await command.ExecuteScalarAsync(cancel) is not false;
            return held ? new SessionLock(connection, name) : null;
        }
        finally
        {
            if (!held)
            {
                await connection.DisposeAsync();
            }
        }
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        try
        {
            await using var command = Command("select pg_advisory_unlock(hashtextextended($1, 0))", Connection, name);
            await command.ExecuteNonQueryAsync();
        }
        catch (NpgsqlException)
        {
            // The line is gone, and the lock with it.
        }

        await Connection.DisposeAsync();
    }

    private static NpgsqlCommand Command(string sql, NpgsqlConnection connection, string name) =>
        new(sql, connection) { Parameters = { new NpgsqlParameter { Value = name } } };
}
