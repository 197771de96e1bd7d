using System.Net;
using System.Text.Json.Nodes;

namespace Sirena.Web.Tests;

/// <summary>People, rotas and who would be told, as programs ask for them.</summary>
public sealed class PeopleApiTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    private Task<(HttpStatusCode Status, JsonNode? Body, HttpResponseMessage Answer)> PutAsync(string path, string body, string type = "application/yaml") =>
        world.SendAsync(HttpMethod.Put, path, world.World.Demo.Token, body, type);

    private async Task<(string[] Told, JsonArray Left)> WhoAsync(string question)
    {
        var (status, body, answer) = await world.SendAsync(HttpMethod.Post, "/api/who", world.World.Demo.Token, question);
        Assert.True(status == HttpStatusCode.OK, await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken));
        return ([.. body!["told"]!.AsArray().Select(t => (string?)t!["person"] ?? (string)t["address"]!)], body["left"]!.AsArray());
    }

    [Fact]
    public async Task People_are_merged_by_id_and_what_is_given_back_can_be_put_again()
    {
        var (status, body, _) = await PutAsync(
            "/api/people",
            "- { id: zoe.winter, name: Zoe Winter, teams: [night-watch], contacts: [ { channel: mail, address: 'zoe@a.example zoe@b.example', verified: true } ] }"
        );
        Assert.Equal((HttpStatusCode.OK, "zoe.winter"), (status, (string)body!["made"]![0]!));
        Assert.Contains((await world.GetAsync("/api/teams")).Body!["items"]!.AsArray(), t =>
            (string)t!["id"]! == "night-watch" && (string)t["name"]! == "night-watch"
        );
        var all = (await world.GetAsync("/api/people")).Body!;
        Assert.Contains(all["items"]!.AsArray(), p => (string)p!["id"]! == "ines.calder");
        var again = await PutAsync("/api/people", all["items"]!.ToJsonString(), "application/json");
        Assert.Equal(HttpStatusCode.OK, again.Status);
        Assert.Equal(all.ToJsonString(), (await world.GetAsync("/api/people")).Body!.ToJsonString());
        foreach (var (format, type) in new[] { ("yaml", "application/yaml"), ("csv", "text/csv"), ("vcf", "text/vcard") })
        {
            var text = await (await world.GetAsync($"/api/people?format={format}")).Answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken);
            Assert.Equal(HttpStatusCode.OK, (await PutAsync("/api/people", text, type)).Status);
            Assert.Equal(all.ToJsonString(), (await world.GetAsync("/api/people")).Body!.ToJsonString());
        }
    }

    [Fact]
    public async Task Mistakes_refuse_all_or_only_themselves()
    {
        const string yaml =
            "- { id: good.one, name: Good }\n- { id: bad.one, manages: [nowhere] }\n- { id: bad.two, away: [ { from: 2026-12-01, to: 2026-12-02, cover: nobody.there } ] }\n";
        var (status, body, _) = await PutAsync("/api/people", yaml);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Equal(2, body!["errors"]!.AsArray().Count);
        Assert.Equal((2, "There is no site 'nowhere'."), ((int)body["errors"]![0]!["line"]!, (string)body["errors"]![0]!["problem"]!));
        Assert.DoesNotContain((await world.GetAsync("/api/people")).Body!["items"]!.AsArray(), p => (string)p!["id"]! == "good.one");
        (status, body, _) = await PutAsync("/api/people?take=good", yaml);
        Assert.Equal((HttpStatusCode.OK, 1), (status, (int)body!["taken"]!));
        var circle = await PutAsync(
            "/api/people",
            "- { id: c.one, away: [ { from: 2026-12-01, to: 2026-12-05, cover: c.two } ] }\n- { id: c.two, away: [ { from: 2026-12-03, to: 2026-12-09, cover: c.one } ] }"
        );
        Assert.Contains("circle", (string)circle.Body!["detail"]!);
        Assert.Equal(HttpStatusCode.UnsupportedMediaType, (await PutAsync("/api/people", "x", "text/plain")).Status);
    }

    [Fact]
    public async Task A_rota_is_put_given_back_and_decides_who_is_told()
    {
        await PutAsync(
            "/api/people",
            "- { id: ria.marsh, name: Ria Marsh, teams: [pilots], contacts: [ { channel: mail, address: ria@a.example, verified: true } ] }\n- { id: sol.brook, name: Sol Brook, teams: [pilots], contacts: [ { channel: mail, address: sol@a.example } ], away: [ { from: '2027-03-02', to: '2027-03-02', cover: ria.marsh } ] }"
        );
        const string calendar =
            "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//elsewhere//EN\r\nBEGIN:VEVENT\r\nUID:p1\r\nDTSTAMP:20270101T000000Z\r\nDTSTART;TZID=Europe/Lisbon:20270301T080000\r\nDURATION:PT8H\r\nRRULE:FREQ=DAILY;COUNT=5\r\nEXDATE;TZID=Europe/Lisbon:20270303T080000\r\nATTENDEE:mailto:sol@a.example\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n";
        Assert.Equal((HttpStatusCode.OK, 1), ((await PutAsync("/api/teams/pilots/rota", calendar, "text/calendar")).Status, 1));
        var back = await (await world.GetAsync("/api/teams/pilots/rota")).Answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken);
        Assert.Contains("EXDATE;TZID=Europe/Lisbon:20270303T080000", back);
        Assert.Equal(HttpStatusCode.OK, (await PutAsync("/api/teams/pilots/rota", back, "text/calendar")).Status);
        Assert.Equal(back, await (await world.GetAsync("/api/teams/pilots/rota")).Answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken));

        string At(string at) => $$"""{ "tell": [ { "duty": "pilots" } ], "at": "{{at}}" }""";
        Assert.Equal(["sol.brook"], (await WhoAsync(At("2027-03-01T10:00:00Z"))).Told);
        Assert.Equal(["ria.marsh"], (await WhoAsync(At("2027-03-02T10:00:00Z"))).Told);
        var dark = await WhoAsync(At("2027-03-03T10:00:00Z"));
        Assert.Empty(dark.Told);
        Assert.Contains(dark.Left, l => (string)l!["person"]! == "pilots" && (bool)l["nobody"]!);
        Assert.Empty((await WhoAsync(At("2027-03-01T16:00:00Z"))).Told);

        var wrong = await PutAsync("/api/teams/pilots/rota", calendar.Replace("sol@a.example", "who@a.example", StringComparison.Ordinal), "text/calendar");
        Assert.Equal((HttpStatusCode.UnprocessableEntity, 11), (wrong.Status, (int)wrong.Body!["errors"]![0]!["line"]!));
        Assert.Equal(HttpStatusCode.NotFound, (await PutAsync("/api/teams/none/rota", calendar, "text/calendar")).Status);
    }

    [Fact]
    public async Task A_question_names_its_mistakes_and_an_order_can_be_given_by_number_or_whole()
    {
        await world.EventAsync(WorldFixture.Event("who-1", "AQ-90100", more: ",\"salesperson\":\"odile.varga\""));
        Assert.Equal(
            ["odile.varga"],
            (await WhoAsync("""{ "tell": [ { "role": "salesperson" } ], "order": "AQ-90100", "at": "2026-06-03T10:00:00Z" }""")).Told
        );
        Assert.Equal(
            ["purser@corvane.example"],
            (await WhoAsync("""{ "tell": [ { "role": "customer" } ], "order": { "number": "X", "customer": { "email": "purser@corvane.example" } } }""")).Told
        );
        Assert.Equal("there is no such person", (string)(await WhoAsync("""{ "tell": [ { "person": "nobody.there" } ] }""")).Left[0]!["because"]!);
        foreach (
            var (question, problem) in new[]
            {
                ("""{ "at": "noon" }""", "'tell' is missing"),
                ("""{ "tell": [], "order": "AQ-none" }""", "No event has told of the order 'AQ-none'."),
                ("""{ "tell": [], "urgency": "loud" }""", "'loud' is none of"),
                ("""{ "tell": [ { "who": 1 } ] }""", "has no member 'who'"),
                ("{", "not JSON"),
            }
        )
        {
            var (status, body, _) = await world.SendAsync(HttpMethod.Post, "/api/who", world.World.Demo.Token, question);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
            Assert.Contains(body!["errors"]!.AsArray(), e => ((string)e!["problem"]!).Contains(problem, StringComparison.Ordinal));
        }
    }

    [Fact]
    public async Task A_salesperson_without_an_address_stands_on_the_order_and_an_address_mends_the_next_alert()
    {
        string Held(string id, string number) => WorldFixture.Event(id, number, more: ",\"salesperson\":\"ansel.roe\",\"hold\":{\"reason\":\"credit limit\"}");
        await world.EventAsync(Held("sp-1", "AQ-90201"));
        var trail = await world.UntilAsync("/api/orders/AQ-90201/trail", t =>
            t["alerts"]!.AsArray().Count > 0 && t["events"]!.AsArray().Any(e => (string)e!["type"]! == "recipient.unreachable" && e["decidedAt"] is not null)
        );
        var alert = trail["alerts"]!.AsArray().First(a => (string)a!["rule"]! == "held-for-credit")!;
        Assert.Contains(alert["steps"]![0]!["left"]!.AsArray(), l =>
            (string)l!["person"]! == "ansel.roe" && (string)l["because"]! == "no mail address" && (bool)l["nobody"]!
        );

        var ansel = (await world.GetAsync("/api/people")).Body!["items"]!.AsArray().First(p => (string)p!["id"]! == "ansel.roe")!.DeepClone();
        ansel["contacts"] = new JsonArray(new JsonObject { ["channel"] = "mail", ["address"] = "ansel.roe@averilquay.example" });
        Assert.Equal(HttpStatusCode.OK, (await PutAsync("/api/people", new JsonArray(ansel).ToJsonString(), "application/json")).Status);
        await world.EventAsync(Held("sp-2", "AQ-90202"));
        trail = await world.UntilAsync("/api/orders/AQ-90202/trail", t =>
            t["alerts"]!.AsArray().Any(a => a!["deliveries"]!.AsArray().Any(d => (string?)d!["person"] == "ansel.roe"))
        );
        Assert.DoesNotContain(trail["alerts"]![0]!["steps"]![0]!["left"]!.AsArray(), l => (string)l!["person"]! == "ansel.roe");
    }

    [Fact]
    public async Task A_calendar_feed_opens_with_its_key_only_and_names_no_address()
    {
        Assert.Equal(HttpStatusCode.NotFound, (await world.SendAsync(HttpMethod.Get, "/rota/kitchen.ics", null)).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await world.SendAsync(HttpMethod.Get, "/rota/kitchen.ics?key=ck-wrong", null)).Status);
        var feed = await (await world.GetAsync("/rota/kitchen.ics")).Answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken);
        Assert.Contains("SUMMARY:Tomas Reyle", feed);
        Assert.DoesNotContain("@averilquay", feed);
        Assert.Contains(
            "On duty: Kitchen",
            await (await world.GetAsync("/rota/people/tomas.reyle.ics")).Answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken)
        );
    }
}
