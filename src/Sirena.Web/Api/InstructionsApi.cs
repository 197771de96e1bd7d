using System.Security.Claims;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Engine;
using Sirena.Engine.Instructions;
using Sirena.Engine.Sources;
using Sirena.Formats.Documents;
using Sirena.Formats.Instructions;
using Sirena.Storage;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

/// <summary>Instructions: asked for by people, fetched and answered by order systems, approved, stopped.</summary>
public static partial class InstructionsApi
{
    private static readonly string[] Others = ["order", "kind", "source", "tell", "because", "alert", "with"];
    private static readonly string[] FarStates = ["taken", "seen", "refused"];
    private static readonly TimeSpan LongestPoll = TimeSpan.FromSeconds(30);
    private static readonly TimeSpan Look = TimeSpan.FromMilliseconds(250);

    /// <summary>Maps them.</summary>
    public static void MapInstructions(this IEndpointRouteBuilder routes)
    {
        var api = routes.MapGroup("/api/instructions").WithTags("Instructions");
        api.MapGet("", ListAsync)
            .AllowAnonymous()
            .WithSummary(
                "Instructions, newest first (?order=, state=); with a source's key those that it is to fetch, the oldest first, held open for up to 30 "
                    + "seconds (?wait=) while there are none"
            );
        api.MapGet("/{id:guid}", OneAsync).RequireAuthorization(Policies.SeeAll).WithSummary("One instruction");
        api.MapGet("/rights", (SurroundingsCache around, CancellationToken cancel) => RightsAsync(around, cancel))
            .RequireAuthorization(Policies.SeeAll)
            .WithSummary("Who may ask for what, and what needs a second person's yes");
        api.MapPut("/rights", PutRightsAsync)
            .RequireAuthorization(Policies.Change)
            .WithSummary("Say who may ask for what: a list of { kind, roles, teams, secondYes }; kinds that are left out are as usual");
        api.MapPost("", AskAsync).RequireAuthorization().WithSummary("Ask an order's source to do something to it");
        api.MapPost("/{id:guid}/result", ResultAsync)
            .AllowAnonymous()
            .DisableAntiforgery()
            .WithSummary("What the order system says to it, with its source's key: taken, seen or refused");
        api.MapPost("/{id:guid}/approve", async (Guid id, ClaimsPrincipal user, InstructionDesk desk, SirenaDb db, CancellationToken cancel) =>
                await EndAsync(await desk.ApproveAsync(id, AskerOf(user), cancel), db, cancel)
            )
            .RequireAuthorization()
            .WithSummary("Say the yes that it waits for");
        api.MapPost("/{id:guid}/drop", async (Guid id, ClaimsPrincipal user, InstructionDesk desk, SirenaDb db, CancellationToken cancel) =>
                await EndAsync(await desk.DropAsync(id, AskerOf(user), cancel), db, cancel)
            )
            .RequireAuthorization()
            .WithSummary("Stop it before it goes");
    }

    /// <summary>Whoever is signed in, as they ask.</summary>
    public static Asker AskerOf(ClaimsPrincipal user) => new(user.FindFirstValue("person"), user.Name(), user.FindFirstValue(ClaimTypes.Role) ?? "reader");

    /// <summary>An instruction as the contract shapes it.</summary>
    public static JsonObject Shape(Instruction i, IEnumerable<InstructionAttempt> attempts) =>
        new()
        {
            ["id"] = i.Id.ToString(),
            ["order"] = i.OrderNumber,
            ["source"] = i.Source,
            ["kind"] = i.Kind,
            ["with"] = i.Members,
            ["state"] = i.State.Name(),
            ["waits"] = i.Waits?.Name(),
            ["askedAt"] = Text(i.AskedAt),
            ["by"] = i.By,
            ["person"] = i.Person,
            ["rule"] = i.RuleId,
            ["version"] = i.RuleVersion,
            ["alert"] = i.AlertId?.ToString(),
            ["because"] = i.Because,
            ["tell"] = i.Tell is { } tell
                ? new JsonObject
                {
                    ["customer"] = tell.Customer,
                    ["staff"] = tell.Staff,
                    ["by"] = tell.By,
                }
                : null,
            ["trial"] = i.Trial,
            ["approvedBy"] = i.ApprovedBy,
            ["takenAt"] = Text(i.TakenAt),
            ["seenAt"] = Text(i.SeenAt),
            ["endedAt"] = Text(i.EndedAt),
            ["words"] = i.Words,
            ["mayHaveArrivedTwice"] = i.MayBeTwice,
            ["attempts"] = new JsonArray([
                .. attempts
                    .OrderBy(a => a.Number)
                    .Select(a =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["at"] = Text(a.At),
                                ["endedAt"] = Text(a.EndedAt),
                                ["outcome"] = a.Outcome.Name(),
                                ["code"] = a.Code,
                                ["reply"] = a.Reply,
                            }
                    ),
            ]),
        };

    private static string? Text(Instant? at) => at is { } time ? InstantPattern.ExtendedIso.Format(time) : null;

    internal static async Task<JsonObject[]> ShapesAsync(SirenaDb db, IReadOnlyCollection<Instruction> found, CancellationToken cancel)
    {
        Guid[] ids = [.. found.Select(i => i.Id)];
        var attempts = (await db.InstructionAttempts.AsNoTracking().Where(a => ids.Contains(a.InstructionId)).ToListAsync(cancel)).ToLookup(a =>
            a.InstructionId
        );
        return [.. found.Select(i => Shape(i, attempts[i.Id]))];
    }

    private static async Task<IResult> RightsAsync(SurroundingsCache cache, CancellationToken cancel)
    {
        var around = await cache.GetAsync(cancel);
        return Results.Json(
            new
            {
                items = around
                    .Kinds.Select(around.Business.RightOf)
                    .Select(r => new
                    {
                        id = r.Kind,
                        kind = r.Kind,
                        roles = r.Roles,
                        teams = r.Teams,
                        secondYes = r.SecondYes,
                    }),
                next = (string?)null,
            }
        );
    }

    private static async Task<IResult> PutRightsAsync(HttpContext http, ClaimsPrincipal user, RightsDesk desk, SurroundingsCache cache)
    {
        var (node, refusal) = await RequestText.DocumentAsync(http.Request, "the rights");
        if (node is null)
        {
            return refusal!;
        }

        var (rights, errors) = RightsReader.Read(node);
        var problem = errors.Count > 0 ? null : await desk.SaveAsync(rights, user.Name(), http.RequestAborted);
        return errors.Count > 0 || problem is not null
            ? PeopleApi.Mistakes("The rights have a mistake.", errors.Count > 0 ? errors : [new DocumentError("", null, null, problem!)])
            : await RightsAsync(cache, http.RequestAborted);
    }

    private static async Task<IResult> OneAsync(Guid id, SirenaDb db, CancellationToken cancel) =>
        await db.Instructions.AsNoTracking().FirstOrDefaultAsync(i => i.Id == id, cancel) is { } found
            ? Results.Json((await ShapesAsync(db, [found], cancel))[0])
            : Problems.Missing($"There is no instruction '{id}'.");

    private static async Task<IResult> ListAsync(
        HttpContext http,
        SirenaDb db,
        SourceShelf shelf,
        IDbContextFactory<SirenaDb> factory,
        string? order,
        string? state,
        string? cursor,
        int? limit,
        int? wait
    )
    {
        InstructionState[] states = [];
        if (state is { Length: > 0 })
        {
            InstructionState?[] said =
            [
                .. state.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Select(Names.Parse<InstructionState>),
            ];
            if (Array.Exists(said, s => s is null))
            {
                return Problems.Of(
                    400,
                    "This state is not known.",
                    $"A state is one of {string.Join(", ", Names.All<InstructionState>())}; several are joined by commas."
                );
            }

            states = [.. said.OfType<InstructionState>()];
        }

        if (TokenScheme.Bearer(http.Request) is { } key && !key.StartsWith(TokenScheme.Start, StringComparison.Ordinal))
        {
            return await shelf.OfKeyAsync(key, http.RequestAborted) is { } source
                ? await FetchAsync(http, factory, source.Source.Id, source.Source.Prefix, states, wait, limit)
                : NotKnown(http);
        }

        if (http.User.Identity?.IsAuthenticated != true)
        {
            return NotKnown(http);
        }

        if (!http.User.SeesAll())
        {
            return Problems.Of(403, "You may not see this.", "Supervisors and readers see all instructions; those of an order stand on its page.");
        }

        if (Cursor.Wrong(cursor) is { } broken)
        {
            return broken;
        }

        var which = db.Instructions.AsNoTracking();
        which = order is { Length: > 0 } ? which.Where(i => i.OrderNumber == order) : which;
        which = states.Length > 0 ? which.Where(i => states.Contains(i.State)) : which;
        if (Cursor.Read(cursor) is { } from)
        {
            which = which.Where(i => i.AskedAt < from.At || (i.AskedAt == from.At && i.Id.CompareTo(from.Id) < 0));
        }

        var most = Lists.Limit(limit);
        var found = await which.OrderByDescending(i => i.AskedAt).ThenByDescending(i => i.Id).Take(most).ToListAsync(http.RequestAborted);
        return Lists.Page(http, await ShapesAsync(db, found, http.RequestAborted), found.Count == most ? new Cursor(found[^1].AskedAt, found[^1].Id) : null);
    }

    // What a source is to do: of each order the first that is under way, and nothing that waits for somebody's yes. Without any it is held open, so that a poll
    // is as quick as a call.
    private static async Task<IResult> FetchAsync(
        HttpContext http,
        IDbContextFactory<SirenaDb> factory,
        string source,
        string prefix,
        InstructionState[] states,
        int? wait,
        int? limit
    )
    {
        var asked = states is [] or [InstructionState.Asked];
        var until = DateTimeOffset.UtcNow + TimeSpan.FromSeconds(Math.Clamp(wait ?? (int)LongestPoll.TotalSeconds, 0, LongestPoll.TotalSeconds));
        var most = Lists.Limit(limit);
        while (true)
        {
            await using var db = await factory.CreateDbContextAsync(http.RequestAborted);
            var which = db.Instructions.AsNoTracking().Where(i => i.Source == source && i.Waits == null && !i.Trial);
            which = asked
                ? which
                    .Where(i =>
                        i.State == InstructionState.Asked
                        && !db.Instructions.Any(p =>
                            p.Lane == i.Lane && p.Seq < i.Seq && (p.State == InstructionState.Asked || p.State == InstructionState.Taken) && p.Waits == null
                        )
                    )
                    .OrderBy(i => i.Seq)
                : which.Where(i => states.Contains(i.State)).OrderByDescending(i => i.Seq);
            var found = await which.Take(most).ToListAsync(http.RequestAborted);
            if (found.Count > 0 || !asked || DateTimeOffset.UtcNow >= until)
            {
                Guid[] ids = [.. found.Select(i => i.Id)];
                await db
                    .Instructions.Where(i => ids.Contains(i.Id) && !i.Handed && i.State == InstructionState.Asked)
                    .ExecuteUpdateAsync(u => u.SetProperty(i => i.Handed, true), http.RequestAborted);
                var shapes = await ShapesAsync(db, found, http.RequestAborted);
                foreach (var shape in shapes.Where(s => prefix.Length > 0 && s["order"]?.ToString().StartsWith(prefix, StringComparison.Ordinal) == true))
                {
                    // The source knows its orders without the prefix.
                    shape["order"] = shape["order"]!.ToString()[prefix.Length..];
                }

                return Lists.Page(http, shapes, (string?)null);
            }

            await Task.Delay(Look, http.RequestAborted);
        }
    }
}
