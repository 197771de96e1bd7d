using Microsoft.AspNetCore.Http;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Npgsql;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Engine.Decide;
using Sirena.Engine.Intake;
using Sirena.Storage.Orders;

namespace Sirena.Engine.Tests;

/// <summary>
/// Databases that are full, restarted and cut off, far ends that say odd things, crowds: nothing is lost, nothing waits for another, and what cannot be decided
/// is seen.
/// </summary>
public sealed class FaultsTests(DeskFixture desk) : IClassFixture<DeskFixture>
{
    private async Task<OrderEvent> EventAsync(string order, Func<OrderEvent, bool> until) =>
        (
            await desk.UntilAsync(
                db => db.Events.AsNoTracking().FirstOrDefaultAsync(e => e.OrderNumber == order && e.Source == "/test"),
                found => found is not null && until(found),
                _ => $"the event of {order} did not come to what was awaited",
                60
            )
        )!;

    // The database refuses alerts of an order with an error of that class, and counts how often it did: no rollback takes a sequence back.
    private async Task RefusingAsync(string order, string code)
    {
        await ExecuteAsync(
            $"""
            create sequence if not exists refused;
            create or replace function refuse() returns trigger language plpgsql as $f$ begin
              if new.order_number = '{order}' then perform nextval('refused'); raise exception 'refused for the test' using errcode = '{code}'; end if; return new; end $f$;
            create or replace trigger refuse before insert on alerts for each row execute function refuse();
            """
        );
    }

    private Task AllowingAsync() => ExecuteAsync("drop trigger refuse on alerts; drop sequence refused");

    private async Task ExecuteAsync(string sql)
    {
        await using var connection = new NpgsqlConnection($"{desk.Database};Pooling=false");
        await connection.OpenAsync(TestContext.Current.CancellationToken);
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync(TestContext.Current.CancellationToken);
    }

    private async Task<string> HeldRuleAsync(string name)
    {
        await desk.RuleAsync($"name: {name}\nwhen: [test.{name}]\ntell: [ {{ person: ines.calder }} ]\nby: {{ allAtOnce: [mail] }}");
        return $"test.{name}";
    }

    [Theory]
    [InlineData("53100")]
    [InlineData("40001")]
    [InlineData("57014")]
    public async Task What_is_the_surroundings_fault_is_never_an_event_s(string code)
    {
        var (type, order) = (await HeldRuleAsync($"full{code}"), desk.NextOrder());
        await RefusingAsync(order, code);
        await desk.PostAsync(type, $$"""{"number":"{{order}}"}""");
        await desk.UntilAsync(
            async db => await db.Database.SqlQueryRaw<bool>("select last_value >= 2 as \"Value\" from refused").SingleAsync(),
            "it was tried twice"
        );
        var waiting = await EventAsync(order, _ => true);
        Assert.Equal((null, null), (waiting.DecidedAt, waiting.SetAsideAt));
        await AllowingAsync();
        await EventAsync(order, e => e.DecidedAt is not null);
        await desk.DeliveriesAsync(order, d => d[0].State == DeliveryState.HandedOver);
    }

    [Fact]
    public async Task What_is_an_event_s_own_fault_stays_alone_is_told_of_and_decided_anew()
    {
        var (type, bad, good) = (await HeldRuleAsync("own"), desk.NextOrder(), desk.NextOrder());
        await RefusingAsync(bad, "23514");
        await desk.PostAsync(("own-1", type, $$"""{"number":"{{bad}}"}""", null), ("own-2", type, $$"""{"number":"{{good}}"}""", null));
        await EventAsync(good, e => e is { DecidedAt: not null, SetAsideAt: null });
        var aside = await EventAsync(bad, e => e.SetAsideAt is not null);
        Assert.Contains("refused for the test", aside.Problem);
        await desk.PostAsync(("own-3", type, $$"""{"number":"{{bad}}","total":1}""", null));
        await desk.UntilAsync(
            db => db.Events.AnyAsync(e => e.Type == EventTypes.Undecided && e.OrderNumber == bad),
            "somebody was told that it is undecided",
            30
        );
        await AllowingAsync();
        Assert.True(await desk.Services.GetRequiredService<DecideWorker>().AgainAsync(aside.Id, TestContext.Current.CancellationToken) == 1);
        await using var after = await desk.DbAsync();
        var decided = await after.Events.AsNoTracking().SingleAsync(e => e.Id == aside.Id);
        Assert.Equal((null, null, true), (decided.SetAsideAt, decided.Problem, decided.DecidedLate));
        await desk.DeliveriesAsync(bad, d => d.Exists(x => x.State == DeliveryState.HandedOver));
    }

    [Fact]
    public async Task Killed_connections_end_no_node_and_lose_nothing()
    {
        var type = await HeldRuleAsync("killed");
        var orders = new List<string>();
        for (var round = 0; round < 6; round++)
        {
            for (var i = 0; i < 5; i++)
            {
                var order = desk.NextOrder();
                for (var tries = 0; ; tries++)
                {
                    try
                    {
                        await desk.PostAsync(($"k-{order}", type, $$"""{"number":"{{order}}"}""", null));
                        break;
                    }
                    catch (NpgsqlException) when (tries < 20)
                    {
                        // The order system sends it again.
                        await Task.Delay(100, TestContext.Current.CancellationToken);
                    }
                }

                orders.Add(order);
            }

            await using var other = new NpgsqlConnection($"{desk.Database};Pooling=false");
            await other.OpenAsync(TestContext.Current.CancellationToken);
            await using var kill = new NpgsqlCommand(
                "select count(pg_terminate_backend(pid)) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()",
                other
            );
            await kill.ExecuteScalarAsync(TestContext.Current.CancellationToken);
        }

        foreach (var order in orders)
        {
            Assert.Single(await desk.DeliveriesAsync(order, d => d[0].State == DeliveryState.HandedOver, 90));
        }

        var workers = desk.Services.GetServices<IHostedService>().OfType<Worker>().ToArray();
        Assert.All(workers, w => Assert.False(w.ExecuteTask is { IsFaulted: true }, w.Name));

        // On a busy machine the breaks of a minute's tests count together; what works steadily is stuck no longer.
        for (
            var end = DateTime.UtcNow.AddMinutes(1);
            workers.FirstOrDefault(w => w.Stuck) is { } stuck;
            await Task.Delay(500, TestContext.Current.CancellationToken)
        )
        {
            Assert.True(DateTime.UtcNow < end, $"{stuck.Name} is stuck");
        }
    }

    [Fact]
    public async Task An_answer_with_odd_characters_holds_back_no_outcome()
    {
        var answers = new Queue<string>([new string('a', 299) + "\U0001F600", "taken\0 \u0007here", new string('x', 5_000), "{\"id\":\"plain\"}"]);
        await using var far = await FarEnd.StartAsync(http => http.Response.WriteAsync(answers.Dequeue()));
        await using (var db = await desk.DbAsync())
        {
            db.Gateways.Add(
                new Gateway
                {
                    Id = "odd",
                    Channel = Channel.Chat,
                    Name = "Odd chat",
                    Address = far.Url,
                    Width = 1,
                }
            );
            await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        }

        desk.Services.GetRequiredService<Signals>().Raise(Topic.Setup);
        await using (var db = await desk.DbAsync())
        {
            var ines = await db.People.SingleAsync(p => p.Id == "ines.calder", TestContext.Current.CancellationToken);
            if (!ines.Contacts.Exists(c => c.Channel == Channel.Chat))
            {
                ines.Contacts.Add(
                    new Core.People.ContactPoint
                    {
                        Channel = Channel.Chat,
                        Address = "ines",
                        Verified = true,
                    }
                );
                await db.SaveChangesAsync(TestContext.Current.CancellationToken);
            }
        }

        desk.Services.GetRequiredService<Signals>().Raise(Topic.Setup);
        await desk.RuleAsync("name: odd\nwhen: [test.odd]\ntell: [ { person: ines.calder } ]\nby: { allAtOnce: [chat] }");
        for (var i = 0; i < 4; i++)
        {
            var order = desk.NextOrder();
            await desk.PostAsync("test.odd", $$"""{"number":"{{order}}"}""");
            var sent = Assert.Single(await desk.DeliveriesAsync(order, d => d[0].State == DeliveryState.HandedOver));
            Assert.DoesNotContain('\0', sent.Evidence!);
        }

        await using var after = await desk.DbAsync();
        await after.Gateways.Where(g => g.Id == "odd").ExecuteDeleteAsync(TestContext.Current.CancellationToken);
    }

    [Fact]
    public async Task What_comes_alone_does_not_wait_for_a_crowd()
    {
        var type = await HeldRuleAsync("lone");
        var now = NodaTime.SystemClock.Instance.GetCurrentInstant();
        Arrival Of(string id, string kind, bool crowd) =>
            new(new IncomingEvent(id, "/test", kind, null, null, new() { ["order"] = new System.Text.Json.Nodes.JsonObject { ["number"] = id } }), "", now)
            {
                Crowd = crowd,
            };
        var intake = desk.Services.GetRequiredService<IntakeDesk>();
        for (var i = 0; i < 4; i++)
        {
            await intake.TakeAsync(
                [.. Enumerable.Range(0, 1000).Select(n => Of($"crowd-{i}-{n}", "test.crowd", crowd: true))],
                TestContext.Current.CancellationToken
            );
        }

        await intake.TakeAsync([Of("alone", type, crowd: false)], TestContext.Current.CancellationToken);
        var lone = await EventAsync("alone", e => e.DecidedAt is not null);
        await using var db = await desk.DbAsync();
        var before = await db.Events.CountAsync(e => e.OrderNumber!.StartsWith("crowd-") && e.DecidedAt < lone.DecidedAt);
        Assert.True(before < 3_900, $"{before} of a crowd of 4,000 were decided before what came alone.");
    }
}
