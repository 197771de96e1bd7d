using Npgsql;
using Sirena.Engine;

namespace Sirena.Web;

/// <summary>Says whether this node lives, and whether it can work.</summary>
public static class Health
{
    /// <summary>Lets <c>/metrics</c> be read on this machine, or by whoever is signed in.</summary>
    public static async Task GuardMetricsAsync(HttpContext http, RequestDelegate next)
    {
        var here = http.Connection.RemoteIpAddress is { } from && System.Net.IPAddress.IsLoopback(from);
        if (http.Request.Path == "/metrics" && !here && http.User.Identity?.IsAuthenticated != true)
        {
            http.Response.StatusCode = StatusCodes.Status401Unauthorized;
            return;
        }

        await next(http);
    }

    /// <summary>Maps <c>/health/live</c> and <c>/health/ready</c>, open to all.</summary>
    public static void MapHealth(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/health/live", () => Results.Text("live")).AllowAnonymous().ExcludeFromDescription();
        routes
            .MapGet(
                "/health/ready",
                async (NpgsqlDataSource source, NodeClock clock, IEnumerable<Microsoft.Extensions.Hosting.IHostedService> services, CancellationToken cancel) =>
                {
                    try
                    {
                        await using var command = source.CreateCommand("select 1");
                        await command.ExecuteScalarAsync(cancel);
                    }
                    catch (Exception e) when (Storage.DatabaseFault.OfSurroundings(e))
                    {
                        return Results.Text("not ready: the database does not answer", statusCode: 503);
                    }

                    if (services.OfType<Worker>().Where(w => w.Stuck).Select(w => w.Name).ToArray() is { Length: > 0 } stuck)
                    {
                        return Results.Text($"not ready: {string.Join(", ", stuck)} cannot work; the log says why", statusCode: 503);
                    }

                    return clock.IsTrue
                        ? Results.Text("ready")
                        : Results.Text($"not ready: the clock is {clock.Offset.TotalSeconds:0.0} s off the database's", statusCode: 503);
                }
            )
            .AllowAnonymous()
            .ExcludeFromDescription();
    }
}
