using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Http;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Engine.Instructions;
using Sirena.Engine.Ladders;

namespace Sirena.Engine.Tests;

/// <summary>What rules ask of an order system by themselves, and what holds them back.</summary>
public sealed class InstructionRuleTests(DeskFixture desk) : InstructionCase(desk)
{
    [Fact]
    public async Task A_rule_asks_at_once_at_a_step_and_when_somebody_answers_with_its_fields_filled_in()
    {
        await using var far = await SystemAsync(200, """{ "state": "seen" }""");
        var (source, number) = (await SourceAsync(far), Quay.NextOrder());
        await Quay.RuleAsync(
            $$$"""
            name: Acts {{{number}}}
            when: [order.risk-flagged]
            onlyIf: { field: order.number, is: equal, value: "{{{number}}}" }
            do: [ { hold: { reason: "score {{order.risk.score}}" } } ]
            tell: [ { person: ines.calder } ]
            onAnswer: { taken: [ { tag: { add: [credit-has-it] } } ] }
            ladder: [ { after: PT1S, do: [ { note: "nobody has looked" } ] } ]
            """
        );
        await SayAsync(source, "order.risk-flagged", number, """, "risk": { "level": "high", "score": 82 }""");
        var alert = await Quay.AlertAsync(number);
        var two = await OfAsync(number, all => all.Count >= 2);
        Assert.Equal(("hold", "score 82", 1), (two[0].Kind, (string)two[0].Members["reason"]!, two[0].Depth));
        Assert.Equal(("note", "nobody has looked"), (two[1].Kind, (string)two[1].Members["text"]!));
        await Quay
            .Services.GetRequiredService<AnswerDesk>()
            .AnswerAsync(alert.Id, "ines.calder", AnswerKind.Taken, "screen", "Maren Holt", null, null, TestContext.Current.CancellationToken);
        var three = await OfAsync(number, all => all.Count >= 3 && all.TrueForAll(i => i.State == InstructionState.Seen));
        Assert.Equal(("tag", "taken by Ines Calder"), (three[2].Kind, three[2].Because));
    }

    [Fact]
    public async Task Of_opposites_the_more_urgent_rules_is_asked_and_the_other_dropped_with_the_reason()
    {
        await using var far = await SystemAsync();
        var (source, number) = (await SourceAsync(far), Quay.NextOrder());
        foreach (var (name, urgency, status) in new[] { ("slow", "routine", "picking"), ("fast", "urgent", "credit-check") })
        {
            await Quay.RuleAsync(
                $$"""
                name: {{name}} {{number}}
                when: [order.placed]
                urgency: {{urgency}}
                onlyIf: { field: order.number, is: equal, value: "{{number}}" }
                do: [ { status: {{status}} } ]
                """
            );
        }

        await SayAsync(source, "order.placed", number, """, "status": "received" """);
        var both = await OfAsync(number, all => all.Count == 2);
        Assert.Equal("credit-check", (string)both[0].Members["to"]!);
        Assert.Equal(InstructionState.Dropped, both[1].State);
        Assert.Contains("asks for the opposite", both[1].Words);
        await EventsAsync(number, "instruction.dropped");
    }

    [Fact]
    public async Task Two_rules_that_set_each_other_off_are_stopped_and_the_supervisor_is_told()
    {
        FarEnd? far = null;
        var (number, source) = (Quay.NextOrder(), "");
        far = await FarEnd.StartAsync(async http =>
        {
            await http.Response.WriteAsync("{}");
            var kind = (string)JsonNode.Parse(far!.Got[^1].Body)!["data"]!["instruction"]!["kind"]!;
            await SayAsync(
                source,
                kind == "hold" ? "order.held" : "order.released",
                number,
                kind == "hold" ? """, "hold": { "reason": "x" }""" : """, "hold": null"""
            );
        });
        await using var _ = far;
        source = await SourceAsync(far);
        await Quay.RuleAsync(
            $$"""{ "name": "hold {{number}}", "when": ["order.released", "order.placed"], "onlyIf": { "field": "order.number", "is": "equal", "value": "{{number}}" }, "do": ["hold"] }"""
        );
        await Quay.RuleAsync(
            $$"""{ "name": "release {{number}}", "when": ["order.held"], "onlyIf": { "field": "order.number", "is": "equal", "value": "{{number}}" }, "do": ["release"] }"""
        );
        await SayAsync(source, "order.placed", number, "");
        var all = await OfAsync(number, i => i.Exists(x => x.State == InstructionState.Dropped));
        Assert.Equal([1, 2, 3, 4], all.Select(i => i.Depth));
        Assert.Contains("in a row", all[^1].Words);
        await EventsAsync(number, "instruction.dropped");
        Assert.Equal(3, far.Got.Count);
    }

    [Fact]
    public async Task Above_its_limit_a_rule_waits_for_a_supervisors_yes_and_a_trial_asks_nothing()
    {
        await using var far = await SystemAsync();
        var source = await SourceAsync(far);
        string[] numbers = [.. Enumerable.Range(0, 3).Select(_ => Quay.NextOrder())];
        var mark = numbers[0];
        await Quay.RuleAsync(
            $$"""
            name: Limited {{mark}}
            when: [order.placed]
            onlyIf: { field: order.extra.mark, is: equal, value: "{{mark}}" }
            do: [ { cancel: { reason: "no" } } ]
            doAtMost: { times: 2, within: PT1H }
            """
        );
        await Quay.RuleAsync(
            $$"""
            name: Tried {{mark}}
            when: [order.placed]
            onlyIf: { field: order.extra.mark, is: equal, value: "{{mark}}" }
            do: [ { tag: { add: [tried] } } ]
            trial: true
            """
        );
        foreach (var number in numbers)
        {
            await SayAsync(source, "order.placed", number, $$""", "extra": { "mark": "{{mark}}" }""");
        }

        var last = await OfAsync(numbers[2], all => all.Count == 2);
        var waits = last.Single(i => i.Kind == "cancel");
        Assert.Equal((InstructionState.Asked, InstructionWait.Limit), (waits.State, waits.Waits!.Value));
        Assert.Equal(
            (true, InstructionState.Dropped, null),
            (last.Single(i => i.Kind == "tag").Trial, last.Single(i => i.Kind == "tag").State, last.Single(i => i.Kind == "tag").News)
        );
        foreach (var number in numbers[..2])
        {
            await OfAsync(number, all => all.Exists(i => i is { Kind: "cancel", State: InstructionState.Taken }));
        }

        Assert.Equal(2, far.Got.Count);
        Assert.Equal(403, (await Desk.ApproveAsync(waits.Id, new Asker("ines.calder", "Ines Calder", "staff"), TestContext.Current.CancellationToken)).Status);
        Assert.Equal(200, (await Desk.ApproveAsync(waits.Id, Maren, TestContext.Current.CancellationToken)).Status);
        await UntilAsync(waits.Id, InstructionState.Taken);
        Assert.DoesNotContain(far.Got, g => g.Body.Contains("instruction.tag", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_pause_holds_what_rules_ask_until_it_ends()
    {
        await using var far = await SystemAsync();
        var (source, number) = (await SourceAsync(far), Quay.NextOrder());
        var rule = await Quay.RuleAsync(
            $$"""
            name: Paused {{number}}
            when: [order.placed]
            onlyIf: { field: order.number, is: equal, value: "{{number}}" }
            do: [ hold ]
            """
        );
        await using (var db = await Quay.DbAsync())
        {
            var now = SystemClock.Instance.GetCurrentInstant();
            db.Pauses.Add(
                new Pause
                {
                    Scope = new PauseScope(Rule: rule),
                    Reason = "test",
                    By = "the test",
                    Since = now,
                    Until = now + Duration.FromSeconds(3),
                }
            );
            await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        }

        Quay.Services.GetRequiredService<Signals>().Raise(Topic.Setup);
        await SayAsync(source, "order.placed", number, "");
        var held = (await OfAsync(number, all => all.Count == 1))[0];
        Assert.Equal(InstructionWait.Pause, held.Waits);
        await UntilAsync(held.Id, InstructionState.Taken);
    }

    [Fact]
    public async Task A_rule_for_what_no_source_takes_is_refused_with_the_place()
    {
        // Another test's source may take it: tests come in any order.
        await using (var db = await Quay.DbAsync())
        {
            await db.Database.ExecuteSqlAsync(
                $"update sources set removed_at = now() where takes::text like '%intake%'",
                TestContext.Current.CancellationToken
            );
        }

        await SourceAsync(null, "\"hold\"");
        var saved = await Quay
            .Services.GetRequiredService<Sirena.Engine.Rules.RuleDesk>()
            .SaveAsync(
                """{ "name": "x", "when": ["order.placed"], "do": [ { "intake": "closed" }, { "hodl": {} }, { "hold": { "reason": "{{order.nope}}" } }, { "status": "nowhere" } ] }""",
                yaml: false,
                null,
                "the test",
                TestContext.Current.CancellationToken
            );
        Assert.Equal(
            ["do[0]", "do[1]", "do[2].hold.reason"],
            saved.Errors.Select(e => e.Path).Where(p => p != "do[3].status.to" && p != "do[3].status" && p != "do[3]")
        );
    }
}
