using System.Net;

namespace Sirena.Web.Tests;

public sealed class RehearsalsApiTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    [Fact]
    public async Task A_draft_is_rehearsed_beside_the_version_in_force_and_tells_nobody()
    {
        var before = world.World.StandIns.Mail.Mails.Count(m => m.To.StartsWith("odile", StringComparison.Ordinal));
        var (status, body, _) = await world.SendAsync(
            HttpMethod.Post,
            "/api/rehearsals",
            world.World.Demo.Token,
            """{ "rule": { "id": "placed-close-to-sailing", "name": "Placed close to sailing", "when": ["order.placed"], "tell": [ { "person": "odile.varga" } ] } }"""
        );
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.True((int)body!["events"]! > 50);
        Assert.True((int)body["alerts"]! > (int)body["inForce"]!);
        Assert.NotEmpty(body["gained"]!.AsArray());
        Assert.Empty(body["lost"]!.AsArray());
        Assert.Equal("odile.varga", (string)body["byPerson"]![0]!["person"]!);
        Assert.Equal((int)body["alerts"]!, body["byDay"]!.AsArray().Sum(d => (int)d!["draft"]!));
        Assert.Equal(before, world.World.StandIns.Mail.Mails.Count(m => m.To.StartsWith("odile", StringComparison.Ordinal)));
    }

    [Fact]
    public async Task A_draft_with_a_mistake_is_refused_at_its_place()
    {
        var (status, body, _) = await world.SendAsync(
            HttpMethod.Post,
            "/api/rehearsals",
            world.World.Demo.Token,
            """{ "rule": { "name": "x", "when": ["order.placed"] }, "from": "yesterday" }"""
        );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Equal(["rule.tell", "from"], body!["errors"]!.AsArray().Select(e => (string)e!["path"]!));
        Assert.Equal(HttpStatusCode.NotFound, (await world.SendAsync(HttpMethod.Delete, $"/api/rehearsals/{Guid.NewGuid()}", world.World.Demo.Token)).Status);
    }

    [Fact]
    public async Task The_schema_of_rules_is_open_and_names_every_member()
    {
        var (status, body, _) = await world.SendAsync(HttpMethod.Get, "/schemas/rule.json", null);
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Contains("duty", body!["$defs"]!["recipient"]!["properties"]!.AsObject().Select(p => p.Key));
        foreach (var rule in (await world.GetAsync("/api/rules")).Body!["items"]!.AsArray())
        {
            Assert.All(rule!.AsObject(), m => Assert.Contains(m.Key, body["properties"]!.AsObject().Select(p => p.Key)));
        }
    }
}
