using System.Security.Claims;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Engine.Instructions;
using Sirena.Engine.Sources;
using Sirena.Formats.Documents;
using Sirena.Storage;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

public static partial class InstructionsApi
{
    private static async Task<IResult> AskAsync(HttpContext http, ClaimsPrincipal user, InstructionDesk desk, SirenaDb db)
    {
        var (node, refusal) = await RequestText.DocumentAsync(http.Request, "an instruction");
        if (node is null)
        {
            return refusal!;
        }

        if (node is not MapNode map || Said(map, "kind") is not { } kind)
        {
            return PeopleApi.Mistakes(
                "The instruction has mistakes.",
                [
                    new DocumentError(
                        "kind",
                        node.Line,
                        node.Column,
                        $"'kind' is missing: one of {string.Join(", ", InstructionKinds.Names)}, or one of the source's own, such as {{ \"order\": "
                            + $"\"AQ-20418\", \"kind\": \"hold\", \"reason\": \"…\" }}."
                    ),
                ]
            );
        }

        // The short names of the two whose value is their own: { kind: status, status: picking }.
        map = map with { Members = [.. map.Members.Select(m => kind == "status" && m.Name == "status" ? m with { Name = "to" } : m)] };
        var errors = Others
            .Where(o => o is not ("tell" or "with") && map[o] is not (null or ScalarNode { Text: not null } or ScalarNode { IsNull: true }))
            .Select(o => new DocumentError(o, map[o]!.Line, map[o]!.Column, $"'{o}' must be text."))
            .ToList();
        var tell = Tell(map, AskerOf(user).Name, errors);
        Guid? alert = null;
        if (Said(map, "alert") is { } alertId)
        {
            alert = Guid.TryParse(alertId, out var parsed) ? parsed : null;
            if (alert is null || !await db.Alerts.AnyAsync(a => a.Id == alert, http.RequestAborted))
            {
                errors.Add(new DocumentError("alert", map["alert"]!.Line, map["alert"]!.Column, "There is no such alert."));
            }
        }

        var members = map["with"] switch
        {
            null => map,
            MapNode with => with,
            var wrong => Bad(wrong, errors, map),
        };
        if (errors.Count > 0)
        {
            return PeopleApi.Mistakes("The instruction has mistakes.", errors);
        }

        var ended = await desk.AskAsync(
            new InstructionWish(kind, members, members == map ? Others : [], AskerOf(user))
            {
                Order = Said(map, "order"),
                Source = Said(map, "source"),
                Tell = tell,
                Because = Said(map, "because"),
                Alert = alert,
            },
            http.RequestAborted
        );
        return ended.Status == 201 ? Results.Json(Shape(ended.Instruction!, []), statusCode: 201) : await EndAsync(ended, db, http.RequestAborted);
    }

    private static MapNode Bad(Node wrong, List<DocumentError> errors, MapNode map)
    {
        errors.Add(new DocumentError("with", wrong.Line, wrong.Column, "'with' is an object with the instruction's members."));
        return map;
    }

    private static string? Said(MapNode map, string name) => map[name] is ScalarNode { Text: { } text } && text.Trim().Length > 0 ? text.Trim() : null;

    private static TellChoice? Tell(MapNode map, string by, List<DocumentError> errors)
    {
        if (map["tell"] is null or ScalarNode { IsNull: true })
        {
            return null;
        }

        if (
            map["tell"] is not MapNode tell
            || tell.Members.Any(m =>
                m.Name is not ("customer" or "staff") || m.Value is not ScalarNode { Value.ValueKind: JsonValueKind.True or JsonValueKind.False }
            )
        )
        {
            errors.Add(
                new DocumentError(
                    "tell",
                    map["tell"]!.Line,
                    map["tell"]!.Column,
                    "'tell' is { \"customer\": true | false, \"staff\": true | false }; what is left out is told."
                )
            );
            return null;
        }

        bool Told(string name) => tell[name] is not ScalarNode { Value.ValueKind: JsonValueKind.False };
        return new TellChoice(Told("customer"), Told("staff"), by);
    }

    private static async Task<IResult> ResultAsync(Guid id, HttpContext http, SourceShelf shelf, InstructionDesk desk, SirenaDb db)
    {
        if (await shelf.OfKeyAsync(TokenScheme.Bearer(http.Request), http.RequestAborted) is not { } source)
        {
            return NotKnown(http);
        }

        var (body, refusal) = await RequestText.ObjectAsync(http.Request, "a result", "{ \"state\": \"taken\" }");
        if (body is null)
        {
            return refusal!;
        }

        var state = body["state"] is JsonValue value && value.GetValueKind() == JsonValueKind.String ? value.GetValue<string>() : "";
        if (!FarStates.Contains(state))
        {
            return PeopleApi.Mistakes(
                "The result cannot be taken.",
                [new DocumentError("state", null, null, $"'state' is one of {string.Join(", ", FarStates)}.{Closest.Hint(state, FarStates)}")]
            );
        }

        var words =
            body["words"] is JsonValue said && said.GetValueKind() == JsonValueKind.String ? Core.Deliveries.FarText.Clean(said.GetValue<string>(), 500) : null;
        var (instruction, problem) = await desk.ResultAsync(source.Source.Id, id, state, words, http.RequestAborted);
        return instruction is null ? Problems.Missing($"This source has no instruction '{id}' that it was given.")
            : problem is not null ? Problems.Of(409, "The result changes nothing.", problem, new() { ["state"] = instruction.State.Name() })
            : Results.Json((await ShapesAsync(db, [instruction], http.RequestAborted))[0]);
    }

    private static async Task<IResult> EndAsync(WishEnd ended, SirenaDb db, CancellationToken cancel) =>
        ended switch
        {
            { Status: 200 } => Results.Json((await ShapesAsync(db, [ended.Instruction!], cancel))[0]),
            { Errors.Count: > 0 } => PeopleApi.Mistakes(ended.Problem!, ended.Errors),
            { Status: 404 } => Problems.Missing(ended.Problem!),
            _ => Problems.Of(
                ended.Status,
                ended.Status switch
                {
                    403 => "This is not yours to ask.",
                    409 => "It cannot be asked for now.",
                    _ => "The instruction cannot be asked for.",
                },
                ended.Problem!,
                ended.Instruction is { } under
                    ? new()
                    {
                        ["id"] = under.Id,
                        ["state"] = under.State.Name(),
                        ["by"] = under.By,
                    }
                    : null
            ),
        };

    private static IResult NotKnown(HttpContext http)
    {
        http.Response.Headers.WWWAuthenticate = "Bearer";
        return Problems.Of(401, "Who are you?", "Send a person's token, or for an order system its source's key, as 'Authorization: Bearer …'.");
    }
}
