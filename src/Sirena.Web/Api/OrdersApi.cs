using System.Globalization;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using Sirena.Core;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Engine;
using Sirena.Storage;
using Sirena.Storage.Orders;
using Sirena.Web.Access;

namespace Sirena.Web.Api;

/// <summary>Orders as they are known, newest change first.</summary>
public static class OrdersApi
{
    /// <summary>Maps <c>GET /api/orders</c>.</summary>
    public static void MapOrders(this IEndpointRouteBuilder routes) =>
        routes
            .MapGet("/api/orders", ListAsync)
            .RequireAuthorization(Policies.SeeAll)
            .WithTags("Orders")
            .WithSummary("Orders, newest change first: ?q= (number, customer, vessel, place), status, customer (code or name), from, to (of the last change)");

    private static async Task<IResult> ListAsync(
        HttpContext http,
        SirenaDb db,
        SurroundingsCache surroundings,
        string? q,
        string? status,
        string? customer,
        string? from,
        string? to,
        string? cursor,
        int? limit
    )
    {
        var orders = db.Orders.AsNoTracking().Finding(q);
        if (status is { Length: > 0 })
        {
            var around = await surroundings.GetAsync(http.RequestAborted);
            string[] ids = [.. status.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Select(around.Words.IdOf)];
            orders = orders.Where(o => ids.Contains(o.Status!));
        }

        if (customer?.Trim() is { Length: > 0 } who)
        {
            // The search column ends in the customer's code.
            var (name, code) = ($"%{LikePattern.Literal(who)}%", $"% {LikePattern.Literal(TextFolding.Fold(who))} ");
            orders = orders.Where(o => EF.Functions.ILike(o.Customer!, name) || EF.Functions.Like(o.Search, code));
        }

        foreach (var (name, text) in new[] { ("from", from), ("to", to) })
        {
            if (text is not { Length: > 0 })
            {
                continue;
            }

            if (Facts.Time(text) is not { } at)
            {
                return Problems.Of(400, $"'{name}' is no time.", "A time is RFC 3339 with an offset, such as 2026-11-24T06:12:09Z.");
            }

            orders = name == "from" ? orders.Where(o => o.ChangedAt >= at) : orders.Where(o => o.ChangedAt < at);
        }

        if (cursor is { Length: > 0 })
        {
            var (ticks, number) = Read(cursor);
            if (number is null)
            {
                return Cursor.Foreign;
            }

            var before = Instant.FromUnixTimeTicks(ticks);
            orders = orders.Where(o => o.ChangedAt < before || (o.ChangedAt == before && o.Number.CompareTo(number) < 0));
        }

        var most = Lists.Limit(limit);
        var found = await orders
            .OrderByDescending(o => o.ChangedAt)
            .ThenByDescending(o => o.Number)
            .Take(most + 1)
            .Select(o => new
            {
                o.Number,
                o.Document,
                o.ChangedAt,
                o.Open,
            })
            .ToListAsync(http.RequestAborted);
        var next =
            found.Count > most
                ? Convert
                    .ToBase64String(Encoding.UTF8.GetBytes($"{found[most - 1].ChangedAt.ToUnixTimeTicks()}|{found[most - 1].Number}"))
                    .Replace('+', '-')
                    .Replace('/', '_')
                : null;
        return Lists.Page(http, found.Take(most).Select(o => Shape(o.Number, o.Document, o.ChangedAt, o.Open)), next);
    }

    private static JsonObject Shape(string number, string document, Instant changedAt, bool open)
    {
        var order = (JsonObject)JsonNode.Parse(document)!;
        order["id"] = number;
        order["number"] = number;
        order["changedAt"] = InstantPattern.ExtendedIso.Format(changedAt);
        order["open"] = open;
        return order;
    }

    private static (long Ticks, string? Number) Read(string cursor)
    {
        var bytes = new byte[cursor.Length];
        if (cursor.Length > 400 || !Convert.TryFromBase64String(cursor.Replace('-', '+').Replace('_', '/'), bytes, out var length))
        {
            return default;
        }

        var parts = Encoding.UTF8.GetString(bytes, 0, length).Split('|', 2);
        return parts.Length == 2 && long.TryParse(parts[0], NumberStyles.None, CultureInfo.InvariantCulture, out var ticks) && KnownTime.HoldsTicks(ticks)
            ? (ticks, parts[1])
            : default;
    }
}
