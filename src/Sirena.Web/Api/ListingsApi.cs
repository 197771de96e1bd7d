using System.Security.Claims;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.Sources;
using Sirena.Engine.Sources;
using Sirena.Formats.Documents;
using Sirena.Formats.Sources;
using Sirena.Storage;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

/// <summary>Lists of a source: taken, tried, refused; and what a check found missing.</summary>
public static class ListingsApi
{
    /// <summary>Maps them.</summary>
    public static void MapListings(this IEndpointRouteBuilder routes)
    {
        var api = routes.MapGroup("/api/sources/{id}").WithTags("Sources").RequireAuthorization(Policies.SeeAll);
        api.MapPut("/listing", PutAsync)
            .WithMetadata(new Microsoft.AspNetCore.Mvc.RequestSizeLimitAttribute(ListingFile.Largest + 1024))
            .RequireAuthorization(Policies.Change)
            .WithSummary("Take a list (CSV or TSV); ?try=1 looks at it only");
        api.MapGet("/runs", async (string id, SirenaDb db, SourceFigures figures, CancellationToken cancel) =>
                await IsListAsync(db, id, cancel)
                    ? Results.Json(new { items = (await figures.RunsAsync(id, 100, cancel)).Select(Shape), next = (string?)null })
                    : Missing(id)
            )
            .WithSummary("The runs of a list, newest first");
        api.MapPost("/runs/{run:guid}/take", async (string id, Guid run, string? silent, string? tell, ListingDesk desk, CancellationToken cancel) =>
                await desk.TakeAsync(
                    id,
                    run,
                    silent is not null ? false
                        : tell is not null ? true
                        : null,
                    cancel
                )
                    is { } taken
                    ? Answer(taken)
                    : Problems.Missing("There is no such run that was tried or waits.")
            )
            .RequireAuthorization(Policies.Change)
            .WithSummary("Take a run that was tried or waits; ?silent=1 asks no rule, ?tell=1 asks them of the first one too");
        api.MapPost("/runs/{run:guid}/refuse", async (string id, Guid run, HttpContext http, ClaimsPrincipal user, ListingDesk desk) =>
            {
                var (reason, refusal) = await ReasonAsync(http, needed: false);
                return refusal
                    ?? (
                        await desk.RefuseAsync(id, run, reason, user.Name(), http.RequestAborted)
                            ? Results.NoContent()
                            : Problems.Missing("There is no such run that was tried or waits.")
                    );
            })
            .RequireAuthorization(Policies.Change)
            .WithSummary("Refuse a run that was tried or waits");
        api.MapGet("/missing", MissingAsync).WithSummary("What the order system knows and has not been heard here");
        api.MapPost("/missing/{order}/take-over", async (string id, string order, ClaimsPrincipal user, MissedDesk desk, CancellationToken cancel) =>
                await desk.TakeOverAsync(id, order, user.Name(), cancel) is { } made
                    ? Results.Json(new { @event = made }, statusCode: StatusCodes.Status201Created)
                    : Problems.Of(
                        409,
                        "There is nothing to take over.",
                        "The order is not missing any more, or it is gone there and nobody knows how it ended."
                    )
            )
            .RequireAuthorization(Policies.Change)
            .WithSummary("Make the missed event now; the rules decide");
        api.MapPost("/missing/{order}/set-aside", SetAsideAsync).RequireAuthorization(Policies.Change).WithSummary("Set a difference aside, with a reason");
    }

    private static Task<bool> IsListAsync(SirenaDb db, string id, CancellationToken cancel) =>
        db.Sources.AnyAsync(s => s.Id == id && s.Kind == SourceKind.Listing && s.RemovedAt == null, cancel);

    private static async Task<IResult> PutAsync(string id, HttpContext http, ClaimsPrincipal user, ListingDesk desk, SirenaDb db)
    {
        if (!await IsListAsync(db, id, http.RequestAborted))
        {
            return Missing(id);
        }

        if (
            RequestText.Media(http.Request) is { } media
            && media
                is not (
                    "text/csv"
                    or "text/tab-separated-values"
                    or "text/plain"
                    or "application/csv"
                    or "application/jsonl"
                    or "application/x-ndjson"
                    or "application/x-jsonlines"
                    or "application/json"
                    or "application/octet-stream"
                    or "application/vnd.ms-excel"
                )
        )
        {
            return Problems.Of(415, "This content type is not taken.", "Send a list as text/csv, text/tab-separated-values or application/x-ndjson.");
        }

        if (await RequestText.BytesAsync(http.Request, ListingFile.Largest, http.RequestAborted) is not { } bytes)
        {
            return Problems.Of(413, "The list is too large.", "A list holds at most 50 MB.");
        }

        var result = await desk.RunAsync(
            id,
            bytes,
            RequestText.Charset(http.Request),
            http.Request.Query.ContainsKey("try"),
            user.Name(),
            http.RequestAborted,
            http.Request.Query.ContainsKey("tell")
        );
        return result is null ? Missing(id) : Answer(result);
    }

    private static IResult Answer(RunResult result) =>
        result.Problem is { } problem
            ? PeopleApi.Mistakes("The list cannot be read.", [new DocumentError("", null, null, problem)])
            : Results.Json(
                new JsonObject
                {
                    ["run"] = result.Run!.Id.ToString(),
                    ["state"] = result.Run.State.Name(),
                    ["rows"] = result.Run.Rows,
                    ["baseline"] = result.Run.Baseline,
                    ["reason"] = result.Run.Reason,
                    ["counts"] = new JsonObject
                    {
                        ["new"] = result.Run.New,
                        ["changed"] = result.Run.Changed,
                        ["gone"] = result.Run.Gone,
                        ["bad"] = result.Run.Bad,
                    },
                    ["new"] = new JsonArray([.. result.Rows.New.Select(n => JsonValue.Create(n.Key))]),
                    ["changed"] = new JsonArray([
                        .. result.Rows.Changed.Select(c =>
                            (JsonNode)
                                new JsonObject
                                {
                                    ["key"] = c.Key,
                                    ["cells"] = new JsonArray([
                                        .. c.Cells.Select(x =>
                                            (JsonNode)
                                                new JsonObject
                                                {
                                                    ["column"] = x.Column,
                                                    ["before"] = x.Before,
                                                    ["after"] = x.After,
                                                }
                                        ),
                                    ]),
                                }
                        ),
                    ]),
                    ["gone"] = new JsonArray([.. result.Rows.Gone.Select(k => JsonValue.Create(k))]),
                    ["bad"] = new JsonArray([
                        .. result.Rows.Bad.Select(b =>
                            (JsonNode)
                                new JsonObject
                                {
                                    ["row"] = b.Row,
                                    ["column"] = b.Column,
                                    ["problem"] = b.Problem,
                                }
                        ),
                    ]),
                    ["told"] = Told(result.Told),
                }
            );

    private static JsonArray Told(IEnumerable<WouldBeTold> told) =>
        new([
            .. told.Select(t =>
                (JsonNode)
                    new JsonObject
                    {
                        ["order"] = t.Order,
                        ["rule"] = t.Rule,
                        ["person"] = t.Person,
                        ["channel"] = t.Channel.Name(),
                    }
            ),
        ]);

    private static object Shape(ListingRun run) =>
        new
        {
            id = run.Id,
            run = run.Id,
            at = run.At,
            by = run.By,
            state = run.State.Name(),
            rows = run.Rows,
            @new = run.New,
            changed = run.Changed,
            gone = run.Gone,
            bad = run.Bad,
            baseline = run.Baseline,
            reason = run.Reason,
            endedAt = run.EndedAt,
        };

    private static async Task<IResult> MissingAsync(string id, SirenaDb db, MissedDesk desk, CancellationToken cancel)
    {
        if (!await IsListAsync(db, id, cancel))
        {
            return Missing(id);
        }

        var compared = await db
            .ListingRuns.AsNoTracking()
            .Where(r => r.Source == id && r.State == RunState.Taken)
            .OrderByDescending(r => r.At)
            .Select(r => (NodaTime.Instant?)r.At)
            .FirstOrDefaultAsync(cancel);
        var open = await desk.OpenAsync(id, cancel);
        var told = (await desk.WouldTellAsync(open, cancel)).ToLookup(t => t.Order);
        return Results.Json(
            new JsonObject
            {
                ["comparedAt"] = compared is { } at ? NodaTime.Text.InstantPattern.ExtendedIso.Format(at) : null,
                ["items"] = new JsonArray([
                    .. open.Select(m =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["id"] = m.Order,
                                ["order"] = m.Order,
                                ["kind"] = m.Kind.Name(),
                                ["there"] = m.There,
                                ["here"] = m.Here,
                                ["since"] = NodaTime.Text.InstantPattern.ExtendedIso.Format(m.Since),
                                ["thereAt"] = m.ThereAt is { } thereAt ? NodaTime.Text.InstantPattern.ExtendedIso.Format(thereAt) : null,
                                ["runs"] = m.Runs,
                                ["event"] = m.Kind == MissedKind.Gone ? null : m.Event,
                                ["wouldTell"] = Told(told[m.Order]),
                            }
                    ),
                ]),
                ["next"] = null,
            }
        );
    }

    private static async Task<IResult> SetAsideAsync(string id, string order, HttpContext http, ClaimsPrincipal user, MissedDesk desk)
    {
        var (reason, refusal) = await ReasonAsync(http, needed: true);
        return refusal
            ?? (
                await desk.SetAsideAsync(id, order, reason!, user.Name(), http.RequestAborted)
                    ? Results.NoContent()
                    : Problems.Missing($"The order '{order}' is not missing by the list '{id}'.")
            );
    }

    // A reason that cannot be read is said to be so: nothing is done without it that was to be done with it.
    private static async Task<(string? Reason, IResult? Refusal)> ReasonAsync(HttpContext http, bool needed)
    {
        if (!needed && http.Features.Get<IHttpRequestBodyDetectionFeature>() is not { CanHaveBody: true })
        {
            return (null, null);
        }

        var (document, refusal) = await RequestText.ObjectAsync(http.Request, "a reason", "{ \"reason\": \"it was entered by hand\" }");
        if (document is null)
        {
            return (null, refusal);
        }

        string[] members = ["reason"];
        var stranger = document.Select(m => m.Key).Except(members).FirstOrDefault();
        return stranger is not null ? Wrong(stranger, $"There is no member '{stranger}'.{Closest.Hint(stranger, members)}")
            : document["reason"] is null && !needed ? (null, null)
            : document["reason"] is JsonValue said && said.TryGetValue<string>(out var text) && text.Trim() is { Length: > 2 and <= 500 } reason
                ? (reason, null)
            : Wrong("reason", "Say why in 3 to 500 characters.");
        static (string? Reason, IResult? Refusal) Wrong(string path, string problem) =>
            (null, PeopleApi.Mistakes("The reason has a mistake.", [new DocumentError(path, null, null, problem)]));
    }

    private static IResult Missing(string id) => Problems.Missing($"There is no source '{id}' that sends lists.");
}
