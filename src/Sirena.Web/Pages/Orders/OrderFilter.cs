using System.Globalization;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Storage;
using Sirena.Storage.Orders;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Orders;

/// <summary>What the Orders page is asked to show, as it stands in its address.</summary>
public sealed record OrderFilter
{
    /// <summary>A part of the number, the customer or the place.</summary>
    public string? Q { get; init; }

    /// <summary>A status's id, or <see langword="null"/> for every open one.</summary>
    public string? Status { get; init; }

    /// <summary>A site's id.</summary>
    public string? Site { get; init; }

    /// <summary><c>hour</c>, <c>today</c>, <c>tomorrow</c>, <c>after</c> or <c>over</c>.</summary>
    public string? Due { get; init; }

    /// <summary><c>medium</c> or <c>high</c>.</summary>
    public string? Risk { get; init; }

    /// <summary>Only those on hold.</summary>
    public bool Held { get; init; }

    /// <summary><c>open</c>: an alert of it waits for an answer; <c>nobody</c>: one told nobody.</summary>
    public string? Told { get; init; }

    /// <summary>Where the page begins: the due time in ticks and the number of the last row before it.</summary>
    public string? After { get; init; }

    /// <summary>The number of the order that is looked at without leaving the list.</summary>
    public string? Look { get; init; }

    /// <summary>The address of this filter with some of it changed.</summary>
    public static string Address(OrderFilter f)
    {
        (string, string?)[] all =
        [
            ("q", f.Q),
            ("status", f.Status),
            ("site", f.Site),
            ("due", f.Due),
            ("risk", f.Risk),
            ("held", f.Held ? "true" : null),
            ("told", f.Told),
            ("after", f.After),
            ("look", f.Look),
        ];
        return "/orders"
            + Microsoft.AspNetCore.Http.QueryString.Create(all.Where(a => !string.IsNullOrEmpty(a.Item2)).Select(a => KeyValuePair.Create(a.Item1, a.Item2)));
    }

    /// <summary>The spans of due time that can be chosen, by their names in an address.</summary>
    public static IReadOnlyList<(string Name, Instant From, Instant To)> Spans(DeskTime clock)
    {
        string[] names = ["over", "hour", "today", "tomorrow", "after"];
        return
        [
            .. names.Select(n =>
            {
                var (from, to) = Span(n, clock);
                return (n, from, to);
            }),
        ];
    }

    /// <summary>One of them, from its begin to before its end.</summary>
    public static (Instant From, Instant To) Span(string due, DeskTime clock)
    {
        var tomorrow = clock.Zone.AtStartOfDay(clock.Today.PlusDays(1)).ToInstant();
        var after = clock.Zone.AtStartOfDay(clock.Today.PlusDays(2)).ToInstant();
        return due switch
        {
            "over" => (Instant.FromUnixTimeTicks(0), clock.Now),
            "hour" => (clock.Now, clock.Now + Duration.FromHours(1)),
            "today" => (clock.Now + Duration.FromHours(1), tomorrow),
            "tomorrow" => (Instant.Max(tomorrow, clock.Now + Duration.FromHours(1)), after),
            _ => (after, Instant.FromUtc(9999, 1, 1, 0, 0)),
        };
    }

    /// <summary>The orders that it lets through, in the order of the page.</summary>
    public IQueryable<Order> Apply(SirenaDb db, DeskTime clock)
    {
        var orders = db.Orders.AsNoTracking().Finding(Q);
        orders = Status is { Length: > 0 }
            ? Closed
                ? orders.Where(o => o.Status == Status)
                : orders.Where(o => o.Open && o.Status == Status)
            : string.IsNullOrWhiteSpace(Q)
                ? orders.Where(o => o.Open)
                : orders;
        orders = Site is { Length: > 0 } site ? orders.Where(o => o.Sites.Contains(site)) : orders;
        orders = Names.Parse<RiskLevel>(Risk) is { } level and >= RiskLevel.Medium ? orders.Where(o => o.Risk == level) : orders;
        orders = Held ? orders.Where(o => o.HoldReason != null) : orders;
        if (Due is { Length: > 0 })
        {
            var (from, to) = Span(Due, clock);
            orders = orders.Where(o => o.DueAt >= from && o.DueAt < to);
        }

        orders = Told switch
        {
            "open" => orders.Where(o => db.Alerts.Any(a => a.OrderNumber == o.Number && a.State == AlertState.Open && a.ReachesSomebody)),
            "nobody" => orders.Where(o =>
                db.Alerts.Any(a => a.OrderNumber == o.Number && a.State == AlertState.Open && (a.Unreached > 0 || !a.ReachesSomebody))
            ),
            _ => orders,
        };
        return From(orders);
    }

    // Open orders run towards their due time, those without one last; closed ones and what is searched for away from it, those without one first (the index
    // runs so both ways).
    private IQueryable<Order> From(IQueryable<Order> orders)
    {
        var parts = After?.Split('|', 2) ?? [];
        var number = parts.Length == 2 ? parts[1] : "";
        if (number.Length > 0 && parts[0].Length == 0)
        {
            orders = Newest
                ? orders.Where(o => o.DueAt != null || o.Number.CompareTo(number) < 0)
                : orders.Where(o => o.DueAt == null && o.Number.CompareTo(number) > 0);
        }
        else if (number.Length > 0 && long.TryParse(parts[0], CultureInfo.InvariantCulture, out var ticks) && KnownTime.HoldsTicks(ticks))
        {
            var at = Instant.FromUnixTimeTicks(ticks);
            orders = Newest
                ? orders.Where(o => o.DueAt < at || (o.DueAt == at && o.Number.CompareTo(number) < 0))
                : orders.Where(o => o.DueAt > at || (o.DueAt == at && o.Number.CompareTo(number) > 0) || o.DueAt == null);
        }

        return Newest ? orders.OrderByDescending(o => o.DueAt).ThenByDescending(o => o.Number) : orders.OrderBy(o => o.DueAt).ThenBy(o => o.Number);
    }

    /// <summary>The status is one of those that end an order.</summary>
    [Microsoft.AspNetCore.Mvc.ModelBinding.BindNever]
    public bool Closed { get; init; }

    /// <summary>The page runs from the latest due time down.</summary>
    public bool Newest => (Status is not null && Closed) || (Status is null && !string.IsNullOrWhiteSpace(Q));
}
