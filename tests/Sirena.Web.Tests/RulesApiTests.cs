using System.Net;

namespace Sirena.Web.Tests;

public sealed class RulesApiTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    private Task<(HttpStatusCode Status, System.Text.Json.Nodes.JsonNode? Body, HttpResponseMessage Answer)> SaveAsync(
        HttpMethod method,
        string path,
        string yaml,
        string type = "application/yaml",
        string? token = null
    ) => world.SendAsync(method, path, token ?? world.World.Demo.Token, yaml, type);

    [Fact]
    public async Task A_rule_is_made_replaced_read_and_archived()
    {
        var made = await SaveAsync(HttpMethod.Post, "/api/rules", "name: Large orders\nwhen: [order.placed]\ntell: [ { team: kitchen } ]");
        Assert.Equal((HttpStatusCode.Created, "/api/rules/large-orders"), (made.Status, made.Answer.Headers.Location!.OriginalString));
        Assert.Equal("When an order is placed, tell everyone in Kitchen by mail.", made.Body!["sentence"]!.GetValue<string>());
        Assert.Equal(
            HttpStatusCode.Conflict,
            (await SaveAsync(HttpMethod.Post, "/api/rules", "id: large-orders\nname: x\nwhen: [order.placed]\ntell: []")).Status
        );
        var put = await SaveAsync(
            HttpMethod.Put,
            "/api/rules/large-orders",
            """{"name":"Large orders","when":["order.placed"],"tell":[{"team":"desk"}]}""",
            "application/json"
        );
        Assert.Equal((HttpStatusCode.OK, 2), (put.Status, put.Body!["version"]!.GetValue<int>()));
        var read = (await world.GetAsync("/api/rules/large-orders")).Body!;
        Assert.Equal("""[{"team":"desk"}]""", read["tell"]!.ToJsonString());
        Assert.Equal(HttpStatusCode.OK, (await SaveAsync(HttpMethod.Put, "/api/rules/large-orders", read.ToJsonString(), "application/json")).Status);
        Assert.Equal(HttpStatusCode.NoContent, (await world.SendAsync(HttpMethod.Delete, "/api/rules/large-orders", world.World.Demo.Token)).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await world.GetAsync("/api/rules/large-orders")).Status);
        Assert.Equal(HttpStatusCode.Conflict, (await SaveAsync(HttpMethod.Put, "/api/rules/large-orders", "name: x\nwhen: [order.placed]\ntell: []")).Status);
        Assert.Equal(HttpStatusCode.Created, (await SaveAsync(HttpMethod.Put, "/api/rules/put-new", "name: x\nwhen: [order.placed]\ntell: []")).Status);
    }

    [Fact]
    public async Task Mistakes_are_422_with_path_line_column_and_a_sentence()
    {
        var (status, body, _) = await SaveAsync(
            HttpMethod.Post,
            "/api/rules",
            "name: x\nwhen: [order.held]\ntell: [ { person: nobody.here } ]\nonlyIf: { field: order.total, is: atleast, value: 5 }"
        );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        var errors = body!["errors"]!.AsArray();
        Assert.Equal(["onlyIf.is", "tell[0].person"], errors.Select(e => e!["path"]!.GetValue<string>()).Order());
        Assert.All(errors, e => Assert.True(e!["line"]!.GetValue<int>() > 2 && e["column"]!.GetValue<int>() > 1));
    }

    [Fact]
    public async Task Only_supervisors_change_and_staff_do_not_see_the_rules()
    {
        Assert.Equal(HttpStatusCode.Unauthorized, (await world.SendAsync(HttpMethod.Get, "/api/rules", null)).Status);
        Assert.Equal(HttpStatusCode.Unauthorized, (await world.SendAsync(HttpMethod.Get, "/api/rules", "pt-wrong")).Status);
        foreach (var (person, see) in new[] { ("clara.bonnet", HttpStatusCode.OK), ("tomas.reyle", HttpStatusCode.Forbidden) })
        {
            await world.World.ExecuteAsync(
                $"insert into api_tokens (id, user_id, name, hash, created_at) select gen_random_uuid(), id, 'test', sha256('pt-{person}'), now() from users where person = '{person}'"
            );
            Assert.Equal(see, (await world.SendAsync(HttpMethod.Get, "/api/rules", $"pt-{person}")).Status);
            Assert.Equal(
                HttpStatusCode.Forbidden,
                (await SaveAsync(HttpMethod.Post, "/api/rules", "name: x\nwhen: [order.held]\ntell: []", token: $"pt-{person}")).Status
            );
        }
    }

    [Fact]
    public async Task The_trail_shows_every_rule_s_conditions_the_alert_and_its_delivery()
    {
        await SaveAsync(
            HttpMethod.Post,
            "/api/rules",
            "name: Trail test\nwhen: [test.trail]\nonlyIf: { field: order.total, is: at-least, value: 500 }\ntell: [ { person: ines.calder } ]"
        );
        await world.EventAsync(WorldFixture.Event("t1", "W-T1", "test.trail", ",\"total\":600"));
        await world.EventAsync(WorldFixture.Event("t2", "W-T2", "test.trail", ",\"total\":400"));
        var trail = await world.UntilAsync("/api/orders/W-T1/trail", t =>
            t["alerts"]!.AsArray().FirstOrDefault()?["deliveries"]?[0]?["state"]?.GetValue<string>() == "handed-over"
        );
        var rule = trail["events"]![0]!["rules"]![0]!;
        Assert.Equal(
            """[{"field":"order.total","is":"at-least","wanted":500,"found":600,"holds":true,"problem":null,"case":null}]""",
            rule["conditions"]!.ToJsonString()
        );
        Assert.Equal("you are named in it", trail["alerts"]![0]!["steps"]![0]!["told"]![0]!["because"]!.GetValue<string>());
        Assert.Equal(
            ("accepted", "250"),
            (
                trail["alerts"]![0]!["deliveries"]![0]!["attempts"]![0]!["outcome"]!.GetValue<string>(),
                trail["alerts"]![0]!["deliveries"]![0]!["attempts"]![0]!["code"]!.GetValue<string>()
            )
        );
        Assert.Equal("not-matched", (await world.GetAsync("/api/events/t2/trail")).Body!["events"]![0]!["rules"]![0]!["outcome"]!.GetValue<string>());
    }

    [Fact]
    public async Task Lists_are_paged_newest_first_without_gap_or_repeat()
    {
        var ids = new List<string>();
        var path = "/api/deliveries?limit=7";
        for (var page = 0; page < 4; page++)
        {
            var (_, body, answer) = await world.GetAsync(path);
            ids.AddRange(body!["items"]!.AsArray().Select(i => i!["id"]!.GetValue<string>()));
            path = answer.Headers.GetValues("Link").Single().Split('<', '>')[1];
        }

        Assert.Equal(28, ids.Distinct().Count());

        // What came while the pages were turned stands before them.
        var whole = (await world.GetAsync("/api/deliveries?limit=90")).Body!["items"]!.AsArray().Select(i => i!["id"]!.GetValue<string>());
        Assert.Equal(ids, whole.SkipWhile(id => id != ids[0]).Take(28));
        Assert.Equal(HttpStatusCode.BadRequest, (await world.GetAsync("/api/deliveries?state=lost")).Status);
        Assert.All((await world.GetAsync("/api/alerts?state=done,lapsed&limit=5")).Body!["items"]!.AsArray(), a =>
            Assert.Contains(a!["state"]!.GetValue<string>(), new[] { "done", "lapsed" })
        );
    }
}
