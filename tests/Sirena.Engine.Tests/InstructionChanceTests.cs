using Microsoft.AspNetCore.Http;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Core.Instructions;
using Sirena.Core.Orders;
using Sirena.Engine.Instructions;
using Sirena.Engine.Intake;
using Sirena.Formats.Documents;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Tests;

/// <summary>Instructions, events and answers in random order, and the intake by its hours.</summary>
public sealed class InstructionChanceTests(DeskFixture desk) : InstructionCase(desk)
{
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    public async Task Whatever_comes_in_whatever_order_nothing_is_done_that_was_not_shown_and_nothing_is_asked_twice(int seed)
    {
        var cancel = TestContext.Current.CancellationToken;
        await using var far = await FarEnd.StartAsync(http => http.Response.WriteAsync(Random.Shared.Next(3) == 0 ? """{ "state": "seen" }""" : "{}"));
        var source = await SourceAsync(far, more: ", \"seenWithin\": \"PT2S\"");
        string[] numbers = [.. Enumerable.Range(0, 8).Select(_ => Quay.NextOrder())];
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
                        await using (var db = await Quay.DbAsync())
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
        await Quay.UntilAsync(
            async db =>
                !await db.Instructions.AnyAsync(i => i.Source == source && (i.State == InstructionState.Asked || i.State == InstructionState.Taken), cancel)
                && !await db.Events.AnyAsync(e => e.DecidedAt == null, cancel),
            "nothing is under way any more",
            60
        );
        await using var last = await Quay.DbAsync();
        var around = await Quay.Services.GetRequiredService<SurroundingsCache>().GetAsync(cancel);
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
        var zone = (await Quay.Services.GetRequiredService<SurroundingsCache>().GetAsync(cancel)).Business.Zone;
        var today = NodaTime.Text.LocalDatePattern.Iso.Format(SystemClock.Instance.GetCurrentInstant().InZone(zone).Date);
        var source = await SourceAsync(
            far,
            "\"intake\"",
            $$""", "intake": { "open": [ { "from": "00:00", "to": "00:00" } ], "exceptions": [ { "date": "{{today}}", "name": "Quay day" } ], "holidays": false }"""
        );
        async Task<Instruction> LastAsync(Func<Instruction, bool> good) =>
            (
                await Quay.UntilAsync(
                    db => db.Instructions.AsNoTracking().Where(i => i.Source == source).OrderByDescending(i => i.Seq).FirstOrDefaultAsync(cancel),
                    last => last is not null && good(last),
                    last => $"the intake was asked last for {last!.Kind}, {last.State}",
                    30
                )
            )!;

        var closing = await LastAsync(i => i.State == InstructionState.Taken);
        Assert.Equal(("closed", "Quay day"), ((string)closing.Members["state"]!, (string)closing.Members["reason"]!));
        Task SayAsync(string type) =>
            Quay
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
        await using (var db = await Quay.DbAsync())
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
        await Quay.Services.GetRequiredService<IntakeKeeper>().LookAsync(cancel);
        Assert.Equal(open.Instruction.Id, (await LastAsync(_ => true)).Id);
    }
}
