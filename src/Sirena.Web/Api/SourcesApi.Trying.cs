using System.Text.Json;
using System.Text.Json.Nodes;
using Sirena.Core;
using Sirena.Core.Sources;
using Sirena.Engine.Sources;
using Sirena.Formats.Documents;
using Sirena.Formats.Sources;
using Sirena.Storage;

namespace Sirena.Web.Api;

public static partial class SourcesApi
{
    private static async Task<IResult> AgainAsync(string id, HttpContext http, SirenaDb db, ArrivalReader reader)
    {
        var (document, refusal) = await RequestText.ObjectAsync(
            http.Request,
            "what to take again",
            "{ \"state\": \"not-understood\" } or { \"ids\": [\"4711\"] }"
        );
        if (document is null)
        {
            return refusal!;
        }

        if (await FindAsync(db, id, http) is null)
        {
            return Missing(id);
        }

        var state = document["state"]?.ToString();
        var ids = (document["ids"] as JsonArray)?.Select(n => long.TryParse(n?.ToString(), out var number) ? number : (long?)null).ToArray();
        if (
            document.Any(m => m.Key is not ("state" or "ids"))
            || (state is null) == (ids is null)
            || ids?.Any(i => i is null) == true
            || (state is not null && Names.Parse<ArrivalState>(state) is not (ArrivalState.NotUnderstood or ArrivalState.Ignored))
        )
        {
            return PeopleApi.Mistakes(
                "It is not said what to take again.",
                [
                    new DocumentError(
                        "",
                        null,
                        null,
                        "Send either { \"state\": \"not-understood\" } (or ignored), or { \"ids\": [\"4711\"] } with numbers of arrivals."
                    ),
                ]
            );
        }

        var (understood, not) = await reader.AgainAsync(
            id,
            ids is null ? null : [.. ids.OfType<long>()],
            Names.Parse<ArrivalState>(state) ?? ArrivalState.NotUnderstood,
            http.RequestAborted
        );
        return Results.Json(new { understood, notUnderstood = not });
    }

    private static async Task<IResult> TryAsync(string id, HttpContext http, SirenaDb db, ReadingTrial trial)
    {
        var (node, refusal) = await RequestText.DocumentAsync(http.Request, "a draft");
        if (node is null)
        {
            return refusal!;
        }

        if (await FindAsync(db, id, http) is not { } source)
        {
            return Missing(id);
        }

        if (node is not MapNode map || map["reading"] is not { } draft || map.Members.Any(m => m.Name is not ("reading" or "bodies" or "last")))
        {
            return PeopleApi.Mistakes(
                "The draft cannot be tried.",
                [new DocumentError("reading", null, null, "Send { \"reading\": { … }, \"bodies\": [ … ] }, or \"last\": 50 for the last that came.")]
            );
        }

        var (reading, errors) = ReadingReader.Read(draft, "reading", source.Kind);
        if (reading is null)
        {
            return PeopleApi.Mistakes("The reading has a mistake.", errors);
        }

        var (bodies, problem) = Bodies(map);
        if (problem is not null)
        {
            return problem;
        }

        var tried = bodies is null
            ? await trial.TryAsync(reading, await trial.LastAsync(id, Last(map), http.RequestAborted), http.RequestAborted)
            : await trial.TryAsync(reading, bodies, http.RequestAborted);
        return Results.Json(
            new JsonObject
            {
                ["items"] = new JsonArray([
                    .. tried.Select(t =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["id"] = t.Id is { } number ? Text(number) : null,
                                ["events"] = new JsonArray([.. t.Result.Events.Select(e => (JsonNode)ReadingTrial.Shape(e, id))]),
                                ["problems"] = JsonSerializer.SerializeToNode(t.Result.Problems.Select(Shape)),
                                ["ignored"] = t.Result.Ignored,
                            }
                    ),
                ]),
                ["next"] = null,
            }
        );
    }

    private static async Task<IResult> ProposeAsync(string id, HttpContext http, SirenaDb db, ReadingTrial trial)
    {
        var (node, refusal) = await RequestText.DocumentAsync(http.Request, "bodies");
        if (node is null)
        {
            return refusal!;
        }

        if (await FindAsync(db, id, http) is not { } source)
        {
            return Missing(id);
        }

        if (node is not MapNode map || map.Members.Any(m => m.Name is not ("bodies" or "last")))
        {
            return PeopleApi.Mistakes(
                "Nothing can be proposed.",
                [new DocumentError("bodies", null, null, "Send { \"bodies\": [ … ] } with 1 to 50 bodies, or { \"last\": 50 } for the last that came.")]
            );
        }

        var (bodies, problem) = Bodies(map);
        bodies ??= problem is null ? ReadingTrial.Values(await trial.LastAsync(id, Last(map), http.RequestAborted)) : [];
        if (problem is not null || bodies.Count == 0)
        {
            return problem
                ?? PeopleApi.Mistakes(
                    "Nothing can be proposed.",
                    [new DocumentError("bodies", null, null, "There is no body to look at: send one to the source's address, or along with this call.")]
                );
        }

        var proposal = await trial.ProposeAsync(bodies, source.Kind == SourceKind.Listing, http.RequestAborted);
        return Results.Json(new { reading = ReadingWriter.Write(proposal.Reading), because = proposal.Because });
    }

    private static int Last(MapNode map) =>
        map["last"] is ScalarNode { Value.ValueKind: JsonValueKind.Number } last && last.Value.TryGetInt32(out var count) ? count : ReadingTrial.Most;

    private static (IReadOnlyList<JsonElement>? Bodies, IResult? Problem) Bodies(MapNode map) =>
        map["bodies"] switch
        {
            null => (null, null),
            ListNode { Items.Count: > 0 and <= ReadingTrial.Most } list => ([.. list.Items.Select(i => i.ToJson())], null),
            var other => (
                null,
                PeopleApi.Mistakes(
                    "The bodies cannot be read.",
                    [new DocumentError("bodies", other.Line, other.Column, $"'bodies' is a list of 1 to {ReadingTrial.Most} bodies.")]
                )
            ),
        };

    private static object Shape(BodyProblem problem) =>
        new
        {
            path = problem.Path,
            found = problem.Found,
            wanted = problem.Wanted,
        };
}
