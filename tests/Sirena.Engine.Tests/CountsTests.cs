using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Npgsql;
using Sirena.Core.Deliveries;
using Sirena.Engine.Dispatch;
using Sirena.Engine.Orders;
using Sirena.Engine.Rules;
using Sirena.Engine.Trail;
using Sirena.Storage;
using Sirena.Storage.Orders;
using Sirena.Storage.Rules;

namespace Sirena.Engine.Tests;

/// <summary>What pages count and keep in the database: orders by status and due time, what rules and gateways did, drafts, and who may save first.</summary>
public sealed class CountsTests(DeskFixture desk) : IClassFixture<DeskFixture>
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private NpgsqlDataSource Source => desk.Services.GetRequiredService<NpgsqlDataSource>();

    private static Instant Now => SystemClock.Instance.GetCurrentInstant();

    private async Task<string> OrderAsync(string status, Instant? due = null, string more = "", Instant? at = null)
    {
        var number = desk.NextOrder();
        var dueAt = due is { } d ? $",\"dueAt\":\"{d.ToString("uuuu-MM-dd'T'HH:mm:ss'Z'", null)}\"" : "";
        await desk.PostAsync((Guid.NewGuid().ToString(), "order.placed", $$"""{"number":"{{number}}","status":"{{status}}"{{dueAt}}{{more}}}""", at));
        await desk.UntilAsync(db => db.Events.AnyAsync(e => e.OrderNumber == number && e.DecidedAt != null), "the order is known");
        return number;
    }

    [Fact]
    public async Task Orders_are_counted_by_status_due_time_hold_and_risk_while_they_are_open()
    {
        var now = Now;
        (string, Instant, Instant)[] spans =
        [
            ("over", Instant.FromUnixTimeTicks(0), now),
            ("soon", now, now + Duration.FromHours(1)),
            ("after", now + Duration.FromHours(1), now + Duration.FromDays(400)),
        ];
        var before = await OrderCounts.ReadAsync(Source, spans, Cancel);
        await OrderAsync("picking", now + Duration.FromMinutes(30));
        await OrderAsync("picking", now + Duration.FromHours(3), ",\"risk\":{\"level\":\"high\"}");
        await OrderAsync("received", now - Duration.FromMinutes(5), ",\"hold\":{\"reason\":\"a test\"}");
        await OrderAsync("signed-for", now + Duration.FromMinutes(30));
        var after = await OrderCounts.ReadAsync(Source, spans, Cancel);
        int Status(OrderCounts c, string id) => c.ByStatus.GetValueOrDefault(id);
        Assert.Equal(3, after.Open - before.Open);
        Assert.Equal(
            (2, 1, 0),
            (Status(after, "picking") - Status(before, "picking"), Status(after, "received") - Status(before, "received"), Status(after, "signed-for"))
        );
        Assert.Equal([1, 1, 1], spans.Select(s => after.ByDue[s.Item1] - before.ByDue[s.Item1]));
        Assert.Equal((1, 1, 0), (after.Held - before.Held, after.High - before.High, after.Medium - before.Medium));
    }

    [Theory]
    [InlineData(0, "0")]
    [InlineData(1_234, "1,234")]
    [InlineData(10_000, "10,000")]
    [InlineData(10_001, "10,000+")]
    public void A_count_is_said_up_to_where_counting_stops(int count, string words) => Assert.Equal(words, OrderCounts.Words(count));

    [Fact]
    public async Task Orders_that_stand_too_long_and_words_of_no_status_are_counted_apart()
    {
        await using (var db = await desk.DbAsync())
        {
            await db.Statuses.Where(s => s.Id == "alongside").ExecuteUpdateAsync(s => s.SetProperty(x => x.AllowedMinutes, 30), Cancel);
        }

        var flows = desk.Services.GetRequiredService<StatusFlows>();
        await OrderAsync("alongside", at: Now - Duration.FromMinutes(50));
        await OrderAsync("alongside");
        await OrderAsync("in-the-locker");
        var now = await flows.StandingAsync(Now, Cancel);
        Assert.Equal((2, 1), (now.Standing["alongside"], now.Over["alongside"]));
        Assert.Equal(("in-the-locker", 1), Assert.Single(now.Strange));
        Assert.DoesNotContain("in-the-locker", now.Standing.Keys);
        Assert.Equal((2, 1), await flows.SinceBeforeAsync("alongside", Now - Duration.FromMinutes(40), Cancel));
        Assert.Equal((2, 0), await flows.SinceBeforeAsync("alongside", Now - Duration.FromMinutes(60), Cancel));
        Assert.Equal((0, 0), await flows.SinceBeforeAsync("nothing", Now, Cancel));
    }

    [Fact]
    public async Task What_rules_did_is_counted_by_day_with_what_nobody_answered_and_whom_they_missed()
    {
        await desk.RuleAsync("counted", "id: counted\nname: counted\nwhen: [test.counted]\ntell: [ { person: ines.calder } ]\nby: { allAtOnce: [screen] }");
        await desk.RuleAsync("misses", "id: misses\nname: misses\nwhen: [test.counted]\ntell: [ { role: salesperson } ]\nby: { allAtOnce: [screen] }");
        string[] orders = [desk.NextOrder(), desk.NextOrder(), desk.NextOrder()];
        foreach (var order in orders)
        {
            await desk.PostAsync("test.counted", $$"""{"number":"{{order}}"}""");
            await desk.DeliveriesAsync(order, d => d.Exists(x => x.RuleId == "counted"));
        }

        await using (var db = await desk.DbAsync())
        {
            await db.Database.ExecuteSqlAsync(
                $"update alerts set state = 'lapsed', ended_at = now() where rule_id = 'counted' and order_number = {orders[0]}",
                Cancel
            );
            await db.Database.ExecuteSqlAsync(
                $"update matches set at = at - interval '1 day' where rule_id = 'counted' and event_id = (select min(event_id) from matches where rule_id = 'counted')",
                Cancel
            );
        }

        var first = Now - Duration.FromDays(2) - Duration.FromHours(1);
        var use = await RuleUse.ReadAsync(Source, first, 3, Cancel);
        Assert.Equal([0, 1, 2], use.Counts["counted"].Days);
        Assert.Equal(1, use.Counts["counted"].Unanswered.Sum());
        Assert.True(Now - use.Last["counted"] < Duration.FromMinutes(5));
        Assert.Equal(3, use.Missed["misses"]);
        Assert.False(use.Missed.ContainsKey("counted"));
        Assert.Empty((await RuleUse.ReadAsync(Source, Now + Duration.FromDays(1), 3, Cancel)).Counts);
    }

    [Fact]
    public async Task What_a_gateway_carried_since_midnight_is_counted_by_its_hours_with_its_last_proof()
    {
        await desk.RuleAsync("carried", "id: carried\nname: carried\nwhen: [test.carried]\ntell: [ { person: ines.calder } ]\nby: { allAtOnce: [mail] }");
        var order = desk.NextOrder();
        await desk.PostAsync("test.carried", $$"""{"number":"{{order}}"}""");
        var sent = Assert.Single(await desk.DeliveriesAsync(order, d => d[0].State == DeliveryState.HandedOver));
        await using var db = await desk.DbAsync();
        var tried = await db.Attempts.AsNoTracking().SingleAsync(a => a.DeliveryId == sent.Id, Cancel);
        var use = (await GatewayUse.SinceAsync(Source, Now - Duration.FromHours(12), DateTimeZone.Utc, Cancel))[tried.Gateway!];
        Assert.True(use.Hours[tried.At.InUtc().Hour] >= 1);
        Assert.True(use.LastGood >= tried.At);
        Assert.Null(use.LastProof);
        Assert.Empty(await GatewayUse.SinceAsync(Source, Now + Duration.FromHours(1), DateTimeZone.Utc, Cancel));

        // The ledger finds it by its order, and what looks like a pattern stands for itself.
        var around = await desk.Services.GetRequiredService<SurroundingsCache>().GetAsync(Cancel);
        var filter = new LedgerFilter(Now - Duration.FromHours(1));
        Assert.Contains(await (filter with { Find = order }).In(db, around).Select(d => d.Id).ToListAsync(Cancel), id => id == sent.Id);
        Assert.Empty(await (filter with { Find = "%%%" }).In(db, around).ToListAsync(Cancel));
        Assert.Empty(await (filter with { Find = "_alder" }).In(db, around).ToListAsync(Cancel));
    }

    [Theory]
    [InlineData("plain", "plain")]
    [InlineData("50%", @"50\%")]
    [InlineData("a_b", @"a\_b")]
    [InlineData(@"c:\x", @"c:\\x")]
    [InlineData(@"\%", @"\\\%")]
    public void Text_in_a_pattern_stands_for_itself(string text, string pattern) => Assert.Equal(pattern, LikePattern.Literal(text));

    [Fact]
    public async Task A_draft_takes_the_place_of_the_one_before_and_not_of_anothers()
    {
        await using var db = await desk.DbAsync();
        KeptDraft Draft(string by, string form, int from) =>
            new()
            {
                RuleId = "kept",
                By = by,
                Form = form,
                BaseVersion = from,
                At = Now,
            };
        await db.KeepAsync(Draft("Maren Holt", """{"name":["one"]}""", 1), Cancel);
        await db.KeepAsync(Draft("Ines Calder", """{"name":["hers"]}""", 1), Cancel);
        await db.KeepAsync(Draft("Maren Holt", """{"name":["two"]}""", 2), Cancel);
        var kept = await db.KeptDrafts.AsNoTracking().Where(d => d.RuleId == "kept").OrderBy(d => d.By).ToListAsync(Cancel);
        Assert.Equal([("Ines Calder", """{"name":["hers"]}"""), ("Maren Holt", """{"name":["two"]}""")], kept.Select(d => (d.By, d.Form)));
    }

    [Fact]
    public async Task The_first_event_under_a_version_is_one_that_came_after_it()
    {
        await desk.RuleAsync("first-under", "id: first-under\nname: one\nwhen: [test.first]\ntell: [ { person: ines.calder } ]");
        var early = await OrderAsync("received");
        await desk.RuleAsync("first-under", "id: first-under\nname: two\nwhen: [test.first]\ntell: [ { person: ines.calder } ]");
        await using var db = await desk.DbAsync();
        var version = await db.RuleVersions.AsNoTracking().SingleAsync(v => v.RuleId == "first-under" && v.BookTo == null, Cancel);
        Assert.True((await db.FirstUnderAsync(version, Cancel))?.OrderNumber != early);

        // Another test's event that waited meanwhile is decided under it as well, and then it may be the first.
        var later = await OrderAsync("received");
        await desk.UntilAsync(d => d.Events.AllAsync(e => e.DecidedAt != null, Cancel), "all are decided");
        var under = await db.Events.AsNoTracking().Where(e => e.Book >= version.BookFrom).OrderBy(e => e.Id).ToListAsync(Cancel);
        Assert.Contains(under, e => e.OrderNumber == later);
        Assert.Equal(under[0].Id, (await db.FirstUnderAsync(version, Cancel))!.Id);
    }

    [Fact]
    public async Task Events_are_counted_by_their_types_since_an_instant()
    {
        await desk.PostAsync("test.came", $$"""{"number":"{{desk.NextOrder()}}"}""");
        await desk.PostAsync("test.came", $$"""{"number":"{{desk.NextOrder()}}"}""");
        var past = desk.Services.GetRequiredService<PastEvents>();
        Assert.Equal(2, (await past.CountAsync(Now - Duration.FromMinutes(5), Cancel))["test.came"]);
        Assert.DoesNotContain("test.came", (await past.CountAsync(Now + Duration.FromMinutes(5), Cancel)).Keys);
    }

    [Fact]
    public async Task Whoever_takes_a_lock_waits_until_it_is_let_go_and_one_that_only_tries_does_not()
    {
        var held = await SessionLock.TakeAsync(Source, "saving rule:x", Cancel);
        Assert.Null(await SessionLock.TryAsync(Source, "saving rule:x", Cancel));
        await using (await SessionLock.TakeAsync(Source, "saving rule:y", Cancel))
        {
            var second = SessionLock.TakeAsync(Source, "saving rule:x", Cancel);
            Assert.False(second.IsCompleted);
            await held.DisposeAsync();
            await using var mine = await second;
            Assert.Null(await SessionLock.TryAsync(Source, "saving rule:x", Cancel));
        }

        await using var again = await SessionLock.TryAsync(Source, "saving rule:x", Cancel);
        Assert.NotNull(again);
        using var broken = new CancellationTokenSource();
        var third = SessionLock.TakeAsync(Source, "saving rule:x", broken.Token);
        await broken.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => third);
    }
}
