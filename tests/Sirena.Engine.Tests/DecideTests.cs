using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Engine.Rules;
using Sirena.Engine.Trail;

namespace Sirena.Engine.Tests;

public sealed class DecideTests(DeskFixture desk) : IClassFixture<DeskFixture>
{
    [Fact]
    public async Task A_saved_rule_is_in_force_for_the_next_event_and_an_older_event_keeps_its_book()
    {
        var (before, after) = (desk.NextOrder(), desk.NextOrder());
        await desk.PostAsync("test.saved", $$"""{"number":"{{before}}","via":"web"}""");
        await desk.RuleAsync("name: Saved just now\nwhen: [test.saved]\ntell: [ { person: ines.calder } ]");
        await desk.PostAsync("test.saved", $$"""{"number":"{{after}}","via":"web"}""");
        await desk.DeliveriesAsync(after, d => d.Count == 1);
        await using var scope = desk.Services.CreateAsyncScope();
        var trails = scope.ServiceProvider.GetRequiredService<TrailReader>();
        Assert.Empty((await trails.OfOrderAsync(before, default))!.Events[0].Rules);
        Assert.Equal(Outcome.Matched, Assert.Single((await trails.OfOrderAsync(after, default))!.Events[0].Rules).Outcome);
    }

    [Fact]
    public async Task Somebody_whom_two_rules_name_gets_the_most_urgent_message_and_the_other_says_who_told_them()
    {
        var order = desk.NextOrder();
        await desk.RuleAsync("name: Calm\nwhen: [test.twice]\nurgency: routine\ntell: [ { person: ines.calder }, { person: odile.varga } ]");
        await desk.RuleAsync("name: Hurried\nwhen: [test.twice]\nurgency: urgent\ntell: [ { person: ines.calder } ]");
        await desk.PostAsync("test.twice", $$"""{"number":"{{order}}"}""");
        var found = await desk.DeliveriesAsync(order, d => d.Count == 3 && d.All(x => x.State is DeliveryState.HandedOver or DeliveryState.Skipped));
        var skipped = Assert.Single(found, d => d.State == DeliveryState.Skipped);
        Assert.Equal(("calm", "ines.calder", "told by rule Hurried"), (skipped.RuleId, skipped.Person, skipped.Reason));
        Assert.Equal(found.Single(d => d.RuleId == "hurried").Id, skipped.CarriedBy);
        var mail = Assert.Single(desk.StandIns.Mail.Mails, m => m.To == "ines.calder@averilquay.example" && m.Subject.Contains(order));
        Assert.Contains("Rule 'Calm' matched too", mail.Text);
    }

    [Fact]
    public async Task A_further_match_joins_the_open_alert_and_a_status_withdraws_it()
    {
        var order = desk.NextOrder();
        await desk.RuleAsync("name: Joins\nwhen: [test.joins]\ntell: [ { person: ines.calder } ]\nwithdrawAt: [signed-for]");
        await desk.PostAsync("test.joins", $$"""{"number":"{{order}}"}""");
        await desk.PostAsync("test.joins", $$"""{"number":"{{order}}"}""");
        await desk.PostAsync("test.ends", $$"""{"number":"{{order}}","status":"signed-for"}""");
        await desk.AlertAsync(order, a => a.State == AlertState.Withdrawn);
        await using var db = await desk.DbAsync();
        Assert.Equal(
            [Outcome.Matched, Outcome.Joined],
            await db.Matches.Where(m => m.RuleId == "joins").OrderBy(m => m.EventId).Select(m => m.Outcome).ToListAsync()
        );
        Assert.Equal(
            1,
            await db.Messages.CountAsync(m =>
                !m.Subject.Contains("nothing more to do") && db.Deliveries.Any(d => d.Id == m.DeliveryId && d.OrderNumber == order)
            )
        );
    }

    [Fact]
    public async Task A_recipient_that_is_nobody_is_kept_with_its_reason()
    {
        var order = desk.NextOrder();
        await desk.RuleAsync("name: Nobody\nwhen: [test.nobody]\ntell: [ { role: salesperson } ]");
        await desk.PostAsync("test.nobody", $$"""{"number":"{{order}}"}""");
        var alert = await desk.AlertAsync(order);
        Assert.False(alert.ReachesSomebody);
        await using var db = await desk.DbAsync();
        Assert.Contains((await db.AlertSteps.SingleAsync(s => s.AlertId == alert.Id)).Left, l => l.Because == "the order names no salesperson");
    }

    [Fact]
    public async Task An_archived_id_is_not_used_again()
    {
        var rules = desk.Services.GetRequiredService<RuleDesk>();
        var id = await desk.RuleAsync("name: Short lived\nwhen: [test.short]\ntell: []");
        Assert.True(await rules.ArchiveAsync(id, "the test", default));
        Assert.Contains(
            "an id is not used again",
            (await rules.SaveAsync("name: Short lived\nwhen: [test.short]\ntell: []", true, id, "the test", default)).Conflict
        );
        Assert.Equal("short-lived-2", await desk.RuleAsync("name: Short lived\nwhen: [test.short]\ntell: []"));
    }
}
