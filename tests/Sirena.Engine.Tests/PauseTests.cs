using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Engine.Ladders;

namespace Sirena.Engine.Tests;

/// <summary>Pauses, what is late, storms and shared ladders, against the running engine.</summary>
public sealed class PauseTests(DeskFixture desk) : IClassFixture<DeskFixture>
{
    private PauseDesk Pauses => desk.Services.GetRequiredService<PauseDesk>();

    private static Instant In(int seconds) => SystemClock.Instance.GetCurrentInstant() + Duration.FromSeconds(seconds);

    private async Task<string> RaiseAsync(string name, string more = "", string order = "")
    {
        var number = desk.NextOrder();
        await desk.RuleAsync(
            name,
            $"id: {name}\nname: {name}\nwhen: [test.{name}]\nurgency: urgent\ntell: [ {{ person: ines.calder }} ]\nby: {{ allAtOnce: [mail] }}\n{more}"
        );
        await desk.PostAsync($"test.{name}", $$"""{"number":"{{number}}"{{order}}}""");
        return number;
    }

    [Fact]
    public async Task A_pause_holds_what_is_raised_and_what_burns_and_sends_it_all_afterwards()
    {
        var before = await RaiseAsync("held", "ladder: [ { after: PT1H, tell: [ { person: odile.varga } ] } ]");
        await desk.DeliveriesAsync(before, d => d.Count == 1 && d[0].State == DeliveryState.HandedOver);
        var (pause, problem) = await Pauses.BeginAsync("rule:held", In(600), "stocktaking", asks: false, "Maren Holt", default);
        Assert.Null(problem);
        var within = await RaiseAsync("held", "ladder: [ { after: PT1H, tell: [ { person: odile.varga } ] } ]");
        var held = await desk.DeliveriesAsync(within, d => d.Count == 1);
        Assert.Equal((DeliveryState.Waiting, pause!.Id), (held[0].State, held[0].PausedBy));
        Assert.Contains("stocktaking", held[0].Reason);
        await desk.DueAsync((await desk.AlertAsync(before)).Id);
        await desk.DueAsync((await desk.AlertAsync(within)).Id);
        await desk.LaddersAsync();
        Assert.Single(await desk.DeliveriesAsync(before, _ => true));
        Assert.Single(await desk.DeliveriesAsync(within, d => d[0].State == DeliveryState.Waiting));
        Assert.Equal(2, (await Pauses.HeldAsync(pause.Id, default)).Count);

        Assert.Equal(2, await Pauses.ReleaseAsync(pause.Id, null, send: true, "Maren Holt", default));
        await desk.DeliveriesAsync(within, d => d.Count >= 1 && d[0].State == DeliveryState.HandedOver);

        // The ladder goes on with what was left of its time: its hour ends later by as long as it stood.
        foreach (var order in new[] { before, within })
        {
            var alert = await desk.AlertAsync(order, a => a.StoppedAt is null);
            var due = await desk.UntilAsync(
                db => db.AlertSteps.Where(s => s.AlertId == alert.Id && s.Index == 1).Select(s => s.DueAt).SingleAsync(),
                at => at > alert.RaisedAt + Duration.FromHours(1),
                at => $"the step of {order} is due at {at}"
            );
            Assert.True(due < alert.RaisedAt + Duration.FromHours(1) + Duration.FromMinutes(5), $"{due}");
            await desk.DueAsync(alert.Id);
            await desk.DeliveriesAsync(order, d => d.Exists(x => x.Person == "odile.varga"));
        }
    }

    [Fact]
    public async Task What_a_pause_of_a_team_held_can_be_dropped_one_by_one_and_says_so()
    {
        await desk.RuleAsync("id: team-held\nname: team-held\nwhen: [test.team-held]\ntell: [ { team: desk } ]\nby: { allAtOnce: [mail, screen] }");
        var (pause, _) = await Pauses.BeginAsync("team:desk", In(600), "a move", asks: true, "Maren Holt", default);
        var (kept, dropped) = (desk.NextOrder(), desk.NextOrder());
        await desk.PostAsync("test.team-held", $$"""{"number":"{{kept}}"}""");
        await desk.PostAsync("test.team-held", $$"""{"number":"{{dropped}}"}""");
        var (one, two) = (await desk.AlertAsync(kept, a => a.PausedBy == pause!.Id), await desk.AlertAsync(dropped, a => a.PausedBy == pause!.Id));
        Assert.Equal(1, await Pauses.ReleaseAsync(pause!.Id, [two.Id], send: false, "Maren Holt", default));
        Assert.Equal(AlertState.Withdrawn, (await desk.AlertAsync(dropped)).State);
        Assert.All(await desk.DeliveriesAsync(dropped, d => d.Count > 0), d =>
            Assert.Equal((DeliveryState.Skipped, "dropped by Maren Holt after a pause"), (d.State, d.Reason))
        );
        Assert.Equal(pause.Id, (await desk.AlertAsync(kept)).PausedBy);
        await Pauses.ReleaseAsync(pause.Id, null, send: true, "Maren Holt", default);
        var sent = await desk.DeliveriesAsync(kept, d => d.TrueForAll(x => x.State is DeliveryState.HandedOver or DeliveryState.Landed));
        Assert.Contains(sent, d => d.Channel == Channel.Screen);
        Assert.Equal(AlertState.Open, (await desk.AlertAsync(kept)).State);
        Assert.NotEqual(one.Id, two.Id);
    }

    [Fact]
    public async Task A_pause_ends_by_itself_unless_it_asks()
    {
        var (asks, _) = await Pauses.BeginAsync("rule:ends", In(2), "asks first", asks: true, "Maren Holt", default);
        await desk.RuleAsync("id: ends\nname: ends\nwhen: [test.ends]\ntell: [ { person: ines.calder } ]\nby: { allAtOnce: [mail] }");
        if (asks is null)
        {
            (asks, _) = await Pauses.BeginAsync("rule:ends", In(2), "asks first", asks: true, "Maren Holt", default);
        }

        var order = desk.NextOrder();
        await desk.PostAsync("test.ends", $$"""{"number":"{{order}}"}""");
        await desk.AlertAsync(order, a => a.PausedBy is not null);

        // One that is over later and asks nothing goes by itself; when it has gone, the one that asks still holds.
        await desk.RuleAsync("id: goes\nname: goes\nwhen: [test.goes]\ntell: [ { person: ines.calder } ]\nby: { allAtOnce: [mail] }");
        var (goes, _) = await Pauses.BeginAsync("rule:goes", In(3), "goes by itself", asks: false, "Maren Holt", default);
        Assert.NotNull(goes);
        var next = desk.NextOrder();
        await desk.PostAsync("test.goes", $$"""{"number":"{{next}}"}""");
        await desk.AlertAsync(next, a => a.PausedBy is not null);
        await desk.DeliveriesAsync(next, d => d.Count == 1 && d[0].State == DeliveryState.HandedOver);
        Assert.NotNull((await desk.AlertAsync(order)).PausedBy);
        await Pauses.ReleaseAsync(asks!.Id, null, send: true, "Maren Holt", default);
        await desk.DeliveriesAsync(order, d => d.Count == 1 && d[0].State == DeliveryState.HandedOver);
    }

    [Theory]
    [InlineData("rule:nothing", 60, "why", "Choose what")]
    [InlineData("all", -5, "why", "over already")]
    [InlineData("all", 60, " ", "Say why")]
    [InlineData("all", 40 * 86400, "why", "a month at most")]
    public async Task A_pause_that_makes_no_sense_is_refused(string scope, int seconds, string reason, string words)
    {
        var (pause, problem) = await Pauses.BeginAsync(scope, In(seconds), reason, false, "Maren Holt", default);
        Assert.Null(pause);
        Assert.Contains(words, problem);
    }

    [Fact]
    public async Task An_alert_that_is_taken_and_not_done_in_time_burns_on()
    {
        var order = await RaiseAsync("late", "doneWithin: PT2S\nladder: [ { after: PT12S, tell: [ { person: odile.varga } ] } ]");
        var alert = await desk.AlertAsync(order);
        await desk.Services.GetRequiredService<AnswerDesk>().AnswerAsync(alert.Id, "ines.calder", AnswerKind.Taken, "api", null, null, null, default);
        Assert.NotNull((await desk.AlertAsync(order, a => a.State == AlertState.Taken)).DoneBy);
        await desk.AlertAsync(order, a => a.State == AlertState.Open);

        // Whoever had it hears of it first, then the ladder goes on.
        var told = await desk.DeliveriesAsync(order, d => d.Exists(x => x.Person == "odile.varga"));
        Assert.Equal(["ines.calder", "ines.calder", "odile.varga"], told.Select(d => d.Person));
        await desk.Services.GetRequiredService<AnswerDesk>().AnswerAsync(alert.Id, "odile.varga", AnswerKind.Done, "api", null, null, null, default);
        Assert.Equal(AlertState.Done, (await desk.AlertAsync(order, a => a.State == AlertState.Done)).State);
    }

    [Fact]
    public async Task The_next_step_comes_when_the_order_is_due_and_a_new_due_time_moves_it()
    {
        var due = SystemClock.Instance.GetCurrentInstant() + Duration.FromSeconds(3);
        var order = await RaiseAsync(
            "pulled",
            "ladder: [ { after: PT2H, tell: [ { person: odile.varga } ] }, { after: PT3H, tell: [ { person: maren.holt } ] } ]",
            $",\"dueAt\":\"{due:uuuu-MM-dd'T'HH:mm:ss.fff'Z'}\""
        );
        var found = await desk.DeliveriesAsync(order, d => d.Exists(x => x.Person == "odile.varga"), 15);
        await using var db = await desk.DbAsync();
        var steps = await db.AlertSteps.AsNoTracking().Where(s => s.AlertId == found[0].AlertId).OrderBy(s => s.Index).ToListAsync();
        Assert.Equal([false, true, false], steps.Select(s => s.PulledForward));
        Assert.True(steps[1].FiredAt - due < Duration.FromSeconds(3) && steps[2].FiredAt is null);

        var later = await RaiseAsync(
            "moved",
            "pullForward: true\nladder: [ { after: PT2H, tell: [ { person: odile.varga } ] }, { beforeDue: PT10M, tell: [ { person: maren.holt } ] } ]",
            ",\"dueAt\":\"2099-01-01T10:00:00Z\""
        );
        var alert = await desk.AlertAsync(later);
        await desk.PostAsync("order.changed", $$"""{"number":"{{later}}","dueAt":"2099-01-01T12:00:00Z"}""");
        await desk.UntilAsync(
            now => now.AlertSteps.AsNoTracking().Where(s => s.AlertId == alert.Id && s.Index == 2).Select(s => s.DueAt).FirstAsync(),
            due => due == Instant.FromUtc(2099, 1, 1, 11, 50),
            due => $"the step is due at {due}"
        );
        Assert.Equal(Duration.FromHours(2), (await db.AlertSteps.AsNoTracking().FirstAsync(s => s.AlertId == alert.Id && s.Index == 1)).DueAt - alert.RaisedAt);
    }

    [Fact]
    public async Task A_storm_is_gathered_into_one_message_that_says_so_and_told_as_an_event()
    {
        await desk.RuleAsync(
            "id: storm\nname: Storm\nwhen: [test.storm]\nurgency: urgent\ntell: [ { person: ines.calder } ]\nby: { allAtOnce: [mail] }\nstorm: { alerts: 3, within: PT10M }"
        );
        var orders = Enumerable.Range(0, 8).Select(_ => desk.NextOrder()).ToArray();
        foreach (var order in orders)
        {
            await desk.PostAsync("test.storm", $$"""{"number":"{{order}}"}""");
            await desk.AlertAsync(order);
        }

        await using var db = await desk.DbAsync();
        var deliveries = await db.Deliveries.AsNoTracking().Where(d => orders.Contains(d.OrderNumber!)).OrderBy(d => d.CreatedAt).ToListAsync();
        Assert.Equal(4, deliveries.Count(d => d.CarriedBy is null));
        Assert.Equal(4, deliveries.Count(d => d.State == DeliveryState.Skipped && d.Reason!.StartsWith("gathered into", StringComparison.Ordinal)));
        var gathered = deliveries.Single(d => d.GathersUntil is not null);
        var text = (await db.Messages.AsNoTracking().FirstAsync(m => m.DeliveryId == gathered.Id)).Text;
        Assert.Contains("More than 3 alerts of 'Storm' within 10 min", text);
        Assert.Equal(4, text.Split("Also: ").Length - 1);
        await desk.UntilAsync(now => now.Events.AnyAsync(e => e.Type == "rule.storm" && e.Subject == "storm"), "the storm is told as an event");
        await db.Database.ExecuteSqlAsync($"update deliveries set due_at = now(), gathers_until = now() where id = {gathered.Id}");
        await desk.DeliveriesAsync(gathered.OrderNumber!, d => d.Exists(x => x.Id == gathered.Id && x.State == DeliveryState.HandedOver));
    }

    [Fact]
    public async Task A_shared_ladder_is_used_by_many_rules_and_a_change_makes_new_versions_of_them()
    {
        var ladders = desk.Services.GetRequiredService<Rules.SharedLadders>();
        var (saved, _, errors) = await ladders.SaveAsync(
            null,
            "Evening chain",
            "- after: PT1H\n  tell: [ { person: odile.varga } ]\n",
            yaml: true,
            "Maren Holt",
            default
        );
        Assert.Empty(errors);
        await desk.RuleAsync(
            $"id: shared-a\nname: shared-a\nwhen: [test.shared]\nurgency: urgent\ntell: [ {{ person: ines.calder }} ]\nladder: {{ shared: {saved!.Id} }}"
        );
        var order = desk.NextOrder();
        await desk.PostAsync("test.shared", $$"""{"number":"{{order}}"}""");
        var alert = await desk.AlertAsync(order);
        Assert.Contains("shared-a", await ladders.RemoveAsync(saved.Id, "Maren Holt", default) ?? "");
        var (_, rules, _) = await ladders.SaveAsync(
            saved.Id,
            "Evening chain",
            "- after: PT2H\n  tell: [ { person: maren.holt } ]\n",
            yaml: true,
            "Maren Holt",
            default
        );
        Assert.Equal(1, rules);
        await using var db = await desk.DbAsync();
        var now = await db.RuleVersions.AsNoTracking().SingleAsync(v => v.RuleId == "shared-a" && v.BookTo == null);
        Assert.Equal(alert.Version + 1, now.Version);
        Assert.Contains("PT2H", now.Document);

        // The alert that burns keeps the ladder with which it was raised.
        Assert.Equal(Duration.FromHours(1), (await db.AlertSteps.AsNoTracking().FirstAsync(s => s.AlertId == alert.Id && s.Index == 1)).DueAt - alert.RaisedAt);
        Assert.Contains(
            "There is no person 'nobody'",
            (await ladders.SaveAsync(null, "Bad", "- after: PT1H\n  tell: [ { person: nobody } ]\n", yaml: true, "x", default)).Errors[0].Problem
        );
    }
}
