using Microsoft.EntityFrameworkCore;
using Npgsql;
using Sirena.Storage;

namespace Sirena.Web;

/// <summary>The first contact with the database when a node starts: one that does not answer is waited for, one that cannot be used is a sentence.</summary>
public static class FirstContact
{
    private static readonly TimeSpan Between = TimeSpan.FromSeconds(2);
    private static readonly TimeSpan Saying = TimeSpan.FromMinutes(1);

    /// <summary>Prepares the database.</summary>
    /// <returns><see langword="null"/>, or one sentence on why this node cannot work with it.</returns>
    public static async Task<string?> MakeAsync(WebApplication app, ServeSettings settings)
    {
        DateTime? said = null;
        var stopping = app.Lifetime.ApplicationStopping;
        while (true)
        {
            try
            {
                await using (var db = await app.Services.GetRequiredService<IDbContextFactory<SirenaDb>>().CreateDbContextAsync(stopping))
                {
                    if ((await db.Database.GetAppliedMigrationsAsync(stopping)).Except(db.Database.GetMigrations()).FirstOrDefault() is { } strange)
                    {
                        return $"This database was made by another version of Sirena (it has '{strange}', which this one does not know). Start the "
                            + "version that made it, or give an empty database.";
                    }
                }

                await SirenaApp.PrepareAsync(app, settings);
                return null;
            }
            catch (Exception e) when (Refusal(e) is { } sentence)
            {
                return sentence;
            }
            catch (Exception e) when (DatabaseFault.OfSurroundings(e) && !stopping.IsCancellationRequested)
            {
                if (said is null || DateTime.UtcNow - said > Saying)
                {
                    Console.Error.WriteLine($"Waiting for the database: {e.GetBaseException().Message}");
                    said = DateTime.UtcNow;
                }

                await Task.Delay(Between, stopping);
            }
        }
    }

    /// <summary>The work of a node, to be asked for before it runs: its services are gone when it has ended.</summary>
    public static IReadOnlyList<BackgroundService> Work(WebApplication app) => [.. app.Services.GetServices<IHostedService>().OfType<BackgroundService>()];

    /// <summary>Whether some work of a node ended by a fault.</summary>
    public static bool Broke(IReadOnlyList<BackgroundService> work) => work.Any(s => s.ExecuteTask is { IsFaulted: true });

    private static string? Refusal(Exception problem)
    {
        for (var e = problem; e is not null; e = e.InnerException)
        {
            switch (e)
            {
                case PostgresException { SqlState: "28P01" or "28000" }:
                    return "The database does not accept the user and password in SIRENA_DATABASE. Correct them and start again.";
                case PostgresException { SqlState: "3D000" }:
                    return "The database in SIRENA_DATABASE does not exist. Create it (createdb), or name another.";
                case PostgresException { SqlState: "42501" }:
                    return $"The user in SIRENA_DATABASE may not do what Sirena needs: {e.Message} Make it the owner of the database.";
                case System.Security.Cryptography.CryptographicException:
                    return "The key file (SIRENA_KEY_FILE) is not the one with which this database's secrets were kept. Give that one.";
            }
        }

        return null;
    }
}
