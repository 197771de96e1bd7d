using System.Collections.Concurrent;
using System.Diagnostics;
using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.Logging;
using Sirena.Demo.StandIns;
using Sirena.Shots;

namespace Sirena.Bench;

/// <summary>
/// Instructions: 100 a second through an order system that takes each and shows it, beside 50 events a second; the preview of consequences; what is lost or
/// repeated when nodes are killed and the database is restarted.
/// </summary>
public static class InstructionsBench
{
    private const int WarmUp = 4;
    private static readonly int ASecond = int.TryParse(Environment.GetEnvironmentVariable("SIRENA_BENCH_RATE"), out var rate) ? rate : 100;

    /// <summary>Measures all of it.</summary>
    /// <param name="server">A connection string to a server, without a database.</param>
    /// <param name="say">Says what is going on.</param>
    /// <param name="seconds">How long each part takes.</param>
    public static async Task<IReadOnlyList<Figure>> RunAsync(string server, Action<string> say, int seconds)
    {
        await using var world = await World.MakeAsync(server, days: 0, aDay: 0);
        using var http = new HttpClient(new SocketsHttpHandler { MaxConnectionsPerServer = 64 }) { Timeout = TimeSpan.FromSeconds(10) };
        await using var far = await OrderSystem.StartAsync(http, world);
        await SourceAsync(http, world, world.Url, far.Url);
        say($"instructions: {ASecond} a second with 50 events a second, {seconds} s");
        var figures = new List<Figure>();
        // A few seconds beforehand that do not count: what is compiled when it first runs is compiled then.
        await PlaceAsync(http, world, world.Url, "W", ASecond * WarmUp);
        await AskAsync(http, world, () => world.Url, "W", WarmUp, patient: false);
        await PlaceAsync(http, world, world.Url, "A", ASecond * seconds);
        await world.UntilAsync(
            "select not exists (select from events where decided_at is null) and not exists (select from instructions where state in ('asked', 'taken'))",
            120
        );
        await AskAsync(http, world, () => world.Url, "A", seconds, patient: false);
        await world.UntilAsync("select not exists (select from instructions where state in ('asked', 'taken'))", 60);
        var taken = await SpanAsync(world, "taken_at");
        var seen = await SpanAsync(world, "seen_at");
        if (Environment.GetEnvironmentVariable("SIRENA_BENCH_LOOK") is not null)
        {
            foreach (
                var sql in new[]
                {
                    "select max(tries)::bigint from instructions",
                    "select (percentile_cont(0.5) within group (order by extract(epoch from taken_at - asked_at)) * 1000)::bigint from instructions where order_number like 'A-%'",
                    "select (percentile_cont(0.95) within group (order by extract(epoch from a.at - i.asked_at)) * 1000)::bigint from instructions i join instruction_attempts a on a.instruction_id = i.id where order_number like 'A-%'",
                    "select (percentile_cont(0.95) within group (order by extract(epoch from a.ended_at - a.at)) * 1000)::bigint from instruction_attempts a",
                    "select (percentile_cont(0.95) within group (order by extract(epoch from decided_at - received)) * 1000)::bigint from events where order_number like 'E-A-%'",
                    "select (extract(epoch from max(asked_at) - min(asked_at)) * 1000)::bigint from instructions where order_number like 'A-%'",
                }
            )
            {
                say($"{await world.CountAsync(sql)}  {sql}");
            }
        }

        figures.Add(new Figure("asked to taken at 100 a second, p95", taken / 1000.0, "ms", 200));
        figures.Add(new Figure("asked to seen, p95", seen / 1000.0, "ms"));
        figures.Add(
            new Figure(
                "not seen in the end",
                await world.CountAsync("select count(*) from instructions where state <> 'seen' and order_number like 'A-%'"),
                "of " + (ASecond * seconds),
                0
            )
        );
        say("instructions: the preview of consequences");
        figures.Add(await PreviewAsync(world));
        figures.AddRange(await FaultsAsync(http, world, far, say, seconds));
        return figures;
    }

    private static Task<long> SpanAsync(World world, string until) =>
        world.CountAsync(
            $"select (percentile_cont(0.95) within group (order by extract(epoch from {until} - asked_at)) * 1000000)::bigint from instructions where {until} is not null and order_number like 'A-%'"
        );

    private static async Task<IReadOnlyList<Figure>> FaultsAsync(HttpClient http, World world, OrderSystem far, Action<string> say, int seconds)
    {
        var home = world.Nodes[0];
        await home.StopAsync();
        await home.DisposeAsync();
        world.Nodes.Clear();
        int[] ports = [StandInHost.FreePort(), StandInHost.FreePort()];
        Process[] nodes = [FaultsBench.Start(world, ports[0]), FaultsBench.Start(world, ports[1])];
        try
        {
            await FaultsBench.AnswersAsync(http, ports[0], say);
            await FaultsBench.AnswersAsync(http, ports[1], say);
            var turn = 0;
            string Url() => $"http://127.0.0.1:{ports[Interlocked.Increment(ref turn) % 2]}";
            far.Target = Url;
            var span = Math.Max(20, seconds);
            await PlaceAsync(http, world, Url(), "K", ASecond / 2 * span);
            say($"instructions: a node is killed every 5 s for {span} s, once the database is restarted");
            var asking = AskAsync(http, world, Url, "K", span, patient: true);
            for (var kill = 0; !asking.IsCompleted; kill++)
            {
                await Task.WhenAny(asking, Task.Delay(TimeSpan.FromSeconds(5)));
                if (asking.IsCompleted)
                {
                    break;
                }

                nodes[kill % 2].Kill(entireProcessTree: true);
                await nodes[kill % 2].WaitForExitAsync();
                nodes[kill % 2].Dispose();
                nodes[kill % 2] = FaultsBench.Start(world, ports[kill % 2]);
                if (kill == 1)
                {
                    say(
                        await FaultsBench.RestartDatabaseAsync(world.Database)
                            ? "instructions: the database was restarted"
                            : "instructions: the database refused to be restarted; its connections were broken instead"
                    );
                }
            }

            await asking;
            await world.UntilAsync("select not exists (select from instructions where order_number like 'K-%' and state = 'asked')", 120);
            var all = await world.CountAsync("select count(*) from instructions where order_number like 'K-%'");
            var lost = await world.CountAsync("select count(*) from instructions where order_number like 'K-%' and taken_at is null and state not in ('seen')");
            var twice = far.Calls.Where(c => c.Value > 1).Select(c => c.Key).ToArray();
            var unmarked =
                twice.Length == 0
                    ? 0
                    : await world.CountAsync(
                        $"select count(*) from instructions where not may_be_twice and id in ({string.Join(',', twice.Select(t => $"'{t}'"))}) and order_number like 'K-%'"
                    );
            return
            [
                new Figure("lost under kills and a restart", lost, $"of {all:N0}", 0),
                new Figure("repeated without a mark", unmarked, $"of {twice.Length} twice", 0),
            ];
        }
        finally
        {
            foreach (var node in nodes)
            {
                node.Kill(entireProcessTree: true);
                node.Dispose();
            }
        }
    }

    private static async Task<Figure> PreviewAsync(World world)
    {
        using var browser = await PagesBench.SignInAsync(world);
        var page = await browser.GetStringAsync($"{world.Url}/orders/A-1");
        var token = World.FormToken(page);
        var runs = new List<double>();
        for (var i = 0; i < 220; i++)
        {
            var begin = Stopwatch.GetTimestamp();
            using var answer = await browser.PostAsync(
                $"{world.Url}/orders/A-{(i % 50) + 1}?handler=Weigh",
                new FormUrlEncodedContent([
                    new("kind", "status"),
                    new("with.to", i % 2 == 0 ? "alongside" : "picking"),
                    new("tell", "staff"),
                    new("__RequestVerificationToken", token),
                ])
            );
            answer.EnsureSuccessStatusCode();
            if (i >= 20)
            {
                runs.Add(Stopwatch.GetElapsedTime(begin).TotalMilliseconds);
            }
        }

        return new Figure("preview of consequences on the page, p95", Figure.At(runs, .95), "ms", 150);
    }

    private static async Task SourceAsync(HttpClient http, World world, string url, string far)
    {
        using var request = new HttpRequestMessage(HttpMethod.Put, $"{url}/api/sources/events")
        {
            Content = new StringContent(
                new JsonObject
                {
                    ["kind"] = "events",
                    ["limit"] = 100_000,
                    ["takes"] = new JsonArray("tag", "status", "note"),
                    ["instructionsTo"] = far,
                    ["instructionsSecret"] = "a-key-for-the-bench",
                    ["seenWithin"] = "PT10M",
                }.ToJsonString(),
                Encoding.UTF8,
                "application/json"
            ),
        };
        request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", world.Demo.Token);
        using var answer = await http.SendAsync(request);
        answer.EnsureSuccessStatusCode();
    }

    private static async Task PlaceAsync(HttpClient http, World world, string url, string kind, int orders)
    {
        foreach (var chunk in Enumerable.Range(1, orders).Chunk(500))
        {
            await EventsAsync(
                http,
                world,
                url,
                "[" + string.Join(',', chunk.Select(n => Event($"p-{kind}-{n}", $"{kind}-{n}", "order.changed", ", \"status\": \"received\""))) + "]"
            );
        }
    }

    private static string Event(string id, string number, string type, string more) =>
        $$"""{"specversion":"1.0","id":"{{id}}","source":"/bench","type":"{{type}}","subject":"{{number}}","data":{"order":{"number":"{{number}}"{{more}} } } }""";

    private static async Task EventsAsync(HttpClient http, World world, string url, string batch)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, $"{url}/api/events")
        {
            Content = new StringContent(batch, Encoding.UTF8, "application/cloudevents-batch+json"),
        };
        request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", world.Demo.SourceKey);
        using var answer = await http.SendAsync(request);
        answer.EnsureSuccessStatusCode();
    }

    // Each order is tagged once, which sets off no rule; where nodes die the ask is sent again, and 409 says that the first was stored.
    private static async Task AskAsync(HttpClient http, World world, Func<string> url, string kind, int seconds, bool patient)
    {
        var (begin, rate) = (Stopwatch.GetTimestamp(), patient ? ASecond / 2 : ASecond);
        var going = new List<Task>();
        for (var i = 1; i <= rate * seconds; i++)
        {
            var n = i;
            going.Add(
                Task.Run(async () =>
                {
                    for (var tries = 0; ; tries++)
                    {
                        try
                        {
                            using var request = new HttpRequestMessage(HttpMethod.Post, $"{url()}/api/instructions")
                            {
                                Content = new StringContent(
                                    $$"""{ "order": "{{kind}}-{{n}}", "kind": "tag", "add": ["bench"] }""",
                                    Encoding.UTF8,
                                    "application/json"
                                ),
                            };
                            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", world.Demo.Token);
                            using var answer = await http.SendAsync(request);
                            if (answer.StatusCode is HttpStatusCode.Created or HttpStatusCode.Conflict)
                            {
                                return;
                            }

                            if (!patient || tries > 300)
                            {
                                throw new InvalidOperationException($"{answer.StatusCode}: {await answer.Content.ReadAsStringAsync()}");
                            }
                        }
                        catch (Exception e) when (patient && tries <= 300 && e is HttpRequestException or TaskCanceledException)
                        {
                            // The node is away for a moment.
                        }

                        await Task.Delay(200);
                    }
                })
            );
            if (!patient && i % 2 == 0)
            {
                going.Add(EventsAsync(http, world, url(), "[" + Event($"e-{kind}-{i}", $"E-{kind}-{i}", "order.placed", ", \"total\": 12.5") + "]"));
            }

            await Task.Delay(TimeSpan.FromMilliseconds(Math.Max(0, (1000.0 / rate * i) - Stopwatch.GetElapsedTime(begin).TotalMilliseconds)));
        }

        await Task.WhenAll(going);
    }

    /// <summary>Takes each instruction and tells that the order has its tag; counts how often each came.</summary>
    private sealed class OrderSystem(WebApplication app, HttpClient http, World world) : IAsyncDisposable
    {
        public ConcurrentDictionary<string, int> Calls { get; } = [];

        public string Url => app.Urls.First() + "/do";

        public Func<string> Target { get; set; } = () => world.Url;

        public static async Task<OrderSystem> StartAsync(HttpClient http, World world)
        {
            var builder = WebApplication.CreateSlimBuilder();
            builder.Logging.ClearProviders();
            builder.WebHost.UseUrls("http://127.0.0.1:0");
            var app = builder.Build();
            var made = new OrderSystem(app, http, world);
            app.MapPost("/do", async (HttpRequest request) =>
            {
                using var reader = new StreamReader(request.Body);
                var call = JsonNode.Parse(await reader.ReadToEndAsync())!;
                made.Calls.AddOrUpdate((string)call["id"]!, 1, (_, n) => n + 1);
                _ = made.TellAsync((string)call["id"]!, (string)call["subject"]!);
                return Results.Json(new { state = "taken" }, statusCode: 202);
            });
            await app.StartAsync();
            return made;
        }

        public ValueTask DisposeAsync() => app.DisposeAsync();

        private async Task TellAsync(string id, string number)
        {
            for (var tries = 0; tries < 300; tries++)
            {
                try
                {
                    await EventsAsync(http, world, Target(), "[" + Event("h-" + id, number, "order.changed", ", \"tags\": [\"bench\"]") + "]");
                    return;
                }
                catch (Exception e) when (e is HttpRequestException or TaskCanceledException)
                {
                    await Task.Delay(200);
                }
            }
        }
    }
}
