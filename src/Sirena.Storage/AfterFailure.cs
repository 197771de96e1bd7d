using System.Data;
using System.Data.Common;
using System.Runtime.CompilerServices;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Npgsql;

namespace Sirena.Storage;

/// <summary>
/// A connection on which a statement failed keeps no prepared statements. Npgsql (10.0.3) prepares a statement when it is used a second time; where it fails
/// in that moment, whoever uses it next on that connection would get 'Received unexpected backend message' for an answer. They are given up at once; in a
/// transaction that failed, where the server takes nothing more, when it went back to a savepoint or when the connection closes.
/// </summary>
internal sealed class AfterFailure : IDbCommandInterceptor, IDbTransactionInterceptor, IDbConnectionInterceptor
{
    private readonly ConditionalWeakTable<DbConnection, object> failed = [];

    /// <inheritdoc/>
    public void CommandFailed(DbCommand command, CommandErrorEventData eventData) => Failed(command);

    /// <inheritdoc/>
    public Task CommandFailedAsync(DbCommand command, CommandErrorEventData eventData, CancellationToken cancellationToken = default)
    {
        Failed(command);
        return Task.CompletedTask;
    }

    /// <inheritdoc/>
    public void CommandCanceled(DbCommand command, CommandEndEventData eventData) => Failed(command);

    /// <inheritdoc/>
    public Task CommandCanceledAsync(DbCommand command, CommandEndEventData eventData, CancellationToken cancellationToken = default)
    {
        Failed(command);
        return Task.CompletedTask;
    }

    /// <inheritdoc/>
    public void RolledBackToSavepoint(DbTransaction transaction, TransactionEventData eventData) => Forget(transaction.Connection);

    /// <inheritdoc/>
    public Task RolledBackToSavepointAsync(DbTransaction transaction, TransactionEventData eventData, CancellationToken cancellationToken = default)
    {
        Forget(transaction.Connection);
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

    // A context of the pool closes a connection that was opened by hand as it goes back, and tells no interceptor: what can be done is done at once.
    private void Failed(DbCommand command)
    {
        if (command.Connection is { } connection)
        {
            failed.AddOrUpdate(connection, connection);
            if (command.Transaction is null)
            {
                Forget(connection);
            }
        }
    }

    private void Forget(DbConnection? connection)
    {
        if (connection is null || !failed.Remove(connection) || connection is not NpgsqlConnection { FullState: ConnectionState.Open } open)
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
