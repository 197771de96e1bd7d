using System.Collections.Concurrent;
using System.Security.Cryptography;
using NodaTime;
using Sirena.Channels.Http;
using Sirena.Core.Sources;
using Sirena.Engine;
using Sirena.Engine.Sources;
using Sirena.Storage.Sources;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

/// <summary>Takes calls of any shape: proved, put on disk as they came, answered, and read after that.</summary>
public static class CallsApi
{
    private const int LargestBody = 4 * 1024 * 1024;

    // A flood of calls that prove nothing must not fill the database: of each source so many are noted in a second, the rest are refused all the same.
    private const int NotedInSecond = 20;
    private static readonly ConcurrentDictionary<string, (long Second, int Count)> Noted = [];

    // What a caller says of itself beside the body, and never what it proves itself by.
    private static readonly string[] NotKept =
    [
        "authorization",
        "cookie",
        "proxy-authorization",
        "connection",
        "accept",
        "accept-encoding",
        "accept-language",
        "content-length",
        "host",
        "x-forwarded-for",
        "x-forwarded-proto",
        "x-forwarded-host",
    ];

    /// <summary>Maps <c>POST /api/in/{source}</c>.</summary>
    public static void MapCalls(this IEndpointRouteBuilder routes)
    {
        foreach (
            var (pattern, name) in new[]
            {
                ("/api/in/{source}", "Take in a call of any shape, JSON or form, by its source's proof"),
                ("/api/in/{source}/{secret}", "The same, where the proof is a secret in the address"),
            }
        )
        {
            routes
                .MapPost(pattern, PostAsync)
                .AllowAnonymous()
                .DisableAntiforgery()
                .WithTags("Sources")
                .WithSummary(name)
                .Produces(StatusCodes.Status202Accepted)
                .ProducesProblem(401)
                .ProducesProblem(403)
                .ProducesProblem(404)
                .ProducesProblem(413)
                .ProducesProblem(429);
        }
    }

    /// <summary>The address of a source's calls, without the host.</summary>
    public static string AddressOf(Source source) => "/api/in/" + source.Id;

    private static async Task<IResult> PostAsync(
        string source,
        HttpContext http,
        SourceShelf shelf,
        ArrivalDesk desk,
        ArrivalQueue queue,
        Signals signals,
        IClock clock,
        string? secret = null
    )
    {
        var cancel = http.RequestAborted;
        if (await shelf.FindAsync(source, cancel) is not { } live || live.Source.Kind is SourceKind.Events or SourceKind.Listing)
        {
            return Problems.Of(404, "There is no source at this address.", "The address ends in the source's id, as the page Sources shows it.");
        }

        if (!live.Source.On)
        {
            return Problems.Of(403, "This source is off.", "A supervisor has switched it off; nothing of this call was taken.");
        }

        if (shelf.Over(live.Source, 1) is { } wait)
        {
            return Problems.Wait(
                http,
                wait,
                "Too many calls.",
                $"This source may send {live.Source.Limit} calls a second. Wait and send again; nothing of this call was taken."
            );
        }

        if (await RequestText.BytesAsync(http.Request, LargestBody, cancel) is not { } body)
        {
            await NoteAsync(
                new CallRefusal("too-large", "The body is larger than 4 MiB."),
                (int)Math.Min(int.MaxValue, http.Request.ContentLength ?? LargestBody),
                live,
                http,
                queue,
                signals,
                clock
            );
            return Problems.Of(413, "The call is too large.", "A body holds at most 4 MiB. Send fewer orders at once.");
        }

        var refusal = await ProofAsync(live, http, body, secret, shelf, clock.GetCurrentInstant());
        if (refusal is not null)
        {
            await NoteAsync(refusal, body.Length, live, http, queue, signals, clock);
            if (live.Source.Proof.Kind is ProofKind.Key or ProofKind.Basic)
            {
                http.Response.Headers.WWWAuthenticate = live.Source.Proof.Kind == ProofKind.Basic ? "Basic realm=\"sirena\", charset=\"UTF-8\"" : "Bearer";
            }

            return Problems.Of(401, "The call does not prove whose it is.", refusal.Sentence, new() { ["kind"] = refusal.Kind });
        }

        var id = await desk.StoreAsync(
            new ArrivedBody
            {
                Source = live.Source.Id,
                At = clock.GetCurrentInstant(),
                Size = body.Length,
                Content = body,
                MediaType = Cut(http.Request.ContentType, 200),
                Headers = Kept(http.Request, live.Source),
                Hash = SHA256.HashData(body),
            },
            cancel
        );
        return Results.Json(new { id = id.ToString(System.Globalization.CultureInfo.InvariantCulture) }, statusCode: StatusCodes.Status202Accepted);
    }

    private static async Task<CallRefusal?> ProofAsync(LiveSource live, HttpContext http, byte[] body, string? secret, SourceShelf shelf, Instant now)
    {
        if (live.Source.Proof.Kind != ProofKind.Key)
        {
            return CallProof.Check(
                live.Source.Proof,
                live.Secrets,
                new CallFacts(
                    name => http.Request.Headers[name] is { Count: > 0 } v ? v.ToString() : null,
                    body,
                    secret ?? http.Request.Query["secret"].FirstOrDefault()
                ),
                now
            );
        }

        var key = TokenScheme.Bearer(http.Request);
        var opens = await shelf.OfKeyAsync(key, http.RequestAborted);
        return opens is not null && (opens.Source.Id == live.Source.Id || !live.OwnKeys)
            ? null
            : new CallRefusal(
                key is null ? "no-proof" : "wrong-key",
                "A source key is needed: send 'Authorization: Bearer <key>' with a key from Sources that has not been revoked."
            );
    }

    private static async Task NoteAsync(CallRefusal refusal, int size, LiveSource live, HttpContext http, ArrivalQueue queue, Signals signals, IClock clock)
    {
        var now = clock.GetCurrentInstant();
        var second = now.ToUnixTimeSeconds();
        if (Noted.AddOrUpdate(live.Source.Id, _ => (second, 1), (_, old) => old.Second == second ? (second, old.Count + 1) : (second, 1)).Count > NotedInSecond)
        {
            return;
        }

        await queue.RefuseAsync(
            new ArrivedBody
            {
                Source = live.Source.Id,
                At = now,
                Size = size,
                State = ArrivalState.Refused,
                Problem = new BodyProblem(refusal.Kind, null, refusal.Sentence),
                Address = http.Connection.RemoteIpAddress?.ToString(),
            },
            http.RequestAborted
        );
        signals.Raise(Topic.Pages);
    }

    private static Dictionary<string, string> Kept(HttpRequest request, Source source)
    {
        string[] proof = [.. new[] { source.Proof.Header, source.Proof.Kind == ProofKind.StandardWebhooks ? "webhook-signature" : null }.OfType<string>()];
        return request
            .Headers.Where(h => !NotKept.Contains(h.Key.ToLowerInvariant()) && !proof.Contains(h.Key, StringComparer.OrdinalIgnoreCase))
            .Take(40)
            .ToDictionary(h => h.Key, h => Core.Deliveries.FarText.Clean(h.Value.ToString(), 500));
    }

    private static string? Cut(string? text, int most) => text is { Length: > 0 } && text.Length <= most ? text : null;
}
