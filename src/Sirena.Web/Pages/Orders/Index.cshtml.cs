using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Engine.Orders;
using Sirena.Storage;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Orders;

/// <summary>The list of orders: found, filtered, paged, with a quick look at one of them.</summary>
public sealed class IndexModel(SirenaDb db, NpgsqlDataSource source) : SirenaPage
{
    private const int PageSize = 40;

    /// <summary>What is shown.</summary>
    [BindProperty(SupportsGet = true, Name = "")]
    public OrderFilter Filter { get; set; } = new();

    /// <summary>How many each filter holds.</summary>
    public OrderCounts Counts { get; private set; } = null!;

    /// <summary>The orders of this page.</summary>
    public IReadOnlyList<Order> Orders { get; private set; } = [];

    /// <summary>There are more after these.</summary>
    public bool More { get; private set; }

    /// <summary>The alerts of these orders, newest first, with their deliveries.</summary>
    public ILookup<string, (Alert Alert, Delivery[] Deliveries)> Told { get; private set; } = null!;

    /// <summary>Reads the list.</summary>
    public async Task OnGetAsync(CancellationToken cancel)
    {
        Filter = Filter with { Closed = Around.Status(Filter.Status)?.Closed ?? false };
        Counts = await OrderCounts.ReadAsync(source, OrderFilter.Spans(Clock), cancel);
        var found = await Filter.Apply(db, Clock).Take(PageSize + 1).ToListAsync(cancel);
        More = found.Count > PageSize;
        Orders = [.. found.Take(PageSize)];
        string[] numbers = [.. Orders.Select(o => o.Number)];
        var alerts = await db
            .Alerts.AsNoTracking()
            .Where(a => numbers.Contains(a.OrderNumber!))
            .OrderByDescending(a => a.RaisedAt)
            .Take(400)
            .ToListAsync(cancel);
        Guid[] ids = [.. alerts.Select(a => a.Id)];
        var deliveries = (await db.Deliveries.AsNoTracking().Where(d => ids.Contains(d.AlertId)).OrderBy(d => d.CreatedAt).ToListAsync(cancel)).ToLookup(d =>
            d.AlertId
        );
        Told = alerts.ToLookup(a => a.OrderNumber!, a => (a, deliveries[a.Id].ToArray()));
    }

    /// <summary>The heading of an order's lane: how far off its due time is.</summary>
    public string Lane(Order order) =>
        order.DueAt is not { } due ? "No due time"
        : Filter.Newest
            ? due.InZone(Clock.Zone).Date == Clock.Today ? "Today"
                : "Earlier or later"
        : due < Clock.Now ? "Over"
        : due < OrderFilter.Span("hour", Clock).To ? "Due within the hour"
        : due < OrderFilter.Span("today", Clock).To ? "Later today"
        : due < OrderFilter.Span("tomorrow", Clock).To ? "Tomorrow"
        : "After";

    /// <summary>The cursor after the last row.</summary>
    public string? Next => More ? $"{Orders[^1].DueAt?.ToUnixTimeTicks()}|{Orders[^1].Number}" : null;
}
