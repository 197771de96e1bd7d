using System.Net;
using System.Text.Json.Nodes;

namespace Sirena.Web.Tests;

/// <summary>Wordings and previews over HTTP.</summary>
public sealed class WordingsApiTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    private const string Order =
        """{"number":"PV-1","status":"alongside","currency":"EUR","total":1284.5,"dueAt":"2026-11-24T15:30:00Z","customer":{"name":"MV <Corvane>","phone":"+447700900123","language":"pt"},"hold":{"reason":"credit limit"},"risk":{"level":"high"},"extra":{"vessel":"MV Corvane","berth":"N3"},"lines":[{"sku":"A","title":"Fish pie","quantity":4,"shipped":0,"unitPrice":38.0}]}""";

    private async Task<(HttpStatusCode Status, JsonNode Body)> PreviewAsync(
        string wording,
        string more = "\"audience\":\"staff\",\"language\":\"en\"",
        string? order = null
    )
    {
        var (status, body, _) = await world.SendAsync(
            HttpMethod.Post,
            "/api/previews",
            world.World.Demo.Token,
            $"{{\"wording\":{wording},\"order\":{order ?? Order},\"event\":\"order.held\",{more}}}"
        );
        return (status, body!);
    }

    [Fact]
    public async Task A_preview_gives_every_channel_its_finished_text_and_every_field_its_value()
    {
        var (status, body) = await PreviewAsync(
            """{"mail":{"subject":"{{order.number}} held","text":"Due {{order.dueAt.time}}, {{order.total}}","html":"<p>{{order.customer.name}}</p>{{order.lines.table}}"},"sms":"{{order.number}}: {{order.hold.reason}}, {{order.dueAt}}","ticket":"{{order.lines.table}}"}"""
        );
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Equal("PV-1 held", (string)body["mail"]!["subject"]!);
        Assert.StartsWith("Due 15:30, 1,284.50 EUR", (string)body["mail"]!["text"]!);
        Assert.Contains("<p>MV &lt;Corvane&gt;</p><table", (string)body["mail"]!["html"]!);
        Assert.Equal(
            ("PV-1: credit limit, Tue 24 Nov, 15:30", "gsm-7", 1, 37),
            ((string)body["sms"]!["text"]!, (string)body["sms"]!["encoding"]!, (int)body["sms"]!["segments"]!, (int)body["sms"]!["septets"]!)
        );
        Assert.Equal("4 x Fish pie", ((string)body["ticket"]!["text"]!).Trim());
        Assert.Contains(body["fields"]!.AsArray(), f => (string)f!["field"]! == "order.total" && (string)f["value"]! == "1,284.50 EUR");
    }

    [Fact]
    public async Task Facts_stand_where_a_text_says_in_each_channel_s_way_and_come_back_as_they_were_saved()
    {
        const string facts =
            """ "facts":[{"label":"Due","value":"order.dueAt.time","labelled":true},{"label":"Gate","value":"order.extra.gate"},{"label":"Berth","value":"order.extra.berth"}]""";
        const string texts = """ "mail":{"subject":"{{order.number}}","text":"Look.\n\n{{facts}}"},"sms":"{{order.number}} {{facts}}" """;
        var (status, body) = await PreviewAsync($"{{{texts},{facts}}}");
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.StartsWith("Look.\r\n\r\nDue: 15:30\r\nBerth: N3\r\n", (string)body["mail"]!["text"]!);
        Assert.Contains(">Berth</th>", (string)body["mail"]!["html"]!);
        Assert.Equal("PV-1 Due: 15:30, N3", (string)body["sms"]!["text"]!);
        Assert.Contains(body["fields"]!.AsArray(), f => (string)f!["field"]! == "order.extra.gate" && (bool)f["missing"]!);

        await world.SendAsync(
            HttpMethod.Put,
            "/api/wordings/with-facts",
            world.World.Demo.Token,
            $"{{\"name\":\"With facts\",\"texts\":[{{\"audience\":\"staff\",{texts},{facts}}}]}}"
        );
        var (_, kept, _) = await world.SendAsync(HttpMethod.Get, "/api/wordings/with-facts", world.World.Demo.Token);
        Assert.Equal(JsonNode.Parse($"{{{facts}}}")!["facts"]!.ToJsonString(), kept!["texts"]![0]!["facts"]!.ToJsonString());
        await world.SendAsync(HttpMethod.Delete, "/api/wordings/with-facts", world.World.Demo.Token);
    }

    [Fact]
    public async Task Of_a_list_that_names_a_wording_twice_the_last_stands()
    {
        static string One(string name) => $$$"""{"id":"named-twice","name":"{{{name}}}","texts":[{"audience":"staff","sms":"{{order.number}}"}]}""";
        var (status, body, _) = await world.SendAsync(HttpMethod.Put, "/api/wordings", world.World.Demo.Token, $"[{One("First")},{One("Last")}]");
        Assert.Equal((HttpStatusCode.OK, 2), (status, (int)body!["saved"]!));
        Assert.Equal("Last", (string)(await world.GetAsync("/api/wordings/named-twice")).Body!["name"]!);
        await world.SendAsync(HttpMethod.Delete, "/api/wordings/named-twice", world.World.Demo.Token);
    }

    [Fact]
    public async Task A_curly_quote_forces_the_costly_encoding()
    {
        var (_, body) = await PreviewAsync($$"""{"sms":"{{new string('x', 80)}}’"}""");
        Assert.Equal(("ucs-2", 2, 81), ((string)body["sms"]!["encoding"]!, (int)body["sms"]!["segments"]!, (int)body["sms"]!["units"]!));
        Assert.Equal("’", (string)body["sms"]!["costly"]![0]!);
    }

    [Fact]
    public async Task A_customer_reads_their_language_and_a_status_in_the_customer_s_words()
    {
        var (status, body) = await PreviewAsync("\"order-held\"", "\"audience\":\"customer\"");
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Equal("pt", (string)body["language"]!);
        Assert.Contains("Estado: At your berth", (string)body["mail"]!["text"]!);
        Assert.Contains("1.284,50 EUR", (string)body["mail"]!["text"]!);
        Assert.DoesNotContain("credit limit", body.ToJsonString());
    }

    [Theory]
    [InlineData("""{"sms":"{{order.numbr}}"}""", "staff", "wording.sms", "no field 'order.numbr'")]
    [InlineData("""{"sms":"{{order.hold.reason}}"}""", "customer", "wording.sms", "is internal")]
    [InlineData("""{"mail":{"html":"{{{order.number}}}"}}""", "staff", "wording.mail.html", "unescaped")]
    [InlineData("""{"mail":{"text":"{{> other}}"}}""", "staff", "wording.mail.text", "another text")]
    [InlineData("""{"mail":{"html":"<script>x</script>"}}""", "staff", "wording.mail.html", "runs a program")]
    [InlineData("""{"sms":"{{#order.lines}}x"}""", "staff", "wording.sms", "not closed")]
    [InlineData("""{"smss":"x"}""", "staff", "wording.smss", "no member 'smss'")]
    [InlineData("\"no-such\"", "staff", "wording", "no wording 'no-such'")]
    [InlineData("{}", "staff", "wording", "no text")]
    [InlineData("""{"sms":"{{facts}}","facts":[{"label":"Risk","value":"order.risk.level"}]}""", "customer", "wording.facts[0].value", "is internal")]
    [InlineData(
        """{"sms":"{{facts}}","facts":[{"label":"Due","value":"order.dueAt"},{"label":"Due","value":"order.dew"}]}""",
        "staff",
        "wording.facts[1].value",
        "no field 'order.dew'"
    )]
    [InlineData("""{"sms":"{{facts}}","facts":[{"value":"order.dueAt"}]}""", "staff", "wording.facts[0].label", "label")]
    [InlineData(
        """{"sms":"{{facts}}","facts":[{"label":"Due","value":"order.dueAt","labelled":"yes"}]}""",
        "staff",
        "wording.facts[0].labelled",
        "true or false"
    )]
    [InlineData("""{"sms":"{{facts}}","facts":{"Due":"order.dueAt"}}""", "staff", "wording.facts", "list")]
    public async Task What_cannot_be_shown_is_422_with_its_place(string wording, string audience, string path, string words)
    {
        var (status, body) = await PreviewAsync(wording, $"\"audience\":\"{audience}\"");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains(body["errors"]!.AsArray(), e => (string)e!["path"]! == path && ((string)e["problem"]!).Contains(words, StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_preview_stands_on_a_stored_order_or_says_that_there_is_none()
    {
        var number = (await world.GetAsync("/api/deliveries")).Body!["items"]!.AsArray().Select(i => (string?)i!["order"]).First(o => o is not null)!;
        var (status, body) = await PreviewAsync("""{"sms":"{{order.number}}"}""", order: $"\"{number}\"");
        Assert.Equal((HttpStatusCode.OK, number), (status, (string)body["sms"]!["text"]!));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await PreviewAsync("""{"sms":"x"}""", order: "\"XX-404\"")).Status);
    }

    [Fact]
    public async Task A_wording_is_saved_used_for_the_next_message_and_set_back()
    {
        var token = world.World.Demo.Token;
        var yaml =
            "name: Stock low\ntexts:\n  - audience: staff\n    mail:\n      subject: \"Buy {{stock.title}} at once\"\n      text: \"{{stock.onHand}} left of {{stock.sku}}.\"\n";
        Assert.Equal(HttpStatusCode.OK, (await world.SendAsync(HttpMethod.Put, "/api/wordings/stock-low", token, yaml, "application/yaml")).Status);
        Assert.Equal(
            HttpStatusCode.Created,
            (
                await world.SendAsync(
                    HttpMethod.Put,
                    "/api/rules/low",
                    token,
                    "name: Low\nwhen: [stock.low]\ntell: [ { person: ines.calder } ]\nby: { allAtOnce: [mail] }",
                    "application/yaml"
                )
            ).Status
        );
        await world.EventAsync(
            $$"""{"specversion":"1.0","id":"{{Guid.NewGuid()}}","source":"/web-test","type":"stock.low","subject":"GAL-1","data":{"stock":{"sku":"GAL-1","title":"Fish pie","onHand":3} } }"""
        );
        for (var i = 0; i < 100 && !world.World.StandIns.Mail.Mails.Any(m => m.Subject == "Buy Fish pie at once"); i++)
        {
            await Task.Delay(100, TestContext.Current.CancellationToken);
        }

        Assert.Contains("3 left of GAL-1.", world.World.StandIns.Mail.Mails.Single(m => m.Subject == "Buy Fish pie at once").Text);
        Assert.Equal(HttpStatusCode.NoContent, (await world.SendAsync(HttpMethod.Delete, "/api/wordings/stock-low", token)).Status);
        Assert.Contains("{{event.name}}", (await world.GetAsync("/api/wordings/stock-low")).Body!.ToJsonString());
        Assert.Equal(
            HttpStatusCode.UnprocessableEntity,
            (
                await world.SendAsync(
                    HttpMethod.Put,
                    "/api/wordings/mine",
                    token,
                    "name: Mine\ntexts:\n  - audience: customer\n    sms: \"{{order.risk.level}}\"",
                    "application/yaml"
                )
            ).Status
        );
        Assert.Equal(HttpStatusCode.NotFound, (await world.SendAsync(HttpMethod.Delete, "/api/wordings/mine", token)).Status);
    }

    [Fact]
    public async Task Wordings_need_the_right_to_change_them()
    {
        Assert.Equal(HttpStatusCode.Unauthorized, (await world.SendAsync(HttpMethod.Post, "/api/previews", null, "{}")).Status);
        Assert.True((await world.GetAsync("/api/wordings")).Body!["items"]!.AsArray().Count > 20);
    }
}
