using System.Net;

namespace Sirena.Web.Tests;

public sealed class EventsApiTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    private static string Detail(System.Text.Json.Nodes.JsonNode? body) => body!["detail"]!.GetValue<string>();

    [Fact]
    public async Task A_structured_event_is_taken_and_again_it_is_a_duplicate()
    {
        var first = await world.EventAsync(WorldFixture.Event("s1", "W-1"));
        Assert.Equal((HttpStatusCode.Accepted, """{"accepted":1,"duplicates":0,"rejected":[]}"""), (first.Status, first.Body!.ToJsonString()));
        Assert.Equal(1, (await world.EventAsync(WorldFixture.Event("s1", "W-1"))).Body!["duplicates"]!.GetValue<int>());
    }

    [Fact]
    public async Task A_batch_takes_the_good_and_rejects_the_bad_one_by_one()
    {
        var batch =
            $"[{WorldFixture.Event("b1", "W-2")},{WorldFixture.Event("b2", "W-2").Replace("W-2\",\"currency", "W-9\",\"currency")},{WorldFixture.Event("b1", "W-2")}]";
        var (status, body, _) = await world.EventAsync(batch, "application/cloudevents-batch+json");
        Assert.Equal(HttpStatusCode.Accepted, status);
        Assert.Equal((1, 1), (body!["accepted"]!.GetValue<int>(), body["duplicates"]!.GetValue<int>()));
        Assert.Equal((1, "b2"), (body["rejected"]![0]!["index"]!.GetValue<int>(), body["rejected"]![0]!["id"]!.GetValue<string>()));
        Assert.Contains("do not agree", body["rejected"]![0]!["problem"]!.GetValue<string>());
    }

    [Fact]
    public async Task A_batch_of_bad_events_alone_is_400_with_the_same_members()
    {
        var (status, body, answer) = await world.EventAsync("[{},7]", "application/cloudevents-batch+json");
        Assert.Equal(HttpStatusCode.BadRequest, status);
        Assert.Equal("application/problem+json", answer.Content.Headers.ContentType!.MediaType);
        Assert.Equal((0, 2), (body!["accepted"]!.GetValue<int>(), body["rejected"]!.AsArray().Count));
    }

    [Fact]
    public async Task The_binary_mode_reads_its_headers()
    {
        var (status, _, _) = await world.SendAsync(
            HttpMethod.Post,
            "/api/events",
            world.World.Demo.SourceKey,
            """{"order":{"number":"W-3 ä"}}""",
            "application/json; charset=utf-8",
            ("ce-specversion", "1.0"),
            ("ce-id", "x1"),
            ("ce-source", "/web-test"),
            ("ce-type", "order.held"),
            ("ce-subject", "W-3%20%C3%A4"),
            ("ce-time", "2026-11-24T06:12:09Z")
        );
        Assert.Equal(HttpStatusCode.Accepted, status);
        Assert.Equal("W-3 ä", (await world.GetAsync("/api/events/x1/trail")).Body!["order"]!["number"]!.GetValue<string>());
    }

    [Fact]
    public async Task Each_refusal_has_its_status_and_one_clear_sentence()
    {
        var broken = await world.EventAsync("{\"id\" 1}");
        Assert.Equal(HttpStatusCode.BadRequest, broken.Status);
        Assert.Contains("line 1, column", Detail(broken.Body));
        var wrongKey = await world.SendAsync(HttpMethod.Post, "/api/events", "sk-wrong", WorldFixture.Event("k", "W-4"), "application/cloudevents+json");
        Assert.Equal(HttpStatusCode.Unauthorized, wrongKey.Status);
        Assert.Contains("source key", Detail(wrongKey.Body));
        Assert.Equal(
            HttpStatusCode.Unauthorized,
            (
                await world.SendAsync(HttpMethod.Post, "/api/events", world.World.Demo.Token, WorldFixture.Event("k", "W-4"), "application/cloudevents+json")
            ).Status
        );
        Assert.Equal(HttpStatusCode.UnsupportedMediaType, (await world.EventAsync("<order/>", "application/xml")).Status);
        Assert.Equal(HttpStatusCode.UnsupportedMediaType, (await world.EventAsync("{}", "application/json")).Status);
        var many = "[" + string.Join(',', Enumerable.Range(0, 1001).Select(i => WorldFixture.Event("m" + i, "W-5"))) + "]";
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, (await world.EventAsync(many, "application/cloudevents-batch+json")).Status);
        var big = WorldFixture.Event("big", "W-6", more: $",\"via\":\"{new string('x', 5_000_000)}\"");
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, (await world.EventAsync(big)).Status);
    }

    [Fact]
    public async Task Over_its_limit_a_source_is_told_when_to_come_back()
    {
        await world.SendAsync(HttpMethod.Put, "/api/sources/small", world.World.Demo.Token, """{"kind":"events","prefix":"P-","limit":1}""");
        await world.World.ExecuteAsync(
            "insert into source_keys (id, source, hash, start, created_at) values (gen_random_uuid(), 'small', sha256('sk-small'), 'sk-small', now())"
        );

        // The key is known a moment after it was made.
        for (
            var end = DateTime.UtcNow.AddSeconds(30);
            (await world.SendAsync(HttpMethod.Get, "/api/instructions", "sk-small")).Status == HttpStatusCode.Unauthorized && DateTime.UtcNow < end;
            await Task.Delay(50, TestContext.Current.CancellationToken)
        ) { }

        var many = await Task.WhenAll(
            Enumerable
                .Range(0, 12)
                .Select(i => world.SendAsync(HttpMethod.Post, "/api/events", "sk-small", WorldFixture.Event("l" + i, "W-7"), "application/cloudevents+json"))
        );
        Assert.Contains(many, m => m.Status == HttpStatusCode.Accepted);
        Assert.Contains(many, m => m.Status == HttpStatusCode.TooManyRequests && m.Answer.Headers.RetryAfter!.Delta >= TimeSpan.FromSeconds(1));
        Assert.Equal(HttpStatusCode.OK, (await world.GetAsync("/api/orders/P-W-7/trail")).Status);
    }

    [Fact]
    public async Task Orders_are_listed_by_their_last_change_and_found_by_what_they_carry()
    {
        foreach (var (n, status) in new[] { (1, "received"), (2, "picking"), (3, "received") })
        {
            await world.EventAsync(
                WorldFixture.Event(
                    $"ol-{n}",
                    $"OLIST-{n}",
                    "order.placed",
                    $",\"status\":\"{status}\",\"customer\":{{\"code\":\"ZZQ\",\"name\":\"MV Zephyr Quill\"}}"
                )
            );
        }

        string[] Numbers(System.Text.Json.Nodes.JsonNode? list) => [.. list!["items"]!.AsArray().Select(o => (string)o!["number"]!)];
        Assert.Equal(["OLIST-3", "OLIST-2", "OLIST-1"], Numbers((await world.GetAsync("/api/orders?q=zephyr")).Body));
        Assert.Equal(["OLIST-3", "OLIST-1"], Numbers((await world.GetAsync("/api/orders?customer=ZZQ&status=received")).Body));
        var first = (await world.GetAsync("/api/orders?q=olist&limit=2")).Body!;
        Assert.Equal(["OLIST-1"], Numbers((await world.GetAsync($"/api/orders?q=olist&limit=2&cursor={first["next"]}")).Body));
        // What is asked for is text, not a pattern.
        Assert.Empty(Numbers((await world.GetAsync("/api/orders?customer=MV%20Zephyr_Quill")).Body));
        Assert.Empty(Numbers((await world.GetAsync("/api/orders?customer=MV%25Quill")).Body));
        Assert.Equal(HttpStatusCode.BadRequest, (await world.GetAsync("/api/orders?from=yesterday")).Status);
        Assert.Equal(HttpStatusCode.BadRequest, (await world.GetAsync("/api/orders?cursor=x")).Status);
    }

    [Fact]
    public async Task All_that_could_not_be_decided_is_listed_page_by_page()
    {
        string[] ids = [.. Enumerable.Range(1, 5).Select(i => $"aside-{i}")];
        foreach (var id in ids)
        {
            await world.EventAsync(WorldFixture.Event(id, "W-ASIDE"));
        }

        await world.UntilAsync("/api/orders/W-ASIDE/trail", t => t["events"]!.AsArray().Count(e => e!["decidedAt"] is not null) == 5);
        await world.World.ExecuteAsync("update events set set_aside_at = now() where event_id like 'aside-%'");
        var (found, path) = (new List<string>(), "/api/events?state=undecided&limit=2");
        while (path is not null && found.Count < 10)
        {
            var (_, body, answer) = await world.GetAsync(path);
            found.AddRange(body!["items"]!.AsArray().Select(e => (string)e!["id"]!));
            Assert.Equal(body["next"] is not null, answer.Headers.TryGetValues("Link", out var links));
            path = links?.Single().Split('<', '>')[1];
        }

        await world.World.ExecuteAsync("update events set set_aside_at = null where event_id like 'aside-%'");
        Assert.Equal(ids.Reverse(), found);
        Assert.Equal(HttpStatusCode.BadRequest, (await world.GetAsync("/api/events?state=undecided&cursor=-3")).Status);
    }

    [Fact]
    public async Task Metrics_speak_of_what_an_operator_is_woken_for()
    {
        await world.EventAsync(WorldFixture.Event("metric-1", "W-METRIC"));
        await world.UntilAsync("/api/orders/W-METRIC/trail", t => t["events"]!.AsArray().Any(e => e!["decidedAt"] is not null));
        using var http = new HttpClient();
        var text = "";
        for (
            var end = DateTime.UtcNow.AddSeconds(60);
            DateTime.UtcNow < end && !text.Contains("sirena_alerts_open", StringComparison.Ordinal);
            await Task.Delay(300, TestContext.Current.CancellationToken)
        )
        {
            text = await http.GetStringAsync(world.Url + "/metrics", TestContext.Current.CancellationToken);
        }

        foreach (
            var line in new[]
            {
                @"^sirena_events_taken_total(\{.*\})? [1-9]",
                @"^sirena_events_decided_total(\{.*\})? [1-9]",
                @"^sirena_event_decision_duration_seconds_bucket\{.*le=""0.05""\} ",
                @"^sirena_alerts_open(\{.*\})? \d",
                @"^sirena_gateway_failing\{.*gateway=""[a-z0-9-]+"".*\} [01]",
                @"^sirena_events_waiting(\{.*\})? \d",
                @"service_name=""sirena""",
            }
        )
        {
            Assert.True(
                System.Text.RegularExpressions.Regex.IsMatch(text, line, System.Text.RegularExpressions.RegexOptions.Multiline),
                $"{line} is not among {string.Join("\n", text.Split('\n').Where(l => l.StartsWith("sirena_", StringComparison.Ordinal) && !l.Contains("_bucket", StringComparison.Ordinal)))}"
            );
        }

        // Where the tool of the format's makers is installed, it judges.
        if (File.Exists("/usr/bin/promtool"))
        {
            using var tool = System.Diagnostics.Process.Start(
                new System.Diagnostics.ProcessStartInfo("/usr/bin/promtool", ["check", "metrics"])
                {
                    RedirectStandardInput = true,
                    RedirectStandardError = true,
                    RedirectStandardOutput = true,
                }
            )!;
            await tool.StandardInput.WriteAsync(text);
            tool.StandardInput.Close();
            var said =
                await tool.StandardError.ReadToEndAsync(TestContext.Current.CancellationToken)
                + await tool.StandardOutput.ReadToEndAsync(TestContext.Current.CancellationToken);
            Assert.DoesNotContain("sirena_", said);
            Assert.DoesNotContain("error", said);
        }
    }
}
