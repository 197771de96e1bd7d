using System.Net;
using Sirena.Engine;
using Sirena.Web.Api;

namespace Sirena.Web;

/// <summary>The names by which this installation may be called: what a caller writes as Host becomes part of links.</summary>
/// <param name="named">Those that were named when it was started.</param>
public sealed class KnownHosts(IReadOnlyList<string> named)
{
    /// <summary>Refuses a request for another host.</summary>
    public static async Task CheckAsync(HttpContext http, RequestDelegate next)
    {
        if (
            http
                .RequestServices.GetRequiredService<KnownHosts>()
                .Takes(http.Request.Host.Host, http.RequestServices.GetRequiredService<SurroundingsCache>().Last?.Business.BaseAddress)
        )
        {
            await next(http);
            return;
        }

        await Problems
            .Of(
                400,
                "This is not the host that you asked for.",
                "Call Sirena by the address in its settings, or name the host in SIRENA_HOSTS when it is started."
            )
            .ExecuteAsync(http);
    }

    /// <summary>Whether a name is one of its own: the base address's, one that was named, this machine, or a bare address.</summary>
    public bool Takes(string host, string? baseAddress) =>
        host is "" or "localhost"
        || host.EndsWith(".localhost", StringComparison.OrdinalIgnoreCase)
        || IPAddress.TryParse(host.Trim('[', ']'), out _)
        || named.Contains(host, StringComparer.OrdinalIgnoreCase)
        || named.Contains("*")
        || (Uri.TryCreate(baseAddress, UriKind.Absolute, out var own) && own.Host.Equals(host, StringComparison.OrdinalIgnoreCase));
}
