using System.Diagnostics;
using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Npgsql;
using RulesEngine.Models;
using Sirena.Core.Deliveries;
using Sirena.Core.Insight;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Engine;
using Sirena.Engine.Rules;
using Sirena.Shots;
using Sirena.Storage.Orders;
using Rule = Sirena.Core.Rules.Rule;

namespace Sirena.Bench;

/// <summary>
/// Deciding with many rules, beside a general-purpose rules library and beside asking one after another; rehearsing 100,000 stored events, beside a bare
/// reading of the same rows.
/// </summary>
public static class RulesBench
{
    private const int Events = 100_000;
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 14, 32);

    /// <summary>Measures; the median of three runs each.</summary>
    public static async Task<IReadOnlyList<Figure>> RunAsync(string server, Action<string> say)
    {
        say("rules in the core");
        var facts = Event();
        var (thousand, book, hundred) = (Book(1_000), Book(10_000), Book(100_000));
        Five(book.Matches(facts).Count);
        Five(thousand.Matches(facts).Count);
        Five(hundred.Matches(facts).Count);

        var (indexed, linear, library, growth, small) = (new double[3], new double[3], new double[3], new double[3], new double[3]);
        var engine = Library(1_000);
        for (var run = 0; run < 3; run++)
        {
            say($"rules, run {run + 1} of 3");
            indexed[run] = Micros(2_000, () => book.Matches(facts));
            small[run] = Micros(2_000, () => thousand.Matches(facts));
            growth[run] = Micros(2_000, () => hundred.Matches(facts)) / small[run];
            linear[run] = Micros(40, () => Five(book.Rules.Count(r => r.Decide(facts).Outcome == Outcome.Matched))) / indexed[run];
            library[run] = await MicrosAsync(40, engine) / small[run];
        }

        List<Figure> figures =
        [
            new("10,000 rules, 5 match, fields folded, median", Figure.Median(indexed), "µs", 20),
            new("times faster than one rule after another", Figure.Median(linear), "times", 20, Least: true),
            new("times faster than a rules library, 1,000", Figure.Median(library), "times", 100, Least: true),
            new("cost from 1,000 to 100,000 rules", Figure.Median(growth), "times", 2),
        ];
        figures.AddRange(await RehearseAsync(server, say));
        return figures;
    }

    private static async Task<IReadOnlyList<Figure>> RehearseAsync(string server, Action<string> say)
    {
        say($"{Events} stored events");
        await using var world = await World.MakeAsync(server, days: 0, aDay: 0);
        await world.ExecuteAsync(
            $$$"""
            insert into events (event_id, source, type, subject, order_number, seq, time, received, late, from_the_future, data, order_before, order_after, tries, book, decided_at)
            select 'b' || n, '/bench', (array['order.placed', 'order.held', 'order.status-changed', 'order.shipped'])[1 + n % 4], 'B-' || n / 4, 'B-' || n / 4, 1 + n % 4, t, t, false, false,
              ('{"change":{"field":"status","before":"received","after":"picking"},"order":' || o || '}')::json, o::json, o::json, 0, 0, t
            from (select n, timestamptz '2026-10-25T00:00:00Z' + n * interval '25 seconds' t,
              '{"number":"B-' || n / 4 || '","status":"' || (array['received','picking','loaded','signed-for'])[1 + n % 4] || '","total":' || n % 3000 || ',"currency":"EUR","dueAt":"2026-11-24T15:30:00Z","via":"web","customer":{"code":"C' || n % 400
              || '","name":"Customer ' || n % 400 || '","group":"' || (array['ferries','yachts','research','port'])[1 + n / 4 % 4] || '"},"salesperson":"p' || n % 20 || '","site":"galley","risk":{"level":"' || (array['low','medium','high'])[1 + n / 4 % 3]
              || '","score":' || n % 100 || '},"lines":[{"sku":"GAL-0031","title":"Fish pie, tray of 12","quantity":4,"unitPrice":38.00,"site":"galley","tags":["prepared"]},{"sku":"BON-0007","title":"Gin","quantity":2,"unitPrice":96.00,"site":"bonded-store","tags":["bonded"]}],"extra":{"berth":"N' || n % 9 || '"}}' o
              from generate_series(0, {{{Events - 1}}}) n) rows
            """
        );
        await world.ExecuteAsync("vacuum analyze events");
        await using var services = Demo.World.Settlement.Services(world.Database, SystemClock.Instance);
        var (past, around) = (
            services.GetRequiredService<PastEvents>(),
            await services.GetRequiredService<SurroundingsCache>().GetAsync(CancellationToken.None)
        );
        var (from, to) = (Instant.FromUtc(2026, 10, 1, 0, 0), Instant.FromUtc(2027, 1, 1, 0, 0));
        var draft = new CompiledRule(Held(700), 0);
        var old = new CompiledRule(Held(1500), 1);
        var all = new RuleBook(1, Enumerable.Range(0, 200).Select(n => new CompiledRule(OfBook(n), 1)));
        var (one, whole) = (new double[3], new double[3]);
        long few = 0,
            many = 0;
        for (var run = 0; run < 3; run++)
        {
            say($"rehearsal, run {run + 1} of 3");
            var bare = await TimeAsync(() => BareAsync(world.Database));
            one[run] =
                await TimeAsync(async () =>
                {
                    var (a, b) = (new RehearsalRun(draft, around.Staff, around.Business), new RehearsalRun(old, around.Staff, around.Business));
                    await foreach (
                        var happened in past.ReadAsync(from, to, (type, subject) => a.Wants(type, subject) || b.Wants(type, subject), CancellationToken.None)
                    )
                    {
                        if (happened is not null)
                        {
                            a.Take(happened);
                            b.Take(happened);
                        }
                    }
                }) / bare;
            whole[run] =
                await TimeAsync(async () =>
                {
                    var book = new BookRehearsal(all, around.Staff, around.Business);
                    await foreach (var happened in past.ReadAsync(from, to, (_, _) => true, CancellationToken.None))
                    {
                        book.Take(happened!);
                    }
                }) / bare;
            few = await HeldAsync(past, around, from, from + Duration.FromHours(24 * 24 + 70));
            many = await HeldAsync(past, around, from, to);
        }

        return
        [
            new("rehearsal of a draft and its version, to bare", Figure.Median(one), "times", 2),
            new("rehearsal of 200 rules, to bare reading", Figure.Median(whole), "times", 5),
            new("memory, 100,000 events to 10,000, none raised", (double)Math.Max(many, 1 << 20) / Math.Max(few, 1 << 20), "times", 2),
        ];
    }

    // What a rehearsal that raises nothing holds while it runs: the most of 50 looks after a collection.
    private static async Task<long> HeldAsync(PastEvents past, Surroundings around, Instant from, Instant to)
    {
        var run = new RehearsalRun(new CompiledRule(Held(1_000_000), 0), around.Staff, around.Business);
        var (before, most, n) = (GC.GetTotalMemory(forceFullCollection: true), 0L, 0);
        await foreach (var happened in past.ReadAsync(from, to, run.Wants, CancellationToken.None))
        {
            if (happened is not null)
            {
                run.Take(happened);
            }

            if (++n % 2_000 == 0)
            {
                most = Math.Max(most, GC.GetTotalMemory(forceFullCollection: true) - before);
            }
        }

        return most;
    }

    private static async Task BareAsync(string database)
    {
        await using var source = new NpgsqlDataSourceBuilder(database).Build();
        await using var command = source.CreateCommand("select data, order_before, order_after from events order by id");
        await using var reader = await command.ExecuteReaderAsync();
        while (await reader.ReadAsync())
        {
            for (var i = 0; i < 3; i++)
            {
                using var document = JsonDocument.Parse(reader.GetString(i));
            }
        }
    }

    private static Rule Held(int total) =>
        Make($"held-{total}", "order.held", [Leaf("order.total", Operator.AtLeast, total), Leaf("order.risk.level", Operator.AtLeast, "medium")]) with
        {
            WithdrawAt = ["signed-for"],
        };

    private static Rule OfBook(int n) =>
        Make(
            $"r{n:000}",
            n % 4 == 0 ? "order.held"
                : n % 4 == 1 ? "order.placed"
                : n % 4 == 2 ? "order.shipped"
                : "order.status-changed",
            [
                Leaf("order.customer.code", Operator.OneOf, new[] { $"C{n * 2}", $"C{(n * 2) + 1}" }),
                Leaf("order.total", Operator.AtLeast, 1500),
                Leaf("order.risk.level", Operator.AtLeast, "medium"),
            ]
        );

    private static RuleBook Book(int rules) =>
        new(
            1,
            Enumerable
                .Range(0, rules)
                .Select(n =>
                {
                    List<Condition> conditions =
                    [
                        Leaf("order.customer.code", Operator.Equal, $"C{n / 5}"),
                        Leaf("order.total", Operator.AtLeast, 100),
                        Leaf("order.risk.level", Operator.AtLeast, "medium"),
                    ];
                    conditions.AddRange(
                        (
                            (Condition[])
                                [
                                    Leaf("order.customer.group", Operator.OneOf, new[] { "yachts", "ferries" }),
                                    Leaf("order.lines.any.tags", Operator.Contains, "bonded"),
                                ]
                        ).Take(n % 3)
                    );
                    return new CompiledRule(Make($"r{n:000000}", "order.held", [.. conditions]), 1);
                })
        );

    private static Rule Make(string id, string type, Condition[] all) =>
        new()
        {
            Id = id,
            Name = id,
            When = [type],
            OnlyIf = new ConditionGroup(Grouping.All, [.. all]),
            Cases =
            [
                new RuleCase
                {
                    Name = "always",
                    Tell = [new TeamRecipient("desk")],
                    By = Ways.AllAtOnce(Channel.Mail),
                },
            ],
            Short = true,
        };

    private static ConditionLeaf Leaf(string field, Operator op, object value) => new(field, op, JsonSerializer.SerializeToElement(value));

    private static Facts Event() =>
        new(
            new OrderEvent
            {
                EventId = "e",
                Source = "/bench",
                Type = "order.held",
                Subject = "B-1",
                Time = Now,
                Received = Now,
                Data = "{}",
                OrderAfter =
                    """{"total":900,"currency":"EUR","customer":{"code":"C77","group":"yachts"},"risk":{"level":"high"},"lines":[{"sku":"a","tags":["bonded"]},{"sku":"b","tags":[]}]}""",
            },
            DateTimeZoneProviders.Tzdb["Europe/Lisbon"],
            "EUR"
        );

    // The same rules over a plain object in a widely used rules library, compiled before the measure.
    private static Func<Task> Library(int rules)
    {
        var order = new Known(900, "C77", "yachts", 3, ["bonded"]);
        var engine = new RulesEngine.RulesEngine([
            new Workflow
            {
                WorkflowName = "w",
                Rules = Enumerable
                    .Range(0, rules)
                    .Select(n => new RulesEngine.Models.Rule
                    {
                        RuleName = $"r{n}",
                        Expression =
                            $"order.Code == \"C{n / 5}\" && order.Total >= 100 && order.Risk >= 2"
                            + (n % 3 > 0 ? " && (order.Group == \"yachts\" || order.Group == \"ferries\")" : "")
                            + (n % 3 > 1 ? " && order.Tags.Contains(\"bonded\")" : ""),
                    })
                    .ToArray(),
            },
        ]);
        return async () =>
        {
            var found = await engine.ExecuteAllRulesAsync("w", new RuleParameter("order", order));
            Five(found.Count(r => r.IsSuccess));
        };
    }

    private static void Five(int matches)
    {
        if (matches != 5)
        {
            throw new InvalidOperationException($"Five rules are meant to match, not {matches}.");
        }
    }

    private static double Micros(int times, Action what) =>
        MicrosAsync(times, () =>
            {
                what();
                return Task.CompletedTask;
            })
            .GetAwaiter()
            .GetResult();

    private static async Task<double> MicrosAsync(int times, Func<Task> what)
    {
        var taken = new List<double>();
        for (var i = -times / 10; i < times; i++)
        {
            var begin = Stopwatch.GetTimestamp();
            await what();
            if (i >= 0)
            {
                taken.Add(Stopwatch.GetElapsedTime(begin).TotalMicroseconds);
            }
        }

        return Figure.At(taken, .5);
    }

    private static async Task<double> TimeAsync(Func<Task> what)
    {
        var begin = Stopwatch.GetTimestamp();
        await what();
        return Stopwatch.GetElapsedTime(begin).TotalSeconds;
    }

    /// <summary>The order as the library sees it.</summary>
    public sealed record Known(decimal Total, string Code, string Group, int Risk, string[] Tags);
}
