using NodaTime;
using NodaTime.Text;
using Sirena.Web.Access;

namespace Sirena.Web;

/// <summary>What <c>serve</c> needs to know, from the environment.</summary>
/// <param name="Database">A PostgreSQL connection string; <c>SIRENA_DATABASE</c>.</param>
/// <param name="Key">The key that wraps secrets; <c>SIRENA_KEY_FILE</c>.</param>
/// <param name="Clock">The machine's clock, or the fixed one of <c>SIRENA_CLOCK</c>, for pictures.</param>
/// <param name="Reports">Where reports about mail are taken; <c>SIRENA_REPORTS</c>, an address and a port.</param>
public sealed record ServeSettings(string Database, KeyFile Key, IClock Clock, System.Net.IPEndPoint? Reports = null)
{
    /// <summary>Hosts inside this network that addresses which people give may name; <c>SIRENA_INSIDE</c>, joined by commas.</summary>
    public IReadOnlyList<string> Inside { get; init; } = [];

    /// <summary>Names by which this installation is called, beside that of its base address; <c>SIRENA_HOSTS</c>, joined by commas.</summary>
    public IReadOnlyList<string> Hosts { get; init; } = [];

    /// <summary>Proxies whose forwarded headers are believed; <c>SIRENA_PROXIES</c>, addresses or networks joined by commas.</summary>
    public IReadOnlyList<System.Net.IPNetwork> Proxies { get; init; } = [];

    /// <summary>Folders of this machine that sources may watch, with what lies in them; <c>SIRENA_FOLDERS</c>, joined by commas.</summary>
    public IReadOnlyList<string> Folders { get; init; } = [];

    /// <summary>The name server that is asked for senders' records; <c>SIRENA_DNS</c>, an address and a port. The machine's own where it is not set.</summary>
    public System.Net.IPEndPoint? NameServer { get; init; }

    /// <summary>Reads them.</summary>
    /// <returns>The settings, or one sentence on what is missing.</returns>
    public static (ServeSettings? Settings, string? Problem) Read(string[] args)
    {
        var environment = new ConfigurationBuilder().AddEnvironmentVariables("SIRENA_").AddCommandLine(args).Build();
        if (environment["DATABASE"] is not { Length: > 0 } database)
        {
            return (
                null,
                "SIRENA_DATABASE is not set. Give a PostgreSQL connection string: Host=127.0.0.1;Port=5432;Database=sirena;Username=...;Password=..."
            );
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

        System.Net.IPEndPoint? reports = null;
        if (environment["REPORTS"] is { Length: > 0 } listen && !System.Net.IPEndPoint.TryParse(listen, out reports))
        {
            return (null, $"SIRENA_REPORTS is '{listen}'; an address and a port such as 0.0.0.0:25 are expected, where reports about mail come back.");
        }

        System.Net.IPEndPoint? names = null;
        if (environment["DNS"] is { Length: > 0 } dns && !System.Net.IPEndPoint.TryParse(dns, out names))
        {
            return (null, $"SIRENA_DNS is '{dns}'; an address and a port such as 192.0.2.53:53 are expected.");
        }

        string[] Listed(string name) => (environment[name] ?? "").Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
        var proxies = new List<System.Net.IPNetwork>();
        foreach (var proxy in Listed("PROXIES"))
        {
            if (
                !System.Net.IPNetwork.TryParse(
                    proxy.Contains('/', StringComparison.Ordinal) ? proxy : proxy + (proxy.Contains(':', StringComparison.Ordinal) ? "/128" : "/32"),
                    out var network
                )
            )
            {
                return (null, $"SIRENA_PROXIES names '{proxy}'; addresses or networks such as 10.0.0.5 or 10.0.0.0/24 are expected, joined by commas.");
            }

            proxies.Add(network);
        }

        return key is null
            ? (null, problem)
            : (
                new ServeSettings(database, key, clock, reports)
                {
                    Inside = Listed("INSIDE"),
                    NameServer = names,
                    Hosts = Listed("HOSTS"),
                    Proxies = proxies,
                    Folders = Listed("FOLDERS"),
                },
                null
            );
    }

    /// <summary>A clock that stands still.</summary>
    private sealed class FixedClock(Instant at) : IClock
    {
        public Instant GetCurrentInstant() => at;
    }
}
