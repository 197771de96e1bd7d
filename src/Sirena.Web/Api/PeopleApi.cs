using System.Text;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Engine;
using Sirena.Engine.People;
using Sirena.Formats.Documents;
using Sirena.Formats.People;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

/// <summary>People, teams, sites and rotas, in and out as documents; the calendars that a program can subscribe to.</summary>
public static partial class PeopleApi
{
    private const int LargestBody = RequestText.Largest;

    /// <summary>Maps them.</summary>
    public static void MapPeople(this IEndpointRouteBuilder routes)
    {
        var api = routes.MapGroup("/api").WithTags("People").RequireAuthorization(Policies.SeeAll);
        api.MapGet("/people", GetAsync).WithSummary("People; as JSON, or with ?format=yaml, csv or vcf as a file");
        api.MapPut("/people", PutAsync)
            .RequireAuthorization(Policies.Change)
            .WithSummary("Merge people by id (JSON, YAML, CSV, vCard 4.0); ?take=good takes the good ones of a list with mistakes");
        api.MapGet("/people/{id}", GetOneAsync).WithSummary("One person, as JSON or (Accept) YAML");
        api.MapPut("/people/{id}", (string id, HttpContext http, PeopleDesk desk, SurroundingsCache surroundings) =>
                PutOneAsync(id, http, desk, surroundings, whole: true)
            )
            .RequireAuthorization(Policies.Change)
            .WithSummary("Create or replace a person");
        api.MapPatch("/people/{id}", (string id, HttpContext http, PeopleDesk desk, SurroundingsCache surroundings) =>
                PutOneAsync(id, http, desk, surroundings, whole: false)
            )
            .RequireAuthorization(Policies.Change)
            .WithSummary("Change some members of a person (RFC 7396); null clears one");
        api.MapGet("/teams", TeamsAsync).WithSummary("Teams");
        api.MapGet("/sites", SitesAsync).WithSummary("Sites");
        api.MapGet("/teams/{id}/rota", GetRotaAsync).WithSummary("A team's rota as iCalendar");
        api.MapPut("/teams/{id}/rota", PutRotaAsync)
            .RequireAuthorization(Policies.Change)
            .WithSummary("Replace a team's rota by an iCalendar; ?take=less when more than half of it may go, ?empty=yes when all may");
        api.MapDelete("/teams/{id}/rota", DeleteRotaAsync).RequireAuthorization(Policies.Change).WithSummary("Empty a team's rota");
        routes
            .MapGet("/rota/{name}.ics", TeamFeedAsync)
            .AllowAnonymous()
            .WithTags("People")
            .WithSummary("A team's duty as a calendar to subscribe to, by key or sign-in");
        routes
            .MapGet("/rota/people/{name}.ics", PersonFeedAsync)
            .AllowAnonymous()
            .WithTags("People")
            .WithSummary("A person's duty as a calendar to subscribe to, by key or sign-in");
    }

    private static async Task<IResult> GetAsync(SurroundingsCache surroundings, string? format, CancellationToken cancel)
    {
        var around = await surroundings.GetAsync(cancel);
        var people = around.Staff.People.OrderBy(p => p.Id, StringComparer.Ordinal);
        JsonArray All() => new([.. people.Select(p => (JsonNode)PeopleWriter.Write(p, around.Staff.ManagedBy(p.Id), around.Business.Zone))]);
        return format switch
        {
            null or "json" => Results.Json(new JsonObject { ["items"] = All(), ["next"] = null }),
            "yaml" => File(YamlText.Write(All()), "application/yaml", "people.yaml"),
            "csv" => File(PeopleCsv.Write(people.Where(p => p.ArchivedAt is null).Select(p => (p, around.Staff.ManagedBy(p.Id)))), "text/csv", "people.csv"),
            "vcf" => File(VCards.Write(people.Where(p => p.ArchivedAt is null)), "text/vcard", "people.vcf"),
            _ => Problems.Of(400, "There is no such format.", $"'{format}' is none of json, yaml, csv and vcf."),
        };
    }

    private static async Task<IResult> PutAsync(HttpContext http, PeopleDesk desk, SurroundingsCache surroundings, string? take)
    {
        var cancel = http.RequestAborted;
        if (take is not (null or "good"))
        {
            return Problems.Of(400, "'take' can only be 'good'.", "Leave it out to take all or nothing, or send ?take=good.");
        }

        var media = RequestText.Media(http.Request);
        if (
            media
            is not (
                "application/json"
                or "text/json"
                or "application/yaml"
                or "application/x-yaml"
                or "text/yaml"
                or "text/csv"
                or "text/vcard"
                or "text/x-vcard"
                or "text/directory"
                or "application/jsonl"
                or "application/x-ndjson"
            )
        )
        {
            return Problems.Of(
                415,
                "This content type is not taken.",
                "Send people as application/json, application/yaml, text/csv, text/vcard or application/jsonl."
            );
        }

        if (await RequestText.BytesAsync(http.Request, LargestBody, cancel) is not { } bytes)
        {
            return Problems.Of(413, "The document is too large.", "A people document holds at most 4 MB.");
        }

        var around = await surroundings.GetAsync(cancel);
        string[] sites = [.. around.Staff.Sites.Select(s => s.Id)];
        var format = media.Split('/')[1] switch
        {
            "csv" => "csv",
            "vcard" or "x-vcard" or "directory" => "vcf",
            "jsonl" or "x-ndjson" => "jsonl",
            "json" => "json",
            _ => "yaml",
        };
        var document = PeopleFile.Read(bytes, RequestText.Charset(http.Request), format, around.Business.Zone, sites)!;
        var saved = await desk.SaveAsync(document, take == "good", http.User.Name(), cancel);
        return saved.Taken || saved.Errors.Count == 0
            ? Results.Json(
                new
                {
                    taken = saved.Made.Count + saved.Replaced.Count,
                    made = saved.Made,
                    replaced = saved.Replaced,
                    errors = saved.Errors.Select(Error),
                }
            )
            : Mistakes("The people were not saved.", saved.Errors);
    }

    private static async Task<IResult> GetOneAsync(string id, HttpContext http, SurroundingsCache surroundings)
    {
        if (Written(id, await surroundings.GetAsync(http.RequestAborted)) is not { } document)
        {
            return Problems.Missing($"There is no person '{id}'.");
        }

        await Versions.TagAsync(http, Thing(id), Versions.Of(document));
        return http.Request.Headers.Accept.ToString().Contains("yaml", StringComparison.OrdinalIgnoreCase)
            ? Results.Text(YamlText.Write(document), "application/yaml")
            : Results.Json(document);
    }

    private static async Task<IResult> PutOneAsync(string id, HttpContext http, PeopleDesk desk, SurroundingsCache surroundings, bool whole)
    {
        var around = await surroundings.GetAsync(http.RequestAborted);
        var (node, refusal) = await RequestText.DocumentAsync(http.Request, "the person");
        if (node is null)
        {
            return refusal!;
        }

        var known = around.Staff.Person(id) is not null;
        if (!whole && !known)
        {
            return Problems.Missing($"There is no person '{id}'.");
        }

        string[] sites = [.. around.Staff.Sites.Select(s => s.Id)];
        var (entry, errors) = PeopleReader.ReadPart(node, id, around.Business.Zone, sites);
        if (entry is null || errors.Count > 0)
        {
            return Mistakes("The person has a mistake.", errors);
        }

        await using var held = await Versions.HoldAsync(http, Thing(id));
        var saved = await desk.SaveAsync(
            new PeopleDocument([whole ? entry with { Given = null } : entry], [], 0),
            false,
            http.User.Name(),
            http.RequestAborted,
            before => Versions.Stale(http.Request, before is null ? null : Versions.Of(before))
        );
        if (saved.Stale)
        {
            var current = Written(id, await surroundings.GetAsync(http.RequestAborted));
            return await Versions.RefusedAsync(http, Thing(id), current is null ? null : Versions.Of(current), current);
        }

        if (!saved.Taken)
        {
            return Mistakes("The person was not saved.", saved.Errors);
        }

        var document = Written(id, await surroundings.GetAsync(http.RequestAborted))!;
        await Versions.TagAsync(http, Thing(id), Versions.Of(document));
        return known ? Results.Json(document) : Results.Created($"/api/people/{Uri.EscapeDataString(id)}", document);
    }

    private static string Thing(string id) => $"person:{id}";

    private static JsonObject? Written(string id, Surroundings around) =>
        around.Staff.Person(id) is { } person ? PeopleWriter.Write(person, around.Staff.ManagedBy(id), around.Business.Zone) : null;

    /// <summary>A question that comes as an object, JSON or YAML.</summary>
    /// <param name="http">The request.</param>
    /// <param name="members">What a question may hold.</param>
    /// <returns>The object, and a mistake for each member that a question has not; else the answer that says why it cannot be read.</returns>
    internal static async Task<(MapNode? Map, IEnumerable<DocumentError> Strangers, IResult? Refusal)> QuestionAsync(HttpContext http, string[] members)
    {
        var (node, refusal) = await RequestText.DocumentAsync(http.Request, "the question");
        return node is MapNode map
            ? (
                map,
                map.Members.Where(m => !members.Contains(m.Name))
                    .Select(m => new DocumentError(m.Name, m.Line, m.Column, $"A question has no member '{m.Name}'.{Closest.Hint(m.Name, members)}")),
                null
            )
            : (
                null,
                [],
                refusal
                    ?? Mistakes(
                        "The question cannot be read.",
                        [new DocumentError("", 1, 1, $"A question is an object with the members {string.Join(", ", members)}.")]
                    )
            );
    }

    /// <summary>422 with every mistake and its place.</summary>
    internal static IResult Mistakes(string title, IReadOnlyList<DocumentError> errors)
    {
        var first = errors[0];
        var place = first.Line is { } line ? $" (line {line}, column {first.Column})" : "";
        return Problems.Of(
            422,
            title,
            $"{(first.Path.Length > 0 ? first.Path + ": " : "")}{first.Problem}{place}{(errors.Count > 1 ? $" And {errors.Count - 1} more." : "")}",
            new() { ["errors"] = errors.Select(Error) }
        );
    }

    private static object Error(DocumentError e) =>
        new
        {
            path = e.Path,
            line = e.Line,
            column = e.Column,
            problem = e.Problem,
        };

    private static IResult File(string text, string type, string name) => Results.File(Encoding.UTF8.GetBytes(text), $"{type}; charset=utf-8", name);

    private static IResult Missing(string id) => Problems.Missing($"There is no team '{id}'.");
}
