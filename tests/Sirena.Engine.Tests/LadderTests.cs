using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Demo.StandIns;
using Sirena.Engine.Ladders;

namespace Sirena.Engine.Tests;

public sealed class LadderTests(DeskFixture desk) : IClassFixture<DeskFixture>
{
    private async Task<string> RaiseAsync(string name, string ladder, string urgency = "urgent", string more = "")
    {
        var order = desk.NextOrder();
        await desk.RuleAsync(
            $"name: {name}\nwhen: [test.{name}]\nurgency: {urgency}\ntell: [ {{ person: ines.calder }} ]\nby: {{ allAtOnce: [mail] }}\nladder: {ladder}"
        );
        await desk.PostAsync($"test.{name}", $$"""{"number":"{{order}}"{{more}}}""");
        return order;
    }

    [Fact]
    public async Task A_step_fires_when_it_is_due_while_nobody_has_answered()
    {
        var order = await RaiseAsync(
            "climbs",
            "[ { after: PT1S, tell: [ { person: odile.varga } ] }, { beforeDue: PT1H, tell: [ { person: maren.holt } ] }, { after: PT3H, tell: [ { person: hugo.brandt } ] } ]"
        );
        var found = await desk.DeliveriesAsync(order, d => d.Count == 2 && d[1].State == DeliveryState.HandedOver);
        Assert.Equal((1, "odile.varga"), (found[1].Step, found[1].Person));
        Assert.True(found[1].CreatedAt - found[0].CreatedAt >= Duration.FromMilliseconds(900));
        await using var db = await desk.DbAsync();
        var steps = await db.AlertSteps.AsNoTracking().Where(s => s.AlertId == found[0].AlertId).OrderBy(s => s.Index).ToListAsync();

        // The order names no due time, so the step before it is not among them.
        Assert.Equal([(0, true), (1, true), (3, false)], steps.Select(s => (s.Index, s.FiredAt is not null)));
        Assert.Contains(steps[1].Told, t => t.Person == "odile.varga");
    }

    [Fact]
    public async Task Whoever_has_it_stops_the_ladder_and_only_one_of_two_has_it()
    {
        var order = await RaiseAsync("stops", "[ { after: PT1H, tell: [ { person: odile.varga } ] } ]");
        var alert = await desk.AlertAsync(order);
        var answers = desk.Services.GetRequiredService<AnswerDesk>();
        var both = await Task.WhenAll(
            new[] { "ines.calder", "maren.holt" }.Select(p => answers.AnswerAsync(alert.Id, p, AnswerKind.Taken, "api", "Maren Holt", null, null, default))
        );
        Assert.Single(both, a => a.Problem is null);
        Assert.True(both.Single(a => a.Problem is not null).Conflict);
        await desk.DueAsync(alert.Id);
        await desk.LaddersAsync();
        Assert.Single(await desk.DeliveriesAsync(order, _ => true));
    }

    [Fact]
    public async Task When_all_who_were_told_decline_the_next_step_fires_at_once()
    {
        var order = await RaiseAsync("declines", "[ { after: PT2H, tell: [ { person: odile.varga } ] } ]");
        await desk.DeliveriesAsync(order, d => d[0].State == DeliveryState.HandedOver);
        var alert = await desk.AlertAsync(order);
        await desk.Services.GetRequiredService<AnswerDesk>().AnswerAsync(alert.Id, "ines.calder", AnswerKind.Declined, "api", null, null, null, default);
        Assert.Equal("odile.varga", (await desk.DeliveriesAsync(order, d => d.Count == 2))[1].Person);
    }

    [Fact]
    public async Task A_step_whose_deliveries_all_failed_pulls_the_next_one_forward()
    {
        desk.StandIns.Faults.Add(new Fault("mail", "broken@*", "refuse", 0));
        var order = desk.NextOrder();
        await desk.RuleAsync(
            "name: pulls\nwhen: [test.pulls]\nurgency: urgent\ntell: [ { address: broken@a.example, outside: true } ]\nladder: [ { after: PT2H, tell: [ { person: odile.varga } ] } ]"
        );
        await desk.PostAsync("test.pulls", $$"""{"number":"{{order}}"}""");
        var found = await desk.DeliveriesAsync(order, d => d.Count == 2);
        Assert.Equal((DeliveryState.Failed, "odile.varga"), (found[0].State, found[1].Person));
        await using var db = await desk.DbAsync();
        Assert.Equal(StepCause.Failed, (await db.AlertSteps.AsNoTracking().SingleAsync(s => s.AlertId == found[0].AlertId && s.Index == 1)).Cause);
    }

    [Fact]
    public async Task An_alert_lapses_when_its_last_step_has_passed_and_an_event_tells_of_it()
    {
        var order = await RaiseAsync("lapses", "[ { after: PT0.1S, tell: [ { person: odile.varga } ] } ]");
        await desk.DeliveriesAsync(order, d => d.Count == 2);
        var alert = await desk.AlertAsync(order);
        await using (var db = await desk.DbAsync())
        {
            Assert.Equal(Duration.FromMinutes(30), alert.WaitsUntil - (await db.AlertSteps.SingleAsync(s => s.AlertId == alert.Id && s.Index == 1)).FiredAt);
            await db.Database.ExecuteSqlAsync($"update alerts set waits_until = waits_until - interval '40 minutes' where id = {alert.Id}");
        }

        await desk.AlertAsync(order, a => a.State == AlertState.Lapsed);
        await desk.UntilAsync(after => after.Events.AnyAsync(e => e.Type == "alert.lapsed" && e.OrderNumber == order), "it was told that the alert lapsed");

        // Somebody may still take it.
        Assert.Null(
            (
                await desk.Services.GetRequiredService<AnswerDesk>().AnswerAsync(alert.Id, "ines.calder", AnswerKind.Taken, "api", null, null, null, default)
            ).Problem
        );
    }

    [Fact]
    public async Task Several_steps_that_are_due_at_once_tell_everybody_whom_they_name_once()
    {
        var order = await RaiseAsync(
            "missed",
            "[ { after: PT1H, tell: [ { person: odile.varga } ] }, { after: PT2H, tell: [ { person: hugo.brandt }, { person: odile.varga } ] } ]"
        );
        var alert = await desk.AlertAsync(order);
        await using (var db = await desk.DbAsync())
        {
            await db.Database.ExecuteSqlAsync($"update alert_steps set due_at = due_at - interval '3 hours' where alert_id = {alert.Id} and index > 0");
        }

        await desk.DeliveriesAsync(order, d => d.Count == 3);
        await desk.LaddersAsync();
        var found = await desk.DeliveriesAsync(order, _ => true);
        Assert.Equal(["hugo.brandt", "ines.calder", "odile.varga"], found.Select(d => d.Person).Order());
        Assert.Equal(2, found.Single(d => d.Person == "odile.varga").Step);
    }

    [Fact]
    public async Task Passing_on_tells_the_other_at_once_and_begins_the_ladder_anew()
    {
        var order = await RaiseAsync("passes", "[ { after: PT2S, tell: [ { person: odile.varga } ] }, { after: PT1H, tell: [ { person: maren.holt } ] } ]");
        var alert = await desk.AlertAsync(order);
        var answers = desk.Services.GetRequiredService<AnswerDesk>();
        Assert.NotNull((await answers.AnswerAsync(alert.Id, "ines.calder", AnswerKind.Passed, "api", null, null, null, default, "nobody")).Problem);
        Assert.Null((await answers.AnswerAsync(alert.Id, "ines.calder", AnswerKind.Taken, "api", null, null, null, default)).Problem);
        Assert.True((await answers.AnswerAsync(alert.Id, "odile.varga", AnswerKind.Passed, "api", "Maren Holt", null, null, default, "hugo.brandt")).Conflict);
        var passed = await answers.AnswerAsync(alert.Id, "ines.calder", AnswerKind.Passed, "api", null, "on my way home", null, default, "hugo.brandt");
        Assert.Equal((null, AlertState.Open, null), (passed.Problem, passed.Alert!.State, passed.Alert.TakenBy));
        var found = await desk.DeliveriesAsync(
            order,
            d => d.Any(x => x.Person == "hugo.brandt" && x.State == DeliveryState.HandedOver) && d.Any(x => x.Person == "odile.varga"),
            seconds: 12
        );
        var (hugo, odile) = (found.Single(d => d.Person == "hugo.brandt"), found.Single(d => d.Person == "odile.varga"));
        Assert.True(odile.CreatedAt - hugo.CreatedAt > Duration.FromSeconds(1));
        await using var db = await desk.DbAsync();
        var steps = await db.AlertSteps.AsNoTracking().Where(s => s.AlertId == alert.Id).OrderBy(s => s.Index).ToListAsync();
        Assert.Equal([(0, 0, null), (1, 0, "person:hugo.brandt"), (2, 1, null), (3, 2, null)], steps.Select(s => (s.Index, s.Rung, s.Aim?.Key)));
        Assert.Equal(
            "to Hugo Brandt: on my way home",
            (await db.Answers.AsNoTracking().SingleAsync(a => a.AlertId == alert.Id && a.Kind == AnswerKind.Passed)).Note
        );
    }

    [Fact]
    public async Task An_order_that_moves_on_withdraws_its_alert_and_tells_those_who_were_told_in_one_line()
    {
        var order = desk.NextOrder();
        await desk.RuleAsync(
            "name: Moves\nwhen: [test.moves]\nurgency: urgent\ntell: [ { person: ines.calder }, { role: customer } ]\nby: { allAtOnce: [mail] }\nwithdrawAt: [loaded]\nladder: [ { after: PT1H, tell: [ { person: odile.varga } ] } ]"
        );
        await desk.PostAsync("test.moves", $$"""{"number":"{{order}}","customer":{"name":"MV Corvane","email":"purser@moves.example"} }""");
        await desk.DeliveriesAsync(order, d => d.Count == 2 && d.All(x => x.State == DeliveryState.HandedOver));
        await desk.PostAsync("order.status-changed", $$"""{"number":"{{order}}","status":"loaded"}""");
        await desk.AlertAsync(order, a => a.State == AlertState.Withdrawn);
        var found = await desk.DeliveriesAsync(order, d => d.Count == 3 && d[^1].State == DeliveryState.HandedOver);
        Assert.Equal("ines.calder", found[^1].Person);
        Assert.Equal(
            $"{order}: nothing more to do, the order is Loaded",
            desk.StandIns.Mail.Mails.Last(m => m.To.StartsWith("ines.calder", StringComparison.Ordinal)).Subject
        );
        Assert.Single(desk.StandIns.Mail.Mails, m => m.To == "purser@moves.example");
    }

    [Fact]
    public async Task A_rule_that_gathers_sends_one_message_for_all_its_alerts_and_its_clock_stands_still_until_then()
    {
        await desk.RuleAsync(
            "name: Gathers\nwhen: [test.gathers]\nurgency: routine\ngather: PT5S\ntell: [ { person: ines.calder } ]\nby: { allAtOnce: [mail] }\nladder: [ { after: PT1H, tell: [ { person: odile.varga } ] } ]"
        );
        string[] orders = [desk.NextOrder(), desk.NextOrder(), desk.NextOrder()];
        await desk.PostAsync(orders.Take(2).Select(o => (o, "test.gathers", $$"""{"number":"{{o}}"}""", (Instant?)null)));
        var first = (await desk.DeliveriesAsync(orders[0], d => d.Count == 1))[0];
        await desk.PostAsync("test.gathers", $$"""{"number":"{{orders[2]}}"}""");
        Assert.StartsWith("gathered until ", first.Reason);
        foreach (var order in orders.Skip(1))
        {
            var other = (await desk.DeliveriesAsync(order, d => d.Count == 1))[0];
            Assert.Equal((DeliveryState.Skipped, first.Id), (other.State, other.CarriedBy));
        }

        await desk.DeliveriesAsync(orders[0], d => d[0].State == DeliveryState.HandedOver, seconds: 12);
        var mail = Assert.Single(desk.StandIns.Mail.Mails, m => m.Text.Contains(orders[0], StringComparison.Ordinal));
        Assert.EndsWith(" and more", mail.Subject);
        Assert.All(orders, o => Assert.Contains(o, mail.Text));
        await using var db = await desk.DbAsync();
        var step = await db.AlertSteps.AsNoTracking().SingleAsync(s => s.AlertId == first.AlertId && s.Index == 1);
        Assert.Equal(Duration.FromHours(1) + Duration.FromSeconds(5), step.DueAt - first.CreatedAt);

        // Answering the one message answers all that it stands for.
        var link = System.Text.RegularExpressions.Regex.Match(mail.Text, "/a/([A-Za-z0-9_-]{22})").Groups[1].Value;
        var desk2 = desk.Services.GetRequiredService<AnswerDesk>();
        var found = (await desk2.LinkAsync(link, default))!;
        Assert.Null((await desk2.AnswerAsync(found.AlertId, "ines.calder", AnswerKind.Taken, "link", null, null, found.DeliveryId, default)).Problem);
        foreach (var order in orders)
        {
            await desk.AlertAsync(order, a => a.State == AlertState.Taken);
        }
    }

    [Fact]
    public async Task A_step_leaves_out_who_was_told_already_and_who_has_declined_and_says_so()
    {
        var order = await RaiseAsync(
            "leaves-out",
            "[ { after: PT1H, tell: [ { person: ines.calder }, { person: odile.varga } ], by: { allAtOnce: [sms] } }, { after: PT2H, tell: [ { person: odile.varga }, { person: maren.holt } ] }, { after: PT3H, tell: [ { person: maren.holt } ] }, { after: PT4H, tell: [ { person: hugo.brandt } ] } ]"
        );
        await desk.DeliveriesAsync(order, d => d[0].State == DeliveryState.HandedOver);
        var alert = await desk.AlertAsync(order);
        var answers = desk.Services.GetRequiredService<AnswerDesk>();

        // Ines has it and cannot: the next step fires at once, without her.
        Assert.Null((await answers.AnswerAsync(alert.Id, "ines.calder", AnswerKind.Taken, "api", null, null, null, default)).Problem);
        Assert.Null((await answers.AnswerAsync(alert.Id, "ines.calder", AnswerKind.Taken, "api", null, null, null, default)).Problem);
        Assert.Null((await answers.AnswerAsync(alert.Id, "odile.varga", AnswerKind.Declined, "api", "Maren Holt", null, null, default)).Problem);
        Assert.Equal("ines.calder", (await desk.AlertAsync(order)).TakenBy);
        Assert.Null((await answers.AnswerAsync(alert.Id, "ines.calder", AnswerKind.Declined, "api", null, null, null, default)).Problem);

        // Nobody is left of the first two steps but Maren; the third names her alone, who was told, so that the fourth comes at once.
        var found = await desk.DeliveriesAsync(order, d => d.Exists(x => x.Person == "maren.holt"));
        Assert.Equal(["ines.calder", "maren.holt"], found.Select(d => d.Person));
        await using var db = await desk.DbAsync();
        var steps = await db.AlertSteps.AsNoTracking().Where(s => s.AlertId == alert.Id).OrderBy(s => s.Index).ToListAsync();
        Assert.Contains(steps[1].Left, l => l.Because == "declined");
        Assert.Equal((StepCause.Declined, true), (steps[1].Cause, steps[1].PulledForward));
        Assert.Equal(StepCause.Failed, steps[2].Cause);
        Assert.Contains(steps[2].Told, t => t.Person == "maren.holt");
        Assert.Null(steps[3].FiredAt);
        await db.Database.ExecuteSqlAsync($"update alert_steps set due_at = now() where alert_id = {alert.Id} and index = 3");
        Assert.Equal("hugo.brandt", (await desk.DeliveriesAsync(order, d => d.Count == 3))[2].Person);
        Assert.Contains((await db.AlertSteps.AsNoTracking().SingleAsync(s => s.AlertId == alert.Id && s.Index == 3)).Left, l =>
            l.Because.StartsWith("told already at ", StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task A_further_match_is_told_to_whoever_has_it_in_one_line_and_opens_what_had_lapsed()
    {
        var order = await RaiseAsync("again", "[ { after: PT3H, tell: [ { person: odile.varga } ] } ]");
        await desk.DeliveriesAsync(order, d => d[0].State == DeliveryState.HandedOver);
        var alert = await desk.AlertAsync(order);
        var answers = desk.Services.GetRequiredService<AnswerDesk>();
        Assert.Null((await answers.AnswerAsync(alert.Id, "ines.calder", AnswerKind.Taken, "api", null, null, null, default)).Problem);
        await desk.PostAsync("test.again", $$"""{"number":"{{order}}"}""");
        await desk.DeliveriesAsync(order, d => d.Count == 2 && d[1].State == DeliveryState.HandedOver);
        Assert.EndsWith("as well; you have it", desk.StandIns.Mail.Mails.Last(m => m.Subject.StartsWith(order + ":", StringComparison.Ordinal)).Subject);

        await using (var db = await desk.DbAsync())
        {
            await db.Database.ExecuteSqlAsync($"delete from alert_steps where alert_id = {alert.Id} and fired_at is null");
            await db.Database.ExecuteSqlAsync(
                $"update alerts set state = 'open', taken_by = null, done_by = null, stopped_at = null, waits_until = now() where id = {alert.Id}"
            );
        }

        await desk.AlertAsync(order, a => a.State == AlertState.Lapsed);
        await desk.PostAsync("test.again", $$"""{"number":"{{order}}"}""");
        await desk.AlertAsync(order, a => a.State == AlertState.Open);
        await desk.DeliveriesAsync(order, d => d.Count(x => x.Person == "ines.calder") == 3);
        await using var after = await desk.DbAsync();
        Assert.Single(await after.AlertSteps.Where(s => s.AlertId == alert.Id && s.FiredAt == null).ToListAsync());
    }

    [Fact]
    public async Task What_is_put_off_is_open_again_at_its_time_and_its_holder_told()
    {
        var order = await RaiseAsync("put-off", "[ { after: PT1H, tell: [ { person: odile.varga } ] } ]");
        await desk.DeliveriesAsync(order, d => d[0].State == DeliveryState.HandedOver);
        var alert = await desk.AlertAsync(order);
        var until = SystemClock.Instance.GetCurrentInstant() + Duration.FromSeconds(2);
        Assert.Null(
            (
                await desk
                    .Services.GetRequiredService<AnswerDesk>()
                    .AnswerAsync(alert.Id, "ines.calder", AnswerKind.Later, "api", null, "after the tide", null, default, until: until)
            ).Problem
        );
        Assert.Equal("ines.calder", (await desk.AlertAsync(order, a => a.State == AlertState.Taken)).TakenBy);
        var found = await desk.DeliveriesAsync(order, d => d.Count == 2, 15);
        Assert.True(found[1].Person == "ines.calder" && found[1].CreatedAt >= until);
        await using var db = await desk.DbAsync();
        Assert.EndsWith(": after the tide", (await db.Answers.AsNoTracking().SingleAsync(a => a.AlertId == alert.Id)).Note);

        // The hour goes on from where it stood.
        var step = await db.AlertSteps.AsNoTracking().SingleAsync(s => s.AlertId == alert.Id && s.Index == 1);
        Assert.True(step.DueAt >= alert.RaisedAt + Duration.FromHours(1) + Duration.FromSeconds(1));
    }

    [Fact]
    public async Task An_answer_is_an_event_while_a_rule_listens_to_it()
    {
        await desk.RuleAsync(
            "id: hears-taken\nname: hears taken\nwhen: [alert.taken, alert.done]\ntell: [ { person: maren.holt } ]\nby: { allAtOnce: [screen] }"
        );
        var order = await RaiseAsync("answered", "[ { after: PT1H, tell: [ { person: odile.varga } ] } ]");
        var alert = await desk.AlertAsync(order);
        var answers = desk.Services.GetRequiredService<AnswerDesk>();
        Assert.Null((await answers.AnswerAsync(alert.Id, "ines.calder", AnswerKind.Taken, "api", "Maren Holt", null, null, default)).Problem);
        Assert.Null((await answers.AnswerAsync(alert.Id, "ines.calder", AnswerKind.Done, "api", "Maren Holt", null, null, default)).Problem);
        Assert.True((await answers.AnswerAsync(alert.Id, "odile.varga", AnswerKind.Taken, "api", "Maren Holt", null, null, default)).Conflict);
        var found = await desk.DeliveriesAsync(order, d => d.Exists(x => x.RuleId == "hears-taken"));
        await using var db = await desk.DbAsync();
        await desk.UntilAsync(async now => await now.Events.CountAsync(e => e.OrderNumber == order && e.Source == "/sirena") >= 2, "both answers are events");
        Assert.Equal(
            ["alert.done", "alert.taken"],
            await db.Events.Where(e => e.OrderNumber == order && e.Source == "/sirena").Select(e => e.Type).OrderBy(t => t).ToListAsync()
        );

        // Who came too late stands among the answers, and makes no event.
        Assert.StartsWith(
            "too late: It is done already, by Ines Calder",
            (await db.Answers.AsNoTracking().SingleAsync(a => a.AlertId == alert.Id && a.Person == "odile.varga")).Note
        );
        var heard = found.First(d => d.RuleId == "hears-taken").Id;
        await desk.RuleAsync(
            "hears-taken",
            "id: hears-taken\nname: hears taken\non: false\nwhen: [alert.taken, alert.done]\ntell: [ { person: maren.holt } ]\nby: { allAtOnce: [screen] }"
        );
        Assert.Contains("Ines Calder", (await db.Messages.SingleAsync(m => m.DeliveryId == heard)).Text);
    }

    [Fact]
    public async Task When_whoever_has_it_is_archived_it_burns_on_at_once()
    {
        var order = await RaiseAsync("gone", "[ { after: PT2H, tell: [ { person: odile.varga } ] } ]");
        var alert = await desk.AlertAsync(order);
        Assert.Null(
            (
                await desk
                    .Services.GetRequiredService<AnswerDesk>()
                    .AnswerAsync(alert.Id, "joost.hale", AnswerKind.Taken, "api", "Maren Holt", null, null, default)
            ).Problem
        );
        var people = desk.Services.GetRequiredService<Engine.People.PeopleDesk>();
        async Task ArchiveAsync(Instant? at) =>
            Assert.Null(
                await people.ChangeAsync(
                    "joost.hale",
                    "the test",
                    (p, _) =>
                    {
                        p.ArchivedAt = at;
                        return null;
                    },
                    TestContext.Current.CancellationToken
                )
            );
        await ArchiveAsync(SystemClock.Instance.GetCurrentInstant());
        var found = await desk.DeliveriesAsync(order, d => d.Exists(x => x.Person == "odile.varga"));
        await ArchiveAsync(null);
        Assert.DoesNotContain(found, d => d.Person == "joost.hale");
        Assert.Equal(AlertState.Open, (await desk.AlertAsync(order)).State);
        await using var db = await desk.DbAsync();
        Assert.Equal(StepCause.Declined, (await db.AlertSteps.AsNoTracking().SingleAsync(x => x.AlertId == alert.Id && x.Index == 1)).Cause);
    }
}
