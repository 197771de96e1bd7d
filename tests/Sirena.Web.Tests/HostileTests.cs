using System.Diagnostics;
using System.Net;
using System.Net.Http.Headers;
using System.Text;

namespace Sirena.Web.Tests;

/// <summary>
/// Five hundred requests that nobody means: documents cut, flipped and blown up, sent to every call that takes one. None breaks anything, none costs much,
/// nothing that was there is gone.
/// </summary>
public sealed class HostileTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    [Fact]
    public async Task No_request_breaks_anything_or_costs_much_or_takes_anything_away()
    {
        var (people, rules) = (await CountAsync("/api/people"), await CountAsync("/api/rules"));
        var rota = await (await world.GetAsync("/api/teams/kitchen/rota")).Answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken);
        using var http = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false }) { Timeout = TimeSpan.FromSeconds(60) };
        var wrong = new List<string>();
        var slow = new List<string>();
        foreach (var call in Sirena.Shots.HostileCalls.Make(seed: 7, count: 500, rota))
        {
            var watch = Stopwatch.StartNew();
            using var request = call.Request(world.Url, world.World.Demo.Token, world.World.Demo.SourceKey);
            using var answer = await http.SendAsync(request, TestContext.Current.CancellationToken);
            if ((int)answer.StatusCode >= 500)
            {
                wrong.Add($"{call} answers {(int)answer.StatusCode} {await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken)}");
            }

            if (watch.Elapsed > TimeSpan.FromSeconds(20))
            {
                slow.Add($"{call} took {watch.Elapsed.TotalSeconds:0.0} s");
            }
        }

        Assert.True(wrong.Count == 0, string.Join("\n", wrong.Take(20)));
        Assert.Empty(slow);

        // What was taken works: every event is decided.
        await world.World.UntilAsync("select not exists (select from events where decided_at is null and set_aside_at is null)", 30);
        Assert.Equal(0, await world.World.CountAsync("select count(*) from events where set_aside_at is not null"));
        Assert.True(await CountAsync("/api/people") >= people);
        Assert.True(await CountAsync("/api/rules") >= rules);
        Assert.Equal(HttpStatusCode.OK, (await world.SendAsync(HttpMethod.Get, "/health/ready", null)).Status);
        foreach (var page in new[] { "/orders", "/people", "/people/rota?team=kitchen", "/rules", "/watch", "/proof", "/channels" })
        {
            Assert.Equal(HttpStatusCode.OK, (await world.GetAsync(page)).Status);
        }
    }

    private async Task<int> CountAsync(string list) => (await world.GetAsync(list)).Body!["items"]!.AsArray().Count;
}
