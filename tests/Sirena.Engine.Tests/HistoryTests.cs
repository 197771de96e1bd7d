using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Core.Ladders;
using Sirena.Demo.StandIns;
using Sirena.Engine.Ladders;

namespace Sirena.Engine.Tests;

/// <summary>Random histories: answers, failures, status changes and a node that restarts, all at once; whatever happens, what must never be is not.</summary>
public sealed class HistoryTests(DeskFixture desk) : IClassFixture<DeskFixture>
{
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public async Task No_step_fires_on_a_closed_alert_every_alert_has_one_end_and_time_runs_forwards(int seed)
    {
        var chance = new Random(seed);
        await desk.RuleAsync(
            $"hist-{seed}",
            $"id: hist-{seed}\nname: hist\nwhen: [test.hist-{seed}]\nurgency: urgent\ntell: [ {{ person: ines.calder }}, {{ person: odile.varga }} ]\nby: {{ allAtOnce: [mail] }}\ndoneWithin: PT1S\nladder: [ {{ after: PT0.3S, tell: [ {{ person: maren.holt }} ] }}, {{ after: PT0.9S, tell: [ {{ team: desk }} ] }}, {{ after: PT2S, tell: [ {{ person: hugo.brandt }} ] }} ]\nwithdrawAt: [cancelled]"
        );
        var answers = desk.Services.GetRequiredService<AnswerDesk>();
        var orders = Enumerable.Range(0, 24).Select(_ => desk.NextOrder()).ToArray();
        foreach (var order in orders)
        {
            await desk.PostAsync($"test.hist-{seed}", $$"""{"number":"{{order}}"}""");
        }

        desk.StandIns.Faults.Add(new Fault("mail", "maren.holt@*", "refuse", 0));
        string[] people = ["ines.calder", "odile.varga", "maren.holt", "hugo.brandt"];
        var second = await desk.StartNodeAsync();
        for (var i = 0; i < 90; i++)
        {
            var order = orders[chance.Next(orders.Length)];
            await using var db = await desk.DbAsync();
            if (await db.Alerts.AsNoTracking().FirstOrDefaultAsync(a => a.OrderNumber == order) is { } alert)
            {
                var person = people[chance.Next(people.Length)];
                await (
                    chance.Next(6) switch
                    {
                        0 => desk.PostAsync(
                            "order.status-changed",
                            $$"""{"number":"{{order}}","status":"{{(chance.Next(4) == 0 ? "cancelled" : "picking")}}"}"""
                        ),
                        1 => answers.AnswerAsync(alert.Id, person, AnswerKind.Passed, "api", null, null, null, default, to: people[chance.Next(people.Length)]),
                        2 => answers.AnswerAsync(alert.Id, person, AnswerKind.Declined, "api", null, null, null, default),
                        3 when chance.Next(3) == 0 => answers.AnswerAsync(alert.Id, person, AnswerKind.Done, "api", null, null, null, default),
                        _ => answers.AnswerAsync(alert.Id, person, AnswerKind.Taken, "api", null, null, null, default),
                    }
                );
            }

            await Task.Delay(chance.Next(60), TestContext.Current.CancellationToken);
            if (i == 45)
            {
                await desk.StopNodeAsync(second);
            }
        }

        foreach (var order in orders)
        {
            await desk.DueAsync((await desk.AlertAsync(order)).Id);
        }

        await desk.LaddersAsync();
        desk.StandIns.Faults.Clear();
        await using var after = await desk.DbAsync();
        var alerts = await after.Alerts.AsNoTracking().Where(a => orders.Contains(a.OrderNumber!)).ToListAsync();
        Guid[] ids = [.. alerts.Select(a => a.Id)];
        var steps = (await after.AlertSteps.AsNoTracking().Where(s => ids.Contains(s.AlertId)).ToListAsync()).ToLookup(s => s.AlertId);
        var given = (await after.Answers.AsNoTracking().Where(a => ids.Contains(a.AlertId)).OrderBy(a => a.Id).ToListAsync()).ToLookup(a => a.AlertId);
        var deliveries = await after.Deliveries.AsNoTracking().Where(d => ids.Contains(d.AlertId)).ToListAsync();
        Assert.Equal(orders.Length, alerts.Count);
        Assert.All(alerts, alert =>
        {
            var final = alert.State is AlertState.Done or AlertState.Withdrawn;
            Assert.Equal(final, alert.EndedAt is not null);
            Assert.True(
                given[alert.Id].Count(a => a.Kind == AnswerKind.Done) <= (alert.State == AlertState.Done ? 1 : 0),
                "An alert is done once, and only if it ended so."
            );
            Assert.True(!final || steps[alert.Id].All(s => s.FiredAt is null || s.FiredAt <= alert.EndedAt), "A step fired after the end.");
            Assert.Equal(steps[alert.Id].Count(), steps[alert.Id].Select(s => s.Index).Distinct().Count());
            Assert.Equal(given[alert.Id].Select(a => a.At).Order(), given[alert.Id].Select(a => a.At));
            Assert.True(steps[alert.Id].All(s => s.FiredAt is null || s.FiredAt >= alert.RaisedAt) && (alert.EndedAt ?? alert.RaisedAt) >= alert.RaisedAt);
            Assert.True(
                !final
                    || given[alert.Id]
                        .All(a => a.At <= alert.EndedAt + Duration.FromMilliseconds(1) || a.Note?.StartsWith("too late: ", StringComparison.Ordinal) == true)
            );
        });
        Assert.All(deliveries, d =>
            Assert.True((d.HandedOverAt ?? d.CreatedAt) >= d.CreatedAt - Duration.FromMilliseconds(1) && (d.LandedAt ?? d.CreatedAt) >= d.CreatedAt)
        );

        // No step told anybody twice: one message to a reader at a step. Those of a withdrawn alert hear once more that it is.
        var withdrawn = alerts.Where(a => a.State == AlertState.Withdrawn).Select(a => a.Id).ToHashSet();
        Assert.DoesNotContain(deliveries.Where(d => !withdrawn.Contains(d.AlertId)).GroupBy(d => (d.AlertId, d.Step, d.Person, d.Channel, d.To)), g =>
            g.Count() > 1
        );
    }
}
