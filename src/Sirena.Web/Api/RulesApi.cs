using System.Security.Claims;
using Microsoft.EntityFrameworkCore;
using Sirena.Core.Rules;
using Sirena.Engine;
using Sirena.Engine.Rules;
using Sirena.Storage;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

/// <summary>Reads and saves rules as documents, JSON or YAML.</summary>
public static class RulesApi
{
    private const int LargestBody = 1024 * 1024;

    /// <summary>Maps them.</summary>
    public static void MapRules(this IEndpointRouteBuilder routes)
    {
        var api = routes.MapGroup("/api/rules").WithTags("Rules").RequireAuthorization(Policies.SeeAll);
        api.MapGet("", ListAsync).WithSummary("The rules in force");
        api.MapGet("/{id}", GetAsync).WithSummary("One rule");
        api.MapPost("", (HttpContext http, RuleDesk desk, SirenaDb db, SurroundingsCache around) => SaveAsync(http, desk, db, around, null))
            .RequireAuthorization(Policies.Change)
            .WithSummary("A new rule");
        api.MapPut("/{id}", (string id, HttpContext http, RuleDesk desk, SirenaDb db, SurroundingsCache around) => SaveAsync(http, desk, db, around, id))
            .RequireAuthorization(Policies.Change)
            .WithSummary("Create or replace a rule");
        api.MapDelete(
                "/{id}",
                async (string id, HttpContext http, ClaimsPrincipal user, RuleDesk desk, SirenaDb db, SurroundingsCache around, CancellationToken cancel) =>
                {
                    var (after, refused) = await AfterAsync(http, id, db, around, cancel);
                    return refused
                        ?? await desk.ArchiveAsync(id, user.Name(), cancel, after) switch
                        {
                            true => Results.NoContent(),
                            false => Missing(id),
                            null => await OvertakenAsync(http, id, db, around, cancel),
                        };
                }
            )
            .RequireAuthorization(Policies.Change)
            .WithSummary("Archive a rule");
    }

    private static async Task<IResult> ListAsync(SirenaDb db, SurroundingsCache around, CancellationToken cancel)
    {
        var names = await around.GetAsync(cancel);
        var found = await db
            .RuleVersions.AsNoTracking()
            .Where(v => v.BookTo == null)
            .OrderByDescending(v => v.SavedAt)
            .ThenBy(v => v.RuleId)
            .ToListAsync(cancel);
        return Results.Json(new { items = found.Select(v => Shapes.Of(v, RuleShelf.Parse(v), names.Sentences)), next = (string?)null });
    }

    private static async Task<IResult> GetAsync(string id, HttpContext http, SirenaDb db, SurroundingsCache around, CancellationToken cancel)
    {
        var found = await db.RuleVersions.AsNoTracking().FirstOrDefaultAsync(v => v.RuleId == id && v.BookTo == null, cancel);
        if (found is null)
        {
            return Missing(id);
        }

        Versions.Tag(http, TagOf(found));
        return Results.Json(Shapes.Of(found, RuleShelf.Parse(found), (await around.GetAsync(cancel)).Sentences));
    }

    private static async Task<IResult> SaveAsync(HttpContext http, RuleDesk desk, SirenaDb db, SurroundingsCache around, string? id)
    {
        var cancel = http.RequestAborted;
        var media = RequestText.Media(http.Request);
        var yaml = media is "application/yaml" or "application/x-yaml" or "text/yaml";
        if (!yaml && media is not ("application/json" or "text/json"))
        {
            return Problems.Of(415, "This content type is not taken.", "Send a rule as application/json or application/yaml.");
        }

        var (text, refusal) = await RequestText.ReadAsync(http.Request, "a rule document", LargestBody);
        if (text is null)
        {
            return refusal!;
        }

        var (after, refused) = await AfterAsync(http, id, db, around, cancel);
        if (refused is not null)
        {
            return refused;
        }

        var saved = await desk.SaveAsync(text, yaml, id, http.User.Name(), cancel, after: after);
        if (saved.Stale)
        {
            return await OvertakenAsync(http, id, db, around, cancel);
        }

        if (saved.Conflict is { } conflict)
        {
            return Problems.Of(409, "The rule cannot be saved under this id.", conflict);
        }

        if (saved.Saved is not { } version)
        {
            var first = saved.Errors[0];
            var place = first.Line is { } line ? $" (line {line}, column {first.Column})" : "";
            return Problems.Of(
                422,
                saved.Errors.Count == 1 ? "The rule has a mistake." : $"The rule has {saved.Errors.Count} mistakes.",
                $"{(first.Path.Length > 0 ? first.Path + ": " : "")}{first.Problem}{place}",
                new()
                {
                    ["errors"] = saved.Errors.Select(e => new
                    {
                        path = e.Path,
                        line = e.Line,
                        column = e.Column,
                        problem = e.Problem,
                    }),
                }
            );
        }

        Versions.Tag(http, TagOf(version));
        var shape = Shapes.Of(version, RuleShelf.Parse(version), (await around.GetAsync(cancel)).Sentences);
        return saved.Created ? Results.Created($"/api/rules/{Uri.EscapeDataString(version.RuleId)}", shape) : Results.Json(shape);
    }

    private static async Task<IResult> OvertakenAsync(HttpContext http, string? id, SirenaDb db, SurroundingsCache around, CancellationToken cancel) =>
        (await AfterAsync(http, id, db, around, cancel)).Refused ?? Versions.Refused(null, null);

    // The version after which alone the rule may be saved: the one that the caller names; nothing where they name none.
    private static async Task<(int? After, IResult? Refused)> AfterAsync(
        HttpContext http,
        string? id,
        SirenaDb db,
        SurroundingsCache around,
        CancellationToken cancel
    )
    {
        if (id is null || http.Request.Headers.IfMatch.Count == 0)
        {
            return (null, null);
        }

        var current = await db.RuleVersions.AsNoTracking().FirstOrDefaultAsync(v => v.RuleId == id && v.BookTo == null, cancel);
        if (!Versions.Stale(http.Request, current is null ? null : TagOf(current)))
        {
            return (current!.Version, null);
        }

        if (current is null)
        {
            return (null, Versions.Refused(null, null));
        }

        var names = await around.GetAsync(cancel);
        var theirs = http.Request.Headers.IfMatch.ToString().Trim('"');
        var old = int.TryParse(theirs, out var number)
            ? await db.RuleVersions.AsNoTracking().FirstOrDefaultAsync(v => v.RuleId == id && v.Version == number, cancel)
            : null;
        var since = old is null
            ? null
            : new RuleDifference(names.Sentences)
                .Between(RuleShelf.Parse(old), RuleShelf.Parse(current))
                .Select(c =>
                    (object)
                        new
                        {
                            what = c.What,
                            before = c.Before,
                            after = c.After,
                        }
                );
        Versions.Tag(http, TagOf(current));
        return (null, Versions.Refused(Shapes.Of(current, RuleShelf.Parse(current), names.Sentences), since));
    }

    private static string TagOf(RuleVersion version) => version.Version.ToString(System.Globalization.CultureInfo.InvariantCulture);

    private static IResult Missing(string id) => Problems.Missing($"No rule in force has the id '{id}'.");
}
