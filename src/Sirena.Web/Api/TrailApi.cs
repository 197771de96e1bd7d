using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Engine;
using Sirena.Engine.Trail;
using Sirena.Storage;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

/// <summary>Reads trails, alerts, deliveries, and who and what there is.</summary>
public static class TrailApi
{
    /// <summary>Maps them.</summary>
    public static void MapTrails(this IEndpointRouteBuilder routes)
    {
        var api = routes.MapGroup("/api").WithTags("Trail").RequireAuthorization(Policies.SeeAll);
        api.MapGet("/orders/{number}/trail", async (string number, TrailReader trails, SirenaDb db, CancellationToken cancel) =>
                await trails.OfOrderAsync(number, cancel) is { } trail
                    ? Results.Json(
                        Shapes.Of(
                            trail,
                            await InstructionsApi.ShapesAsync(
                                db,
                                await db.Instructions.AsNoTracking().Where(i => i.OrderNumber == number).OrderBy(i => i.Seq).ToListAsync(cancel),
                                cancel
                            )
                        )
                    )
                    : Problems.Missing($"No event has told of the order '{number}'.")
            )
            .WithSummary("An order's events, the rules considered, its alerts and deliveries");
        api.MapGet("/events/{id}/trail", async (string id, TrailReader trails, CancellationToken cancel) =>
                await trails.OfEventAsync(id, cancel) is { } trail ? Results.Json(Shapes.Of(trail)) : Problems.Missing($"No event has the id '{id}'.")
            )
            .WithSummary("One event's rules, alerts and deliveries");
        api.MapGet("/events", EventsAsync).WithSummary("Events that could not be decided (?state=undecided), newest first");
        api.MapPost("/events/{id}/decide", DecideAsync).RequireAuthorization(Policies.Change).WithSummary("Decide an event anew that was set aside");
        api.MapGet("/alerts", AlertsAsync).WithSummary("Alerts, newest first");
        api.MapGet("/deliveries", DeliveriesAsync).WithSummary("Deliveries, newest first");
    }

    private static async Task<IResult> AlertsAsync(
        HttpContext http,
        SirenaDb db,
        TrailReader trails,
        string? state,
        string? order,
        string? cursor,
        int? limit,
        CancellationToken cancel
    )
    {
        var which = db.Alerts.AsQueryable();
        if (state is { Length: > 0 })
        {
            if (Parse<AlertState>(state, out var states) is { } problem)
            {
                return problem;
            }

            which = which.Where(a => states.Contains(a.State));
        }

        if (order is { Length: > 0 })
        {
            which = which.Where(a => a.OrderNumber == order);
        }

        if (Cursor.Wrong(cursor) is { } broken)
        {
            return broken;
        }

        if (Cursor.Read(cursor) is { } from)
        {
            which = which.Where(a => a.RaisedAt < from.At || (a.RaisedAt == from.At && a.Id.CompareTo(from.Id) < 0));
        }

        var take = Lists.Limit(limit);
        var found = await trails.AlertsAsync(which.OrderByDescending(a => a.RaisedAt).ThenByDescending(a => a.Id).Take(take), cancel);
        return Lists.Page(http, found.Select(Shapes.Of), found.Count == take ? new Cursor(found[^1].Alert.RaisedAt, found[^1].Alert.Id) : null);
    }

    private static async Task<IResult> EventsAsync(HttpContext http, SirenaDb db, string? state, string? cursor, int? limit)
    {
        if (state is not "undecided")
        {
            return Problems.Of(400, "This filter is not known.", "'state' can be 'undecided'; an order's events are in its trail.");
        }

        var (before, foreign) = Cursor.Number(cursor);
        if (foreign is not null)
        {
            return foreign;
        }

        var take = Lists.Limit(limit);
        var found = await db
            .Events.AsNoTracking()
            .Where(e => e.SetAsideAt != null && (before == null || e.Id < before))
            .OrderByDescending(e => e.Id)
            .Take(take)
            .ToListAsync(http.RequestAborted);
        return Lists.Page(
            http,
            found.Select(e => new
            {
                id = e.EventId,
                source = e.Source,
                type = e.Type,
                subject = e.Subject,
                order = e.OrderNumber,
                seq = e.Seq,
                received = e.Received,
                setAsideAt = e.SetAsideAt,
                tries = e.Tries,
                problem = e.Problem,
            }),
            found.Count == take ? found[^1].Id.ToString(System.Globalization.CultureInfo.InvariantCulture) : null
        );
    }

    private static async Task<IResult> DecideAsync(string id, SirenaDb db, Engine.Decide.DecideWorker worker, CancellationToken cancel)
    {
        if (
            await db.Events.AsNoTracking().Where(e => e.EventId == id).OrderByDescending(e => e.SetAsideAt != null).FirstOrDefaultAsync(cancel)
            is not { } happened
        )
        {
            return Problems.Missing($"No event has the id '{id}'.");
        }

        if (happened.SetAsideAt is null)
        {
            return Problems.Of(
                409,
                "This event is not set aside.",
                happened.DecidedAt is null ? "It waits for its turn." : "It was decided; its trail says what came of it."
            );
        }

        var decided = await worker.AgainAsync(happened.Id, cancel) > 0;
        var problem = decided ? null : await db.Events.AsNoTracking().Where(e => e.Id == happened.Id).Select(e => e.Problem).FirstAsync(cancel);
        return Results.Json(
            new
            {
                id,
                decided,
                late = decided,
                problem,
            }
        );
    }

    private static async Task<IResult> DeliveriesAsync(
        HttpContext http,
        SirenaDb db,
        TrailReader trails,
        string? state,
        string? order,
        string? channel,
        string? person,
        string? from,
        string? to,
        string? cursor,
        int? limit,
        CancellationToken cancel
    )
    {
        var which = db.Deliveries.AsNoTracking();
        if (state is { Length: > 0 })
        {
            if (Parse<DeliveryState>(state, out var states) is { } problem)
            {
                return problem;
            }

            // What is being sent is stored as waiting, under a lease.
            var sending = states.Contains(DeliveryState.Sending);
            which = which.Where(d =>
                (states.Contains(d.State) && (d.State != DeliveryState.Waiting || d.Lease == null))
                || (sending && d.State == DeliveryState.Waiting && d.Lease != null)
            );
        }

        if (channel is { Length: > 0 })
        {
            if (Parse<Channel>(channel, out var channels) is { } problem)
            {
                return problem;
            }

            which = which.Where(d => channels.Contains(d.Channel));
        }

        foreach (
            var (text, name, apply) in new (string?, string, Action<Instant>)[]
            {
                (from, "from", at => which = which.Where(d => d.CreatedAt >= at)),
                (to, "to", at => which = which.Where(d => d.CreatedAt < at)),
            }
        )
        {
            if (text is { Length: > 0 })
            {
                if (Core.Orders.Fields.Facts.Time(text) is not { } parsed)
                {
                    return Problems.Of(400, $"'{name}' is no time.", $"'{text}' is not RFC 3339 with an offset, such as 2026-11-24T06:12:09Z.");
                }

                apply(parsed);
            }
        }

        which = order is { Length: > 0 } ? which.Where(d => d.OrderNumber == order) : which;
        which = person is { Length: > 0 } ? which.Where(d => d.Person == person) : which;
        if (Cursor.Wrong(cursor) is { } broken)
        {
            return broken;
        }

        if (Cursor.Read(cursor) is { } start)
        {
            which = which.Where(d => d.CreatedAt < start.At || (d.CreatedAt == start.At && d.Id.CompareTo(start.Id) < 0));
        }

        var take = Lists.Limit(limit);
        var found = await trails.DeliveriesAsync(
            await which.OrderByDescending(d => d.CreatedAt).ThenByDescending(d => d.Id).Take(take).ToListAsync(cancel),
            cancel
        );
        return Lists.Page(http, found.Select(Shapes.Of), found.Count == take ? new Cursor(found[^1].Delivery.CreatedAt, found[^1].Delivery.Id) : null);
    }

    private static IResult? Parse<T>(string text, out T[] values)
        where T : struct, Enum
    {
        var words = text.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        values = [.. words.Select(w => Names.Parse<T>(w)).OfType<T>()];
        return values.Length == words.Length
            ? null
            : Problems.Of(400, "This filter is not known.", $"'{words.First(w => Names.Parse<T>(w) is null)}' is none of {string.Join(", ", Names.All<T>())}.");
    }
}
