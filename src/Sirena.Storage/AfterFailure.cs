using System.Data;
using System.Data.Common;
using System.Runtime.CompilerServices;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Npgsql;

namespace Sirena.Storage;

/// <summary>
/// A connection on which a statement failed goes back to the others without prepared statements. Npgsql (10.0.3) prepares a statement when it is used a second
/// time; where it fails in that moment, whoever uses it next on that connection would get 'Received unexpected backend message' for an answer.
/// </summary>
internal sealed class AfterFailure : IDbCommandInterceptor, IDbConnectionInterceptor
{
    private readonly ConditionalWeakTable<DbConnection, object> failed = [];

    /// <inheritdoc/>
    public void CommandFailed(DbCommand command, CommandErrorEventData eventData) => Mark(command);

    /// <inheritdoc/>
    public Task CommandFailedAsync(DbCommand command, CommandErrorEventData eventData, CancellationToken cancellationToken = default)
    {
        Mark(command);
        return Task.CompletedTask;
    }

    /// <inheritdoc/>
    public void CommandCanceled(DbCommand command, CommandEndEventData eventData) => Mark(command);

    /// <inheritdoc/>
    public Task CommandCanceledAsync(DbCommand command, CommandEndEventData eventData, CancellationToken cancellationToken = default)
    {
        Mark(command);
        return Task.CompletedTask;
    }

    /// <inheritdoc/>
    public InterceptionResult ConnectionClosing(DbConnection connection, ConnectionEventData eventData, InterceptionResult result)
    {
        Forget(connection);
        return result;
    }

    /// <inheritdoc/>
    public ValueTask<InterceptionResult> ConnectionClosingAsync(DbConnection connection, ConnectionEventData eventData, InterceptionResult result)
    {
        Forget(connection);
        return ValueTask.FromResult(result);
    }

    private void Mark(DbCommand command)
    {
        if (command.Connection is { } connection)
        {
            failed.AddOrUpdate(connection, connection);
        }
    }

    private void Forget(DbConnection connection)
    {
        if (!failed.Remove(connection) || connection is not NpgsqlConnection { FullState: ConnectionState.Open } open)
        {
            return;
        }

        try
        {
            open.UnprepareAll();
        }
        catch (Exception e) when (e is NpgsqlException or InvalidOperationException)
        {
            // It broke, or a transaction that failed is still open: then it goes back as it is, and is found out as the surroundings' fault.
        }
    }
}
