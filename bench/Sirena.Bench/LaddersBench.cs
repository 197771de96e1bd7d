using System.Diagnostics;
using System.Globalization;
using System.Text;
using Npgsql;
using OpenQA.Selenium;
using Sirena.Shots;

namespace Sirena.Bench;

/// <summary>
/// 100,000 open alerts with three steps each, of which 100 a second fall due evenly while 50 events a second come in: how late steps fire. Then the Watch with
/// 300 open alerts: the server's time, how soon an update
/// is drawn in a browser, and what that costs its main thread.
/// </summary>
public static class LaddersBench
{
    private const int Alerts = 100_000;

    /// <summary>Measures. The steps run for the given seconds; the pages' figures are medians of three runs each.</summary>
    public static async Task<IReadOnlyList<Figure>> RunAsync(string server, Action<string> say, int seconds)
    {
        await using var world = await World.MakeAsync(server, days: 0, aDay: 0);
        await RuleAsync(world, "bench-ladder");
        await RuleAsync(world, "bench-watch");
        say($"ladders: {Alerts:#,##0} open alerts are laid out");
        await LayAsync(world, seconds);
        say($"ladders: steps fall due for {seconds} s");
        var late = await FireAsync(world, seconds);
        say("the Watch with 300 open alerts");
        await world.ExecuteAsync("truncate alerts cascade");
        var (page, reach, cost) = await WatchAsync(world, say);
        return
        [
            new Figure("lateness of steps, p99, 100 a second of 100,000 open alerts", Figure.At(late, .99), "ms", 1000),
            new Figure("  median", Figure.At(late, .5), "ms"),
            new Figure("Watch with 300 open alerts, server time, p95", page, "ms", 100),
            new Figure("an update on the page after its event, median", reach, "ms", 300),
            new Figure("  main thread for it, median", cost, "ms", 20),
        ];
    }

    private static async Task RuleAsync(World world, string id)
    {
        using var http = new HttpClient { DefaultRequestHeaders = { Authorization = new("Bearer", world.Demo.Token) } };
        using var rule = new StringContent(
            $"id: {id}\nname: {id}\nwhen: [test.{id}]\nurgency: routine\ntell: [ {{ person: ines.calder }} ]\nby: {{ allAtOnce: [screen] }}\nladder: [ {{ after: PT4M, tell: [ {{ person: odile.varga }} ] }}, {{ after: PT30M, tell: [ {{ person: maren.holt }} ] }}, {{ after: PT2H, tell: [ {{ team: desk }} ] }} ]",
            Encoding.UTF8,
            "application/yaml"
        );
        (await http.PutAsync($"{world.Url}/api/rules/{id}", rule)).EnsureSuccessStatusCode();
    }

    // One event stands behind them all: what is measured is the ladders.
    private static async Task LayAsync(World world, int seconds)
    {
        await PostAsync(world, "BL-0", "test.bench-ladder");
        await world.UntilAsync("select exists (select from alerts where order_number = 'BL-0')", 20);
        var first = 100 * (seconds + 4);
        await world.ExecuteAsync(
            string.Create(
                CultureInfo.InvariantCulture,
                $"""
                insert into alerts (id, event_id, order_number, subject, rule_id, version, "case", urgency, state, raised_at, began_at, unreached, reaches_somebody)
                select gen_random_uuid(), e.id, null, null, 'bench-ladder', 1, 'always', 'routine', 'open', now() - interval '3 minutes', now() - interval '3 minutes', 0, true from generate_series(1, {Alerts}) g, (select id from events where type = 'test.bench-ladder' limit 1) e;
                insert into alert_steps (alert_id, index, rung, due_at, fired_at, cause, told, "left")
                select x.id, s.i, s.i, case when s.i = 0 then x.raised_at else now() + interval '5 hours' + s.i * interval '1 hour' end, case when s.i = 0 then x.raised_at end, 'due', '[]', '[]'
                from (select a.id, a.raised_at from alerts a where a.rule_id = 'bench-ladder' and a.order_number is null) x, generate_series(0, 3) s(i);
                insert into deliveries (id, alert_id, rule_id, step, person, channel, "to", state, created_at, due_at, deadline, handed_over_at, answered, tries, audience)
                select gen_random_uuid(), id, 'bench-ladder', 0, 'ines.calder', 'screen', 'ines.calder', 'handed-over', raised_at, raised_at, raised_at + interval '1 day', raised_at, false, 0, 'staff' from alerts where rule_id = 'bench-ladder' and order_number is null;
                analyze alerts; analyze alert_steps; analyze deliveries
                """
            )
        );
        await world.ExecuteAsync(
            string.Create(
                CultureInfo.InvariantCulture,
                $"""
                create table bench_due as select id, row_number() over (order by id) n from alerts where order_number is null limit {first};
                analyze bench_due;
                update alert_steps s set due_at = clock_timestamp() + interval '3 seconds' + x.n * interval '10 milliseconds'
                from bench_due x where s.alert_id = x.id and s.index = 1
                """
            )
        );
    }

    private static async Task<List<double>> FireAsync(World world, int seconds)
    {
        using var stop = new CancellationTokenSource();
        var events = Task.Run(async () =>
        {
            // 50 a second.
            for (var i = 1; !stop.IsCancellationRequested; i++)
            {
                var begin = Stopwatch.GetTimestamp();
                await PostAsync(world, $"BE-{i}", "order.changed");
                if (TimeSpan.FromMilliseconds(20) - Stopwatch.GetElapsedTime(begin) is { Ticks: > 0 } rest)
                {
                    await Task.Delay(rest);
                }
            }
        });
        await Task.Delay(3000);
        await using var source = NpgsqlDataSource.Create(world.Database);
        var fired = new Dictionary<Guid, double>();

        // A step counts from its time to the moment when another connection first sees it fired; only those that fall due are looked at, so that looking costs
        // the machine little.
        for (var begin = Stopwatch.GetTimestamp(); Stopwatch.GetElapsedTime(begin).TotalSeconds < seconds; await Task.Delay(20))
        {
            await using var command = source.CreateCommand(
                "select s.alert_id, extract(epoch from clock_timestamp() - s.due_at) * 1000 from bench_due x join alert_steps s on s.alert_id = x.id and s.index = 1 "
                    + "where s.fired_at > clock_timestamp() - interval '1 second'"
            );
            await using var reader = await command.ExecuteReaderAsync();
            while (await reader.ReadAsync())
            {
                fired.TryAdd(reader.GetGuid(0), (double)reader.GetDecimal(1));
            }
        }

        await stop.CancelAsync();
        await events;
        await using var left = source.CreateCommand("select count(*) from alert_steps where fired_at is null and due_at < now() - interval '1 second'");
        var missed = (long)(await left.ExecuteScalarAsync())!;
        return missed > 0 || fired.Count < 80 * seconds ? [double.PositiveInfinity] : [.. fired.Values];
    }

    private static async Task<(double Page, double Reach, double Cost)> WatchAsync(World world, Action<string> say)
    {
        for (var i = 0; i < 300; i++)
        {
            await PostAsync(world, $"BW-{i}", "test.bench-watch");
        }

        await world.UntilAsync("select count(*) = 300 from alerts where rule_id = 'bench-watch'", 60);
        using var http = await PagesBench.SignInAsync(world);
        var times = new List<double>();
        for (var i = 0; i < 40; i++)
        {
            var begin = Stopwatch.GetTimestamp();
            await http.GetByteArrayAsync($"{world.Url}/watch");
            times.AddRange(i < 10 ? [] : [Stopwatch.GetElapsedTime(begin).TotalMilliseconds]);
        }

        using var browser = Browser.Start();
        var maren = world.Demo.Users[0];
        browser.SignIn(world.Url, maren.Email, maren.Password);
        browser.Navigate().GoToUrl($"{world.Url}/watch");
        browser.ExecuteScript(
            "window.seen = {}; window.costs = []; new MutationObserver(() => document.querySelectorAll('#watch [data-alert] .id').forEach(e => { window.seen[e.textContent] ??= Date.now(); })).observe(document.body, { childList: true, subtree: true }); document.addEventListener('sirena:drawn', e => window.costs.push(e.detail));"
        );
        var (reach, cost) = (new List<double>(), new List<double>());
        for (var i = 0; i < 12; i++)
        {
            await Task.Delay(2500);
            var sent = DateTimeOffset.UtcNow.ToUnixTimeMilliseconds();
            await PostAsync(world, $"BN-{i}", "test.bench-watch");
            for (var wait = 0; wait < 100 && browser.ExecuteScript($"return window.seen['BN-{i}'] ?? null") is null; wait++)
            {
                await Task.Delay(50);
            }

            reach.Add(Convert.ToDouble(browser.ExecuteScript($"return window.seen['BN-{i}'] ?? 1e12"), CultureInfo.InvariantCulture) - sent);
        }

        cost.AddRange(((IEnumerable<object>)browser.ExecuteScript("return window.costs")!).Select(c => Convert.ToDouble(c, CultureInfo.InvariantCulture)));
        say($"updates drawn: {cost.Count}");
        return (Figure.At(times, .95), Figure.At(reach, .5), cost.Count == 0 ? double.PositiveInfinity : Figure.At(cost, .5));
    }

    private static async Task PostAsync(World world, string order, string type)
    {
        using var http = new HttpClient { DefaultRequestHeaders = { Authorization = new("Bearer", world.Demo.SourceKey) } };
        using var body = new StringContent(
            $$"""{"specversion":"1.0","id":"{{Guid.NewGuid()}}","source":"/bench","type":"{{type}}","subject":"{{order}}","data":{"order":{"number":"{{order}}","customer":{"name":"MV Corvane"} } } }""",
            Encoding.UTF8,
            "application/cloudevents+json"
        );
        (await http.PostAsync($"{world.Url}/api/events", body)).EnsureSuccessStatusCode();
    }
}
