using NodaTime;
using Sirena.Core;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Engine.People;
using Sirena.Formats.Documents;
using Sirena.Formats.Rules;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

/// <summary>Who would be told, for any order and any instant.</summary>
public static class WhoApi
{
    private static readonly string[] Members = ["tell", "by", "urgency", "event", "order", "at", "rule"];

    /// <summary>Maps <c>POST /api/who</c>.</summary>
    public static void MapWho(this IEndpointRouteBuilder routes) =>
        routes
            .MapPost("/api/who", AskAsync)
            .RequireAuthorization(Policies.SeeAll)
            .WithTags("People")
            .WithSummary("Who would be told, and why not the others; nobody is told");

    private static async Task<IResult> AskAsync(HttpContext http, WhoDesk desk, IClock clock)
    {
        var cancel = http.RequestAborted;
        var (map, strangers, refusal) = await PeopleApi.QuestionAsync(http, Members);
        if (map is null)
        {
            return refusal!;
        }

        var (tell, by, mistakes) = TellingReader.ReadTelling(map, null);
        var errors = mistakes.ToList();
        errors.AddRange(strangers);
        var urgency = Word(map, "urgency", errors) is { } word
            ? Names.Parse<Urgency>(word) ?? Wrong<Urgency>(errors, map, "urgency", $"'{word}' is none of {string.Join(", ", Names.All<Urgency>())}.")
            : Urgency.Prompt;
        var at = Word(map, "at", errors) is { } moment
            ? Facts.Time(moment) ?? Wrong<Instant>(errors, map, "at", $"'{moment}' is no time of RFC 3339 with an offset, such as 2026-11-24T15:30:00Z.")
            : clock.GetCurrentInstant();
        var type = Word(map, "event", errors) ?? "order.placed";
        var order = await OrderAsync(map, desk, errors, cancel);
        if (errors.Count > 0)
        {
            return PeopleApi.Mistakes("The question has a mistake.", errors);
        }

        var who = await desk.AskAsync(new TellQuestion(tell, by, urgency, type, Word(map, "rule", errors), true, at), order, cancel);
        return Results.Json(
            new
            {
                told = who.Told.Select(t =>
                    t.Person is { } person
                        ? (object)
                            new
                            {
                                person,
                                channel = t.Channel.Name(),
                                contact = t.Contact,
                                because = t.Because,
                                verified = t.Verified,
                            }
                        : new
                        {
                            address = t.Contact,
                            channel = t.Channel.Name(),
                            contact = t.Contact,
                            because = t.Because,
                            verified = t.Verified,
                        }
                ),
                left = who.Left.Select(l => new
                {
                    person = l.Person,
                    because = l.Because,
                    nobody = l.Nobody,
                }),
                held = who.Held.Select(t => new
                {
                    person = t.Person,
                    channel = t.Channel.Name(),
                    contact = t.Contact,
                    until = t.HeldUntil,
                }),
            }
        );
    }

    private static async Task<string?> OrderAsync(MapNode map, WhoDesk desk, List<DocumentError> errors, CancellationToken cancel)
    {
        switch (map["order"])
        {
            case null or ScalarNode { IsNull: true }:
                return null;
            case ScalarNode { Text: { } number } at:
                if (await desk.OrderAsync(number, cancel) is { } known)
                {
                    return known;
                }

                errors.Add(new DocumentError("order", at.Line, at.Column, $"No event has told of the order '{number}'."));
                return null;
            case MapNode order:
                return order.ToJson().GetRawText();
            case var other:
                errors.Add(new DocumentError("order", other.Line, other.Column, "'order' is an order's number, or an order as an event carries it."));
                return null;
        }
    }

    private static string? Word(MapNode map, string name, List<DocumentError> errors)
    {
        switch (map[name])
        {
            case null or ScalarNode { IsNull: true }:
                return null;
            case ScalarNode { Text: { } text }:
                return text;
            case var other:
                errors.Add(new DocumentError(name, other.Line, other.Column, $"'{name}' must be text."));
                return null;
        }
    }

    private static T Wrong<T>(List<DocumentError> errors, MapNode map, string name, string problem)
        where T : struct
    {
        errors.Add(new DocumentError(name, map[name]!.Line, map[name]!.Column, problem));
        return default;
    }
}
