using System.Text;
using Microsoft.AspNetCore.Http.HttpResults;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Sources;
using Sirena.Engine.Intake;
using Sirena.Engine.Sources;
using Sirena.Formats.Events;
using Sirena.Storage.Orders;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

/// <summary>An event that was not taken, and why.</summary>
public sealed record Rejection(int Index, string? Id, string Problem);

/// <summary>What became of a request's events.</summary>
public sealed record Taken(int Accepted, int Duplicates, IReadOnlyList<Rejection> Rejected);

/// <summary>Takes events in: CloudEvents 1.0 over HTTP, structured, batched and binary.</summary>
public static class EventsApi
{
    private const int LargestBody = 4 * 1024 * 1024;
    private const int MostEvents = 1000;

    /// <summary>Maps <c>POST /api/events</c>.</summary>
    public static void MapEvents(this IEndpointRouteBuilder routes) =>
        routes
            .MapPost("/api/events", PostAsync)
            .AllowAnonymous()
            .WithTags("Events")
            .WithSummary("Take in events (CloudEvents 1.0), by source key")
            .Produces<Taken>(StatusCodes.Status202Accepted)
            .ProducesProblem(400)
            .ProducesProblem(401)
            .ProducesProblem(413)
            .ProducesProblem(415)
            .ProducesProblem(429);

    // What is not taken is noted for whoever connects an order system and looks what became of a call.
    private static async Task<IResult> PostAsync(
        HttpContext http,
        SourceShelf sources,
        IntakeDesk desk,
        Crowds crowds,
        RefusedCalls refused,
        IClock clock,
        ILogger<IntakeDesk> log
    )
    {
        var answer = await ReadAsync(http, sources, desk, crowds, clock, log);
        if (answer is ProblemHttpResult { StatusCode: >= 400 and < 500 and not 429 } problem)
        {
            var from = http.Connection.RemoteIpAddress?.ToString() ?? "";
            var (what, way) = (problem.ProblemDetails.Title ?? "", problem.ProblemDetails.Detail ?? "");
            var body = http.Items[typeof(RefusedCall)] as byte[] ?? [];
            var begin = FarText.Clean(Encoding.UTF8.GetString(body, 0, Math.Min(body.Length, RefusedCalls.MostBody)), RefusedCalls.MostBody);
            refused.Note(new RefusedCall(clock.GetCurrentInstant(), from, problem.StatusCode, what, way, begin));
        }

        return answer;
    }

    private static async Task<IResult> ReadAsync(HttpContext http, SourceShelf sources, IntakeDesk desk, Crowds crowds, IClock clock, ILogger<IntakeDesk> log)
    {
        var cancel = http.RequestAborted;
        if (await sources.OfKeyAsync(TokenScheme.Bearer(http.Request), cancel) is not { Source: var source })
        {
            http.Response.Headers.WWWAuthenticate = "Bearer";
            return Problems.Of(401, "A source key is needed.", "Send 'Authorization: Bearer <source key>' with a key from Sources that has not been revoked.");
        }

        if (source is not { On: true, Kind: SourceKind.Events })
        {
            return source.On
                ? Problems.Of(
                    403,
                    "This key is for another door.",
                    $"The source '{source.Name}' sends {(source.Kind == SourceKind.Calls ? "calls" : "lists")}: its address is "
                        + $"{CallsApi.AddressOf(source)}. Events come by the key of a source of the kind events."
                )
                : Problems.Of(403, "This source is off.", $"A supervisor has switched '{source.Name}' off; nothing of this request was taken.");
        }

        if (Kind(http.Request) is not { } kind)
        {
            return Problems.Of(
                415,
                "This content type is not taken.",
                "Send application/cloudevents+json, application/cloudevents-batch+json, or application/json with ce- headers."
            );
        }

        if (await RequestText.BytesAsync(http.Request, LargestBody, cancel) is not { } body)
        {
            return Problems.Of(413, "The request is too large.", "A request holds at most 4 MiB. Send fewer events at once.");
        }

        http.Items[typeof(RefusedCall)] = body;
        var (events, problem) =
            kind == Mode.Binary
                ? CloudEvents.Binary(body, name => http.Request.Headers[name] is { Count: > 0 } v ? v.ToString() : null)
                : CloudEvents.Json(body, kind == Mode.Batch);
        if (problem is not null)
        {
            return Problems.Of(400, "The body cannot be read.", problem);
        }

        if (events.Count > MostEvents)
        {
            return Problems.Of(413, "There are too many events.", $"A batch holds at most {MostEvents} events; this one has {events.Count}.");
        }

        if (sources.Over(source, events.Count) is { } wait)
        {
            return Problems.Wait(
                http,
                wait,
                "Too many events.",
                $"The source '{source.Name}' may send {source.Limit} events a second. Wait and send again; nothing of this request was taken."
            );
        }

        try
        {
            return await TakeAsync(events, source, crowds.Note(source.Id, events.Count), desk, clock.GetCurrentInstant(), cancel);
        }
        catch (Exception e) when (Storage.DatabaseFault.OfDatabase(e) || Storage.DatabaseFault.OfSurroundings(e) && !cancel.IsCancellationRequested)
        {
            log.LogError(e, "Events could not be stored.");
            http.Response.Headers.RetryAfter = "5";
            return Problems.Of(
                503,
                "The events could not be stored.",
                "Nothing of this request was taken. Send it again; an event that is known does nothing twice."
            );
        }
    }

    private static async Task<IResult> TakeAsync(
        IReadOnlyList<ReadEvent> events,
        Source source,
        bool crowd,
        IntakeDesk desk,
        Instant now,
        CancellationToken cancel
    )
    {
        Arrival[] good = [.. events.Where(e => e.Event is not null).Select(e => new Arrival(e.Event!, source.Prefix, now) { Crowd = crowd, By = source.Id })];
        Rejection[] bad = [.. events.Where(e => e.Event is null).Select(e => new Rejection(e.Index, e.Id, e.Problem!))];
        var taken = await desk.TakeAsync(good, cancel);
        var answer = new Taken(taken.Count(t => t), taken.Count(t => !t), bad);
        return bad.Length > 0 && good.Length == 0
            ? Problems.Of(
                400,
                "No event was taken.",
                bad.Length == 1 ? bad[0].Problem : $"All {bad.Length} events were rejected; 'rejected' says why.",
                new()
                {
                    ["accepted"] = 0,
                    ["duplicates"] = 0,
                    ["rejected"] = bad,
                }
            )
            : Results.Json(answer, statusCode: StatusCodes.Status202Accepted);
    }

    private static Mode? Kind(HttpRequest request)
    {
        var media = request.ContentType?.Split(';')[0].Trim().ToLowerInvariant();
        return media switch
        {
            "application/cloudevents+json" => Mode.Structured,
            "application/cloudevents-batch+json" => Mode.Batch,
            "application/json" or "text/json" when request.Headers.Any(h => h.Key.StartsWith("ce-", StringComparison.OrdinalIgnoreCase)) => Mode.Binary,
            null or "" when request.Headers.ContainsKey("ce-specversion") && request.ContentLength is null or 0 => Mode.Binary,
            _ => null,
        };
    }

    private enum Mode
    {
        Structured,
        Batch,
        Binary,
    }
}
