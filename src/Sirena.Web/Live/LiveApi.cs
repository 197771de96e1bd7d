using System.Security.Claims;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Storage;
using Sirena.Web.Access;

namespace Sirena.Web.Live;

/// <summary>The stream of server-sent events behind the pages: it says that something changed, never what; the page asks for what it may see.</summary>
public static class LiveApi
{
    private static readonly TimeSpan Quiet = TimeSpan.FromSeconds(15);
    private static readonly TimeSpan Check = TimeSpan.FromMinutes(1);

    /// <summary>Maps <c>/live</c>.</summary>
    public static void MapLive(this IEndpointRouteBuilder routes) => routes.MapGet("/live", StreamAsync).ExcludeFromDescription();

    private static async Task StreamAsync(HttpContext http, LiveFeed feed, IHostApplicationLifetime life, IDbContextFactory<SirenaDb> factory)
    {
        http.Response.ContentType = "text/event-stream";
        http.Response.Headers.CacheControl = "no-store";
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(http.RequestAborted, life.ApplicationStopping);
        try
        {
            var checkedAt = DateTime.UtcNow;
            var changed = feed.Next;

            // What came between the drawing of a page and the opening of its stream shows in the stamp.
            await WriteAsync(http, $"retry: 2000\nevent: at\ndata: {feed.Stamp}\n\n", stop.Token);
            while (true)
            {
                var ended = await Task.WhenAny(changed, Task.Delay(Quiet, stop.Token));
                stop.Token.ThrowIfCancellationRequested();
                if (DateTime.UtcNow - checkedAt > Check)
                {
                    if (!await StillAllowedAsync(http.User, factory, stop.Token))
                    {
                        return;
                    }

                    checkedAt = DateTime.UtcNow;
                }

                // What changes from here on, also while this waits a little, is told with the next one.
                var told = ended == changed;
                changed = told ? feed.Next : changed;
                await WriteAsync(http, told ? $"event: at\ndata: {feed.Stamp}\n\n" : ": still here\n\n", stop.Token);
                await Task.Delay(250, stop.Token);
            }
        }
        catch (OperationCanceledException)
        {
            // The page has gone, or this node stops.
        }
    }

    private static async Task WriteAsync(HttpContext http, string text, CancellationToken cancel)
    {
        await http.Response.WriteAsync(text, cancel);
        await http.Response.Body.FlushAsync(cancel);
    }

    private static async Task<bool> StillAllowedAsync(ClaimsPrincipal principal, IDbContextFactory<SirenaDb> factory, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        var user = Guid.TryParse(principal.FindFirstValue(ClaimTypes.NameIdentifier), out var id)
            ? await db.Users.AsNoTracking().FirstOrDefaultAsync(u => u.Id == id, cancel)
            : null;
        var stamp = principal.FindFirstValue(new ClaimsIdentityOptions().SecurityStampClaimType);
        return user is { RemovedAt: null } && principal.IsInRole(user.Role.Name()) && (stamp is null || stamp == user.SecurityStamp);
    }
}
