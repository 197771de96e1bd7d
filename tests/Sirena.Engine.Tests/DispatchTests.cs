using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Demo.StandIns;
using Sirena.Engine.Dispatch;
using Sirena.Storage.Deliveries;

namespace Sirena.Engine.Tests;

public sealed class DispatchTests(DeskFixture desk) : IClassFixture<DeskFixture>
{
    private async Task<string> HoldAsync(string address)
    {
        var order = desk.NextOrder();
        await desk.RuleAsync($"name: Mail {order}\nwhen: [test.{order.ToLowerInvariant()}]\ntell: [ {{ address: \"{address}\", outside: true }} ]");
        await desk.PostAsync($"test.{order.ToLowerInvariant()}", $$"""{"number":"{{order}}","total":7,"currency":"EUR"}""");
        return order;
    }

    private async Task<List<Attempt>> AttemptsAsync(Delivery delivery)
    {
        await using var db = await desk.DbAsync();
        return await db.Attempts.Where(a => a.DeliveryId == delivery.Id).OrderBy(a => a.Number).ToListAsync();
    }

    [Fact]
    public async Task A_mail_goes_over_real_SMTP_and_the_server_s_words_are_kept()
    {
        var order = await HoldAsync("good@a.example");
        var delivery = Assert.Single(await desk.DeliveriesAsync(order, d => d[0].State == DeliveryState.HandedOver));
        var mail = Assert.Single(desk.StandIns.Mail.Mails, m => m.To == "good@a.example");
        Assert.StartsWith("2.0.0 Taken as ", delivery.Evidence);
        Assert.Contains($"Message-Id: <{delivery.Id:N}@averilquay.example>", mail.Raw);
        Assert.Contains("Auto-Submitted: auto-generated", mail.Raw);
        Assert.Equal((AttemptOutcome.Accepted, "250"), (await AttemptsAsync(delivery)).Select(a => (a.Outcome, a.Code)).Single());
    }

    [Fact]
    public async Task A_refusal_fails_at_once_with_the_server_s_words()
    {
        desk.StandIns.Faults.Add(new Fault("mail", "gone@*", "refuse", 0));
        var delivery = (await desk.DeliveriesAsync(await HoldAsync("gone@a.example"), d => d[0].State == DeliveryState.Failed))[0];
        Assert.Equal("refused for good: 5.1.1 The mailbox does not exist", delivery.Reason);
        Assert.Equal(1, delivery.Tries);
    }

    [Fact]
    public async Task What_is_put_off_waits_with_the_server_s_words_and_is_tried_again()
    {
        desk.StandIns.Faults.Add(new Fault("mail", "grey@*", "defer", 0) { TimesLeft = 1 });
        var order = await HoldAsync("grey@a.example");
        var waiting = (await desk.DeliveriesAsync(order, d => d[0] is { Stands: DeliveryState.Waiting, Tries: 1 }))[0];
        Assert.Equal("not now: 4.7.1 Greylisted, come back later", waiting.Reason);
        var delivery = (await desk.DeliveriesAsync(order, d => d[0].State == DeliveryState.HandedOver, seconds: 15))[0];
        Assert.Equal([AttemptOutcome.Temporary, AttemptOutcome.Accepted], (await AttemptsAsync(delivery)).Select(a => a.Outcome));
    }

    [Fact]
    public async Task A_line_that_drops_is_tried_again_with_the_same_Message_ID_and_says_that_it_may_have_arrived_twice()
    {
        desk.StandIns.Faults.Add(new Fault("mail", "cut@*", "close-after", 0) { TimesLeft = 1 });
        var delivery = (await desk.DeliveriesAsync(await HoldAsync("cut@a.example"), d => d[0].State == DeliveryState.HandedOver, seconds: 15))[0];
        Assert.Contains("may have arrived twice", delivery.Reason);
        var ids = desk.StandIns.Mail.Mails.Where(m => m.To == "cut@a.example").Select(m => m.Raw.Split("Message-Id: ")[1].Split("\r\n")[0]).ToArray();
        Assert.Equal(2, ids.Length);
        Assert.Single(ids.Distinct());
    }

    [Fact]
    public async Task One_that_failed_can_be_sent_again()
    {
        desk.StandIns.Faults.Add(new Fault("mail", "again@*", "refuse", 0) { TimesLeft = 1 });
        var order = await HoldAsync("again@a.example");
        var failed = (await desk.DeliveriesAsync(order, d => d[0].State == DeliveryState.Failed))[0];
        Assert.NotNull(await desk.Services.GetRequiredService<SecondSending>().SendAsync(failed.Id, "Maren Holt", default));
        await desk.DeliveriesAsync(order, d => d[0] is { State: DeliveryState.HandedOver, Tries: 2 });
    }

    [Fact]
    public async Task Two_nodes_never_hand_the_same_mail_over()
    {
        var second = await desk.StartNodeAsync();
        await desk.RuleAsync("name: Many\nwhen: [test.many]\ntell: [ { address: \"many@a.example\", outside: true } ]");
        string[] orders = [.. Enumerable.Range(0, 120).Select(_ => desk.NextOrder())];
        await desk.PostAsync(orders.Select(o => (o, "test.many", $$"""{"number":"{{o}}"}""", (Instant?)null)));
        foreach (var order in orders)
        {
            await desk.DeliveriesAsync(order, d => d[0].State == DeliveryState.HandedOver, seconds: 20);
        }

        Assert.Equal(orders, desk.StandIns.Mail.Mails.Where(m => m.To == "many@a.example").Select(m => m.Subject.Split(':')[0]).Order());
        await desk.StopNodeAsync(second);
    }

    [Fact]
    public async Task An_outcome_that_comes_after_the_lease_ran_out_changes_nothing_and_is_kept_as_evidence()
    {
        desk.StandIns.Faults.Add(new Fault("mail", "late@*", "defer", 0) { TimesLeft = 1 });
        var delivery = (await desk.DeliveriesAsync(await HoldAsync("late@a.example"), d => d[0] is { Stands: DeliveryState.Waiting, Tries: 1 }))[0];
        var stranger = new Claimed(delivery.Id, Guid.NewGuid(), delivery.To, null, 1, delivery.Deadline, "", "", null, false, Channel.Mail);
        var said = new HandOver(AttemptOutcome.Permanent, "550", "too late");
        var now = SystemClock.Instance.GetCurrentInstant();
        Assert.Empty(
            await desk
                .Services.GetRequiredService<DeliveryQueue>()
                .FinishAsync([new Ended(stranger, said, said.After(1, now, delivery.Deadline, 0), now) { Gateway = "x" }], default)
        );
        await using var db = await desk.DbAsync();
        Assert.Equal("try 1: too late", (await db.Receipts.SingleAsync(r => r.DeliveryId == delivery.Id)).Text);
        Assert.NotEqual(DeliveryState.Failed, (await db.Deliveries.AsNoTracking().SingleAsync(d => d.Id == delivery.Id)).State);
    }

    [Fact]
    public async Task A_failing_gateway_rests_longer_each_time_and_is_tried_at_once_when_its_settings_change()
    {
        var (gateways, cancel) = (desk.Services.GetRequiredService<Gateways>(), TestContext.Current.CancellationToken);
        async Task SaveAsync(string address)
        {
            await using var db = await desk.DbAsync();
            await db.Gateways.Where(g => g.Id == "dull").ExecuteDeleteAsync(cancel);
            db.Gateways.Add(
                new Gateway
                {
                    Id = "dull",
                    Channel = Channel.Chat,
                    Name = "Dull chat",
                    Address = address,
                }
            );
            await db.SaveChangesAsync(cancel);
            desk.Services.GetRequiredService<Signals>().Raise(Topic.Setup);
        }

        await SaveAsync("http://127.0.0.1:9/away");
        var line = (await gateways.PickAsync(Channel.Chat, cancel))!;
        Assert.Equal("dull", line.Id);
        for (var i = 0; i < 4; i++)
        {
            await gateways.NoteAsync(
                line,
                Channel.Chat,
                Guid.NewGuid(),
                "room",
                new Core.Deliveries.HandOver(AttemptOutcome.Gateway, null, "no connection"),
                cancel
            );
        }

        Assert.Null(await gateways.PickAsync(Channel.Chat, cancel));
        await SaveAsync("http://127.0.0.1:9/here");
        var trial = (await gateways.PickAsync(Channel.Chat, cancel))!;
        await gateways.NoteAsync(trial, Channel.Chat, Guid.NewGuid(), "room", new Core.Deliveries.HandOver(AttemptOutcome.Accepted, "200", "taken"), cancel);
        Assert.False((await gateways.PickAsync(Channel.Chat, cancel))!.Trial);
        await using var after = await desk.DbAsync();
        await after.Gateways.Where(g => g.Id == "dull").ExecuteDeleteAsync(cancel);
    }

    // The database makes random ids for messages to a next address: they say no time, and some would lie beyond the calendar.
    [Fact]
    public void A_message_of_any_id_is_counted()
    {
        foreach (var id in new[] { Guid.CreateVersion7(), Guid.Parse("ffffffff-ffff-4fff-8fff-ffffffffffff"), Guid.Empty })
        {
            NodeFigures.Tried(Channel.Mail, "carrier", AttemptOutcome.Accepted, id, NodaTime.SystemClock.Instance.GetCurrentInstant());
        }
    }
}
