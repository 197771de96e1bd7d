using System.Net;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using OpenQA.Selenium;
using Sirena.Engine.Dispatch;
using Sirena.Engine.Schedules;

namespace Sirena.Web.Tests;

/// <summary>
/// A supervisor's way through channels: tests shown as they go, senders, a gateway that breaks, echoes, budgets, push, and the ledger with what it gives out.
/// </summary>
public sealed class ChannelsTests(WorldFixture world) : BrowserTests(world)
{
    private string Token => World.World.Demo.Token;

    private T Service<T>()
        where T : notnull => World.World.Nodes[0].Services.GetRequiredService<T>();

    private async Task GatewayAsync(string id, string json) =>
        Assert.True((await World.SendAsync(HttpMethod.Put, $"/api/gateways/{id}", Token, json)).Status is HttpStatusCode.Created or HttpStatusCode.OK);

    private async Task<JsonNode> SendAsync(string id, string tell, string by, Func<JsonArray, bool> good, int seconds = 15)
    {
        Assert.True(
            (
                await World.SendAsync(
                    HttpMethod.Put,
                    $"/api/rules/{id}",
                    Token,
                    $"name: {id}\nwhen: [test.{id}]\nurgency: urgent\ntell: [ {tell} ]\nby: {by}",
                    "application/yaml"
                )
            ).Status
                is HttpStatusCode.Created
                    or HttpStatusCode.OK
        );
        var number = $"CH-{id}-{Guid.NewGuid().ToString()[..6]}";
        await World.EventAsync(
            WorldFixture.Event(Guid.NewGuid().ToString(), number, $"test.{id}", ",\"customer\":{\"name\":\"MV Corvane\",\"email\":\"purser@corvane.example\"}")
        );
        return (await World.UntilAsync($"/api/deliveries?order={number}", d => d["items"]!.AsArray().Count > 0 && good(d["items"]!.AsArray()), seconds))[
            "items"
        ]!;
    }

    [Fact]
    public void A_test_is_shown_as_it_goes_and_hears_of_its_receipt()
    {
        Go("/channels?id=phone");
        Type("#to", "+447700900555");
        Choose("form[action*='handler=Test'] .btn-primary");
        Until(() => TextOf(By.Id("test")).Contains("The message arrived.", StringComparison.Ordinal), "The test ends with its receipt");
        Assert.Equal(5, Browser.FindElements(By.CssSelector("#test .stations .ok")).Count);
        Assert.Single(World.World.StandIns.Phone.Messages, m => m.To == "+447700900555");
        World.World.StandIns.Faults.Add(new Demo.StandIns.Fault("phone", "*", "down", 0) { TimesLeft = 1 });
        Choose("form[action*='handler=Test'] .btn-primary");
        Until(() => TextOf(By.Id("test")).Contains("The gateway does not know us.", StringComparison.Ordinal), "A refused account has its own advice");
        NoSeriousFault();
    }

    [Fact]
    public async Task A_sender_is_verified_by_its_code_and_then_used_for_customers()
    {
        Go("/channels/senders?id=0");
        Browser.FindElement(By.Id("sname")).SendKeys("Averil Quay orders");
        Browser.FindElement(By.Id("saddress")).SendKeys("not an address");
        Choose("form[action*='handler=Save'] .btn-primary");
        Until(() => Browser.FindElements(By.CssSelector(".said.bad")).Count > 0, "The bad address is named");
        Type("#saddress", "orders@averilquay.example");
        Choose("form[action*='handler=Save'] .btn-primary");
        Says("It is used once its code has come back");
        await SendAsync("before", "{ role: customer }", "{ allAtOnce: [mail] }", d => d.All(i => (string)i!["state"]! == "handed-over"));
        Assert.DoesNotContain(World.World.StandIns.Mail.Mails, m =>
            m.To == "purser@corvane.example" && m.Raw.Contains("From: Averil Quay orders", StringComparison.Ordinal)
        );

        Choose("button[formaction*='handler=Code']");
        Says("A code is on its way");
        var code = Regex.Match(World.World.StandIns.Mail.Mails.Last(m => m.To == "orders@averilquay.example").Text, @"\d{6}").Value;
        Browser.FindElement(By.Id("code")).SendKeys("000000");
        Choose("form[action*='handler=Verify'] .btn-primary");
        Says("That is not the code");
        Browser.FindElement(By.Id("code")).SendKeys(code);
        Choose("form[action*='handler=Verify'] .btn-primary");
        Says("Verified: mail comes from it");
        await SendAsync("after", "{ role: customer }", "{ allAtOnce: [mail] }", d => d.All(i => (string)i!["state"]! == "handed-over"));
        var mail = World.World.StandIns.Mail.Mails.Last(m => m.To == "purser@corvane.example");
        Assert.Contains("From: Averil Quay orders <orders@averilquay.example>", mail.Raw);

        Go("/channels/senders");
        Until(
            () =>
                Main.Contains("What averilquay.example publishes", StringComparison.Ordinal)
                && Main.Contains("make sure that 127.0.0.1 is among them", StringComparison.Ordinal),
            "Without a choice the page shows the domain that is used"
        );
        Assert.Matches(@"Customers\s+Averil Quay orders", Main);
        NoSeriousFault();
        Browser.FindElement(By.LinkText("Averil Quay orders")).Click();
        Choose("a[href*='records=true']");
        Says("make sure that 127.0.0.1 is among them");
        Says("could be better");
        NoSeriousFault();

        // The customer ends it by the link in the mail's header; opening it alone changes nothing.
        var link = Regex
            .Match(mail.Raw.Replace("\r\n ", "", StringComparison.Ordinal).Replace("\r\n\t", "", StringComparison.Ordinal), @"List-Unsubscribe: ?<([^>]+)>")
            .Groups[1]
            .Value;
        using var http = new HttpClient();
        Assert.Contains("End mail about orders?", await http.GetStringAsync(link));
        await SendAsync("still", "{ role: customer }", "{ allAtOnce: [mail] }", d => d.All(i => (string)i!["state"]! == "handed-over"));
        Assert.True((await http.PostAsync(link, new FormUrlEncodedContent([new("List-Unsubscribe", "One-Click")]))).IsSuccessStatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await http.GetAsync(link[..^1] + (link[^1] == '0' ? '1' : '0'))).StatusCode);
        var number = "CH-ended";
        await World.EventAsync(
            WorldFixture.Event(Guid.NewGuid().ToString(), number, "test.still", ",\"customer\":{\"name\":\"MV Corvane\",\"email\":\"purser@corvane.example\"}")
        );
        var alert = (await World.UntilAsync($"/api/alerts?order={number}", a => a["items"]!.AsArray().Any(i => (string?)i!["rule"] == "still")))["items"]!
            .AsArray()
            .Single(i => (string?)i!["rule"] == "still")!;
        Assert.Contains("wants nothing more by mail", alert["steps"]![0]!["left"]!.ToJsonString());
    }

    [Fact]
    public async Task A_mail_gateway_that_breaks_is_taken_over_by_the_second_told_once_and_told_again_when_it_is_back()
    {
        await GatewayAsync("mail-1", $$"""{"channel":"mail","name":"First mail","address":"127.0.0.1:{{World.World.StandIns.SmtpPort}}","position":1}""");
        await GatewayAsync("mail-2", $$"""{"channel":"mail","name":"Second mail","address":"127.0.0.1:{{World.World.StandIns.RelayPort}}","position":2}""");
        try
        {
            World.World.StandIns.Faults.Add(new Demo.StandIns.Fault("mail", "*", "down", 0));
            var items = await SendAsync("broken", "{ person: ines.calder }", "{ allAtOnce: [mail] }", d => (string)d[0]!["state"]! == "handed-over");
            Assert.Equal(["First mail gateway", "Second mail accepted"], items[0]!["attempts"]!.AsArray().Select(a => $"{a!["gateway"]} {a["outcome"]}"));
            Go("/channels");
            Says("1 of ");
            Says("does not work");
            await SendAsync("broken", "{ person: ines.calder }", "{ allAtOnce: [mail] }", d => (string)d[0]!["state"]! == "handed-over");
            await using var source = Npgsql.NpgsqlDataSource.Create(World.World.Database);
            async Task<long> EventsAsync(string type) =>
                (long)(await source.CreateCommand($"select count(*) from events where type = '{type}' and subject = 'mail-1'").ExecuteScalarAsync())!;
            await World.World.UntilAsync("select count(*) = 1 from events where type = 'gateway.failing' and subject = 'mail-1'", 10);
            World.World.StandIns.Faults.Clear();
            for (var end = DateTime.UtcNow.AddMinutes(3); DateTime.UtcNow < end && await EventsAsync("gateway.restored") == 0;)
            {
                await SendAsync("broken", "{ person: ines.calder }", "{ allAtOnce: [mail] }", d => (string)d[0]!["state"]! == "handed-over");
                await Task.Delay(500);
            }

            Assert.Equal((1, 1), (await EventsAsync("gateway.failing"), await EventsAsync("gateway.restored")));
        }
        finally
        {
            World.World.StandIns.Faults.Clear();
            await World.SendAsync(HttpMethod.Delete, "/api/gateways/mail-1", Token);
            await World.SendAsync(HttpMethod.Delete, "/api/gateways/mail-2", Token);
        }
    }

    [Fact]
    public async Task A_budget_warns_at_four_fifths_and_then_the_gateway_takes_no_more()
    {
        await GatewayAsync(
            "dear",
            $$$$"""{"channel":"sms","name":"Dear phone","position":1,"address":"{{{{World.World.StandIns.Url}}}}/phone/messages","body":"{\"id\":\"{{id}}\",\"to\":\"{{to}}\",\"text\":\"{{text}}\"}","segmentCost":1,"monthlyBudget":5,"perMinute":600}"""
        );
        await GatewayAsync("phone", """{"position":2}""");
        try
        {
            for (var i = 0; i < 5; i++)
            {
                await SendAsync("dear", "{ person: ines.calder }", "{ allAtOnce: [sms] }", d => (string)d[0]!["state"]! is "handed-over" or "landed");
                await World.World.UntilAsync($"select coalesce(sum(segments), 0) > {i} from gateway_spend where gateway = 'dear'", 10);
            }

            await World.World.UntilAsync("select count(*) = 1 from events where type = 'gateway.budget-low' and subject = 'dear'", 10);
            var items = await SendAsync("dear", "{ person: ines.calder }", "{ allAtOnce: [sms] }", d => (string)d[0]!["state"]! == "landed");
            Assert.DoesNotContain(items[0]!["attempts"]!.AsArray(), a => (string)a!["gateway"]! == "Dear phone" && (string)a["outcome"]! == "accepted");
            Go("/channels?id=dear");
            Says("of 5.00 EUR");
        }
        finally
        {
            await World.SendAsync(HttpMethod.Delete, "/api/gateways/dear", Token);
            await GatewayAsync("phone", """{"position":1}""");
        }
    }

    [Fact]
    public async Task An_echo_comes_back_and_one_that_does_not_is_told_once()
    {
        await GatewayAsync("phone", """{"echoMinutes":60,"echoTo":"+447700900998"}""");
        await Service<Echo>().SendAsync(TestContext.Current.CancellationToken);
        await World.World.UntilAsync("select echo_back_at >= echo_sent_at from gateways where id = 'phone'", 10);
        Assert.Contains("looks whether", World.World.StandIns.Phone.Messages.Last(m => m.To == "+447700900998").Text);
        World.World.StandIns.Faults.Add(new Demo.StandIns.Fault("phone", "+447700900998", "drop", 0));
        await World.World.ExecuteAsync(
            "update gateways set echo_sent_at = now() - interval '10 minutes', echo_back_at = now() - interval '70 minutes' where id = 'phone'"
        );
        for (var i = 0; i < 2; i++)
        {
            Service<Engine.Signals>().Wake(Engine.Topic.Setup);
            await Service<Echo>().SendAsync(TestContext.Current.CancellationToken);
        }

        await World.World.UntilAsync("select count(*) = 1 from events where type = 'gateway.failing' and subject = 'phone'", 10);
        Go("/channels");
        Says("echo missing since");
        World.World.StandIns.Faults.Clear();

        // While one is missed the next does not wait its hour, and that it came back is told once too.
        await World.World.ExecuteAsync("update gateways set echo_sent_at = now() - interval '6 minutes' where id = 'phone'");
        Service<Engine.Signals>().Wake(Engine.Topic.Setup);
        await Service<Echo>().SendAsync(TestContext.Current.CancellationToken);
        await World.World.UntilAsync("select echo_back_at >= echo_sent_at from gateways where id = 'phone'", 10);
        Service<Engine.Signals>().Wake(Engine.Topic.Setup);
        await Service<Echo>().SendAsync(TestContext.Current.CancellationToken);
        await World.World.UntilAsync("select count(*) = 1 from events where type = 'gateway.restored' and subject = 'phone'", 10);
        await World.World.UntilAsync("select echo_missed_since is null from gateways where id = 'phone'", 10);

        // One that is turned on again is proved at once.
        await GatewayAsync("phone", """{"on":false}""");
        await GatewayAsync("phone", """{"on":true}""");
        await World.World.UntilAsync("select echo_sent_at is null from gateways where id = 'phone'", 10);
        await GatewayAsync("phone", """{"echoMinutes":null}""");
    }

    [Fact]
    public async Task A_push_message_is_encrypted_for_the_browser_and_lands_by_its_worker_s_call()
    {
        var items = await SendAsync("push", "{ person: ines.calder }", "{ allAtOnce: [push] }", d => (string)d[0]!["state"]! == "landed");
        Assert.Equal("the browser showed it", (string)items[0]!["receipts"]![0]!["text"]!);
        var shown = World.World.StandIns.Browsers.Shown.Last(p => p.Person == "ines.calder");
        Assert.Contains((string)items[0]!["order"]!, shown.Title);
        Assert.Contains("/a/", shown.Url);
        World.World.StandIns.Faults.Add(new Demo.StandIns.Fault("push", "maren.holt", "refuse", 0) { TimesLeft = 1 });
        var gone = await SendAsync("push-gone", "{ person: maren.holt }", "{ allAtOnce: [push] }", d => (string)d[0]!["state"]! == "failed");
        Assert.Contains("has ended its subscription", (string)gone[0]!["reason"]!);
        var (status, body, _) = await World.SendAsync(
            HttpMethod.Post,
            "/api/push/subscriptions",
            Token,
            """{"endpoint":"https://push.example/x","keys":{"p256dh":"short","auth":"short"}}"""
        );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains("base64url", body!.ToJsonString());
    }

    [Fact]
    public async Task The_service_worker_shows_a_message_and_says_so()
    {
        var items = await SendAsync("worker", "{ person: ines.calder }", "{ allAtOnce: [screen] }", d => (string)d[0]!["state"]! == "handed-over");
        var id = Guid.Parse((string)items[0]!["id"]!);
        var key = Service<Gateways>().LinkKey((await Service<Engine.SurroundingsCache>().GetAsync(TestContext.Current.CancellationToken)).Business)!;
        Go("/mine");
        Browser.ExecuteCdpCommand("Browser.grantPermissions", new() { ["permissions"] = new[] { "notifications" }, ["origin"] = World.Url });
        Until(
            () =>
                Browser.ExecuteAsyncScript(
                    "const done = arguments[0]; navigator.serviceWorker.register('/worker.js').then(r => navigator.serviceWorker.ready).then(r => done(!!r.active), () => done(false))"
                )
                    is true,
            "The worker is registered"
        );
        var data = new JsonObject
        {
            ["title"] = "CH worker",
            ["text"] = "Reads well",
            ["seen"] = $"{World.Url}/push/seen/{Channels.LinkMac.For("push " + id, key)}",
        }.ToJsonString();
        Browser.ExecuteCdpCommand("ServiceWorker.enable", []);
        for (var registration = 0; registration < 4; registration++)
        {
            Browser.ExecuteCdpCommand(
                "ServiceWorker.deliverPushMessage",
                new()
                {
                    ["origin"] = World.Url,
                    ["registrationId"] = $"{registration}",
                    ["data"] = data,
                }
            );
        }

        await World.World.UntilAsync($"select state = 'landed' from deliveries where id = '{id}'", 10);
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await World.SendAsync(HttpMethod.Post, $"/push/seen/{Channels.LinkMac.For("push " + id, new byte[32])}", null)).Status
        );
    }

    [Fact]
    public async Task My_alerts_sounds_for_a_new_one_when_asked_to_and_fills_a_wall()
    {
        try
        {
            SignIn(1);
            Go("/mine");
            Choose("[data-sound]");
            Assert.Equal("Turn off", TextOf(By.CssSelector("[data-sound]")));
            var before = Convert.ToInt32(
                Browser.ExecuteScript("return Number(document.body.dataset.sounded)"),
                System.Globalization.CultureInfo.InvariantCulture
            );
            var items = await SendAsync("sound", "{ person: ines.calder }", "{ allAtOnce: [screen] }", d => d.Count == 1);
            var number = (string)items[0]!["order"]!;
            Until(() => TextOf(By.Id("mine-list")).Contains(number, StringComparison.Ordinal), "The new alert is drawn");
            Until(
                () =>
                    Convert.ToInt32(Browser.ExecuteScript("return Number(document.body.dataset.sounded)"), System.Globalization.CultureInfo.InvariantCulture)
                    > before,
                "It sounds"
            );
            await World.UntilAsync($"/api/deliveries?order={number}", d => (string)d["items"]![0]!["state"]! == "landed");
            Go("/mine?wall=true");
            Assert.Contains(number, TextOf(By.CssSelector(".wall")));
            Assert.False(Browser.FindElement(By.CssSelector("header.top")).Displayed);
        }
        finally
        {
            Browser.ExecuteScript("localStorage.clear()");
        }
    }
}
