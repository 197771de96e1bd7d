using System.Collections.Concurrent;
using System.Diagnostics;
using System.Net.Http.Headers;
using System.Text;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.Logging;
using NodaTime;
using Npgsql;
using NpgsqlTypes;
using Sirena.Shots;

namespace Sirena.Bench;

/// <summary>From the 202 to the mail server's 250, and intake beside bare inserts in the same run.</summary>
public static class PipelineBench
{
    private const int Connections = 16;

    /// <summary>From the 202 to the 250; the median of three runs.</summary>
    public static async Task<IReadOnlyList<Figure>> LatencyAsync(string server, Action<string> say, int seconds)
    {
        var (p50, p99) = (new double[3], new double[3]);
        await using (var world = await World.MakeAsync(server, days: 0, aDay: 0))
        {
            await RuleAsync(world);
            await LatencyAsync(world, 5, "warm");
            for (var run = 0; run < 3; run++)
            {
                say($"latency, run {run + 1} of 3: 50 events a second for {seconds} s");
                var times = await LatencyAsync(world, seconds, $"r{run}");
                (p50[run], p99[run]) = (Figure.At(times, .5), Figure.At(times, .99));
            }
        }

        return [new Figure("202 to 250, p50", Figure.Median(p50), "ms", 40), new Figure("202 to 250, p99", Figure.Median(p99), "ms", 200)];
    }

    /// <summary>Intake alone beside bare inserts; the median of three runs each, ratios taken run by run.</summary>
    public static async Task<IReadOnlyList<Figure>> IntakeAsync(string server, Action<string> say)
    {
        var (single, batch, rates) = (new double[3], new double[3], new double[4][]);
        for (var i = 0; i < 4; i++)
        {
            rates[i] = new double[3];
        }

        await using (var world = await World.MakeAsync(server, days: 0, aDay: 0, at: SystemClock.Instance.GetCurrentInstant()))
        {
            await using var bare = await BareAsync(world.Database);
            var client = Client(world);
            await SinglesAsync(client, bare.Urls.First() + "/bare", "bw", 1);
            await SinglesAsync(client, world.Url + "/api/events", "sw", 1);
            for (var run = 0; run < 3; run++)
            {
                say($"intake, run {run + 1} of 3");
                rates[0][run] = await SinglesAsync(client, bare.Urls.First() + "/bare", $"b{run}", 5);
                rates[1][run] = await SinglesAsync(client, world.Url + "/api/events", $"s{run}", 5);
                rates[2][run] = await BareBatchesAsync(world.Database, $"u{run}", 4);
                rates[3][run] = await BatchesAsync(client, world.Url + "/api/events", $"m{run}", 5);
                (single[run], batch[run]) = (rates[1][run] / rates[0][run], rates[3][run] / rates[2][run]);
            }
        }

        return
        [
            new Figure("bare endpoint, one row a request", Figure.Median(rates[0]), "requests/s"),
            new Figure("intake, one event a request", Figure.Median(rates[1]), "events/s"),
            new Figure("  as a part of the bare endpoint", Figure.Median(single), "×", .5, Least: true),
            new Figure("bare insert from unnest, 100 bodies", Figure.Median(rates[2]), "rows/s"),
            new Figure("intake, batches of 100", Figure.Median(rates[3]), "events/s"),
            new Figure("  as a part of the bare insert", Figure.Median(batch), "×", .2, Least: true),
        ];
    }

    private static async Task RuleAsync(World world)
    {
        using var client = Client(world);
        client.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", world.Demo.Token);
        using var content = new StringContent(
            "name: Bench\nwhen: [bench.held]\nonlyIf: { field: order.total, is: at-least, value: 500 }\ntell: [ { person: ines.calder } ]",
            Encoding.UTF8,
            "application/yaml"
        );
        (await client.PutAsync(world.Url + "/api/rules/bench", content)).EnsureSuccessStatusCode();
    }

    // Open loop: an event is sent when its time has come, whether the last one is through or not.
    private static async Task<IReadOnlyCollection<double>> LatencyAsync(World world, int seconds, string run)
    {
        using var client = Client(world);
        var answered = new ConcurrentDictionary<string, long>();
        var arrived = new ConcurrentDictionary<string, long>();
        void Note(Demo.StandIns.ArrivedMail mail) => arrived.TryAdd(mail.Subject.Split(':')[0], Stopwatch.GetTimestamp());
        world.StandIns.Mail.Arrived += Note;
        var begin = Stopwatch.GetTimestamp();
        var sending = new List<Task>();
        for (var i = 0; i < seconds * 50; i++)
        {
            var wait = TimeSpan.FromMilliseconds(i * 20) - Stopwatch.GetElapsedTime(begin);
            if (wait > TimeSpan.Zero)
            {
                await Task.Delay(wait);
            }

            var number = $"{run}-{i}";
            sending.Add(
                Task.Run(async () =>
                {
                    using var content = Content(Event(number, "bench.held"), "application/cloudevents+json");
                    using var answer = await client.PostAsync(world.Url + "/api/events", content);
                    answered[number] = Stopwatch.GetTimestamp();
                    answer.EnsureSuccessStatusCode();
                })
            );
        }

        await Task.WhenAll(sending);
        for (var i = 0; i < 100 && arrived.Count < sending.Count; i++)
        {
            await Task.Delay(50);
        }

        world.StandIns.Mail.Arrived -= Note;
        return
        [
            .. answered.Select(a =>
                arrived.TryGetValue(a.Key, out var at) ? Math.Max(0, Stopwatch.GetElapsedTime(a.Value, at).TotalMilliseconds) : double.PositiveInfinity
            ),
        ];
    }

    private static async Task<double> SinglesAsync(HttpClient client, string url, string run, double seconds)
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
                            using var content = Content(Event($"{run}-{c}-{i}", "bench.single"), "application/cloudevents+json");
                            using var answer = await client.PostAsync(url, content);
                            answer.EnsureSuccessStatusCode();
                            Interlocked.Increment(ref sent);
                        }
                    })
                )
        );
        return sent / Stopwatch.GetElapsedTime(begin).TotalSeconds;
    }

    private static async Task<double> BatchesAsync(HttpClient client, string url, string run, double seconds)
    {
        var (sent, begin) = (0, Stopwatch.GetTimestamp());
        await Task.WhenAll(
            Enumerable
                .Range(0, 4)
                .Select(c =>
                    Task.Run(async () =>
                    {
                        for (var i = 0; Stopwatch.GetElapsedTime(begin).TotalSeconds < seconds; i++)
                        {
                            using var content = Content(
                                $"[{string.Join(',', Enumerable.Range(0, 100).Select(n => Event($"{run}-{c}-{i}-{n}", "bench.batch")))}]",
                                "application/cloudevents-batch+json"
                            );
                            using var answer = await client.PostAsync(url, content);
                            answer.EnsureSuccessStatusCode();
                            Interlocked.Add(ref sent, 100);
                        }
                    })
                )
        );
        return sent / Stopwatch.GetElapsedTime(begin).TotalSeconds;
    }

    private static async Task<double> BareBatchesAsync(string database, string run, double seconds)
    {
        await using var source = NpgsqlDataSource.Create(database);
        await using (
            var make = source.CreateCommand("create table if not exists bare_batch (id bigint generated always as identity primary key, body jsonb not null)")
        )
        {
            await make.ExecuteNonQueryAsync();
        }

        var (sent, begin) = (0, Stopwatch.GetTimestamp());
        await Task.WhenAll(
            Enumerable
                .Range(0, 4)
                .Select(c =>
                    Task.Run(async () =>
                    {
                        for (var i = 0; Stopwatch.GetElapsedTime(begin).TotalSeconds < seconds; i++)
                        {
                            await using var insert = source.CreateCommand("insert into bare_batch (body) select b from unnest($1) b");
                            insert.Parameters.Add(
                                new NpgsqlParameter
                                {
                                    Value = Enumerable.Range(0, 100).Select(n => Event($"{run}-{c}-{i}-{n}", "bench.batch")).ToArray(),
                                    NpgsqlDbType = NpgsqlDbType.Array | NpgsqlDbType.Jsonb,
                                }
                            );
                            await insert.ExecuteNonQueryAsync();
                            Interlocked.Add(ref sent, 100);
                        }
                    })
                )
        );
        return sent / Stopwatch.GetElapsedTime(begin).TotalSeconds;
    }

    // The least that a web endpoint can do: one row for each request, committed before the answer.
    internal static async Task<WebApplication> BareAsync(string database)
    {
        var source = NpgsqlDataSource.Create(database);
        await using (var make = source.CreateCommand("create table bare (id bigint generated always as identity primary key, body jsonb not null)"))
        {
            await make.ExecuteNonQueryAsync();
        }

        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        builder.WebHost.UseUrls("http://127.0.0.1:0");
        var app = builder.Build();
        app.MapPost("/bare", async (HttpRequest request) =>
        {
            using var reader = new StreamReader(request.Body);
            await using var insert = source.CreateCommand("insert into bare (body) values ($1)");
            insert.Parameters.Add(new NpgsqlParameter { Value = await reader.ReadToEndAsync(), NpgsqlDbType = NpgsqlDbType.Jsonb });
            await insert.ExecuteNonQueryAsync();
            return Results.Accepted();
        });
        await app.StartAsync();
        return app;
    }

    private static HttpClient Client(World world)
    {
        var client = new HttpClient(new SocketsHttpHandler { MaxConnectionsPerServer = 64 });
        client.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", world.Demo.SourceKey);
        return client;
    }

    private static ByteArrayContent Content(string body, string type)
    {
        var content = new ByteArrayContent(Encoding.UTF8.GetBytes(body));
        content.Headers.ContentType = MediaTypeHeaderValue.Parse(type);
        return content;
    }

    private static string Event(string number, string type) =>
        $$$"""{"specversion":"1.0","id":"{{{number}}}","source":"/bench","type":"{{{type}}}","subject":"{{{number}}}","time":"{{{DateTime.UtcNow:yyyy-MM-ddTHH:mm:ss.ffffffZ}}}","data":{"order":{"number":"{{{number}}}","status":"received","dueAt":"2030-11-24T15:30:00Z","currency":"EUR","total":1284.50,"customer":{"code":"CORV","name":"MV Corvane","group":"ferries"},"salesperson":"odile.varga","site":"galley","risk":{"level":"low","score":12},"lines":[{"sku":"GAL-0031","title":"Fish pie, tray of 12","quantity":4,"shipped":0,"unitPrice":38.00,"site":"galley","tags":["prepared"]}],"extra":{"vessel":"MV Corvane","berth":"N3"} } } }""";
}
