using System.Net;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Sirena.Channels.Http;

namespace Sirena.Web.Tests;

/// <summary>SMS, chat, tickets and the screen over their real protocols, their receipts, and the answers that come back.</summary>
public sealed class GatewaysTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    private string Token => world.World.Demo.Token;

    private Task RuleAsync(string id, string tell, string by, string more = "") =>
        world.RuleAsync(id, $"name: {id}\nwhen: [test.{id}]\nurgency: urgent\ntell: [ {tell} ]\nby: {by}\n{more}");

    private async Task<JsonNode> DeliveriesAsync(string id, Func<JsonArray, bool> good)
    {
        await world.EventAsync(
            $$$"""{"specversion":"1.0","id":"{{{id}}}-{{{Guid.NewGuid()}}}","source":"/t","type":"test.{{{id}}}","subject":"GW-{{{id}}}","data":{"order":{"number":"GW-{{{id}}}","customer":{"name":"MV Corvane"},"extra":{"berth":"N3"} } } }"""
        );
        return (await world.UntilAsync($"/api/deliveries?order=GW-{id}", d => good(d["items"]!.AsArray())))["items"]!;
    }

    private async Task<HttpStatusCode> ReceiptAsync(string key, long at, string id, string body, string gateway = "phone")
    {
        using var http = new HttpClient();
        using var request = new HttpRequestMessage(HttpMethod.Post, $"{world.World.Url}/api/receipts/{gateway}") { Content = new StringContent(body) };
        request.Headers.Add("webhook-id", id);
        request.Headers.Add("webhook-timestamp", $"{at}");
        request.Headers.Add("webhook-signature", WebhookSignature.Sign(key, id, at, System.Text.Encoding.UTF8.GetBytes(body)));
        using var answer = await http.SendAsync(request, TestContext.Current.CancellationToken);
        return answer.StatusCode;
    }

    private static string State(JsonArray items, string channel) => (string?)items.FirstOrDefault(i => (string)i!["channel"]! == channel)?["state"] ?? "";

    [Fact]
    public async Task A_text_message_lands_by_its_signed_receipt_and_a_reply_answers_the_alert()
    {
        await RuleAsync("sms", "{ person: ines.calder }", "{ allAtOnce: [sms] }");
        var items = await DeliveriesAsync("sms", d => State(d, "sms") == "landed");
        Assert.Equal("delivered", (string)items[0]!["receipts"]![0]!["kind"]!);
        var text = world.World.StandIns.Phone.Messages.Last(m => m.To == (string)items[0]!["to"]!).Text;
        Assert.Contains("berth N3", text);
        var code = Regex.Match(text, @"OK (\d{4})").Groups[1].Value;

        Assert.Equal(204, await world.World.StandIns.Phone.ReplyAsync("+447700900999", $"OK {code}"));
        Assert.Equal("open", (string)(await world.GetAsync("/api/alerts?order=GW-sms")).Body!["items"]![0]!["state"]!);
        Assert.Equal(204, await world.World.StandIns.Phone.ReplyAsync((string)items[0]!["to"]!, $"OK {code}"));
        var alert = (await world.UntilAsync("/api/alerts?order=GW-sms", a => (string)a["items"]![0]!["state"]! == "taken"))["items"]![0]!;
        Assert.Equal("ines.calder", (string)alert["takenBy"]!);
        Assert.Equal("reply", (string)alert["answers"]![0]!["via"]!);

        var (status, body, _) = await world.SendAsync(
            HttpMethod.Post,
            $"/api/alerts/{alert["id"]}/answers",
            Token,
            """{"person":"odile.varga","answer":"taken"}"""
        );
        Assert.Equal(HttpStatusCode.Conflict, status);
        Assert.Equal("ines.calder", (string)body!["takenBy"]!);
        Assert.Equal(
            HttpStatusCode.Created,
            (await world.SendAsync(HttpMethod.Post, $"/api/alerts/{alert["id"]}/answers", Token, """{"person":"ines.calder","answer":"done"}""")).Status
        );
    }

    [Fact]
    public async Task Chat_ticket_and_screen_take_their_messages()
    {
        await RuleAsync("many", "{ person: ines.calder }, { person: tomas.reyle }", "{ allAtOnce: [chat, ticket, screen] }");
        var items = (await DeliveriesAsync("many", d => State(d, "ticket") == "landed" && State(d, "chat") == "landed")).AsArray();
        Assert.Equal("handed-over", State(items, "screen"));
        Assert.Contains(
            "GW-many",
            Assert.Single(world.World.StandIns.Printers.Tickets, t => t.Printer == "galley" && t.Text.Contains("GW-many", StringComparison.Ordinal)).Text
        );
        Assert.Contains(world.World.StandIns.Chat.Messages, m => m.To == "@ines" && m.Text.Contains("/a/", StringComparison.Ordinal));
    }

    [Fact]
    public async Task The_first_that_lands_is_enough_and_a_failure_goes_on_at_once()
    {
        await RuleAsync("first", "{ person: ines.calder }", "{ firstThatLands: [sms, mail], wait: PT1H }");
        var landed = (await DeliveriesAsync("first", d => State(d, "mail") == "skipped")).AsArray();
        Assert.Equal("landed", State(landed, "sms"));
        Assert.Equal("landed by sms already", (string)landed.First(i => (string)i!["channel"]! == "mail")!["reason"]!);

        world.World.StandIns.Faults.Add(new Demo.StandIns.Fault("phone", "+447700900103", "bounce", 0) { TimesLeft = 1 });
        await RuleAsync("onward", "{ person: odile.varga }", "{ firstThatLands: [sms, mail], wait: PT1H }");
        var gone = (await DeliveriesAsync("onward", d => State(d, "mail") == "handed-over")).AsArray();
        Assert.Equal("failed", State(gone, "sms"));
        Assert.Contains("not reachable", (string)gone.First(i => (string)i!["channel"]! == "sms")!["reason"]!);
    }

    [Fact]
    public async Task A_link_shows_the_message_changes_nothing_until_its_button_is_pressed_and_the_second_reader_is_told()
    {
        await RuleAsync("link", "{ person: ines.calder }, { person: odile.varga }", "{ allAtOnce: [mail] }");
        await DeliveriesAsync("link", d => d.Count == 2 && d.All(i => (string)i!["state"]! == "handed-over"));
        string Link(string who) =>
            Regex
                .Match(
                    world
                        .World.StandIns.Mail.Mails.Last(m =>
                            m.To.StartsWith(who, StringComparison.Ordinal) && m.Text.Contains("GW-link", StringComparison.Ordinal)
                        )
                        .Text,
                    "/a/[A-Za-z0-9_-]{22}"
                )
                .Value;
        using var http = new HttpClient(new HttpClientHandler { CookieContainer = new() }) { BaseAddress = new Uri(world.World.Url) };
        using var seen = await http.GetAsync(Link("ines.calder"));
        var page = await seen.Content.ReadAsStringAsync();
        Assert.Contains("I have it", page);
        Assert.Equal("no-referrer", seen.Headers.GetValues("Referrer-Policy").Single());
        Assert.True(seen.Headers.CacheControl!.NoStore);
        Assert.Equal("open", (string)(await world.GetAsync("/api/alerts?order=GW-link")).Body!["items"]![0]!["state"]!);

        var form = Regex.Match(page, "name=\"__RequestVerificationToken\"[^>]*value=\"([^\"]+)\"").Groups[1].Value;
        using var pressed = await http.PostAsync(
            Link("ines.calder"),
            new FormUrlEncodedContent([new("answer", "taken"), new("__RequestVerificationToken", form)])
        );
        Assert.Contains("You have it", await pressed.Content.ReadAsStringAsync());
        Assert.Contains("Ines Calder has it", await http.GetStringAsync(Link("odile.varga")));
        var items = (await world.GetAsync("/api/deliveries?order=GW-link&person=ines.calder")).Body!["items"]!;
        Assert.Equal("landed", (string)items[0]!["state"]!);
        Assert.Equal(HttpStatusCode.NotFound, (await http.GetAsync("/a/AAAAAAAAAAAAAAAAAAAAAA")).StatusCode);
    }

    [Fact]
    public async Task A_call_that_is_not_signed_or_too_old_is_refused_and_a_repeat_does_nothing()
    {
        using var http = new HttpClient { BaseAddress = new Uri(world.World.Url) };
        var now = DateTimeOffset.UtcNow.ToUnixTimeSeconds();
        var key = world.World.StandIns.Phone.Key;
        Assert.Equal(HttpStatusCode.Unauthorized, await ReceiptAsync(WebhookSignature.NewKey(), now, "x1", "{}"));
        Assert.Equal(HttpStatusCode.Unauthorized, await ReceiptAsync(key, now - 400, "x2", "{}"));
        Assert.Equal(HttpStatusCode.NotFound, await ReceiptAsync(key, now, "x3", """{"type":"delivered","id":"p-nothing"}"""));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, await ReceiptAsync(key, now, "x4", """{"type":"sung"}"""));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, await ReceiptAsync(key, now, "x4", """{"type":"sung"}"""));
        Assert.Equal(HttpStatusCode.NotFound, await ReceiptAsync(key, now, "x5", "{}", "nobody"));
        Assert.Equal(HttpStatusCode.Unauthorized, (await http.PostAsync("/api/receipts/phone", new StringContent("{}"))).StatusCode);
    }

    [Fact]
    public async Task A_receipt_that_comes_while_its_messages_outcome_is_being_stored_is_not_lost()
    {
        world.World.StandIns.Faults.Add(new Demo.StandIns.Fault("chat", "@ines", "drop", 0) { TimesLeft = 1 });
        await RuleAsync("between", "{ person: ines.calder }", "{ allAtOnce: [chat] }");
        var id = (string)(await DeliveriesAsync("between", d => State(d, "chat") == "handed-over"))[0]!["id"]!;
        await using var db = Npgsql.NpgsqlDataSource.Create(world.World.Database);
        var far = (string)(await db.CreateCommand($"select far_id from deliveries where id = '{id}'").ExecuteScalarAsync())!;

        // As it is before the outcome is stored; which happens just when the receipt has looked for its message and is being kept.
        await world.World.ExecuteAsync(
            $"""
            update deliveries set far_id = null where id = '{id}';
            update attempts set ended_at = null where delivery_id = '{id}';
            create function stored_now() returns trigger language plpgsql as $$ begin
                update deliveries set far_id = '{far}' where id = '{id}';
                update attempts set ended_at = now() where delivery_id = '{id}';
                return new;
            end $$;
            create trigger stored_now after insert on early_receipts for each row execute function stored_now();
            """
        );
        try
        {
            var body = $$"""{"type":"delivered","id":"{{far}}"}""";
            var taken = await ReceiptAsync(world.World.StandIns.Chat.Key, DateTimeOffset.UtcNow.ToUnixTimeSeconds(), "between-1", body, "chat");
            Assert.Equal(HttpStatusCode.Accepted, taken);
            var landed = await world.UntilAsync("/api/deliveries?order=GW-between", d => State(d["items"]!.AsArray(), "chat") == "landed");
            Assert.Single(landed["items"]![0]!["receipts"]!.AsArray());
        }
        finally
        {
            await world.World.ExecuteAsync("drop trigger stored_now on early_receipts; drop function stored_now()");
        }
    }

    [Fact]
    public async Task Secrets_go_in_and_never_come_out_and_mistakes_are_said_by_member()
    {
        var (status, body, _) = await world.SendAsync(
            HttpMethod.Put,
            "/api/gateways/second",
            Token,
            """{"channel":"sms","address":"https://sms.example/send","on":false,"headers":{"X-Key":"hidden-header"},"secret":"a-very-secret-key","body":"{\"t\":\"{{text}}\"}"}"""
        );
        Assert.Equal(HttpStatusCode.Created, status);
        Assert.StartsWith("whsec_", (string)body!["receiptSecret"]!);
        var all = (await world.GetAsync("/api/gateways")).Body!.ToJsonString();
        Assert.DoesNotContain("a-very-secret-key", all);
        Assert.DoesNotContain("hidden-header", all);
        Assert.DoesNotContain((string)body["receiptSecret"]!, all);
        await using (var db = Npgsql.NpgsqlDataSource.Create(world.World.Database))
        {
            Assert.DoesNotContain(
                "a-very-secret-key",
                (string)(await db.CreateCommand("select secret from gateways where id = 'second'").ExecuteScalarAsync())!
            );
        }

        await world.SendAsync(HttpMethod.Put, "/api/gateways/second", Token, """{"headers":{"X-Key":"another-header","X-More":"1"},"perMinute":60}""");
        await using (var db = Npgsql.NpgsqlDataSource.Create(world.World.Database))
        {
            var said = (string)(await db.CreateCommand("select what from audit where thing = 'gateway:second' order by id desc limit 1").ExecuteScalarAsync())!;
            Assert.EndsWith("Changed: perMinute was nothing, is “60”; header X-Key is another secret; header X-More was nothing, is a secret.", said);
        }

        var (bad, mistakes, _) = await world.SendAsync(
            HttpMethod.Put,
            "/api/gateways/bad",
            Token,
            """{"channel":"sms","address":"ftp://x","width":900,"body":"{{{text}}}","colour":1}"""
        );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, bad);
        Assert.Equal(["address", "body", "colour", "width"], mistakes!["errors"]!.AsArray().Select(e => (string)e!["path"]!).Order());

        // What would be left out in silence, or keep every message from going, is refused.
        foreach (
            var (member, value) in new[]
            {
                ("headers", """{"Bad Name":"x"}"""),
                ("headers", """{"Content-Length":"5"}"""),
                ("headers", """{"X-Key":"two\nlines"}"""),
                ("headers", "\"Authorization: x\""),
                ("on", "\"no\""),
            }
        )
        {
            var (refused, why, _) = await world.SendAsync(HttpMethod.Put, "/api/gateways/second", Token, $$"""{"{{member}}":{{value}}}""");
            Assert.Equal((HttpStatusCode.UnprocessableEntity, member), (refused, (string)why!["errors"]![0]!["path"]!));
        }

        Assert.Equal(HttpStatusCode.NoContent, (await world.SendAsync(HttpMethod.Delete, "/api/gateways/second", Token)).Status);
    }

    [Fact]
    public async Task When_a_gateway_breaks_the_next_takes_over_at_once_and_one_event_tells_of_it()
    {
        Assert.Equal(
            HttpStatusCode.Created,
            (
                await world.SendAsync(
                    HttpMethod.Put,
                    "/api/gateways/before",
                    Token,
                    $$"""{"channel":"chat","name":"The first","position":1,"address":"http://127.0.0.1:{{Demo.StandIns.StandInHost.FreePort()}}/gone"}"""
                )
            ).Status
        );
        await world.SendAsync(HttpMethod.Put, "/api/gateways/chat", Token, """{"position":2}""");
        await RuleAsync("over", "{ person: ines.calder }", "{ allAtOnce: [chat] }");
        var items = await DeliveriesAsync("over", d => State(d, "chat") == "landed");
        Assert.Equal(["gateway", "accepted"], items[0]!["attempts"]!.AsArray().Select(a => (string)a!["outcome"]!));
        await world.UntilAsync("/api/gateways", g => g["items"]!.AsArray().Any(i => (string)i!["id"]! == "before" && i["failingSince"] is not null));
        await using var db = Npgsql.NpgsqlDataSource.Create(world.World.Database);
        Assert.Equal(1L, await db.CreateCommand("select count(*) from events where type = 'gateway.failing' and subject = 'before'").ExecuteScalarAsync());
        await world.SendAsync(HttpMethod.Delete, "/api/gateways/before", Token);
    }
}
