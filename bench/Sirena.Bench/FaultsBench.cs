using System.Diagnostics;
using System.Net.Http.Headers;
using System.Text;
using Npgsql;
using Sirena.Demo.StandIns;
using Sirena.Shots;

namespace Sirena.Bench;

/// <summary>
/// Two nodes under load for a minute: one is killed every 5 s, one is frozen for 20 s, six times every connection to the database is cut, once the database is
/// restarted, once its disk is full, once its queue is locked. What was lost, what came
/// twice in silence, how long the rest took; and how long what comes alone waits beside a crowd.
/// </summary>
public static class FaultsBench
{
    private const int Each = 5;
    private const string Space = "sirena_bench_small";

    // A small disk of its own that the server can reach, empty; without it no disk gets full.
    private static readonly string? Disk = Environment.GetEnvironmentVariable("SIRENA_BENCH_DISK") is { Length: > 0 } disk ? disk : null;

    /// <summary>Runs it.</summary>
    /// <param name="server">A connection string to a server, without a database.</param>
    /// <param name="say">Says what is going on.</param>
    /// <param name="seconds">How long nodes are killed.</param>
    public static async Task<IReadOnlyList<Figure>> RunAsync(string server, Action<string> say, int seconds)
    {
        if (Disk is null)
        {
            say("faults: no small disk could be made (that takes root), so none gets full");
            return await OfAsync(server, say, seconds);
        }

        await SayToAsync(server, $"create tablespace {Space} location '{Disk}/space'");
        try
        {
            return await OfAsync(server, say, seconds);
        }
        finally
        {
            await SayToAsync(server, $"drop tablespace {Space}");
        }
    }

    private static async Task<IReadOnlyList<Figure>> OfAsync(string server, Action<string> say, int seconds)
    {
        await using var world = await World.MakeAsync(server, days: 0, aDay: 0);
        var home = world.Nodes[0];
        await home.StopAsync();
        await home.DisposeAsync();
        world.Nodes.Clear();
        if (Disk is not null)
        {
            NpgsqlConnection.ClearAllPools();
            await world.ExecuteAsync(
                $"alter table all in tablespace pg_default set tablespace {Space}; alter index all in tablespace pg_default set tablespace {Space}"
            );
        }

        int[] ports = [StandInHost.FreePort(), StandInHost.FreePort()];
        Process?[] nodes = [Start(world, ports[0]), Start(world, ports[1])];
        try
        {
            using var http = new HttpClient { Timeout = TimeSpan.FromSeconds(5) };
            await AnswersAsync(http, ports[0], say);
            await AnswersAsync(http, ports[1], say);
            await RuleAsync(http, world, ports[0]);
            say($"faults: two nodes, one is killed every {Each} s for {seconds} s, 50 events a second");
            using var stop = new CancellationTokenSource();
            var posting = PostAsync(http, world, ports, stop.Token);
            var (kills, begin) = (0, Stopwatch.GetTimestamp());
            while (kills < 8 || Stopwatch.GetElapsedTime(begin).TotalSeconds < seconds)
            {
                await Task.Delay(TimeSpan.FromSeconds(Each));
                var which = kills++ % 2;
                nodes[which]!.Kill(entireProcessTree: true);
                await nodes[which]!.WaitForExitAsync();
                nodes[which] = Start(world, ports[which]);
                if (kills is >= 1 and <= 6)
                {
                    await CutAsync(world.Database);
                }

                if (kills == 3)
                {
                    say("faults: a node is frozen for 20 s");
                    await SignalAsync(nodes[1]!, "STOP");
                    await Task.Delay(TimeSpan.FromSeconds(20));
                    await SignalAsync(nodes[1]!, "CONT");
                }

                if (kills == 7 && Disk is not null)
                {
                    say(await FillAsync(TimeSpan.FromSeconds(12)));
                }

                if (kills == 8)
                {
                    say("faults: the queue is locked for 10 s");
                    await SayToAsync(world.Database, "begin; lock table deliveries in access exclusive mode; select pg_sleep(10); commit");
                }

                if (kills == seconds / Each / 2)
                {
                    say(
                        await RestartDatabaseAsync(world.Database)
                            ? "faults: the database was restarted"
                            : "faults: the database refused to be restarted; its connections were broken instead"
                    );
                }
            }

            var last = Stopwatch.GetTimestamp();
            await stop.CancelAsync();
            var taken = await posting;
            await world.UntilAsync(
                "select not exists (select from events where decided_at is null) and not exists (select from deliveries where state = 'waiting')",
                120
            );
            var settled = Stopwatch.GetElapsedTime(last).TotalSeconds;
            List<Figure> figures = [.. await CountAsync(world, taken, kills, settled)];
            figures.AddRange(await CrowdAsync(http, world, ports[0], say));
            return figures;
        }
        finally
        {
            foreach (var node in nodes)
            {
                node?.Kill(entireProcessTree: true);
                node?.Dispose();
            }
        }
    }

    // A crowd of routine events, and meanwhile an event alone every quarter of a second: from its 202 to its decision.
    private static async Task<IReadOnlyList<Figure>> CrowdAsync(HttpClient http, World world, int port, Action<string> say)
    {
        const int crowd = 100_000;
        say($"faults: {crowd:N0} events come as a crowd, one alone every 250 ms meanwhile");
        var crowding = Task.Run(async () =>
        {
            for (var i = 0; i < crowd / 1000; i++)
            {
                var events = string.Join(
                    ',',
                    Enumerable
                        .Range(0, 1000)
                        .Select(n =>
                            $$"""{"specversion":"1.0","id":"c{{i}}-{{n}}","source":"/crowd","type":"bench.crowd","subject":"C-{{i}}-{{n}}","data":{"order":{"number":"C-{{i}}-{{n}}"} } }"""
                        )
                );
                await SendAsync(http, world, port, $"[{events}]", "application/cloudevents-batch+json");
            }
        });
        var alone = 0;
        while (!crowding.IsCompleted || alone < 40)
        {
            var number = $"A-{alone++:0000}";
            await SendAsync(
                http,
                world,
                port,
                $$"""{"specversion":"1.0","id":"{{number}}","source":"/alone","type":"bench.faults","subject":"{{number}}","data":{"order":{"number":"{{number}}"} } }""",
                "application/cloudevents+json"
            );
            await Task.Delay(250);
        }

        await crowding;
        await using var source = NpgsqlDataSource.Create(world.Database);
        await using var count = source.CreateCommand("select count(*) from events where type = 'bench.crowd' and decided_at is null");
        var waiting = (long)(await count.ExecuteScalarAsync())!;
        await world.UntilAsync("select not exists (select from events where decided_at is null)", 300);
        await using var command = source.CreateCommand("select extract(epoch from decided_at - received)::float8 from events where source = '/alone'");
        var waits = new List<double>();
        await using var reader = await command.ExecuteReaderAsync();
        while (await reader.ReadAsync())
        {
            waits.Add(reader.GetDouble(0) * 1000);
        }

        return
        [
            new Figure("a crowd of 100,000: still waiting when the last alone came", waiting, "events"),
            new Figure("  alone beside it, received to decided, p99", Figure.At(waits, .99), "ms", 1000),
        ];
    }

    private static async Task SendAsync(HttpClient http, World world, int port, string body, string type)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, $"http://127.0.0.1:{port}/api/events")
        {
            Content = new StringContent(body, Encoding.UTF8, type),
        };
        request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", world.Demo.SourceKey);
        using var answer = await http.SendAsync(request);
        answer.EnsureSuccessStatusCode();
    }

    private static async Task CutAsync(string database)
    {
        await using var connection = new NpgsqlConnection($"{database};Pooling=false");
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(
            "select pg_terminate_backend(pid) from pg_stat_activity where pid <> pg_backend_pid() and datname = current_database()",
            connection
        );
        await command.ExecuteNonQueryAsync();
    }

    private static async Task SayToAsync(string database, string sql)
    {
        await using var connection = new NpgsqlConnection(
            $"{database};Pooling=false{(database.Contains("Database=", StringComparison.OrdinalIgnoreCase) ? "" : ";Database=postgres")}"
        );
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection) { CommandTimeout = 60 };
        await command.ExecuteNonQueryAsync();
    }

    private static async Task<string> FillAsync(TimeSpan time)
    {
        var file = Path.Combine(Disk!, "fill");
        var written = 0L;
        try
        {
            await using var fill = new FileStream(file, FileMode.Create, FileAccess.Write, FileShare.None, 1);
            for (var block = new byte[4096]; ; written += block.Length)
            {
                fill.Write(block);
            }
        }
        catch (IOException)
        {
            // Full: that is what it is for. What the server frees meanwhile it may use.
        }

        await Task.Delay(time);
        File.Delete(file);
        return $"faults: the database's disk was full for {time.TotalSeconds:0} s ({written / 1_000_000} MB)";
    }

    private static async Task SignalAsync(Process node, string signal)
    {
        using var kill = Process.Start("kill", [$"-{signal}", node.Id.ToString(System.Globalization.CultureInfo.InvariantCulture)]);
        await kill.WaitForExitAsync();
    }

    private static async Task<IReadOnlyList<Figure>> CountAsync(World world, IReadOnlyCollection<string> taken, int kills, double settled)
    {
        await using var source = NpgsqlDataSource.Create(world.Database);
        await using var command = source.CreateCommand(
            "select order_number, case when twice_attempt is null then '' else 'marked' end from deliveries where rule_id = 'bench' and state in ('handed-over', 'landed')"
        );
        var over = new Dictionary<string, string>();
        await using (var reader = await command.ExecuteReaderAsync())
        {
            while (await reader.ReadAsync())
            {
                over[reader.GetString(0)] = reader.GetString(1);
            }
        }

        var arrived = world.StandIns.Phone.Messages.GroupBy(m => m.Text.Split(' ')[0]).ToDictionary(g => g.Key, g => g.Count());
        var lost = taken.Count(t => !over.ContainsKey(t) || !arrived.ContainsKey(t));
        var twice = arrived.Count(a => a.Value > 1);
        var silent = arrived.Count(a => a.Value > 1 && over.GetValueOrDefault(a.Key, "").Length == 0);
        return
        [
            new Figure("nodes killed in a minute, two at work", kills, "kills"),
            new Figure("events taken with 202", taken.Count, "events"),
            new Figure("  of these without a delivery that arrived", lost, "lost", 0),
            new Figure("  arrived more than once, marked", twice - silent, "messages"),
            new Figure("  arrived more than once, in silence", silent, "messages", 0),
            new Figure("all done after the last kill", settled, "s", 30),
        ];
    }

    internal static Process Start(World world, int port)
    {
        var start = new ProcessStartInfo("dotnet", [Path.Combine(AppContext.BaseDirectory, "Sirena.Web.dll"), "--urls", $"http://127.0.0.1:{port}"])
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        (start.Environment["SIRENA_DATABASE"], start.Environment["SIRENA_KEY_FILE"], start.Environment["SIRENA_INSIDE"]) = (
            world.Database,
            world.KeyFile,
            "127.0.0.1"
        );
        var node = Process.Start(start)!;
        node.OutputDataReceived += (_, _) => { };
        node.ErrorDataReceived += (_, _) => { };
        node.BeginOutputReadLine();
        node.BeginErrorReadLine();
        return node;
    }

    internal static async Task AnswersAsync(HttpClient http, int port, Action<string> say)
    {
        for (var tries = 0; tries < 300; tries++)
        {
            try
            {
                using var answer = await http.GetAsync($"http://127.0.0.1:{port}/health/ready");
                if (answer.IsSuccessStatusCode)
                {
                    return;
                }
            }
            catch (HttpRequestException)
            {
                // It is still starting.
            }

            await Task.Delay(200);
        }

        say($"the node at {port} does not answer");
    }

    private static async Task RuleAsync(HttpClient http, World world, int port)
    {
        using var request = new HttpRequestMessage(HttpMethod.Put, $"http://127.0.0.1:{port}/api/rules/bench")
        {
            Content = new StringContent(
                "name: Bench\nwhen: [bench.faults]\ntell: [ { address: \"+447700900099\", outside: true } ]\nby: { allAtOnce: [sms] }",
                Encoding.UTF8,
                "application/yaml"
            ),
        };
        request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", world.Demo.Token);
        using var answer = await http.SendAsync(request);
        answer.EnsureSuccessStatusCode();
    }

    // An order system that goes to the other node when one does not answer, with the same event id.
    private static async Task<IReadOnlyCollection<string>> PostAsync(HttpClient http, World world, int[] ports, CancellationToken stop)
    {
        var taken = new System.Collections.Concurrent.ConcurrentBag<string>();
        var (sending, begin) = (new List<Task>(), Stopwatch.GetTimestamp());
        for (var i = 0; !stop.IsCancellationRequested; i++)
        {
            var wait = TimeSpan.FromMilliseconds(i * 20) - Stopwatch.GetElapsedTime(begin);
            if (wait > TimeSpan.Zero)
            {
                await Task.Delay(wait, CancellationToken.None);
            }

            var number = $"F-{i:00000}";
            var first = i;
            sending.Add(
                Task.Run(
                    async () =>
                    {
                        for (var tries = 0; tries < 100; tries++)
                        {
                            try
                            {
                                using var request = new HttpRequestMessage(HttpMethod.Post, $"http://127.0.0.1:{ports[(first + tries) % 2]}/api/events")
                                {
                                    Content = new StringContent(
                                        $$$"""{"specversion":"1.0","id":"{{{number}}}","source":"/bench","type":"bench.faults","subject":"{{{number}}}","data":{"order":{"number":"{{{number}}}","total":12} } }""",
                                        Encoding.UTF8,
                                        "application/cloudevents+json"
                                    ),
                                };
                                request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", world.Demo.SourceKey);
                                using var answer = await http.SendAsync(request, CancellationToken.None);
                                if (answer.IsSuccessStatusCode)
                                {
                                    taken.Add(number);
                                    return;
                                }
                            }
                            catch (Exception e) when (e is HttpRequestException or TaskCanceledException or IOException)
                            {
                                // It is sent to the other node.
                            }

                            await Task.Delay(100, CancellationToken.None);
                        }
                    },
                    CancellationToken.None
                )
            );
        }

        await Task.WhenAll(sending);
        return taken;
    }

    // The command that restarts the cluster stands in SIRENA_BENCH_RESTART; without it the connections are broken.
    internal static async Task<bool> RestartDatabaseAsync(string database)
    {
        if (Environment.GetEnvironmentVariable("SIRENA_BENCH_RESTART") is { Length: > 0 } restart)
        {
            using var shell = Process.Start(new ProcessStartInfo("bash", ["-c", restart]) { RedirectStandardOutput = true, RedirectStandardError = true })!;
            await shell.WaitForExitAsync();
            NpgsqlConnection.ClearAllPools();
            return shell.ExitCode == 0;
        }

        await CutAsync(database);
        return false;
    }
}
