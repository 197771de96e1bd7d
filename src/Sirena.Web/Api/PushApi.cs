using System.Text.Json;
using Sirena.Engine.Dispatch;
using Sirena.Formats.Documents;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

/// <summary>Browsers that want push messages, and what their service workers say back.</summary>
public static class PushApi
{
    /// <summary>A subscription as a browser gives it (Push API), with a name to know it by; <c>person</c> is for supervisors.</summary>
    public sealed record Subscription(string? Endpoint, SubscriptionKeys? Keys, string? Name, string? Person);

    /// <summary>The browser's keys, base64url.</summary>
    public sealed record SubscriptionKeys(string? P256dh, string? Auth);

    /// <summary>Maps them.</summary>
    public static void MapPush(this IEndpointRouteBuilder routes)
    {
        var api = routes.MapGroup("/api/push").WithTags("Push").RequireAuthorization();
        api.MapGet("/key", async (Engine.SurroundingsCache around, CancellationToken cancel) =>
                Results.Json(new { key = (await around.GetAsync(cancel)).Business.PushPublicKey })
            )
            .WithSummary("The key with which a browser subscribes (VAPID)");
        api.MapPost("/subscriptions", SubscribeAsync).WithSummary("Take a browser: what PushManager.subscribe gave");
        api.MapDelete("/subscriptions", EndAsync).WithSummary("Give a browser up");

        // The worker has no session: the link holds a MAC of its message.
        routes
            .MapPost("/push/seen/{link}", async (string link, PushBook book, CancellationToken cancel) =>
                await book.SeenAsync(link, cancel) ? Results.NoContent() : Results.NotFound()
            )
            .AllowAnonymous()
            .DisableAntiforgery()
            .RequireRateLimiting("answers")
            .ExcludeFromDescription();
    }

    private static async Task<IResult> SubscribeAsync(HttpContext http, PushBook book)
    {
        var (given, problem) = await ReadAsync(http);
        if (given is null)
        {
            return problem!;
        }

        if (Who(http, given) is not { } person)
        {
            return Problems.Of(403, "Only a supervisor takes browsers of others.", "Leave 'person' out to take your own.");
        }

        return
            await book.SubscribeAsync(person, given.Endpoint ?? "", given.Keys?.P256dh ?? "", given.Keys?.Auth ?? "", given.Name ?? "", http.RequestAborted)
                is { } wrong
            ? PeopleApi.Mistakes("The browser cannot be taken.", [new DocumentError("", null, null, wrong)])
            : Results.Json(new { person, endpoint = given.Endpoint }, statusCode: 201);
    }

    private static async Task<IResult> EndAsync(HttpContext http, PushBook book)
    {
        var (given, problem) = await ReadAsync(http);
        if (given is null)
        {
            return problem!;
        }

        if (Who(http, given) is { } person)
        {
            await book.EndAsync(person, given.Endpoint ?? "", http.RequestAborted);
        }

        return Results.NoContent();
    }

    private static string? Who(HttpContext http, Subscription given)
    {
        var own = http.User.FindFirst("person")?.Value;
        return given.Person is null || given.Person == own ? own
            : http.User.MayChange() ? given.Person
            : null;
    }

    private static async Task<(Subscription? Given, IResult? Problem)> ReadAsync(HttpContext http)
    {
        var (document, refusal) = await RequestText.ObjectAsync(http.Request, "the browser", "what PushManager.subscribe gave");
        try
        {
            return document is null ? (null, refusal)
                : document.Deserialize<Subscription>(JsonSerializerOptions.Web) is { } given ? (given, null)
                : (null, Bad("An object is expected."));
        }
        catch (JsonException e)
        {
            return (null, Bad($"This is no subscription: {e.Message}"));
        }

        static IResult Bad(string problem) => PeopleApi.Mistakes("The browser cannot be taken.", [new DocumentError("", null, null, problem)]);
    }
}
