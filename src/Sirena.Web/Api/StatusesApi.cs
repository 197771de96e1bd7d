using System.Security.Claims;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.Orders;
using Sirena.Engine.Orders;
using Sirena.Formats.Documents;
using Sirena.Storage;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

/// <summary>The statuses of orders: read, made, changed and taken away, each with its version.</summary>
public static class StatusesApi
{
    private static readonly string[] Members =
    [
        "id",
        "name",
        "mark",
        "tone",
        "kind",
        "words",
        "customerSees",
        "allowedMinutes",
        "backlogLimit",
        "follows",
        "position",
    ];

    /// <summary>Maps them.</summary>
    public static void MapStatuses(this IEndpointRouteBuilder routes)
    {
        var api = routes.MapGroup("/api/statuses").WithTags("Statuses").RequireAuthorization();
        api.MapGet("", async (SirenaDb db, CancellationToken cancel) =>
                Results.Json(
                    new { items = (await db.Statuses.AsNoTracking().OrderBy(s => s.Position).ToListAsync(cancel)).Select(Shape), next = (string?)null }
                )
            )
            .WithSummary("The statuses in the usual way of an order");
        api.MapGet("/{id}", async (string id, HttpContext http, SirenaDb db) =>
            {
                if (await FindAsync(db, id, http) is not { } status)
                {
                    return Problems.Missing($"There is no status '{id}'.");
                }

                await Versions.TagAsync(http, Thing(id), Versions.Of(Shape(status)));
                return Results.Json(Shape(status));
            })
            .WithSummary("One status");
        api.MapPut("/{id}", PutAsync).RequireAuthorization(Policies.Change).WithSummary("Create or change a status");
        api.MapDelete("/{id}", async (string id, HttpContext http, ClaimsPrincipal user, StatusDesk desk, SirenaDb db) =>
            {
                await using var held = await Versions.HoldAsync(http, Thing(id));
                var current = await FindAsync(db, id, http);
                return current is null ? Problems.Missing($"There is no status '{id}'.")
                    : await OvertakenAsync(http, id, current) is { } overtaken ? overtaken
                    : await desk.RemoveAsync(id, user.Name(), http.RequestAborted) is { } problem ? Problems.Of(409, "The status is in use.", problem)
                    : Results.NoContent();
            })
            .RequireAuthorization(Policies.Change)
            .WithSummary("Take a status away that nothing uses");
    }

    private static string Thing(string id) => $"status:{id}";

    private static Task<IResult?> OvertakenAsync(HttpContext http, string id, Status? current) =>
        Versions.OvertakenAsync(http, Thing(id), current, s => Versions.Of(Shape(s)), Shape);

    private static Task<Status?> FindAsync(SirenaDb db, string id, HttpContext http) =>
        db.Statuses.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id, http.RequestAborted);

    private static async Task<IResult> PutAsync(string id, HttpContext http, StatusDesk desk, SirenaDb db)
    {
        var (document, refusal) = await RequestText.ObjectAsync(
            http.Request,
            "the status",
            "{ \"name\": \"Being picked\", \"mark\": \"picking\", \"kind\": \"open\" }"
        );
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

        var errors = document
            .Select(m => m.Key)
            .Except(Members)
            .Select(m => new DocumentError(m, null, null, $"There is no member '{m}'.{Core.Closest.Hint(m, Members)}"))
            .ToList();
        string? Said(string name) =>
            document[name] switch
            {
                null => null,
                JsonArray many => string.Join("\n", many.Select(w => w?.ToString())),
                JsonValue one => one.ToString(),
                _ => Wrong(name),
            };
        string? Wrong(string name)
        {
            errors.Add(new DocumentError(name, null, null, $"'{name}' must be a text{(name is "words" or "follows" ? " or a list of texts" : "")}."));
            return null;
        }

        var edit = new StatusEdit(
            current?.Id,
            Said("name"),
            Said("mark"),
            Said("kind"),
            Said("words"),
            Said("customerSees"),
            Said("allowedMinutes"),
            Said("backlogLimit")
        )
        {
            NewId = id,
            Tone = document.ContainsKey("tone") ? Said("tone") ?? "" : null,
            Follows = document.ContainsKey("follows") ? Said("follows")?.Split('\n', StringSplitOptions.RemoveEmptyEntries) ?? [] : null,
        };
        if ((document["words"] as JsonArray)?.Select(w => w?.ToString() ?? "").FirstOrDefault(TypedList.IsSeveral) is { } several)
        {
            errors.Add(
                new DocumentError("words", null, null, $"'{Quoting.Cut(several)}' is several words: a word holds no comma, semicolon, tab or line break.")
            );
        }

        if (document["id"] is { } named && named.ToString() != id)
        {
            errors.Add(new DocumentError("id", null, null, $"The address says '{id}' and the status '{named}'. Make them one."));
        }

        var place = document["position"] is JsonValue position && position.TryGetValue<int>(out var number) ? number : (int?)null;
        if (document["position"] is not null && place is not > 0)
        {
            errors.Add(new DocumentError("position", null, null, "'position' is its place in the usual way of an order, a whole number from 1."));
        }

        if (errors.Count == 0)
        {
            var (_, problems) = await desk.SaveAsync(edit, http.User.Name(), http.RequestAborted);
            if (problems.Count == 0 && place is { } to)
            {
                await desk.PlaceAsync(id, to, http.User.Name(), http.RequestAborted);
            }

            errors.AddRange(
                problems.Select(p => new DocumentError(
                    p.Key switch
                    {
                        "sees" => "customerSees",
                        "allowed" => "allowedMinutes",
                        "backlog" => "backlogLimit",
                        var own => own,
                    },
                    null,
                    null,
                    p.Value
                ))
            );
        }

        if (errors.Count > 0)
        {
            return PeopleApi.Mistakes("The status has a mistake.", errors);
        }

        var saved = Shape((await FindAsync(db, id, http))!);
        await Versions.TagAsync(http, Thing(id), Versions.Of(saved));
        return current is null ? Results.Created($"/api/statuses/{id}", saved) : Results.Json(saved);
    }

    private static JsonObject Shape(Status s) =>
        new()
        {
            ["id"] = s.Id,
            ["name"] = s.Name,
            ["mark"] = s.Mark,
            ["tone"] = s.Tone,
            ["kind"] = s.Kind.Name(),
            ["words"] = new JsonArray([.. s.Words.Select(w => JsonValue.Create(w))]),
            ["customerSees"] = s.CustomerSees,
            ["allowedMinutes"] = s.AllowedMinutes,
            ["backlogLimit"] = s.BacklogLimit,
            ["follows"] = new JsonArray([.. s.Follows.Select(f => JsonValue.Create(f))]),
            ["position"] = s.Position,
        };
}
