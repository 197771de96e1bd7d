using System.Diagnostics;
using System.Net.Http.Headers;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Sources;
using Sirena.Core.Tests.Sources;
using Sirena.Demo.OrderSystem;
using Sirena.Demo.World;
using Sirena.Engine;
using Sirena.Engine.Sources;
using Sirena.Formats.Sources;
using Sirena.Shots;

namespace Sirena.Bench;

/// <summary>Sources: calls, readings, lists, checks, silence.</summary>
public static class SourcesBench
{
    private const int Connections = 16;

    /// <summary>Measures all of it.</summary>
    public static async Task<IReadOnlyList<Figure>> RunAsync(string server, Action<string> say, int seconds)
    {
        var figures = new List<Figure>();
        say("sources: readings and proposals in the core");
        figures.AddRange(Core());
        say("sources: silences of sources that never fail");
        figures.AddRange(Silence());
        await using var world = await World.MakeAsync(server, days: 0, aDay: 0);
        say("sources: calls");
        figures.AddRange(await CallsAsync(world, say));
        figures.AddRange(await DecidedAsync(world, seconds));
        say("sources: a list of 100,000 rows");
        figures.AddRange(await ListAsync(world));
        return figures;
    }

    private static IEnumerable<Figure> Core()
    {
        var bodies = Enumerable.Range(0, 50).Select(i => Encoding.UTF8.GetBytes(Body(i, 24))).ToArray();
        var zone = DateTimeZoneProviders.Tzdb["Europe/Lisbon"];
        var reader = new BodyReader(ReadingReader.Read(SourceSetup.LedgerReading().ToJsonString(), yaml: false).Reading!, zone);
        JsonElement[] values = [.. bodies.Select(b => BodyText.Read(b, null).Root)];
        double Microseconds(int times)
        {
            var begin = Stopwatch.GetTimestamp();
            for (var i = 0; i < times; i++)
            {
                if (reader.Read(new Body(values[i % values.Length], _ => null)).Problems.Count > 0)
                {
                    throw new InvalidOperationException("The bench's body is not understood.");
                }
            }

            return Stopwatch.GetElapsedTime(begin).TotalMicroseconds / times;
        }

        Microseconds(5_000);
        yield return new Figure(
            $"reading a body of {bodies[0].Length / 1000.0:0.0} kB",
            Figure.Median([.. Enumerable.Range(0, 5).Select(_ => Microseconds(5_000))]),
            "µs",
            50
        );
        var words = new StatusWords([
            .. LedgerShape.Stages.Select(s => new Status
            {
                Id = s.Key,
                Name = s.Key,
                Mark = "received",
                Words = [s.Value],
            }),
        ]);
        ReadingProposal.Of(values, words, zone);
        var proposal = Stopwatch.GetTimestamp();
        ReadingProposal.Of(values, words, zone);
        yield return new Figure("proposal from 50 bodies", Stopwatch.GetElapsedTime(proposal).TotalMilliseconds, "ms", 500);
    }

    // Sources from one event a day in the night to some thousands a day, smooth and bursty: 40 of each live through 20 weeks after their eight of learning.
    private static IEnumerable<Figure> Silence()
    {
        var begin = Instant.FromUtc(2026, 3, 2, 0, 0);
        foreach (
            var (name, scale, burst) in new[]
            {
                ("17 events a day", 0.05, 1),
                ("330 events a day", 1.0, 1),
                ("3,300 events a day", 10.0, 1),
                ("330 events a day in bursts of 6", 1.0, 6),
            }
        )
        {
            var alarms = Enumerable.Range(0, 40).AsParallel().Sum(seed => FalseAlarms.In(new Random(seed), 20, scale, burst, begin, DateTimeZone.Utc));
            yield return new Figure($"false alarms in 20 weeks, {name}", alarms / 40.0, "a source", 1);
        }
    }

    private static async Task<IReadOnlyList<Figure>> CallsAsync(World world, Action<string> say)
    {
        await using var bare = await PipelineBench.BareAsync(world.Database);
        using var client = new HttpClient(new SocketsHttpHandler { MaxConnectionsPerServer = 64 });
        await PutAsync(client, world, new JsonObject { ["limit"] = 100_000 });
        var (alone, ours) = (new List<double>(), new List<double>());
        for (var run = 0; run < 3; run++)
        {
            alone.Add(await RateAsync(client, bare.Urls.First() + "/bare", world, 3));
            ours.Add(await RateAsync(client, $"{world.Url}/api/in/{SourceSetup.Ledger}", world, 3));
            say($"sources: {alone[^1]:0} bare, {ours[^1]:0} calls a second");
        }

        // What the crowd left is decided first: the figure after this is of a source that is not crowded.
        await world.UntilAsync(
            "select not exists (select from arrivals where state = 'waiting') and not exists (select from events where decided_at is null)",
            300
        );
        return
        [
            new Figure("bare endpoint, one row a request", Figure.Median([.. alone]), "requests/s"),
            new Figure("calls, proved and on disk", Figure.Median([.. ours]), "calls/s"),
            new Figure("  as a part of the bare endpoint", Figure.Median([.. alone.Zip(ours, (a, o) => o / a)]), "×", .5, Least: true),
        ];
    }

    private static async Task<double> RateAsync(HttpClient client, string url, World world, double seconds)
    {
        var (sent, begin) = (0, Stopwatch.GetTimestamp());
        await Task.WhenAll(
            Enumerable
                .Range(0, Connections)
                .Select(c =>
                    Task.Run(async () =>
                    {
                        for (var i = 0; Stopwatch.GetElapsedTime(begin).TotalSeconds < seconds; i++)
                        {
                            using var answer = await SendAsync(client, url, world, Body(Random.Shared.Next(1_000_000, 90_000_000), 3));
                            answer.EnsureSuccessStatusCode();
                            Interlocked.Increment(ref sent);
                        }
                    })
                )
        );
        return sent / Stopwatch.GetElapsedTime(begin).TotalSeconds;
    }

    private static async Task<IReadOnlyList<Figure>> DecidedAsync(World world, int seconds)
    {
        using var client = new HttpClient(new SocketsHttpHandler { MaxConnectionsPerServer = 64 });
        var begin = Stopwatch.GetTimestamp();
        var from = DateTime.UtcNow;
        var calls = new List<Task>();
        for (var i = 0; Stopwatch.GetElapsedTime(begin).TotalSeconds < seconds; i++)
        {
            calls.Add(SendAsync(client, $"{world.Url}/api/in/{SourceSetup.Ledger}", world, Body(200_000_000 + i, 3)));
            await Task.Delay(TimeSpan.FromMilliseconds(Math.Max(0, (20.0 * (i + 1)) - Stopwatch.GetElapsedTime(begin).TotalMilliseconds)));
        }

        await Task.WhenAll(calls);
        await world.UntilAsync(
            "select not exists (select from arrivals where state = 'waiting') and not exists (select from events where decided_at is null)",
            60
        );
        var p95 = await world.CountAsync(
            $"select (percentile_cont(0.95) within group (order by extract(epoch from decided_at - received)) * 1000000)::bigint from events where source = '/sources/ledger' and received > '{from:O}' and subject like 'AQ-2_______%'"
        );
        return [new Figure("body to decided at 50 a second, p95", p95 / 1000.0, "ms", 100)];
    }

    private static async Task<IReadOnlyList<Figure>> ListAsync(World world)
    {
        var services = world.Nodes[0].Services;
        var desk = services.GetRequiredService<ListingDesk>();
        await PutAsync(
            world,
            "bench-list",
            """{ "kind": "listing", "prefix": "B-", "listing": { "key": "no" }, "reading": { "order": { "number": { "column": "no" }, "status": { "column": "status" }, "total": { "column": "sum", "decimal": "," }, "customer": { "name": { "column": "name" } } } } }"""
        );
        await PutAsync(
            world,
            "bench-check",
            """{ "kind": "listing", "prefix": "B-", "listing": { "role": "check", "key": "no", "stands": 1 }, "reading": { "order": { "number": { "column": "no" }, "status": { "column": "status" } } } }"""
        );
        await desk.RunAsync("bench-list", List(100_000, _ => false), null, false, "bench", CancellationToken.None);
        GC.Collect();
        await File.WriteAllTextAsync("/proc/self/clear_refs", "5");
        var before = Memory("VmRSS");
        var file = List(100_000, i => i % 100 == 7);
        var begin = Stopwatch.GetTimestamp();
        var run = await desk.RunAsync("bench-list", file, null, false, "bench", CancellationToken.None);
        var took = Stopwatch.GetElapsedTime(begin).TotalSeconds;
        var peak = Memory("VmHWM") - before;
        if (run?.Run is not { Changed: 1_000, State: RunState.Taken })
        {
            throw new InvalidOperationException(
                $"The bench's list was not taken as it should: {run?.Run?.Changed} changed, {run?.Run?.State}, {run?.Problem}."
            );
        }

        await world.ExecuteAsync(
            "insert into orders (number, document, times, seq, status, open, risk, sites, changed_at, search) select 'B-' || n, json_build_object('number', 'B-' || n, 'status', 'received'), '{}', 1, 'received', true, 0, '{}', now() - interval '1 day', '' from generate_series(100000, 199999) n"
        );
        await world.ExecuteAsync("update orders set changed_at = now() - interval '1 day'");
        begin = Stopwatch.GetTimestamp();
        var check = await desk.RunAsync("bench-check", List(200_000, i => i % 1_000 == 7), null, false, "bench", CancellationToken.None);
        var compared = Stopwatch.GetElapsedTime(begin).TotalSeconds;
        return
        [
            new Figure("list of 100,000 rows, 1 % changed", took, "s", 10),
            new Figure("  memory at its peak", peak, "MB", 300),
            new Figure($"check of a list against 200,000 orders, {await world.CountAsync("select count(*) from missed_orders")} found", compared, "s", 20),
        ];
    }

    private static byte[] List(int rows, Func<int, bool> changed)
    {
        var text = new StringBuilder("no;status;sum;name\n");
        for (var i = 0; i < rows; i++)
        {
            text.Append(i).Append(changed(i) ? ";picking;" : ";received;").Append(i % 1_000).Append(",50;MV Corvane ").Append(i % 40).Append('\n');
        }

        return Encoding.UTF8.GetBytes(text.ToString());
    }

    private static double Memory(string name) =>
        double.Parse(
            File.ReadLines("/proc/self/status")
                .First(l => l.StartsWith(name, StringComparison.Ordinal))
                .Split([' ', '\t'], StringSplitOptions.RemoveEmptyEntries)[1],
            System.Globalization.CultureInfo.InvariantCulture
        ) / 1024;

    private static async Task<HttpResponseMessage> SendAsync(HttpClient client, string url, World world, string body)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, url) { Content = new ByteArrayContent(Encoding.UTF8.GetBytes(body)) };
        request.Content.Headers.ContentType = new MediaTypeHeaderValue("application/json");
        request.Headers.Add(
            SourceSetup.Signature,
            "sha256=" + Convert.ToHexStringLower(HMACSHA256.HashData(Encoding.UTF8.GetBytes(SourceSetup.Secret(world.Demo)), Encoding.UTF8.GetBytes(body)))
        );
        return await client.SendAsync(request);
    }

    private static Task PutAsync(HttpClient client, World world, JsonObject source) => PutAsync(world, SourceSetup.Ledger, source.ToJsonString(), client);

    private static async Task PutAsync(World world, string id, string source, HttpClient? client = null)
    {
        using var own = client is null ? new HttpClient() : null;
        using var request = new HttpRequestMessage(HttpMethod.Put, $"{world.Url}/api/sources/{id}")
        {
            Content = new StringContent(source, Encoding.UTF8, "application/json"),
        };
        request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", world.Demo.Token);
        using var answer = await (client ?? own!).SendAsync(request);
        answer.EnsureSuccessStatusCode();
    }

    private static string Body(int number, int lines)
    {
        var now = SystemClock.Instance.GetCurrentInstant();
        var order = new JsonObject
        {
            ["number"] = $"AQ-{number}",
            ["status"] = "received",
            ["total"] = 1284.50m,
            ["currency"] = "EUR",
            ["placedAt"] = "2026-11-24T06:12:09Z",
            ["dueAt"] = "2030-11-24T15:30:00Z",
            ["salesperson"] = "odile.varga",
            ["via"] = "web",
            ["customer"] = new JsonObject
            {
                ["code"] = "CORV",
                ["name"] = "MV Corvane",
                ["group"] = "ferries",
                ["email"] = "purser@corvane.example",
            },
            ["extra"] = new JsonObject { ["vessel"] = "MV Corvane", ["berth"] = "N3" },
            ["lines"] = new JsonArray([
                .. Enumerable
                    .Range(0, lines)
                    .Select(i =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["sku"] = $"GAL-{i:0000}",
                                ["title"] = "Fish pie, tray of 12, with leeks and cream",
                                ["quantity"] = 4m,
                                ["unitPrice"] = 38.00m,
                                ["site"] = "galley",
                            }
                    ),
            ]),
        };
        return LedgerShape.Write(Guid.CreateVersion7().ToString(), "order.placed", new JsonObject { ["order"] = order }, now, false).ToJsonString();
    }
}
