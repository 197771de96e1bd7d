using System.Diagnostics;
using System.Net;
using Sirena.Shots;

namespace Sirena.Web.Tests;

public sealed class SafetyTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    [Fact]
    public async Task Every_page_asks_for_sign_in_and_carries_the_strict_headers()
    {
        foreach (var path in new[] { "/orders", "/rules", "/proof", "/settings", "/settings/users", "/strip" })
        {
            var (status, _, answer) = await world.SendAsync(HttpMethod.Get, path, null);
            Assert.Equal(HttpStatusCode.Redirect, status);
            Assert.Contains("/sign-in", answer.Headers.Location!.ToString());
            var policy = answer.Headers.GetValues("Content-Security-Policy").Single();
            Assert.Contains("script-src 'self'", policy);
            Assert.DoesNotContain("unsafe", policy);
        }

        Assert.Equal(HttpStatusCode.OK, (await world.SendAsync(HttpMethod.Get, "/health/live", null)).Status);
        Assert.Equal(HttpStatusCode.OK, (await world.SendAsync(HttpMethod.Get, "/health/ready", null)).Status);
    }

    [Fact]
    public async Task A_write_that_only_the_session_s_cookie_signs_is_refused()
    {
        var jar = new CookieContainer();
        using var http = new HttpClient(new HttpClientHandler { CookieContainer = jar });
        var form = await http.GetStringAsync(world.Url + "/sign-in", TestContext.Current.CancellationToken);
        var token = World.FormToken(form);
        var maren = world.World.Demo.Users[0];
        var signedIn = await http.PostAsync(
            world.Url + "/sign-in",
            new FormUrlEncodedContent([new("Email", maren.Email), new("Password", maren.Password), new("__RequestVerificationToken", token)]),
            TestContext.Current.CancellationToken
        );
        Assert.EndsWith("/orders", signedIn.RequestMessage!.RequestUri!.AbsolutePath);
        Assert.All(jar.GetAllCookies(), c => Assert.True(c.HttpOnly));
        Assert.Equal(HttpStatusCode.OK, (await http.GetAsync(world.Url + "/api/rules", TestContext.Current.CancellationToken)).StatusCode);
        var write = await http.DeleteAsync(world.Url + "/api/rules/alongside", TestContext.Current.CancellationToken);
        Assert.Equal(HttpStatusCode.BadRequest, write.StatusCode);
        Assert.Contains("antiforgery", await write.Content.ReadAsStringAsync(TestContext.Current.CancellationToken));
    }

    [Fact]
    public async Task A_killed_node_s_mail_is_taken_over()
    {
        var start = new ProcessStartInfo("dotnet", [Path.Combine(AppContext.BaseDirectory, "Sirena.Web.dll"), "--urls", "http://127.0.0.1:0"])
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        await using var lone = await World.MakeAsync(Environment.GetEnvironmentVariable("SIRENA_TEST_SERVER")!, days: 0, aDay: 0);
        foreach (var node in lone.Nodes.ToArray())
        {
            await node.StopAsync(TestContext.Current.CancellationToken);
        }

        (start.Environment["SIRENA_DATABASE"], start.Environment["SIRENA_KEY_FILE"]) = (lone.Database, lone.KeyFile);
        var slow = new Demo.StandIns.Fault("mail", "slow@*", "delay", 60) { TimesLeft = 1 };
        lone.StandIns.Faults.Add(slow);
        await lone.ExecuteAsync(
            """
            insert into events (event_id, source, type, subject, seq, time, received, late, from_the_future, data, tries, book) values ('k', '/k', 'test.k', 'k', 0, now(), now(), false, false, '{}', 0, 1);
            insert into alerts (id, event_id, subject, rule_id, version, "case", urgency, state, raised_at, began_at, reaches_somebody) select gen_random_uuid(), id, 'k', 'k', 1, 'always', 'prompt', 'open', now(), now(), true from events;
            insert into deliveries (id, alert_id, rule_id, step, channel, "to", state, created_at, due_at, deadline, answered, tries) select gen_random_uuid(), id, 'k', 0, 'mail', 'slow@a.example', 'waiting', now(), now(), now() + interval '1 hour', false, 0 from alerts;
            insert into messages (delivery_id, subject, text) select id, 'Subject', 'Text' from deliveries;
            """
        );
        using (var node = Process.Start(start)!)
        {
            var said = new System.Collections.Concurrent.ConcurrentQueue<string?>();
            node.OutputDataReceived += (_, e) => said.Enqueue(e.Data);
            node.ErrorDataReceived += (_, e) => said.Enqueue(e.Data);
            node.BeginOutputReadLine();
            node.BeginErrorReadLine();
            try
            {
                // Until the mail server has it in its hands and does not answer.
                for (var end = DateTime.UtcNow.AddSeconds(90 * World.Patience); slow.TimesLeft > 0; await Task.Delay(50, TestContext.Current.CancellationToken))
                {
                    if (DateTime.UtcNow > end)
                    {
                        throw new TimeoutException("The node sent nothing.");
                    }
                }
            }
            catch (TimeoutException e)
            {
                throw new TimeoutException($"{e.Message} The node said: {string.Join('\n', said)}", e);
            }

            node.Kill();
            await node.WaitForExitAsync(TestContext.Current.CancellationToken);
        }

        lone.StandIns.Faults.Clear();
        await lone.StartNodeAsync();
        await lone.UntilAsync("select state = 'handed-over' and tries = 2 and reason like 'may have arrived twice%' from deliveries", 25);
        await lone.UntilAsync("select count(*) = 1 from attempts where outcome = 'unknown' and ended_at is null", 1);
    }

    [Fact]
    public async Task Secrets_are_kept_as_hashes_and_the_keys_are_wrapped()
    {
        await world.World.UntilAsync(
            $"select not exists (select from source_keys where encode(hash, 'escape') like '%{world.World.Demo.SourceKey}%' or start = '{world.World.Demo.SourceKey}')",
            1
        );
        await world.SendAsync(HttpMethod.Get, "/sign-in", null);
        await world.World.UntilAsync("select bool_and(xml like '%KeyFileDecryptor%' and xml not like '%<masterKey%') from data_protection_keys", 5);
    }

    [Theory]
    [InlineData("\\ud800")]
    [InlineData("\\u0000")]
    public async Task A_broken_character_is_taken_mended_in_an_event_and_refused_with_a_sentence_everywhere_else(string broken)
    {
        var number = $"BC-{Guid.NewGuid().ToString()[..6]}";
        var (taken, _, _) = await world.EventAsync(
            WorldFixture.Event(Guid.NewGuid().ToString(), number, "order.placed", $",\"customer\":{{\"name\":\"MV {broken}Corvane\"}}")
        );
        Assert.Equal(HttpStatusCode.Accepted, taken);
        var (_, batch, _) = await world.EventAsync(
            $"[{WorldFixture.Event($"{number}-{broken}", number)},{WorldFixture.Event(Guid.NewGuid().ToString(), number)}]",
            "application/cloudevents-batch+json"
        );
        Assert.Equal(2, (int)batch!["accepted"]!);

        foreach (
            var (method, path, body) in new[]
            {
                (HttpMethod.Put, "/api/rules/broken", $$"""{"name":"a {{broken}}","when":["order.placed"],"tell":[{"team":"desk"}]}"""),
                (HttpMethod.Put, "/api/wordings/broken", $$"""{"name":"a","texts":[{"audience":"staff","sms":"x {{broken}}"} ] }"""),
                (
                    HttpMethod.Post,
                    "/api/previews",
                    $$$"""{"wording":{"sms":"x {{order.customer.name}}"},"order":{"number":"A","customer":{"name":"{{{broken}}}"} } }"""
                ),
                (HttpMethod.Put, "/api/people", $$"""[{"id":"broken","name":"a {{broken}}","contacts":[]}]"""),
                (HttpMethod.Post, "/api/who", $$"""{"tell":[{"team":"{{broken}}"}]}"""),
                (HttpMethod.Post, "/api/rehearsals", $$"""{"rule":{"name":"a {{broken}}","when":["order.placed"],"tell":[{"team":"desk"}] } }"""),
                (HttpMethod.Put, "/api/gateways/broken", $$"""{"channel":"sms","name":"a {{broken}}","address":"https://sms.example/x"}"""),
            }
        )
        {
            var (status, problem, _) = await world.SendAsync(method, path, world.World.Demo.Token, body);
            Assert.True(status is HttpStatusCode.UnprocessableEntity or HttpStatusCode.BadRequest, $"{path} answers {status} {problem}");
            Assert.Contains("character", problem!.ToJsonString());
        }

        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await world.GetAsync("/api/alerts?order=%00")).Status);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await world.GetAsync("/rules/ladders?Id=a%00b")).Status);
    }
}
