using NodaTime;
using NodaTime.Text;
using Sirena.Web.Access;

namespace Sirena.Web;

/// <summary>What <c>serve</c> needs to know, from the environment.</summary>
/// <param name="Database">A PostgreSQL connection string; <c>SIRENA_DATABASE</c>.</param>
/// <param name="Key">The key that wraps secrets; <c>SIRENA_KEY_FILE</c>.</param>
/// <param name="Clock">The machine's clock, or the fixed one of <c>SIRENA_CLOCK</c>, for pictures.</param>
public sealed record ServeSettings(string Database, KeyFile Key, IClock Clock)
{
    /// <summary>Reads them.</summary>
    /// <returns>The settings, or one sentence on what is missing.</returns>
    public static (ServeSettings? Settings, string? Problem) Read(string[] args)
    {
        var environment = new ConfigurationBuilder().AddEnvironmentVariables("SIRENA_").AddCommandLine(args).Build();
        if (environment["DATABASE"] is not { Length: > 0 } database)
        {
            return (null, "SIRENA_DATABASE is not set. Give a PostgreSQL connection string: Host=127.0.0.1;Port=5432;Database=sirena;Username=...;Password=...");
        }

        var (key, problem) = KeyFile.Read(environment["KEY_FILE"]);
        IClock clock = SystemClock.Instance;
        if (environment["CLOCK"] is { Length: > 0 } at)
        {
            if (InstantPattern.ExtendedIso.Parse(at) is not { Success: true } parsed)
            {
                return (null, $"SIRENA_CLOCK is '{at}'; an instant such as 2026-11-24T14:32:08Z is expected.");
            }

            clock = new FixedClock(parsed.Value);
        }

        return key is null ? (null, problem) : (new ServeSettings(database, key, clock), null);
    }

    /// <summary>A clock that stands still.</summary>
    private sealed class FixedClock(Instant at) : IClock
    {
        public Instant GetCurrentInstant() => at;
    }
}
