using System.Security.Claims;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Http.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Options;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Engine;
using Sirena.Engine.Dispatch;
using Sirena.Engine.Ladders;
using Sirena.Formats.Documents;
using Sirena.Storage;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

/// <summary>Sets up gateways, takes their receipts and replies, and takes answers to alerts.</summary>
public static class GatewaysApi
{
    private const int LargestCall = 64 * 1024;

    /// <summary>Maps them.</summary>
    public static void MapGateways(this IEndpointRouteBuilder routes)
    {
        var api = routes.MapGroup("/api/gateways").WithTags("Gateways").RequireAuthorization(Policies.SeeAll);
        api.MapGet("", async (SirenaDb db, CancellationToken cancel) =>
                Results.Json(
                    new
                    {
                        items = (await db.Gateways.AsNoTracking().OrderBy(g => g.Channel).ThenBy(g => g.Position).ToListAsync(cancel)).Select(g => Shape(g)),
                        next = (string?)null,
                    }
                )
            )
            .WithSummary("The gateways in their order, without their secrets");
        api.MapGet("/{id}", async (string id, HttpContext http, SirenaDb db, GatewayDesk desk) =>
            {
                if (await db.Gateways.AsNoTracking().FirstOrDefaultAsync(g => g.Id == id, http.RequestAborted) is not { } gateway)
                {
                    return Problems.Missing($"There is no gateway '{id}'.");
                }

                await Versions.TagAsync(http, Thing(id), VersionOf(desk, gateway));
                return Results.Json(Shape(gateway));
            })
            .WithSummary("One gateway, without its secrets");
        api.MapPut("/{id}", PutAsync).RequireAuthorization(Policies.Change).WithSummary("Create or change a gateway; secrets go in and never come out");
        api.MapDelete("/{id}", DeleteAsync).RequireAuthorization(Policies.Change).WithSummary("Take a gateway away");
        routes
            .MapPost("/api/receipts/{gateway}", ReceiptAsync)
            .AllowAnonymous()
            .DisableAntiforgery()
            .WithTags("Gateways")
            .WithSummary("Receipts and replies from a gateway, signed as Standard Webhooks says");
        routes
            .MapPost("/api/alerts/{id:guid}/answers", AnswerAsync)
            .RequireAuthorization()
            .WithTags("Trail")
            .WithSummary("Answer an alert: taken, passed (with to), declined, done, later (with until)");
    }

    private static async Task<IResult> PutAsync(string id, HttpContext http, GatewayDesk desk, SirenaDb db)
    {
        var (document, refusal) = await RequestText.ObjectAsync(http.Request, "the gateway", "{ \"channel\": \"sms\", \"address\": \"https://…\" }");
        if (document is null)
        {
            return refusal!;
        }

        await using var held = await Versions.HoldAsync(http, Thing(id));
        var current = await db.Gateways.AsNoTracking().FirstOrDefaultAsync(g => g.Id == id, http.RequestAborted);
        if (await OvertakenAsync(http, desk, id, current) is { } overtaken)
        {
            return overtaken;
        }

        var saved = await desk.SaveAsync(id, document, http.User.Name(), http.RequestAborted);
        if (saved.Gateway is not null)
        {
            await Versions.TagAsync(http, Thing(id), VersionOf(desk, saved.Gateway));
        }

        return saved.Gateway is not { } gateway ? PeopleApi.Mistakes("The gateway has a mistake.", saved.Errors)
            : saved.Created ? Results.Created($"/api/gateways/{id}", Shape(gateway, saved.NewReceiptKey))
            : Results.Json(Shape(gateway, saved.NewReceiptKey));
    }

    private static async Task<IResult> DeleteAsync(string id, HttpContext http, GatewayDesk desk, SirenaDb db)
    {
        await using var held = await Versions.HoldAsync(http, Thing(id));
        var current = await db.Gateways.AsNoTracking().FirstOrDefaultAsync(g => g.Id == id, http.RequestAborted);
        return current is not null && await OvertakenAsync(http, desk, id, current) is { } overtaken ? overtaken
            : await desk.RemoveAsync(id, http.User.Name(), http.RequestAborted) ? Results.NoContent()
            : Problems.Missing($"There is no gateway '{id}'.");
    }

    private static Task<IResult?> OvertakenAsync(HttpContext http, GatewayDesk desk, string id, Gateway? current) =>
        Versions.OvertakenAsync(
            http,
            Thing(id),
            current,
            g => VersionOf(desk, g),
            g =>
                System.Text.Json.JsonSerializer.SerializeToNode(
                    Shape(g),
                    http.RequestServices.GetRequiredService<IOptions<JsonOptions>>().Value.SerializerOptions
                )
        );

    private static async Task<IResult> ReceiptAsync(string gateway, HttpContext http, ReceiptDesk desk)
    {
        if (await RequestText.BytesAsync(http.Request, LargestCall, http.RequestAborted) is not { } body)
        {
            return Problems.Of(413, "The call is too large.", "A receipt holds at most 64 KB.");
        }

        string? Header(string name) => http.Request.Headers[name] is { Count: > 0 } v ? v.ToString() : null;
        var taken = await desk.TakeAsync(gateway, Header("webhook-id"), Header("webhook-timestamp"), Header("webhook-signature"), body, http.RequestAborted);
        return taken.Problem is { } problem ? Problems.Of(taken.Status, "The call was not taken.", problem) : Results.StatusCode(taken.Status);
    }

    private static async Task<IResult> AnswerAsync(Guid id, HttpContext http, AnswerDesk desk, SurroundingsCache around)
    {
        var (given, refusal) = await RequestText.ObjectAsync(http.Request, "the answer", "{ \"answer\": \"taken\" }");
        if (given is null)
        {
            return refusal!;
        }

        string? Text(string name) => given[name] is JsonValue v && v.TryGetValue<string>(out var s) ? s : null;
        var staff = (await around.GetAsync(http.RequestAborted)).Staff;
        var own = http.User.FindFirst("person")?.Value;
        var person = Text("person") ?? own;
        if (Names.Parse<AnswerKind>(Text("answer") ?? "") is not { } answer || person is null || staff.Person(person) is null)
        {
            return PeopleApi.Mistakes(
                "The answer cannot be taken.",
                [
                    person is null || staff.Person(person) is null
                        ? new DocumentError("person", null, null, $"There is no person '{person}'.{Closest.Hint(person ?? "", staff.People.Select(p => p.Id))}")
                        : new DocumentError("answer", null, null, $"'{Text("answer")}' is none of {string.Join(", ", Names.All<AnswerKind>())}."),
                ]
            );
        }

        if (person != own && !http.User.MayChange())
        {
            return Problems.Of(403, "Only a supervisor answers for others.", "Leave 'person' out to answer for yourself.");
        }

        if (http.User.IsInRole(Storage.Access.Role.Reader.Name()))
        {
            return Problems.Of(403, "A reader answers nothing.", "Ask a supervisor for another role.");
        }

        var until = Text("until") is { } at ? Core.Orders.Fields.Facts.Time(at) : null;
        var answered = await desk.AnswerAsync(
            id,
            person,
            answer,
            "api",
            person == own ? null : http.User.Name(),
            Text("note"),
            null,
            http.RequestAborted,
            Text("to"),
            until
        );
        if (answered.NotTold && http.User.MayChange())
        {
            answered = await desk.AnswerAsync(id, person, answer, "api", http.User.Name(), Text("note"), null, http.RequestAborted, Text("to"), until);
        }

        if (answered.NotTold)
        {
            return Problems.Of(403, "This alert is not yours to answer.", answered.Problem!);
        }

        return answered is { Alert: null, Problem: { } wrong } && answer == AnswerKind.Passed
                ? PeopleApi.Mistakes("The answer cannot be taken.", [new DocumentError("to", null, null, wrong)])
            : answered is { Conflict: false, Problem: { } when } && answer == AnswerKind.Later
                ? PeopleApi.Mistakes("The answer cannot be taken.", [new DocumentError("until", null, null, when)])
            : answered.Alert is not { } alert ? Problems.Missing($"There is no alert '{id}'.")
            : answered.Problem is { } problem
                ? Problems.Of(409, "The answer was not taken.", problem, new() { ["takenBy"] = alert.TakenBy, ["state"] = alert.State.Name() })
            : Results.Json(
                new
                {
                    alert = alert.Id,
                    state = alert.State.Name(),
                    takenBy = alert.TakenBy,
                    person,
                    answer = answer.Name(),
                },
                statusCode: 201
            );
    }

    private static string Thing(string id) => $"gateway:{id}";

    // What was set, not how it fares.
    private static string VersionOf(GatewayDesk desk, Gateway g) => Versions.Of(System.Text.Json.JsonSerializer.SerializeToNode(desk.SettingsOf(g))!);

    private static object Shape(Gateway g, string? receiptKey = null) =>
        new
        {
            id = g.Id,
            channel = g.Channel.Name(),
            name = g.Name,
            position = g.Position,
            on = g.On,
            address = g.Address,
            width = g.Width,
            encryption = g.Channel == Channel.Mail ? g.Encryption : null,
            user = g.User,
            sender = g.Sender,
            ehlo = g.Ehlo,
            certificateAuthority = g.Authority,
            certificatePin = g.Pin,
            headers = g.Headers.Keys,
            body = g.Body,
            idAt = g.IdAt,
            errorAt = g.ErrorAt,
            perMinute = g.PerMinute,
            tokenAddress = g.TokenAddress,
            clientId = g.ClientId,
            scope = g.Scope,
            dkimSelector = g.DkimSelector,
            hasDkimKey = g.DkimKey is not null,
            segmentCost = g.SegmentCost,
            monthlyBudget = g.MonthlyBudget,
            echoMinutes = g.EchoMinutes,
            echoTo = g.EchoTo,
            echoSentAt = g.EchoSentAt,
            echoBackAt = g.EchoBackAt,
            hasSecret = g.Secret is not null,
            receiptSecret = receiptKey,
            failingSince = g.FailingSince,
            lastError = g.LastError,
            lastGoodAt = g.LastGoodAt,
        };
}
