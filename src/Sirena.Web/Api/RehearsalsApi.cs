using NodaTime;
using NodaTime.Text;
using Sirena.Core.Insight;
using Sirena.Core.Orders.Fields;
using Sirena.Engine;
using Sirena.Engine.Rules;
using Sirena.Formats.Documents;
using Sirena.Formats.Rules;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

/// <summary>What a draft would have done. A short one is answered at once; a long one goes on and can be asked for and stopped.</summary>
public static class RehearsalsApi
{
    private static readonly TimeSpan AtOnce = TimeSpan.FromSeconds(8);

    /// <summary>Maps them.</summary>
    public static void MapRehearsals(this IEndpointRouteBuilder routes)
    {
        routes
            .MapGet("/schemas/rule.json", () => Results.Json(RuleSchema.Make(), contentType: "application/schema+json"))
            .AllowAnonymous()
            .WithTags("Rules")
            .WithSummary("The JSON Schema of a rule document");
        var api = routes.MapGroup("/api/rehearsals").WithTags("Rules").RequireAuthorization(Policies.SeeAll);
        api.MapPost("", BeginAsync).WithSummary("Run a draft over stored events beside the version in force; nobody is told");
        api.MapGet("/{id:guid}", (Guid id, RehearsalDesk desk, SurroundingsCache around, HttpContext http) =>
                desk.Find(id) is { } found ? AnswerAsync(found, TimeSpan.Zero, around, http) : Task.FromResult(Missing())
            )
            .WithSummary("How far a rehearsal is, or its result");
        api.MapDelete("/{id:guid}", (Guid id, RehearsalDesk desk) => desk.End(id) ? Results.NoContent() : Missing()).WithSummary("Stop a rehearsal");
    }

    private static async Task<IResult> BeginAsync(HttpContext http, RehearsalDesk desk, RuleDesk rules, SurroundingsCache around, IClock clock)
    {
        var cancel = http.RequestAborted;
        var (node, refusal) = await RequestText.DocumentAsync(http.Request, "the rehearsal");
        if (node is not MapNode map || map["rule"] is not MapNode rule)
        {
            return refusal
                ?? PeopleApi.Mistakes(
                    "The rehearsal cannot be read.",
                    [new DocumentError("rule", node!.Line, node.Column, "An object with the members rule, from and to is expected; 'rule' is a rule document.")]
                );
        }

        var errors = new List<DocumentError>();
        var (draft, mistakes) = RuleReader.Read(rule.ToJson().GetRawText(), yaml: false, await rules.NamesAsync(cancel));
        errors.AddRange(mistakes.Select(m => m with { Path = $"rule.{m.Path}", Line = null, Column = null }));
        var now = clock.GetCurrentInstant();
        var to = Moment(map, "to", now, errors);
        var from = Moment(map, "from", to - Duration.FromDays(30), errors);
        if (errors.Count == 0 && from >= to)
        {
            errors.Add(new DocumentError("from", map["from"]?.Line, map["from"]?.Column, "The period ends before it begins."));
        }

        return errors.Count > 0
            ? PeopleApi.Mistakes("The draft has a mistake.", errors)
            : await AnswerAsync(desk.Begin(draft!, from, to), AtOnce, around, http);
    }

    private static async Task<IResult> AnswerAsync(RunningRehearsal run, TimeSpan wait, SurroundingsCache around, HttpContext http)
    {
        try
        {
            var found = await run.Result.WaitAsync(wait, http.RequestAborted);
            return Results.Json(Shape(found, run, (await around.GetAsync(http.RequestAborted)).Business.Zone));
        }
        catch (TimeoutException)
        {
            http.Response.Headers.Location = $"/api/rehearsals/{run.Id}";
            return Results.Json(
                new
                {
                    id = run.Id,
                    events = run.Events,
                    running = true,
                },
                statusCode: 202
            );
        }
    }

    private static object Shape(Rehearsal found, RunningRehearsal run, DateTimeZone zone)
    {
        var (gained, lost, changed) = found.Difference();
        return new
        {
            events = found.Events,
            alerts = found.Draft.Count,
            inForce = found.InForce.Count,
            unreached = found.Draft.Sum(a => a.Unreached),
            byDay = found
                .ByDay(run.From, run.To, zone)
                .Select(d => new
                {
                    day = LocalDatePattern.Iso.Format(d.Day),
                    draft = d.Draft,
                    inForce = d.InForce,
                }),
            heard = found.Heard,
            byCase = found.Cases.Select(c => new { @case = c.Case, events = c.Events }),
            byPerson = found
                .ByPerson()
                .Select(p => new
                {
                    person = p.Person,
                    draft = p.Draft,
                    inForce = p.InForce,
                    busiestHour = p.BusiestHour is { } hour ? new { from = hour, alerts = p.InBusiestHour } : null,
                }),
            instructions = found
                .Asks.GroupBy(a => (a.Kind, a.Step))
                .Select(g => new
                {
                    kind = g.Key.Kind,
                    step = g.Key.Step,
                    count = g.Count(),
                    orders = g.Select(a => a.Subject).OfType<string>().Distinct().Take(100),
                }),
            gained,
            lost,
            changed,
        };
    }

    private static Instant Moment(MapNode map, string name, Instant usual, List<DocumentError> errors)
    {
        if (map[name] is null or ScalarNode { IsNull: true })
        {
            return usual;
        }

        if (map[name] is ScalarNode { Text: { } text } && Facts.Time(text) is { } at)
        {
            return at;
        }

        errors.Add(
            new DocumentError(name, map[name]!.Line, map[name]!.Column, $"'{name}' is no time of RFC 3339 with an offset, such as 2026-11-24T15:30:00Z.")
        );
        return usual;
    }

    private static IResult Missing() => Problems.Missing("There is no such rehearsal on this node; it was stopped, or is long over.");
}
