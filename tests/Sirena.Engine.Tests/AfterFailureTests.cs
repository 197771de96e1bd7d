using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Npgsql;
using Sirena.Storage;

namespace Sirena.Engine.Tests;

/// <summary>A statement that fails once fails only whom it failed: who uses it next on the same connection gets their answer.</summary>
public sealed class AfterFailureTests : IAsyncLifetime
{
    private NpgsqlDataSource source = null!;
    private DbContextOptions<SirenaDb> options = null!;

    public ValueTask InitializeAsync()
    {
        var server = Environment.GetEnvironmentVariable("SIRENA_TEST_SERVER") ?? throw new InvalidOperationException("SIRENA_TEST_SERVER is not set.");
        source = Database.Source($"{server};Database=postgres;Maximum Pool Size=1");
        options = ((DbContextOptionsBuilder<SirenaDb>)Database.Configure(new DbContextOptionsBuilder<SirenaDb>(), source)).Options;
        return ValueTask.CompletedTask;
    }

    public ValueTask DisposeAsync() => source.DisposeAsync();

    // The one number that is the answer, or the code of the error.
    private static async Task<string> AskAsync(SirenaDb db, string sql, object value)
    {
        try
        {
            return $"{Assert.Single(await db.Database.SqlQueryRaw<int>(sql, value).ToListAsync(TestContext.Current.CancellationToken))}";
        }
        catch (PostgresException e)
        {
            return e.SqlState;
        }
    }

    // The second use is the one in which a statement is prepared.
    [Theory]
    [InlineData(1, false)]
    [InlineData(2, false)]
    [InlineData(3, false)]
    [InlineData(1, true)]
    [InlineData(2, true)]
    [InlineData(3, true)]
    public async Task A_statement_that_fails_at_its_nth_use_answers_the_next(int bad, bool inTransaction)
    {
        for (var use = 1; use <= 6; use++)
        {
            await using var db = new SirenaDb(options);
            await using var transaction = inTransaction ? await db.Database.BeginTransactionAsync(TestContext.Current.CancellationToken) : null;
            Assert.Equal((use, use == bad ? "22012" : "10"), (use, await AskAsync(db, "select 60 / {0} as \"Value\"", use == bad ? 0 : 6)));
        }
    }

    // Contexts are pooled, and one that was opened by hand is closed by the pool as it goes back, of which no interceptor is told.
    [Theory]
    [InlineData(1, false)]
    [InlineData(2, false)]
    [InlineData(3, false)]
    [InlineData(1, true)]
    [InlineData(2, true)]
    [InlineData(3, true)]
    public async Task A_statement_that_fails_in_a_context_of_the_pool_answers_the_next(int bad, bool byHand)
    {
        var cancel = TestContext.Current.CancellationToken;
        var factory = new PooledDbContextFactory<SirenaDb>(options);
        for (var use = 1; use <= 6; use++)
        {
            await using var db = await factory.CreateDbContextAsync(cancel);
            if (byHand)
            {
                await db.Database.OpenConnectionAsync(cancel);
            }

            Assert.Equal((use, use == bad ? "22021" : "4"), (use, await AskAsync(db, "select length({0}) as \"Value\"", use == bad ? "\0" : "quay")));
        }
    }

    [Fact]
    public async Task One_that_failed_between_savepoints_answers_the_next()
    {
        var cancel = TestContext.Current.CancellationToken;
        await using var db = new SirenaDb(options);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        for (var use = 1; use <= 5; use++)
        {
            await transaction.CreateSavepointAsync("before", cancel);
            Assert.Equal((use, use == 2 ? "22021" : "5"), (use, await AskAsync(db, "select length({0}) + 1 as \"Value\"", use == 2 ? "\0" : "quay")));
            if (use == 2)
            {
                await transaction.RollbackToSavepointAsync("before", cancel);
            }
        }
    }

    [Fact]
    public async Task One_that_was_given_up_in_the_middle_answers_the_next()
    {
        for (var use = 1; use <= 5; use++)
        {
            await using var db = new SirenaDb(options);
            using var patience = CancellationTokenSource.CreateLinkedTokenSource(TestContext.Current.CancellationToken);
            var answer = db.Database.SqlQueryRaw<int>("select 7 as \"Value\" from pg_sleep({0})", use == 2 ? 60.0 : 0.0).ToListAsync(patience.Token);
            if (use == 2)
            {
                patience.CancelAfter(200);
                await Assert.ThrowsAnyAsync<OperationCanceledException>(() => answer);
            }
            else
            {
                Assert.Equal((use, 7), (use, Assert.Single(await answer)));
            }
        }
    }

    // What no interceptor sees ends the line, as a fault that says nothing of what was being done, and only once.
    [Fact]
    public async Task What_is_left_of_it_elsewhere_is_the_surroundings_fault()
    {
        var problems = new List<Exception?>();
        for (var use = 1; use <= 5; use++)
        {
            await using var command = source.CreateCommand("select 70 / $1");
            command.Parameters.AddWithValue(use == 2 ? 0 : 7);
            problems.Add(await Record.ExceptionAsync(() => command.ExecuteScalarAsync(TestContext.Current.CancellationToken)));
        }

        Assert.IsType<PostgresException>(problems[1]);
        Assert.True(problems[2] is null || DatabaseFault.OfSurroundings(problems[2]!), problems[2]?.ToString());
        Assert.Equal([null, null, null], [problems[0], problems[3], problems[4]]);
    }
}
