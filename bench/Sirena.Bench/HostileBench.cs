using System.Diagnostics;
using System.Text.Json.Nodes;
using Sirena.Shots;

namespace Sirena.Bench;

/// <summary>
/// Ten thousand requests that nobody means: how many broke something, how many cost more than 2 s, and whether anything that was there is gone.
/// </summary>
public static class HostileBench
{
    private const int Requests = 10_000;

    /// <summary>Runs it.</summary>
    /// <param name="server">A connection string to a server, without a database.</param>
    /// <param name="say">Says what is going on.</param>
    /// <param name="seed">Decides which requests are made.</param>
    public static async Task<IReadOnlyList<Figure>> RunAsync(string server, Action<string> say, int seed)
    {
        await using var world = await World.MakeAsync(server, days: 2, aDay: 40);
        using var http = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false }) { Timeout = TimeSpan.FromMinutes(2) };
        http.DefaultRequestHeaders.Authorization = new("Bearer", world.Demo.Token);
        async Task<int> CountAsync(string list) => JsonNode.Parse(await http.GetStringAsync(world.Url + list))!["items"]!.AsArray().Count;
        var before = await CountAsync("/api/people") + await CountAsync("/api/rules") + await CountAsync("/api/teams");
        var rota = await http.GetStringAsync(world.Url + "/api/teams/kitchen/rota");
        var (broken, slow, longest, cpu) = (0, 0, 0.0, Process.GetCurrentProcess().TotalProcessorTime);
        say($"hostile: {Requests:N0} requests, seed {seed}");
        foreach (var call in HostileCalls.Make(seed, Requests, rota))
        {
            var watch = Stopwatch.StartNew();
            using var request = call.Request(world.Url, world.Demo.Token, world.Demo.SourceKey);
            using var answer = await http.SendAsync(request);
            longest = Math.Max(longest, watch.Elapsed.TotalSeconds);
            if (watch.Elapsed.TotalSeconds > 2)
            {
                slow++;
                say($"hostile: {call} took {watch.Elapsed.TotalSeconds:0.0} s");
            }

            if ((int)answer.StatusCode >= 500)
            {
                broken++;
                say($"hostile: {call} answers {(int)answer.StatusCode}");
            }
        }

        // What was taken works: every event is decided, and no rule or person that was taken stands in its way.
        await world.UntilAsync("select not exists (select from events where decided_at is null and set_aside_at is null)", 60);
        var aside = await world.CountAsync("select count(*) from events where set_aside_at is not null");
        var after = await CountAsync("/api/people") + await CountAsync("/api/rules") + await CountAsync("/api/teams");
        return
        [
            new Figure("requests that nobody means", Requests, "requests"),
            new Figure("  answered 5xx", broken, "requests", 0),
            new Figure("  over 2 s", slow, "requests", 0),
            new Figure("  events that could not be decided", aside, "events", 0),
            new Figure("  the longest", longest, "s"),
            new Figure("  people, rules and teams that are gone", Math.Max(0, before - after), "rows", 0),
            new Figure("  processor time for all of it", (Process.GetCurrentProcess().TotalProcessorTime - cpu).TotalSeconds, "s"),
        ];
    }
}
