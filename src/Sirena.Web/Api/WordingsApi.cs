using Microsoft.EntityFrameworkCore;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Wordings;
using Sirena.Engine;
using Sirena.Engine.Wordings;
using Sirena.Formats.Documents;
using Sirena.Formats.Wordings;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

/// <summary>Wordings, and what they would say for any order.</summary>
public static class WordingsApi
{
    private static readonly string[] Members = ["wording", "order", "event", "audience", "language", "person"];

    /// <summary>Maps <c>/api/previews</c> and <c>/api/wordings</c>.</summary>
    public static void MapWordings(this IEndpointRouteBuilder routes)
    {
        routes
            .MapPost("/api/previews", PreviewAsync)
            .RequireAuthorization(Policies.SeeAll)
            .WithTags("Wordings")
            .WithSummary("The finished texts of a wording for any order, event, audience and language; nobody is told");
        var group = routes.MapGroup("/api/wordings").WithTags("Wordings");
        group.MapGet("", ListAsync).RequireAuthorization(Policies.SeeAll).WithSummary("Every wording, those that ship and the business's own");
        group.MapGet("/{id}", GetAsync).RequireAuthorization(Policies.SeeAll).WithSummary("One, as JSON or YAML");
        group.MapPut("/{id}", PutAsync).RequireAuthorization(Policies.Change).WithSummary("Saves one");
        group.MapPut("", PutAllAsync).RequireAuthorization(Policies.Change).WithSummary("Saves a list of them, all or none");
        group
            .MapDelete("/{id}", DeleteAsync)
            .RequireAuthorization(Policies.Change)
            .WithSummary("Sets a shipped one back, or removes one of the business's own");
    }

    private static async Task<IResult> PreviewAsync(HttpContext http, WordingDesk desk, SurroundingsCache surroundings)
    {
        var cancel = http.RequestAborted;
        var (map, strangers, refusal) = await PeopleApi.QuestionAsync(http, Members);
        if (map is null)
        {
            return refusal!;
        }

        var errors = strangers.ToList();
        void Wrong(string member, string problem) => errors.Add(new DocumentError(member, (map[member] ?? map).Line, (map[member] ?? map).Column, problem));
        var audience = Names.Parse<Audience>(Word(map, "audience") ?? "staff") ?? Audience.Staff;
        if (Word(map, "audience") is { } word && Names.Parse<Audience>(word) is null)
        {
            Wrong("audience", $"'{word}' is none of {string.Join(", ", Names.All<Audience>())}.");
        }

        var around = await surroundings.GetAsync(cancel);
        var person = Word(map, "person") is { } who ? around.Staff.Person(who) : null;
        if (Word(map, "person") is { } stranger && person is null)
        {
            Wrong("person", $"There is no person '{stranger}'.");
        }

        var type = Word(map, "event");
        if (type is not null && !EventTypes.IsType(type))
        {
            Wrong("event", $"'{type}' cannot be an event: lower-case words joined by dots, such as order.held.");
        }

        var facts = await FactsAsync(map, type, desk, Wrong, cancel);
        var language = Word(map, "language") ?? (audience == Audience.Customer && facts is not null ? facts.CustomerLanguage : person?.Language);
        var (parts, name) = await PartsAsync(map, audience, language, facts, desk, around, errors, Wrong, cancel);
        if (errors.Count > 0 || facts is null || parts is null)
        {
            return PeopleApi.Mistakes("The wording cannot be shown.", errors);
        }

        return Results.Json(
            Shape(await desk.PreviewAsync(new PreviewQuestion(parts, audience, language, facts, name, person), cancel), TextLanguage.Of(language))
        );
    }

    /// <summary>A preview as the API answers it.</summary>
    public static Dictionary<string, object> Shape(Preview preview, TextLanguage language)
    {
        var answer = new Dictionary<string, object>();
        foreach (var (channel, text) in preview.Messages)
        {
            answer[channel.Name()] = channel switch
            {
                Channel.Mail => new
                {
                    subject = text.Subject,
                    text = text.Text,
                    html = text.Html,
                    from = preview.From[channel],
                },
                Channel.Sms => Sms(text.Text, preview.From[channel]),
                _ => new { text = text.Text, from = preview.From[channel] },
            };
        }

        answer["language"] = language.Code;
        answer["fields"] = preview.Fields.Select(f => new
        {
            field = f.Field,
            value = f.Value,
            missing = f.Value is null,
        });
        return answer;
    }

    private static Dictionary<string, object> Sms(string text, string from)
    {
        var sms = SmsText.Of(text);
        return new Dictionary<string, object>
        {
            ["text"] = text,
            ["encoding"] = sms.Encoding == SmsEncoding.Gsm7 ? "gsm-7" : "ucs-2",
            ["segments"] = sms.Segments,
            [sms.Encoding == SmsEncoding.Gsm7 ? "septets" : "units"] = sms.Units,
            ["costly"] = sms.Costly.Select(c => c.Text),
            ["from"] = from,
        };
    }

    private static async Task<(WordingParts? Parts, string Name)> PartsAsync(
        MapNode map,
        Audience audience,
        string? language,
        Facts? facts,
        WordingDesk desk,
        Surroundings around,
        List<DocumentError> errors,
        Action<string, string> wrong,
        CancellationToken cancel
    )
    {
        switch (map["wording"])
        {
            case MapNode own:
                var (parts, mistakes) = WordingReader.ReadParts(own, "wording", audience, Paths(await desk.SeenAsync(cancel), facts));
                errors.AddRange(mistakes);
                if (mistakes.Count == 0 && !parts.Given.Any())
                {
                    wrong("wording", "The wording has no text. Give at least one part, such as { sms: \"…\" }.");
                }

                return (parts, "Preview");
            case ScalarNode { Text: { Length: > 0 } id }:
                if (around.Wording(id) is not { } found)
                {
                    wrong("wording", $"There is no wording '{id}'.{Closest.Hint(id, ShippedWordings.All.Select(w => w.Id).Concat(around.Wordings.Keys))}");
                    return (null, "");
                }

                return (around.TextsFor(id, facts?.Event.Type ?? "order.placed", audience, language), found.Name);
            default:
                wrong("wording", "'wording' is missing: a wording's id, or its texts by channel.");
                return (null, "");
        }
    }

    // What the given event itself carries is known too.
    private static HashSet<string> Paths(IReadOnlySet<string> seen, Facts? facts)
    {
        var all = new HashSet<string>(seen);
        if (facts is not null)
        {
            all.UnionWith(Sightings.In(facts.Event).Select(s => s.Path));
        }

        return all;
    }

    private static async Task<Facts?> FactsAsync(MapNode map, string? type, WordingDesk desk, Action<string, string> wrong, CancellationToken cancel)
    {
        switch (map["order"])
        {
            case null or ScalarNode { IsNull: true }:
                return await desk.FactsOfAsync("{}", type, null, cancel);
            case ScalarNode { Text: { } number }:
                if (await desk.FactsAsync(number, type, cancel) is { } facts)
                {
                    return facts;
                }

                wrong("order", $"No event has told of the order '{number}'.");
                return null;
            case MapNode order:
                var json = order.ToJson();
                var given = Facts.Member(json, "number") is { ValueKind: System.Text.Json.JsonValueKind.String } n ? n.GetString() : null;
                return await desk.FactsOfAsync(json.GetRawText(), type, given, cancel);
            default:
                wrong("order", "'order' is an order's number, or an order as an event carries it.");
                return null;
        }
    }

    private static string? Word(MapNode map, string name) => map[name] is ScalarNode { Text: { } text, IsNull: false } ? text : null;

    private static async Task<IResult> ListAsync(HttpContext http, SurroundingsCache surroundings)
    {
        var around = await surroundings.GetAsync(http.RequestAborted);
        return Results.Json(new { items = around.AllWordings.Select(WordingReader.Write), next = (string?)null });
    }

    private static async Task<IResult> GetAsync(HttpContext http, string id, SurroundingsCache surroundings)
    {
        var around = await surroundings.GetAsync(http.RequestAborted);
        if (around.Wording(id) is not { } wording)
        {
            return Problems.Of(404, "There is no such wording.", $"No wording has the id '{id}'.");
        }

        var document = WordingReader.Write(wording);
        await Versions.TagAsync(http, Thing(id), Versions.Of(document));
        return http.Request.Headers.Accept.ToString().Contains("yaml", StringComparison.OrdinalIgnoreCase)
            ? Results.Text(YamlText.Write(document), "application/yaml")
            : Results.Json(document);
    }

    private static Task<IResult> PutAsync(HttpContext http, string id, WordingDesk desk) => TakeAsync(http, id, desk);

    private static Task<IResult> PutAllAsync(HttpContext http, WordingDesk desk) => TakeAsync(http, null, desk);

    private static async Task<IResult> TakeAsync(HttpContext http, string? id, WordingDesk desk)
    {
        var cancel = http.RequestAborted;
        var (text, refusal) = await RequestText.ReadAsync(http.Request, "a document");
        if (text is null)
        {
            return refusal!;
        }

        var (wordings, errors) = WordingReader.Read(text, RequestText.IsYaml(http.Request), id, await desk.SeenAsync(cancel));
        if (errors.Count == 0 && id is not null && (wordings.Count != 1 || wordings[0].Id != id))
        {
            errors = [new DocumentError("id", null, null, $"The document's id is not '{id}', which the address says. Make them the same or leave the id out.")];
        }

        if (errors.Count > 0)
        {
            return PeopleApi.Mistakes("The wording has a mistake. Nothing was saved.", errors);
        }

        if (id is null)
        {
            await desk.SaveAsync(wordings, http.User.Name(), cancel);
            return Results.Json(new { saved = wordings.Count });
        }

        await using var held = await Versions.HoldAsync(http, Thing(id));
        var (known, refused) = await StandingAsync(http, id, desk);
        if (refused is not null)
        {
            return refused;
        }

        await desk.SaveAsync(wordings, http.User.Name(), cancel);
        var saved = WordingReader.Write(wordings[0]);
        await Versions.TagAsync(http, Thing(id), Versions.Of(saved));
        return Results.Json(saved, statusCode: known ? 200 : 201);
    }

    private static async Task<IResult> DeleteAsync(HttpContext http, string id, WordingDesk desk)
    {
        await using var held = await Versions.HoldAsync(http, Thing(id));
        var (known, refused) = await StandingAsync(http, id, desk);
        return known && refused is not null ? refused
            : await desk.RemoveAsync(id, http.User.Name(), http.RequestAborted) is { } problem
                ? Problems.Of(problem.StartsWith("There is no", StringComparison.Ordinal) ? 404 : 409, "It stays.", problem)
            : Results.NoContent();
    }

    // Whether there is such a wording, and the answer to a caller who means another version of it.
    private static async Task<(bool Known, IResult? Refused)> StandingAsync(HttpContext http, string id, WordingDesk desk)
    {
        var current = await desk.FindAsync(id, http.RequestAborted);
        return (current is not null, await Versions.OvertakenAsync(http, Thing(id), current, w => Versions.Of(WordingReader.Write(w)), WordingReader.Write));
    }

    private static string Thing(string id) => $"wording:{id}";
}
