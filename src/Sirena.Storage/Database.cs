using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;

namespace Sirena.Storage;

/// <summary>
/// The data source of statements that work a queue: always by index. A plan that was made while the tables were small, and kept, would read them whole when a
/// burst comes before their statistics.
/// </summary>
public sealed class QueueSource(NpgsqlDataSource source) : IAsyncDisposable
{
    /// <summary>The data source.</summary>
    public NpgsqlDataSource Source => source;

    /// <inheritdoc/>
    public ValueTask DisposeAsync() => source.DisposeAsync();
}

/// <summary>How the database is reached and made.</summary>
public static class Database
{
    // A frozen node lets go of what it holds, and no statement waits for ever. What is meant to take long lifts its own.
    private const string Limits =
        "-c idle_in_transaction_session_timeout=5s -c statement_timeout=30s -c tcp_keepalives_idle=5 -c tcp_keepalives_interval=5 -c "
        + "tcp_keepalives_count=2 -c tcp_user_timeout=15s";
    private const long MigrationLock = 0x51_72_65_6E_61;
    private static readonly AfterFailure Failures = new();

    /// <summary>Registers one data source, used by EF Core and by the hand-written statements alike, and that of the queues.</summary>
    public static IServiceCollection AddSirenaDatabase(this IServiceCollection services, string connectionString)
    {
        services.AddSingleton(_ => Source(connectionString, Limits));
        services.AddSingleton(_ => new QueueSource(Source(connectionString, Limits + " -c enable_seqscan=off")));
        services.AddPooledDbContextFactory<SirenaDb>((provider, options) => Configure(options, provider.GetRequiredService<NpgsqlDataSource>()));
        services.AddScoped(provider => provider.GetRequiredService<IDbContextFactory<SirenaDb>>().CreateDbContext());
        return services;
    }

    /// <summary>A data source that knows NodaTime's types.</summary>
    /// <param name="connectionString">A PostgreSQL connection string.</param>
    /// <param name="options">Settings of its sessions, as the server's command line has them.</param>
    public static NpgsqlDataSource Source(string connectionString, string? options = null)
    {
        var builder = new NpgsqlDataSourceBuilder(connectionString);
        builder.ConnectionStringBuilder.MaxAutoPrepare = 50;
        builder.ConnectionStringBuilder.AutoPrepareMinUsages = 2;
        builder.ConnectionStringBuilder.Options = $"{builder.ConnectionStringBuilder.Options} {options}".Trim() is { Length: > 0 } all ? all : null;
        builder.UseNodaTime();
        return builder.Build();
    }

    /// <summary>EF Core over a data source.</summary>
    public static DbContextOptionsBuilder Configure(DbContextOptionsBuilder options, NpgsqlDataSource source) =>
        options.UseNpgsql(source, npgsql => npgsql.UseNodaTime()).UseSnakeCaseNamingConvention().AddInterceptors(Failures);

    /// <summary>Brings the database to the current version; one node at a time, under an advisory lock.</summary>
    public static async Task MigrateAsync(IServiceProvider services, CancellationToken cancel = default)
    {
        var source = services.GetRequiredService<NpgsqlDataSource>();
        await using var connection = await source.OpenConnectionAsync(cancel);
        await Execute(connection, $"set statement_timeout = 0; select pg_advisory_lock({MigrationLock})", cancel);
        try
        {
            await using var db = await services.GetRequiredService<IDbContextFactory<SirenaDb>>().CreateDbContextAsync(cancel);
            await db.Database.OpenConnectionAsync(cancel);
            await db.Database.ExecuteSqlRawAsync("set statement_timeout = 0; set idle_in_transaction_session_timeout = 0", cancel);
            await db.Database.MigrateAsync(cancel);
            await db.Database.CloseConnectionAsync();
        }
        finally
        {
            await Execute(connection, $"select pg_advisory_unlock({MigrationLock})", CancellationToken.None);
        }
    }

    private static async Task Execute(NpgsqlConnection connection, string sql, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand(sql, connection) { CommandTimeout = 300 };
        await command.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>For <c>dotnet ef</c> only: it makes migrations without a database.</summary>
    internal sealed class DesignTime : IDesignTimeDbContextFactory<SirenaDb>
    {
        public SirenaDb CreateDbContext(string[] args) =>
            new((DbContextOptions<SirenaDb>)Configure(new DbContextOptionsBuilder<SirenaDb>(), Source("Host=127.0.0.1;Database=design")).Options);
    }
}
