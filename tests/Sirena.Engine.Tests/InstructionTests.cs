using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Http;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Sirena.Channels.Http;
using Sirena.Core.Instructions;
using Sirena.Engine.Instructions;

namespace Sirena.Engine.Tests;

/// <summary>What is asked of an order system: handed over, refused, forgotten, shown.</summary>
public sealed class InstructionTests(DeskFixture desk) : InstructionCase(desk)
{
    [Fact]
    public async Task What_is_asked_goes_out_signed_and_counts_as_done_when_the_order_shows_it()
    {
        await using var far = await SystemAsync();
        var (source, number) = (await SourceAsync(far), Quay.NextOrder());
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
        var (source, number) = (await SourceAsync(far), Quay.NextOrder());
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
        var (source, number) = (await SourceAsync(far), Quay.NextOrder());
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
        var (source, number) = (await SourceAsync(far), Quay.NextOrder());
        await SayAsync(source, "order.placed", number, "");
        var asked = await AskAsync(number, "hold");
        await UntilAsync(asked.Instruction!.Id, InstructionState.Taken);
        Assert.Equal(2, far.Got.Count);
        Assert.Equal(far.Got[0].Headers["Idempotency-Key"], far.Got[1].Headers["Idempotency-Key"]);
        await using var db = await Quay.DbAsync();
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
        var (source, number) = (await SourceAsync(far, more: ", \"tryFor\": \"PT2S\""), Quay.NextOrder());
        await SayAsync(source, "order.placed", number, "");
        var asked = await AskAsync(number, "hold");
        Assert.Contains("gave up", (await UntilAsync(asked.Instruction!.Id, InstructionState.Failed)).Words);
        await EventsAsync(number, "instruction.failed");
    }

    [Fact]
    public async Task What_is_taken_and_forgotten_is_unseen_and_may_be_seen_still()
    {
        await using var far = await SystemAsync();
        var (source, number) = (await SourceAsync(far, more: ", \"seenWithin\": \"PT1S\""), Quay.NextOrder());
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
        var (source, number) = (await SourceAsync(far), Quay.NextOrder());
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
        var (first, other) = (Quay.NextOrder(), Quay.NextOrder());
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
        var (source, number) = (await SourceAsync(far), Quay.NextOrder());
        await SayAsync(source, "order.placed", number, "");
        var asked = await AskAsync(number, "hold");
        var taken = await UntilAsync(asked.Instruction!.Id, InstructionState.Taken);
        Assert.True(taken.MayBeTwice);
        Assert.Equal(2, far.Got.Count);
        Assert.Single(far.Got.Select(g => g.Headers["Idempotency-Key"]).Distinct());
    }
}
