using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace Sirena.Engine.Tests;

public sealed class IntakeTests(DeskFixture desk) : IClassFixture<DeskFixture>
{
    [Fact]
    public async Task An_event_that_is_sent_again_counts_as_a_duplicate_and_does_nothing()
    {
        var order = desk.NextOrder();
        Assert.Equal(
            (bool[])[true, false],
            await desk.PostAsync(
                ("d1" + order, "order.changed", $$"""{"number":"{{order}}","total":1}""", null),
                ("d1" + order, "order.changed", $$"""{"number":"{{order}}","total":2}""", null)
            )
        );
        Assert.Equal((bool[])[false], await desk.PostAsync(("d1" + order, "order.changed", $$"""{"number":"{{order}}","total":3}""", null)));
        await using var db = await desk.DbAsync();
        Assert.Equal(1m, (await db.Orders.SingleAsync(o => o.Number == order)).Total);
    }

    [Fact]
    public async Task The_event_keeps_the_order_before_and_after_it_and_the_change_that_was_not_said()
    {
        var order = desk.NextOrder();
        await desk.PostAsync("order.placed", $$"""{"number":"{{order}}","status":"received"}""");
        await desk.PostAsync("order.status-changed", $$"""{"number":"{{order}}","status":"picking"}""");
        await using var db = await desk.DbAsync();
        var last = await db.Events.Where(e => e.OrderNumber == order).OrderByDescending(e => e.Seq).FirstAsync();
        Assert.Equal("received", last.Before.GetProperty("status").GetString());
        Assert.Equal("picking", last.After.GetProperty("status").GetString());
        Assert.Equal("""{"field":"status","before":"received","after":"picking"}""", last.DataJson.GetProperty("change").GetRawText());
    }

    [Fact]
    public async Task An_older_event_is_marked_late_and_does_not_win_and_one_from_the_future_is_taken_as_received()
    {
        var order = desk.NextOrder();
        var now = SystemClock.Instance.GetCurrentInstant();
        await desk.PostAsync((order + "1", "order.changed", $$"""{"number":"{{order}}","status":"loaded"}""", now - Duration.FromMinutes(1)));
        await desk.PostAsync((order + "2", "order.changed", $$"""{"number":"{{order}}","status":"picking","via":"web"}""", now - Duration.FromMinutes(9)));
        await desk.PostAsync((order + "3", "order.changed", $$"""{"number":"{{order}}","via":"desk"}""", now + Duration.FromMinutes(9)));
        await using var db = await desk.DbAsync();
        Assert.Equal("loaded", (await db.Orders.SingleAsync(o => o.Number == order)).Status);
        var events = await db.Events.Where(e => e.OrderNumber == order).OrderBy(e => e.Seq).ToListAsync();
        Assert.Equal([false, true, false], events.Select(e => e.Late));
        Assert.Equal([false, false, true], events.Select(e => e.FromTheFuture));
        Assert.True(events[2].Time <= events[2].Received);
    }

    [Fact]
    public async Task Batches_that_name_the_same_orders_at_once_neither_deadlock_nor_skip_a_number()
    {
        string[] orders = [.. Enumerable.Range(0, 8).Select(_ => desk.NextOrder())];
        await Task.WhenAll(
            Enumerable
                .Range(0, 24)
                .Select(batch =>
                    Task.Run(() =>
                        desk.PostAsync(
                            orders
                                .OrderBy(o => (o + batch).GetHashCode())
                                .Select(o => ($"{batch}-{o}", "order.changed", $$"""{"number":"{{o}}","total":{{batch}}}""", (Instant?)null))
                        )
                    )
                )
        );
        await using var db = await desk.DbAsync();
        foreach (var order in orders)
        {
            Assert.Equal(
                Enumerable.Range(1, 24).Select(i => (long)i),
                await db.Events.Where(e => e.OrderNumber == order).OrderBy(e => e.Seq).Select(e => e.Seq).ToListAsync()
            );
        }
    }
}
