using System.Security.Claims;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.Sources;
using Sirena.Engine.Sources;
using Sirena.Formats.Documents;
using Sirena.Formats.Sources;
using Sirena.Storage;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

/// <summary>Sources: read, made, changed and taken away; what came from them; readings tried and proposed.</summary>
public static partial class SourcesApi
{
    /// <summary>Maps them.</summary>
    public static void MapSources(this IEndpointRouteBuilder routes)
    {
        routes
            .MapGet("/schemas/reading.json", () => Results.Json(ReadingSchema.Make(), contentType: "application/schema+json"))
            .AllowAnonymous()
            .WithTags("Sources")
            .WithSummary("The JSON Schema of a reading");
        routes
            .MapGet("/schemas/sources.json", () => Results.Json(SourceSchema.Make(), contentType: "application/schema+json"))
            .AllowAnonymous()
            .WithTags("Sources")
            .WithSummary("The JSON Schema of a source");
        var api = routes.MapGroup("/api/sources").WithTags("Sources").RequireAuthorization(Policies.SeeAll);
        api.MapGet("", async (SirenaDb db, CancellationToken cancel) =>
                Results.Json(
                    new
                    {
                        items = (await db.Sources.AsNoTracking().Where(s => s.RemovedAt == null).OrderBy(s => s.Id).ToListAsync(cancel)).Select(
                            SourceWriter.WriteWhole
                        ),
                        next = (string?)null,
                    }
                )
            )
            .WithSummary("The sources");
        api.MapGet("/{id}", GetAsync).WithSummary("One source");
        api.MapPut("/{id}", PutAsync).RequireAuthorization(Policies.Change).WithSummary("Create or change a source; members that are left out stay");
        api.MapDelete("/{id}", DeleteAsync).RequireAuthorization(Policies.Change).WithSummary("Take a source away; what came from it stays");
        api.MapGet("/{id}/arrivals", ArrivalsAsync).WithSummary("What came, newest first (?state=understood,not-understood,ignored,refused)");
        api.MapGet("/{id}/arrivals/{arrival:long}/body", BodyAsync).WithSummary("A body as it came");
        api.MapPost("/{id}/arrivals/again", AgainAsync)
            .RequireAuthorization(Policies.Change)
            .WithSummary("Read kept bodies anew, in the order in which they came");
        api.MapPost("/{id}/readings/try", TryAsync).WithSummary("What bodies become by a draft; nothing is kept");
        api.MapPost("/{id}/readings/proposal", ProposeAsync).WithSummary("A reading proposed from bodies, with its reasons");
    }

    private static Task<Source?> FindAsync(SirenaDb db, string id, HttpContext http) =>
        db.Sources.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id && s.RemovedAt == null, http.RequestAborted);

    // What comes from the source changes when it was last heard, and that is not a change of it.
    private static string VersionOf(Source source) => Versions.Of(SourceWriter.Write(source));

    private static string Thing(string id) => $"source:{id}";

    private static Task<IResult?> OvertakenAsync(HttpContext http, string id, Source? current) =>
        Versions.OvertakenAsync(http, Thing(id), current, VersionOf, SourceWriter.WriteWhole);

    private static async Task<IResult> DeleteAsync(string id, HttpContext http, ClaimsPrincipal user, SourceDesk desk, SirenaDb db)
    {
        await using var held = await Versions.HoldAsync(http, Thing(id));
        return await FindAsync(db, id, http) is not { } current ? Missing(id)
            : await OvertakenAsync(http, id, current) is { } overtaken ? overtaken
            : await desk.RemoveAsync(id, user.Name(), http.RequestAborted) ? Results.NoContent()
            : Missing(id);
    }

    private static async Task<IResult> GetAsync(string id, HttpContext http, SirenaDb db)
    {
        if (await FindAsync(db, id, http) is not { } source)
        {
            return Missing(id);
        }

        await Versions.TagAsync(http, Thing(id), VersionOf(source));
        var document = SourceWriter.WriteWhole(source);
        return http.Request.Headers.Accept.ToString().Contains("yaml", StringComparison.OrdinalIgnoreCase)
            ? Results.Text(YamlText.Write(document), "application/yaml")
            : Results.Json(document);
    }

    private static async Task<IResult> PutAsync(string id, HttpContext http, ClaimsPrincipal user, SourceDesk desk, SirenaDb db)
    {
        var (document, refusal) = await RequestText.DocumentAsync(http.Request, "a source");
        if (document is null)
        {
            return refusal!;
        }

        await using var held = await Versions.HoldAsync(http, Thing(id));
        var current = await FindAsync(db, id, http);
        if (await OvertakenAsync(http, id, current) is { } overtaken)
        {
            return overtaken;
        }

        var saved = await desk.SaveAsync(id, document, user.Name(), http.RequestAborted);
        if (saved.Source is not { } source)
        {
            return PeopleApi.Mistakes("The source has a mistake.", saved.Errors);
        }

        await Versions.TagAsync(http, Thing(id), VersionOf(source));
        var shape = SourceWriter.WriteWhole(source);
        if (saved.Made is { } secret)
        {
            shape["address"] = $"{CallsApi.AddressOf(source)}/{secret}";
        }

        return saved.Created ? Results.Created($"/api/sources/{id}", shape) : Results.Json(shape);
    }

    private static async Task<IResult> ArrivalsAsync(string id, HttpContext http, SirenaDb db, string? state, string? cursor, int? limit)
    {
        if (await FindAsync(db, id, http) is null)
        {
            return Missing(id);
        }

        var which = db.Arrivals.AsNoTracking().Where(a => a.Source == id);
        if (state is { Length: > 0 })
        {
            ArrivalState?[] states =
            [
                .. state.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Select(Names.Parse<ArrivalState>),
            ];
            if (Array.Exists(states, s => s is null))
            {
                return Problems.Of(
                    400,
                    "This state is not known.",
                    $"A state is one of {string.Join(", ", Names.All<ArrivalState>())}; several are joined by commas."
                );
            }

            ArrivalState[] wanted = [.. states.OfType<ArrivalState>()];
            which = which.Where(a => wanted.Contains(a.State));
        }

        var (before, foreign) = Cursor.Number(cursor);
        if (foreign is not null)
        {
            return foreign;
        }

        which = before is null ? which : which.Where(a => a.Id < before);

        var most = Lists.Limit(limit);
        var found = await which
            .OrderByDescending(a => a.Id)
            .Take(most + 1)
            .Select(a => new
            {
                a.Id,
                a.At,
                a.Size,
                a.State,
                a.Problem,
                a.Events,
                a.ReadingVersion,
                a.MediaType,
                a.Address,
                a.Again,
            })
            .ToListAsync(http.RequestAborted);
        var next = found.Count > most ? Text(found[most - 1].Id) : null;
        return Lists.Page(
            http,
            found
                .Take(most)
                .Select(a => new
                {
                    id = Text(a.Id),
                    at = a.At,
                    size = a.Size,
                    state = a.State.Name(),
                    problem = a.Problem is null ? null
                    : a.State == ArrivalState.Refused
                        ? (object)
                            new
                            {
                                path = (string?)null,
                                found = (string?)null,
                                wanted = a.Problem.Wanted,
                                kind = a.Problem.Path,
                            }
                    : Shape(a.Problem),
                    events = a.Events,
                    reading = a.ReadingVersion,
                    type = a.MediaType,
                    from = a.Address,
                    again = a.Again,
                }),
            next
        );
    }

    private static async Task<IResult> BodyAsync(string id, long arrival, HttpContext http, SirenaDb db)
    {
        var found = await db.Arrivals.AsNoTracking().FirstOrDefaultAsync(a => a.Source == id && a.Id == arrival, http.RequestAborted);
        return found?.Content is null
            ? Problems.Missing(
                found is null ? $"Nothing with the number {arrival} came from '{id}'." : "Of this one no body is kept: it was refused, or its time is over."
            )
            : Results.File(
                found.Content,
                "application/octet-stream",
                $"{id}-{arrival}.{(found.MediaType?.Contains("form", StringComparison.OrdinalIgnoreCase) == true ? "txt" : "json")}"
            );
    }

    private static string Text(long id) => id.ToString(System.Globalization.CultureInfo.InvariantCulture);

    private static IResult Missing(string id) => Problems.Missing($"There is no source '{id}'.");
}
