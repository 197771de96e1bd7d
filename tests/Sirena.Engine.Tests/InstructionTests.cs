using System.Collections.Concurrent;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Http;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Channels.Http;
using Sirena.Core.Instructions;
using Sirena.Core.Ladders;
using Sirena.Core.Orders;
using Sirena.Engine.Instructions;
using Sirena.Engine.Intake;
using Sirena.Engine.Ladders;
using Sirena.Engine.Sources;
using Sirena.Formats.Documents;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Tests;

/// <summary>What is asked of an order system, over real HTTP: handed over, refused, forgotten, shown, and what rules ask by themselves.</summary>
public sealed class InstructionTests(DeskFixture desk) : IClassFixture<DeskFixture>
{
    private const string Key = "a-key-that-signs-instructions";
    private static readonly Asker Maren = new("maren.holt", "Maren Holt", "supervisor");

    private InstructionDesk Desk => desk.Services.GetRequiredService<InstructionDesk>();

    private async Task<string> SourceAsync(
        FarEnd? far,
        string takes = "\"hold\", \"release\", \"cancel\", \"capture\", \"refund\", \"status\", \"tag\", \"note\", \"assign\"",
        string more = ""
    )
    {
        var id = $"os-{Guid.NewGuid():N}"[..20];
        var (node, _) = DocumentText.Read(
            $$"""{ "kind": "events", "takes": [ {{takes}} ], "instructionsTo": "{{far?.Url}}", "instructionsSecret": "{{Key}}"{{more}} }""",
            yaml: false
        );
        var saved = await desk.Services.GetRequiredService<SourceDesk>().SaveAsync(id, node!, "the test", TestContext.Current.CancellationToken);
        Assert.True(saved.Source is not null, string.Join("; ", saved.Errors.Select(e => $"{e.Path} {e.Problem}")));
        return id;
    }

    private Task SayAsync(string source, string type, string number, string order, string beside = "") =>
        desk
            .Services.GetRequiredService<IntakeDesk>()
            .TakeAsync(
                [
                    new Arrival(
                        new IncomingEvent(
                            Guid.NewGuid().ToString(),
                            "/" + source,
                            type,
                            number,
                            null,
                            (JsonObject)JsonNode.Parse($$"""{ "order": { "number": "{{number}}"{{order}} }{{beside}} }""")!
                        ),
                        "",
                        SystemClock.Instance.GetCurrentInstant()
                    )
                    {
                        By = source,
                    },
                ],
                TestContext.Current.CancellationToken
            );

    private Task<WishEnd> AskAsync(string number, string kind, string members = "{}", Asker? by = null, TellChoice? tell = null) =>
        Desk.AskAsync(
            new InstructionWish(kind, (MapNode)DocumentText.Read(members, yaml: false).Node!, [], by ?? Maren) { Order = number, Tell = tell },
            TestContext.Current.CancellationToken
        );

    private async Task<Instruction> UntilAsync(Guid id, InstructionState state, int seconds = 40)
    {
        Instruction? last = null;
        for (var end = DateTime.UtcNow.AddSeconds(seconds); DateTime.UtcNow < end; await Task.Delay(40))
        {
            await using var db = await desk.DbAsync();
            last = await db.Instructions.AsNoTracking().FirstAsync(i => i.Id == id);
            if (last.State == state)
            {
                return last;
            }
        }

        Assert.Fail($"Waited for {state} in vain: it is {last!.State}, {last.Words}");
        return last;
    }

    private async Task<List<Instruction>> OfAsync(string number, Func<List<Instruction>, bool> until)
    {
        for (var end = DateTime.UtcNow.AddSeconds(40); ; await Task.Delay(40))
        {
            await using var db = await desk.DbAsync();
            var found = await db.Instructions.AsNoTracking().Where(i => i.OrderNumber == number).OrderBy(i => i.Seq).ToListAsync();
            if (until(found))
            {
                return found;
            }

            Assert.True(DateTime.UtcNow < end, string.Join("; ", found.Select(i => $"{i.Kind} {i.State} {i.Waits} {i.Words}")));
        }
    }

    private async Task<List<OrderEvent>> EventsAsync(string number, string type, int count = 1)
    {
        for (var end = DateTime.UtcNow.AddSeconds(40); ; await Task.Delay(40))
        {
            await using var db = await desk.DbAsync();
            var found = await db
                .Events.AsNoTracking()
                .Where(e => e.OrderNumber == number && e.Type == type && e.DecidedAt != null)
                .OrderBy(e => e.Id)
                .ToListAsync();
            if (found.Count >= count)
            {
                return found;
            }

            Assert.True(DateTime.UtcNow < end, $"{type} of {number} did not come");
        }
    }

    private static Task<FarEnd> SystemAsync(int status = 202, string body = """{ "state": "taken", "words": "accepted, 7" }""") =>
        FarEnd.StartAsync(http =>
        {
            http.Response.StatusCode = status;
            return http.Response.WriteAsync(body);
        });

    [Fact]
    public async Task What_is_asked_goes_out_signed_and_counts_as_done_when_the_order_shows_it()
    {
        await using var far = await SystemAsync();
        var (source, number) = (await SourceAsync(far), desk.NextOrder());
        await SayAsync(source, "order.placed", number, """, "status": "received", "hold": { "reason": "limit" }""");
        var asked = await AskAsync(number, "release", """{ "reason": "paid by phone" }""");
        Assert.Equal(201, asked.Status);
        var taken = await UntilAsync(asked.Instruction!.Id, InstructionState.Taken);
        Assert.Equal("accepted, 7", taken.Words);
        var (_, body, headers) = Assert.Single(far.Got);
        var call = JsonNode.Parse(body)!;
        Assert.Equal(("instruction.release", number, taken.Id.ToString()), ((string)call["type"]!, (string)call["subject"]!, (string)call["id"]!));
        Assert.Equal(
            (taken.Id.ToString(), "release", "paid by phone"),
            (
                (string)call["data"]!["instruction"]!["id"]!,
                (string)call["data"]!["instruction"]!["kind"]!,
                (string)call["data"]!["instruction"]!["with"]!["reason"]!
            )
        );
        Assert.Equal((number, "Maren Holt"), ((string)call["data"]!["order"]!["number"]!, (string)call["data"]!["by"]!));
        Assert.NotNull(call["data"]!["order"]!["time"]);
        Assert.Equal(taken.Id.ToString(), headers["Idempotency-Key"]);
        Assert.True(
            WebhookSignature.Holds(
                [Key],
                headers["webhook-id"],
                long.Parse(headers["webhook-timestamp"]),
                System.Text.Encoding.UTF8.GetBytes(body),
                headers["webhook-signature"]
            )
        );
        Assert.StartsWith("application/cloudevents+json", headers["Content-Type"]);

        // Another event of the order shows nothing; the release does, and it carries its cause.
        await SayAsync(source, "order.changed", number, """, "total": 12.00""");
        await EventsAsync(number, "order.changed");
        Assert.Equal(InstructionState.Taken, (await UntilAsync(taken.Id, InstructionState.Taken)).State);
        await SayAsync(source, "order.released", number, """, "hold": null""");
        var seen = await UntilAsync(taken.Id, InstructionState.Seen);
        var shown = (await EventsAsync(number, "order.released"))[0];
        Assert.Equal((seen.Id, shown.Id), (shown.CausedBy!.Value, seen.SeenEvent!.Value));
        Assert.Single(far.Got);

        // What the order shows already is not asked for.
        var again = await AskAsync(number, "release");
        Assert.Equal((409, true), (again.Status, again.Problem!.Contains("it is not held", StringComparison.Ordinal)));
    }

    [Fact]
    public async Task Of_two_who_press_at_once_one_asks_and_the_other_is_told()
    {
        await using var far = await SystemAsync();
        var (source, number) = (await SourceAsync(far), desk.NextOrder());
        await SayAsync(source, "order.placed", number, "");
        var both = await Task.WhenAll(
            Enumerable.Range(0, 6).Select(i => AskAsync(number, "hold", """{ "reason": "wait" }""", new Asker(null, $"Number {i}", "supervisor")))
        );
        Assert.Equal(201, Assert.Single(both, b => b.Status == 201).Status);
        Assert.All(both.Where(b => b.Status != 201), b => Assert.Equal((409, true), (b.Status, b.Problem!.Contains("under way", StringComparison.Ordinal))));
        await UntilAsync(both.First(b => b.Status == 201).Instruction!.Id, InstructionState.Taken);
        Assert.Single(far.Got);
    }

    [Fact]
    public async Task A_refusal_carries_the_order_systems_words_and_becomes_an_event()
    {
        await using var far = await SystemAsync(422, """{ "title": "No", "detail": "Capture declined: authorised 740.00" }""");
        var (source, number) = (await SourceAsync(far), desk.NextOrder());
        await SayAsync(source, "order.placed", number, "");
        var asked = await AskAsync(number, "capture");
        Assert.Equal("Capture declined: authorised 740.00", (await UntilAsync(asked.Instruction!.Id, InstructionState.Refused)).Words);
        var said = (await EventsAsync(number, "instruction.refused"))[0];
        Assert.Equal("Capture declined: authorised 740.00", said.DataJson.GetProperty("instruction").GetProperty("words").GetString());
        Assert.Single(far.Got);
    }

    [Theory]
    [InlineData(503, "busy")]
    [InlineData(429, "slowly")]
    [InlineData(401, "who are you")]
    public async Task An_order_system_that_cannot_take_it_now_is_asked_again_with_the_same_id(int status, string words)
    {
        var calls = 0;
        await using var far = await FarEnd.StartAsync(http =>
        {
            http.Response.StatusCode = Interlocked.Increment(ref calls) == 1 ? status : 200;
            return http.Response.WriteAsync(calls == 1 ? words : "<html>fine</html>");
        });
        var (source, number) = (await SourceAsync(far), desk.NextOrder());
        await SayAsync(source, "order.placed", number, "");
        var asked = await AskAsync(number, "hold");
        await UntilAsync(asked.Instruction!.Id, InstructionState.Taken);
        Assert.Equal(2, far.Got.Count);
        Assert.Equal(far.Got[0].Headers["Idempotency-Key"], far.Got[1].Headers["Idempotency-Key"]);
        await using var db = await desk.DbAsync();
        var attempts = await db
            .InstructionAttempts.AsNoTracking()
            .Where(a => a.InstructionId == asked.Instruction.Id)
            .OrderBy(a => a.Number)
            .ToListAsync(TestContext.Current.CancellationToken);
        Assert.Equal(2, attempts.Count);
        Assert.Contains(words, attempts[0].Reply);
    }

    [Fact]
    public async Task What_cannot_be_handed_over_by_its_deadline_has_failed()
    {
        await using var far = await SystemAsync(500, "");
        var (source, number) = (await SourceAsync(far, more: ", \"tryFor\": \"PT2S\""), desk.NextOrder());
        await SayAsync(source, "order.placed", number, "");
        var asked = await AskAsync(number, "hold");
        Assert.Contains("gave up", (await UntilAsync(asked.Instruction!.Id, InstructionState.Failed)).Words);
        await EventsAsync(number, "instruction.failed");
    }

    [Fact]
    public async Task What_is_taken_and_forgotten_is_unseen_and_may_be_seen_still()
    {
        await using var far = await SystemAsync();
        var (source, number) = (await SourceAsync(far, more: ", \"seenWithin\": \"PT1S\""), desk.NextOrder());
        await SayAsync(source, "order.placed", number, "");
        var asked = await AskAsync(number, "tag", """{ "add": ["ice"] }""");
        await UntilAsync(asked.Instruction!.Id, InstructionState.Unseen);
        await EventsAsync(number, "instruction.unseen");
        await SayAsync(source, "order.changed", number, """, "tags": ["ice", "export"]""");
        await UntilAsync(asked.Instruction.Id, InstructionState.Seen);
    }

    [Fact]
    public async Task An_order_that_shows_it_before_the_answer_comes_is_seen_once()
    {
        var hold = new TaskCompletionSource();
        await using var far = await FarEnd.StartAsync(async http =>
        {
            await hold.Task;
            await http.Response.WriteAsync("{}");
        });
        var (source, number) = (await SourceAsync(far), desk.NextOrder());
        await SayAsync(source, "order.placed", number, "");
        var asked = await AskAsync(number, "hold", """{ "reason": "x" }""");
        await OfAsync(number, all => all.Exists(i => i.Tries > 0));
        await SayAsync(source, "order.held", number, """, "hold": { "reason": "x" }""");
        var seen = await UntilAsync(asked.Instruction!.Id, InstructionState.Seen);
        await SayAsync(source, "order.held", number, """, "hold": { "reason": "x" }""");
        hold.SetResult();
        var after = (await OfAsync(number, all => all.Exists(i => i.TakenAt is not null)))[0];
        Assert.Equal((InstructionState.Seen, seen.SeenAt, seen.SeenEvent), (after.State, after.SeenAt, after.SeenEvent));
    }

    [Fact]
    public async Task Instructions_of_one_order_go_one_after_the_other_and_others_do_not_wait()
    {
        await using var far = await SystemAsync();
        var source = await SourceAsync(far);
        var (first, other) = (desk.NextOrder(), desk.NextOrder());
        await SayAsync(source, "order.placed", first, "");
        await SayAsync(source, "order.placed", other, "");
        var hold = await AskAsync(first, "hold");
        var note = await AskAsync(first, "note", """{ "text": "on hold for the berth" }""");
        var free = await AskAsync(other, "hold");
        await UntilAsync(hold.Instruction!.Id, InstructionState.Taken);
        await UntilAsync(free.Instruction!.Id, InstructionState.Taken);
        Assert.Equal(0, (await UntilAsync(note.Instruction!.Id, InstructionState.Asked)).Tries);
        await SayAsync(source, "order.held", first, """, "hold": { "reason": "x" }""");
        await UntilAsync(note.Instruction.Id, InstructionState.Taken);
        await SayAsync(source, "order.note-added", first, "", """, "note": { "text": "on hold for the berth" }""");
        await UntilAsync(note.Instruction.Id, InstructionState.Seen);
        Assert.Equal(
            ["instruction.hold", "instruction.note"],
            far.Got.Select(g => (string)JsonNode.Parse(g.Body)!["type"]!).Where((_, i) => far.Got[i].Body.Contains(first, StringComparison.Ordinal))
        );
    }

    [Fact]
    public async Task A_node_that_dies_with_an_instruction_in_hand_loses_nothing_and_the_repeat_is_marked()
    {
        var calls = 0;
        await using var far = await FarEnd.StartAsync(async http =>
        {
            if (Interlocked.Increment(ref calls) == 1)
            {
                http.Abort();
                return;
            }

            await http.Response.WriteAsync("{}");
        });
        var (source, number) = (await SourceAsync(far), desk.NextOrder());
        await SayAsync(source, "order.placed", number, "");
        var asked = await AskAsync(number, "hold");
        var taken = await UntilAsync(asked.Instruction!.Id, InstructionState.Taken);
        Assert.True(taken.MayBeTwice);
        Assert.Equal(2, far.Got.Count);
        Assert.Single(far.Got.Select(g => g.Headers["Idempotency-Key"]).Distinct());
    }

    [Fact]
    public async Task An_order_of_no_taking_source_a_kind_that_is_not_taken_and_who_may_not_are_refused_with_the_way_out()
    {
        await using var far = await SystemAsync();
        var (source, number, lost) = (await SourceAsync(far, "\"hold\""), desk.NextOrder(), desk.NextOrder());
        await SayAsync(source, "order.placed", number, "");
        await desk.PostAsync("order.placed", $$"""{ "number": "{{lost}}" }""");
        Assert.Equal(404, (await AskAsync("NONE-1", "hold")).Status);
        Assert.Equal(422, (await AskAsync(lost, "hold")).Status);
        Assert.Contains("does not take 'cancel'", Assert.Single((await AskAsync(number, "cancel")).Errors).Problem);
        Assert.Contains("There is no instruction 'hodl'. Did you mean 'hold'?", Assert.Single((await AskAsync(number, "hodl")).Errors).Problem);
        Assert.Equal(403, (await AskAsync(number, "hold", by: new Asker("clara.bonnet", "Clara Bonnet", "reader"))).Status);
        Assert.Contains("no member 'resaon'", (await AskAsync(number, "hold", """{ "resaon": "x" }""")).Errors[0].Problem);
        Assert.Empty(far.Got);
    }

    [Fact]
    public async Task Whoever_was_not_to_be_told_of_a_move_stands_with_the_reason_and_nobody_is_waited_for()
    {
        await using var far = await SystemAsync();
        var (source, number) = (await SourceAsync(far), desk.NextOrder());
        var rule = await desk.RuleAsync(
            $$"""
            name: Alongside {{number}}
            when: [order.status-changed]
            onlyIf: { field: order.number, is: equal, value: "{{number}}" }
            tell: [ { role: customer }, { person: ines.calder } ]
            ladder: [ { after: PT1M, tell: [ { team: desk } ] } ]
            """
        );
        await SayAsync(source, "order.placed", number, """, "status": "loaded", "customer": { "name": "MV Corvane", "email": "purser@corvane.example" }""");
        var asked = await AskAsync(number, "status", """{ "to": "alongside" }""", tell: new TellChoice(false, false, "Maren Holt"));
        await UntilAsync(asked.Instruction!.Id, InstructionState.Taken);
        Assert.False((bool)JsonNode.Parse(far.Got[0].Body)!["data"]!["tell"]!["customer"]!);
        await SayAsync(source, "order.status-changed", number, """, "status": "alongside" """);
        await UntilAsync(asked.Instruction.Id, InstructionState.Seen);
        await using var db = await desk.DbAsync();
        var alert = await db.Alerts.AsNoTracking().FirstAsync(a => a.RuleId == rule, TestContext.Current.CancellationToken);
        var steps = await db.AlertSteps.AsNoTracking().Where(s => s.AlertId == alert.Id).ToListAsync(TestContext.Current.CancellationToken);
        Assert.Equal(AlertState.Done, alert.State);
        var left = Assert.Single(steps).Left;
        Assert.Equal(["ines.calder", "purser@corvane.example"], left.Select(l => l.Person).Order());
        Assert.All(left, l => Assert.Equal("not to be told, chosen by Maren Holt", l.Because));
        Assert.False(await db.Deliveries.AnyAsync(d => d.OrderNumber == number, TestContext.Current.CancellationToken));
    }

    [Fact]
    public async Task An_order_system_may_say_itself_that_the_customer_is_not_to_be_told()
    {
        await using var far = await SystemAsync();
        var (source, number) = (await SourceAsync(far), desk.NextOrder());
        await desk.RuleAsync(
            $$"""
            name: Quietly {{number}}
            when: [order.cancelled]
            onlyIf: { field: order.number, is: equal, value: "{{number}}" }
            tell: [ { role: customer }, { person: ines.calder } ]
            """
        );
        await SayAsync(
            source,
            "order.cancelled",
            number,
            """, "status": "cancelled", "customer": { "name": "MV Corvane", "email": "purser@corvane.example" }""",
            """, "tell": { "customer": false, "by": "the till" }"""
        );
        var told = await desk.DeliveriesAsync(number, d => d.Count > 0);
        Assert.All(told, d => Assert.Equal("ines.calder", d.Person));
        await using var db = await desk.DbAsync();
        var alert = await desk.AlertAsync(number);
        var step = await db.AlertSteps.AsNoTracking().FirstAsync(s => s.AlertId == alert.Id && s.Index == 0, TestContext.Current.CancellationToken);
        Assert.Contains(step.Left, l => l.Because == "not to be told, chosen by the till");
    }

    [Fact]
    public async Task A_rule_asks_at_once_at_a_step_and_when_somebody_answers_with_its_fields_filled_in()
    {
        await using var far = await SystemAsync(200, """{ "state": "seen" }""");
        var (source, number) = (await SourceAsync(far), desk.NextOrder());
        await desk.RuleAsync(
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
        var alert = await desk.AlertAsync(number);
        var two = await OfAsync(number, all => all.Count >= 2);
        Assert.Equal(("hold", "score 82", 1), (two[0].Kind, (string)two[0].Members["reason"]!, two[0].Depth));
        Assert.Equal(("note", "nobody has looked"), (two[1].Kind, (string)two[1].Members["text"]!));
        await desk
            .Services.GetRequiredService<AnswerDesk>()
            .AnswerAsync(alert.Id, "ines.calder", AnswerKind.Taken, "screen", "Maren Holt", null, null, TestContext.Current.CancellationToken);
        var three = await OfAsync(number, all => all.Count >= 3 && all.TrueForAll(i => i.State == InstructionState.Seen));
        Assert.Equal(("tag", "taken by Ines Calder"), (three[2].Kind, three[2].Because));
    }

    [Fact]
    public async Task Of_opposites_the_more_urgent_rules_is_asked_and_the_other_dropped_with_the_reason()
    {
        await using var far = await SystemAsync();
        var (source, number) = (await SourceAsync(far), desk.NextOrder());
        foreach (var (name, urgency, status) in new[] { ("slow", "routine", "picking"), ("fast", "urgent", "credit-check") })
        {
            await desk.RuleAsync(
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
        var (number, source) = (desk.NextOrder(), "");
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
        await desk.RuleAsync(
            $$"""{ "name": "hold {{number}}", "when": ["order.released", "order.placed"], "onlyIf": { "field": "order.number", "is": "equal", "value": "{{number}}" }, "do": ["hold"] }"""
        );
        await desk.RuleAsync(
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
        string[] numbers = [.. Enumerable.Range(0, 3).Select(_ => desk.NextOrder())];
        var mark = numbers[0];
        await desk.RuleAsync(
            $$"""
            name: Limited {{mark}}
            when: [order.placed]
            onlyIf: { field: order.extra.mark, is: equal, value: "{{mark}}" }
            do: [ { cancel: { reason: "no" } } ]
            doAtMost: { times: 2, within: PT1H }
            """
        );
        await desk.RuleAsync(
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
        var (source, number) = (await SourceAsync(far), desk.NextOrder());
        var rule = await desk.RuleAsync(
            $$"""
            name: Paused {{number}}
            when: [order.placed]
            onlyIf: { field: order.number, is: equal, value: "{{number}}" }
            do: [ hold ]
            """
        );
        await using (var db = await desk.DbAsync())
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

        desk.Services.GetRequiredService<Signals>().Raise(Topic.Setup);
        await SayAsync(source, "order.placed", number, "");
        var held = (await OfAsync(number, all => all.Count == 1))[0];
        Assert.Equal(InstructionWait.Pause, held.Waits);
        await UntilAsync(held.Id, InstructionState.Taken);
    }

    [Fact]
    public async Task A_rule_for_what_no_source_takes_is_refused_with_the_place()
    {
        // Another test's source may take it: tests come in any order.
        await using (var db = await desk.DbAsync())
        {
            await db.Database.ExecuteSqlAsync(
                $"update sources set removed_at = now() where takes::text like '%intake%'",
                TestContext.Current.CancellationToken
            );
        }

        await SourceAsync(null, "\"hold\"");
        var saved = await desk
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

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    public async Task Whatever_comes_in_whatever_order_nothing_is_done_that_was_not_shown_and_nothing_is_asked_twice(int seed)
    {
        var cancel = TestContext.Current.CancellationToken;
        await using var far = await FarEnd.StartAsync(http => http.Response.WriteAsync(Random.Shared.Next(3) == 0 ? """{ "state": "seen" }""" : "{}"));
        var source = await SourceAsync(far, more: ", \"seenWithin\": \"PT2S\"");
        string[] numbers = [.. Enumerable.Range(0, 8).Select(_ => desk.NextOrder())];
        foreach (var number in numbers)
        {
            await SayAsync(source, "order.placed", number, """, "status": "received" """);
        }

        // Three people, the order system and whoever changes its mind, all at once.
        async Task PlayAsync(int player)
        {
            var chance = new Random((seed * 100) + player);
            for (var i = 0; i < 40; i++)
            {
                var number = numbers[chance.Next(numbers.Length)];
                switch (chance.Next(9))
                {
                    case 0 or 1:
                        await AskAsync(number, "hold", """{ "reason": "x" }""", new Asker(null, $"Player {player}", "supervisor"));
                        break;
                    case 2:
                        await AskAsync(number, "release", by: new Asker(null, $"Player {player}", "supervisor"));
                        break;
                    case 3:
                        await AskAsync(
                            number,
                            "status",
                            $$"""{ "to": "{{(chance.Next(2) == 0 ? "picking" : "loaded")}}" }""",
                            new Asker(null, $"Player {player}", "supervisor")
                        );
                        break;
                    case 4:
                        await SayAsync(source, "order.held", number, """, "hold": { "reason": "y" }""");
                        break;
                    case 5:
                        await SayAsync(source, "order.released", number, """, "hold": null""");
                        break;
                    case 6:
                        await SayAsync(source, "order.status-changed", number, $$""", "status": "{{(chance.Next(2) == 0 ? "picking" : "loaded")}}" """);
                        break;
                    default:
                        await using (var db = await desk.DbAsync())
                        {
                            var some = await db
                                .Instructions.AsNoTracking()
                                .Where(x => x.OrderNumber == number)
                                .OrderByDescending(x => x.Seq)
                                .FirstOrDefaultAsync(cancel);
                            if (some is not null)
                            {
                                await (
                                    chance.Next(2) == 0
                                        ? Desk.DropAsync(some.Id, Maren, cancel)
                                        : (Task)Desk.ResultAsync(source, some.Id, chance.Next(2) == 0 ? "taken" : "refused", "by hand", cancel)
                                );
                            }
                        }

                        break;
                }
            }
        }

        await Task.WhenAll(Enumerable.Range(0, 5).Select(p => Task.Run(() => PlayAsync(p), cancel)));
        for (var end = DateTime.UtcNow.AddSeconds(60); ; await Task.Delay(200, cancel))
        {
            await using var db = await desk.DbAsync();
            if (
                !await db.Instructions.AnyAsync(i => i.Source == source && (i.State == InstructionState.Asked || i.State == InstructionState.Taken), cancel)
                && !await db.Events.AnyAsync(e => e.DecidedAt == null, cancel)
            )
            {
                break;
            }

            Assert.True(DateTime.UtcNow < end, "Something is under way for ever");
        }

        await using var last = await desk.DbAsync();
        var around = await desk.Services.GetRequiredService<SurroundingsCache>().GetAsync(cancel);
        var all = await last.Instructions.AsNoTracking().Where(i => i.Source == source).OrderBy(i => i.Seq).ToListAsync(cancel);
        var calls = far.Got.ToArray().GroupBy(g => g.Headers["Idempotency-Key"]).ToDictionary(g => Guid.Parse(g.Key), g => g.Count());
        Assert.Contains(all, i => i.State == InstructionState.Seen);
        foreach (var one in all)
        {
            Assert.True(calls.GetValueOrDefault(one.Id) <= 1 || one.MayBeTwice, $"{one.Kind} went {calls.GetValueOrDefault(one.Id)} times and is not marked");
            Assert.True(one.State != InstructionState.Dropped || !calls.ContainsKey(one.Id), "what was stopped had gone");
            if (one is { State: InstructionState.Seen, SeenEvent: { } id })
            {
                var shown = await last.Events.AsNoTracking().FirstAsync(e => e.Id == id, cancel);
                Assert.True(shown.Seq > one.OrderSeq && shown.OrderNumber == one.OrderNumber, "an event before the asking, or of another order");
                Assert.True(
                    InstructionKinds
                        .Find(one.Kind)!
                        .Shown(new InstructionSight(new Core.Orders.Fields.Facts(shown, DateTimeZone.Utc, "EUR"), around.Statuses), one.Members),
                    $"{one.Kind} was seen in an event that does not show it"
                );
            }
        }

        // Of one order one after the other: the next was given out only when the one before had ended.
        foreach (var lane in all.Where(i => i.Handed).GroupBy(i => i.OrderNumber))
        {
            var attempts = await last.InstructionAttempts.AsNoTracking().Where(a => lane.Select(l => l.Id).Contains(a.InstructionId)).ToListAsync(cancel);
            foreach (var (before, after) in lane.Zip(lane.Skip(1)))
            {
                if (
                    attempts.Where(a => a.InstructionId == after.Id).Select(a => (Instant?)a.At).Min() is { } began
                    && (before.SeenAt ?? before.EndedAt) is { } ended
                    && before.State != InstructionState.Seen
                )
                {
                    Assert.True(began >= ended - Duration.FromMilliseconds(100), $"{after.Kind} went before {before.Kind} had ended");
                }
            }
        }
    }

    [Fact]
    public async Task The_intake_follows_its_hours_and_what_was_done_by_hand_stands_until_the_span_ends()
    {
        var cancel = TestContext.Current.CancellationToken;
        await using var far = await SystemAsync();
        var zone = (await desk.Services.GetRequiredService<SurroundingsCache>().GetAsync(cancel)).Business.Zone;
        var today = NodaTime.Text.LocalDatePattern.Iso.Format(SystemClock.Instance.GetCurrentInstant().InZone(zone).Date);
        var source = await SourceAsync(
            far,
            "\"intake\"",
            $$""", "intake": { "open": [ { "from": "00:00", "to": "00:00" } ], "exceptions": [ { "date": "{{today}}", "name": "Quay day" } ], "holidays": false }"""
        );
        async Task<Instruction> LastAsync(Func<Instruction, bool> good)
        {
            for (var end = DateTime.UtcNow.AddSeconds(30); ; await Task.Delay(100, cancel))
            {
                await using var db = await desk.DbAsync();
                if (
                    await db.Instructions.AsNoTracking().Where(i => i.Source == source).OrderByDescending(i => i.Seq).FirstOrDefaultAsync(cancel) is { } last
                    && good(last)
                )
                {
                    return last;
                }

                Assert.True(DateTime.UtcNow < end, "The intake was not asked for what was awaited");
            }
        }

        var closing = await LastAsync(i => i.State == InstructionState.Taken);
        Assert.Equal(("closed", "Quay day"), ((string)closing.Members["state"]!, (string)closing.Members["reason"]!));
        Task SayAsync(string type) =>
            desk
                .Services.GetRequiredService<IntakeDesk>()
                .TakeAsync(
                    [
                        new Arrival(
                            new IncomingEvent(Guid.NewGuid().ToString(), "/" + source, type, source, null, []),
                            "",
                            SystemClock.Instance.GetCurrentInstant()
                        )
                        {
                            By = source,
                        },
                    ],
                    cancel
                );
        await SayAsync(EventTypes.IntakeClosed);
        await LastAsync(i => i.State == InstructionState.Seen);
        await using (var db = await desk.DbAsync())
        {
            var closed = await db.Sources.AsNoTracking().FirstAsync(s => s.Id == source, cancel);
            Assert.True(closed.IntakeClosed);
            Assert.Equal("Quay day", closed.IntakeReason);
        }

        // Opened by hand on that day: it stays open.
        var open = await Desk.AskAsync(
            new InstructionWish("intake", (MapNode)DocumentText.Read("""{ "state": "open" }""", yaml: false).Node!, [], Maren) { Source = source },
            cancel
        );
        Assert.Equal(201, open.Status);
        await UntilAsync(open.Instruction!.Id, InstructionState.Taken);
        await SayAsync(EventTypes.IntakeOpened);
        await UntilAsync(open.Instruction.Id, InstructionState.Seen);
        await desk.Services.GetRequiredService<IntakeKeeper>().LookAsync(cancel);
        Assert.Equal(open.Instruction.Id, (await LastAsync(_ => true)).Id);
    }
}
