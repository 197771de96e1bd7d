using System.Net;
using System.Text.Json.Nodes;
using Sirena.Storage.Access;

namespace Sirena.Web.Tests;

/// <summary>Instructions over the API: asked for by people, fetched and answered by an order system with its key, approved, refused.</summary>
public sealed class InstructionsApiTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    private static int number;

    private static string Next() => $"IN-{Interlocked.Increment(ref number)}-{Environment.ProcessId}";

    // A source that fetches, with a key of its own.
    private async Task<(string Id, string Key)> SourceAsync(string takes = "\"hold\", \"release\", \"cancel\", \"status\", \"tag\", \"note\"", string more = "")
    {
        var id = $"pull-{Guid.NewGuid():N}"[..20];
        var (status, body, _) = await world.SendAsync(
            HttpMethod.Put,
            $"/api/sources/{id}",
            world.World.Demo.Token,
            $$"""{ "kind": "events", "takes": [ {{takes}} ]{{more}} }"""
        );
        Assert.True(status == HttpStatusCode.Created, body?.ToJsonString());
        var key = "sk-" + Guid.NewGuid().ToString("N");
        await world.World.ExecuteAsync(
            $"insert into source_keys (id, source, hash, start, created_at) values (gen_random_uuid(), '{id}', '\\x{Convert.ToHexStringLower(Secrets.Hash(key))}', '{key[..8]}', now())"
        );
        return (id, key);
    }

    private async Task PlaceAsync(string key, string number, string more = "", string type = "order.placed")
    {
        HttpStatusCode status = default;
        JsonNode? body = null;
        for (var end = DateTime.UtcNow.AddSeconds(15); DateTime.UtcNow < end; await Task.Delay(200))
        {
            // The key is known a moment after it was made.
            (status, body, _) = await world.SendAsync(
                HttpMethod.Post,
                "/api/events",
                key,
                WorldFixture.Event(Guid.NewGuid().ToString(), number, type, more),
                "application/cloudevents+json"
            );
            if (status == HttpStatusCode.Accepted)
            {
                return;
            }
        }

        Assert.Fail($"{status} {body?.ToJsonString()}");
    }

    private Task<(HttpStatusCode Status, JsonNode? Body, HttpResponseMessage Answer)> AskAsync(string body, string? token = null) =>
        world.SendAsync(HttpMethod.Post, "/api/instructions", token ?? world.World.Demo.Token, body);

    [Fact]
    public async Task An_order_system_that_cannot_be_called_fetches_with_its_key_says_what_came_of_it_and_shows_it()
    {
        var (source, key) = await SourceAsync();
        var order = Next();
        await PlaceAsync(key, order, ", \"status\": \"received\"");

        // A poll that is held open ends as soon as there is something.
        var poll = world.SendAsync(HttpMethod.Get, "/api/instructions?state=asked", key);
        await Task.Delay(400, TestContext.Current.CancellationToken);
        Assert.False(poll.IsCompleted);
        var (status, asked, _) = await AskAsync(
            $$"""{ "order": "{{order}}", "kind": "status", "status": "picking", "tell": { "customer": false, "staff": true }, "because": "the berth is free" }"""
        );
        Assert.True(status == HttpStatusCode.Created, asked?.ToJsonString());
        Assert.Equal(
            ("picking", "asked", "Maren Holt", source),
            ((string)asked!["with"]!["to"]!, (string)asked["state"]!, (string)asked["by"]!, (string)asked["source"]!)
        );
        var fetched = Assert.Single((await poll).Body!["items"]!.AsArray())!;
        Assert.Equal((string)asked["id"]!, (string)fetched["id"]!);

        // It is given again until there is a result; another source's key knows nothing of it.
        Assert.Single((await world.SendAsync(HttpMethod.Get, "/api/instructions?state=asked&wait=0", key)).Body!["items"]!.AsArray());
        var (_, otherKey) = await SourceAsync();
        await PlaceAsync(otherKey, Next());
        Assert.Empty((await world.SendAsync(HttpMethod.Get, "/api/instructions?state=asked&wait=0", otherKey)).Body!["items"]!.AsArray());
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await world.SendAsync(HttpMethod.Post, $"/api/instructions/{asked["id"]}/result", otherKey, """{ "state": "seen" }""")).Status
        );
        Assert.Equal(HttpStatusCode.Unauthorized, (await world.SendAsync(HttpMethod.Get, "/api/instructions?state=asked", "sk-nonsense")).Status);

        var (taken, now, _) = await world.SendAsync(
            HttpMethod.Post,
            $"/api/instructions/{asked["id"]}/result",
            key,
            """{ "state": "taken", "words": "slip 12" }"""
        );
        Assert.Equal((HttpStatusCode.OK, "taken", "slip 12"), (taken, (string)now!["state"]!, (string)now["words"]!));
        Assert.Empty((await world.SendAsync(HttpMethod.Get, "/api/instructions?state=asked&wait=0", key)).Body!["items"]!.AsArray());
        await PlaceAsync(key, order, ", \"status\": \"picking\"", "order.status-changed");
        var seen = await world.UntilAsync($"/api/instructions?order={order}", l => (string)l["items"]![0]!["state"]! == "seen");
        Assert.NotNull(seen["items"]![0]!["seenAt"]);
        var trail = (await world.GetAsync($"/api/orders/{order}/trail")).Body!;
        Assert.Equal((string)asked["id"]!, (string)trail["events"]!.AsArray().Single(e => (string)e!["type"]! == "order.status-changed")!["causedBy"]!);
        Assert.Single(trail["instructions"]!.AsArray());
        Assert.Equal(
            HttpStatusCode.Conflict,
            (await world.SendAsync(HttpMethod.Post, $"/api/instructions/{asked["id"]}/result", key, """{ "state": "refused" }""")).Status
        );
    }

    [Theory]
    [InlineData("""{ "kind": "hold" }""", 422, "order")]
    [InlineData("""{ "order": "$", "kind": "hodl" }""", 422, "kind")]
    [InlineData("""{ "order": "$" }""", 422, "kind")]
    [InlineData("""{ "order": "$", "kind": "hold", "reason": 5 }""", 422, "reason")]
    [InlineData("""{ "order": "$", "kind": "hold", "raeson": "x" }""", 422, "raeson")]
    [InlineData("""{ "order": "$", "kind": "status", "to": "nowhere" }""", 422, "to")]
    [InlineData("""{ "order": "$", "kind": "status" }""", 422, "to")]
    [InlineData("""{ "order": "$", "kind": "hold", "tell": "nobody" }""", 422, "tell")]
    [InlineData("""{ "order": "$", "kind": "capture" }""", 422, "does not take")]
    [InlineData("""{ "order": "$", "kind": "release" }""", 409, "not held")]
    [InlineData("""{ "order": "$", "kind": "hold", "source": "ledger" }""", 422, "not one of the source")]
    [InlineData("""{ "order": "NO-SUCH-1", "kind": "hold" }""", 404, "NO-SUCH-1")]
    [InlineData("[]", 422, "kind")]
    [InlineData("{", 422, "")]
    public async Task What_cannot_be_asked_is_refused_with_the_place_and_the_way_out(string body, int status, string says)
    {
        var (_, key) = await SourceAsync();
        var order = Next();
        await PlaceAsync(key, order);
        var (answer, problem, _) = await AskAsync(body.Replace("$", order, StringComparison.Ordinal));
        Assert.Equal(status, (int)answer);
        Assert.Contains(says, problem!.ToJsonString());
        Assert.Empty((await world.GetAsync($"/api/instructions?order={order}")).Body!["items"]!.AsArray());
    }

    [Fact]
    public async Task Staff_may_ask_for_what_can_be_undone_readers_for_nothing_and_a_second_yes_is_another_persons()
    {
        var (_, key) = await SourceAsync();
        var order = Next();
        await PlaceAsync(key, order);
        var (staff, reader) = (await TokenAsync("ines.calder"), await TokenAsync("clara.bonnet"));
        Assert.Equal(HttpStatusCode.Forbidden, (await AskAsync($$"""{ "order": "{{order}}", "kind": "cancel" }""", staff)).Status);
        Assert.Equal(HttpStatusCode.Forbidden, (await AskAsync($$"""{ "order": "{{order}}", "kind": "hold" }""", reader)).Status);
        var (status, rights, _) = await world.SendAsync(
            HttpMethod.Put,
            "/api/instructions/rights",
            world.World.Demo.Token,
            """[ { "kind": "cancel", "roles": ["supervisor"], "teams": ["account-managers"], "secondYes": true } ]"""
        );
        Assert.True(status == HttpStatusCode.OK, rights?.ToJsonString());
        try
        {
            var asked = (await AskAsync($$"""{ "order": "{{order}}", "kind": "cancel", "reason": "sailed" }""", staff)).Body!;
            Assert.Equal(("asked", "second-yes"), ((string)asked["state"]!, (string)asked["waits"]!));
            Assert.Empty((await world.SendAsync(HttpMethod.Get, "/api/instructions?state=asked&wait=0", key)).Body!["items"]!.AsArray());
            Assert.Equal(HttpStatusCode.Forbidden, (await world.SendAsync(HttpMethod.Post, $"/api/instructions/{asked["id"]}/approve", staff, "{}")).Status);
            Assert.Equal(HttpStatusCode.Forbidden, (await world.SendAsync(HttpMethod.Post, $"/api/instructions/{asked["id"]}/approve", reader, "{}")).Status);

            // Those who may say it are told without a rule.
            await world.UntilAsync($"/api/alerts?order={order}", l =>
                l["items"]!
                    .AsArray()
                    .Any(a => (string)a!["rule"]! == "sirena.instruction" && a["deliveries"]!.AsArray().Any(d => (string?)d!["person"] == "maren.holt"))
            );
            Assert.Equal(
                HttpStatusCode.OK,
                (await world.SendAsync(HttpMethod.Post, $"/api/instructions/{asked["id"]}/approve", world.World.Demo.Token, "{}")).Status
            );
            Assert.Single((await world.SendAsync(HttpMethod.Get, "/api/instructions?state=asked&wait=0", key)).Body!["items"]!.AsArray());
            Assert.Equal(
                HttpStatusCode.Conflict,
                (await world.SendAsync(HttpMethod.Post, $"/api/instructions/{asked["id"]}/drop", world.World.Demo.Token, "{}")).Status
            );
        }
        finally
        {
            await world.SendAsync(HttpMethod.Put, "/api/instructions/rights", world.World.Demo.Token, "[]");
        }
    }

    [Fact]
    public async Task A_kind_of_ones_own_has_its_members_and_what_shows_it()
    {
        var (_, key) = await SourceAsync(
            """{ "name": "wrap", "button": "Wrap it", "members": ["paper"], "shows": { "field": "order.extra.wrapped", "is": "equal", "value": "blue" } }"""
        );
        var order = Next();
        await PlaceAsync(key, order);
        var (status, asked, _) = await AskAsync($$"""{ "order": "{{order}}", "kind": "wrap", "paper": "blue" }""");
        Assert.True(status == HttpStatusCode.Created, asked?.ToJsonString());
        await world.SendAsync(HttpMethod.Get, "/api/instructions?state=asked&wait=0", key);
        await world.SendAsync(HttpMethod.Post, $"/api/instructions/{asked!["id"]}/result", key, """{ "state": "taken" }""");
        await PlaceAsync(key, order, ", \"extra\": { \"wrapped\": \"blue\" }", "order.changed");
        await world.UntilAsync($"/api/instructions?order={order}", l => (string)l["items"]![0]!["state"]! == "seen");
    }

    [Fact]
    public async Task The_intake_is_closed_by_hand_seen_from_the_source_and_opened_when_its_time_is_over()
    {
        var (source, key) = await SourceAsync("\"intake\"");
        await PlaceAsync(key, Next());
        var until = DateTime.UtcNow.AddSeconds(4).ToString("yyyy-MM-dd'T'HH:mm:ss'Z'", System.Globalization.CultureInfo.InvariantCulture);
        var (status, asked, _) = await AskAsync(
            $$"""{ "source": "{{source}}", "kind": "intake", "state": "closed", "until": "{{until}}", "reason": "storm" }"""
        );
        Assert.True(status == HttpStatusCode.Created, asked?.ToJsonString());
        async Task SayAsync(string type) =>
            await world.SendAsync(
                HttpMethod.Post,
                "/api/events",
                key,
                $$"""{"specversion":"1.0","id":"{{Guid.NewGuid()}}","source":"/desk","type":"{{type}}","subject":"{{source}}","data":{} }""",
                "application/cloudevents+json"
            );
        Assert.Single((await world.SendAsync(HttpMethod.Get, "/api/instructions?state=asked", key)).Body!["items"]!.AsArray());
        await world.SendAsync(HttpMethod.Post, $"/api/instructions/{asked!["id"]}/result", key, """{ "state": "taken" }""");
        await SayAsync("intake.closed");
        var closed = await world.UntilAsync($"/api/sources/{source}", s => (string)s["intakeNow"]!["state"]! == "closed");
        Assert.Equal(("storm", until), ((string)closed["intakeNow"]!["reason"]!, (string)closed["intakeNow"]!["until"]!));
        var open = Assert.Single((await world.SendAsync(HttpMethod.Get, "/api/instructions?state=asked", key)).Body!["items"]!.AsArray())!;
        Assert.Equal(("open", "its time is over"), ((string)open["with"]!["state"]!, (string)open["because"]!));
        await world.SendAsync(HttpMethod.Post, $"/api/instructions/{open["id"]}/result", key, """{ "state": "taken" }""");
        await SayAsync("intake.opened");
        await world.UntilAsync($"/api/sources/{source}", s => (string)s["intakeNow"]!["state"]! == "open");
    }

    [Fact]
    public async Task A_message_that_landed_leaves_its_mark_and_a_rehearsal_counts_what_would_have_been_asked()
    {
        var (_, key) = await SourceAsync();
        var order = Next();
        var rule = $$"""
            { "id": "mark-{{order.ToLowerInvariant()}}", "name": "Mark {{order}}", "when": ["order.placed"], "onlyIf": { "field": "order.number", "is": "equal", "value": "{{order}}" },
              "tell": [ { "person": "ines.calder" } ], "by": { "allAtOnce": ["mail"] }, "do": [ { "tag": { "add": ["told"] } } ], "onLanded": [ { "note": "the message to Ines has landed" } ] }
            """;
        var (status, body, _) = await world.SendAsync(HttpMethod.Post, "/api/rules", world.World.Demo.Token, rule);
        Assert.True(status == HttpStatusCode.Created, body?.ToJsonString());
        Assert.Contains("when a message has landed, write the note", (string)body!["sentence"]!);
        await PlaceAsync(key, order);
        await world.World.UntilAsync($"select count(*) = 1 from deliveries where order_number = '{order}' and state in ('handed-over', 'landed')", 30);
        await world.World.ExecuteAsync($"update deliveries set state = 'landed', landed_at = now() where order_number = '{order}' and state = 'handed-over'");
        await world.UntilAsync(
            $"/api/instructions?order={order}",
            l => l["items"]!.AsArray().Any(i => (string)i!["kind"]! == "note") && l["items"]!.AsArray().Any(i => (string)i!["kind"]! == "tag"),
            20
        );
        var (refused, mistake, _) = await world.SendAsync(
            HttpMethod.Post,
            "/api/rules",
            world.World.Demo.Token,
            rule.Replace("{ \"note\": \"the message to Ines has landed\" }", "\"cancel\"", StringComparison.Ordinal)
        );
        Assert.Equal((422, true), ((int)refused, mistake!.ToJsonString().Contains("onLanded[0]", StringComparison.Ordinal)));
        var (_, rehearsed, _) = await world.SendAsync(HttpMethod.Post, "/api/rehearsals", world.World.Demo.Token, $$"""{ "rule": {{rule}} }""");
        var counted = Assert.Single(rehearsed!["instructions"]!.AsArray())!;
        Assert.Equal(("tag", 1, order), ((string)counted["kind"]!, (int)counted["count"]!, (string)counted["orders"]![0]!));
    }

    private async Task<string> TokenAsync(string person)
    {
        var token = "pt-" + Guid.NewGuid().ToString("N");
        await world.World.ExecuteAsync(
            $"insert into api_tokens (id, user_id, name, hash, created_at) select gen_random_uuid(), id, 'test', '\\x{Convert.ToHexStringLower(Secrets.Hash(token))}', now() from users where person = '{person}'"
        );
        return token;
    }
}
