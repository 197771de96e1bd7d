using OpenQA.Selenium;

namespace Sirena.Web.Tests;

public sealed class PagesTests(WorldFixture world) : BrowserTests(world)
{
    [Fact]
    public async Task From_a_new_rule_to_the_trail_of_its_alert()
    {
        GoToNewRule();
        Browser.FindElement(By.Name("name")).SendKeys("Costly holds");
        Choose("select[name=when] option[value='order.held']");
        Press("button[value='add:c']", "c-0-v0");
        Browser.FindElement(By.Id("c-0-v0")).SendKeys("5,000");
        Press("#k0-t0 option[value='person:ines.calder']", "k0-t0");
        Press("button[value=save].btn-primary", "c-0-v0");
        Says("Saved as version 1, in force for the next event that comes in.");
        Says("When an order is held and the total is at least 5,000.00 EUR, tell Ines Calder by mail.");

        await World.EventAsync(
            WorldFixture.Event("page-1", "AQ-90001", more: ",\"total\":6200,\"hold\":{\"reason\":\"something new\"},\"customer\":{\"name\":\"MV Corvane\"}")
        );
        await World.UntilAsync("/api/deliveries?order=AQ-90001", d => d["items"]!.AsArray().Any(i => i!["state"]!.GetValue<string>() == "handed-over"));
        Browser.FindElement(By.Id("jump")).SendKeys("aq-90001" + Keys.Enter);
        Until(() => Main.Contains("Held in", StringComparison.Ordinal) || Main.Contains("AQ-90001", StringComparison.Ordinal), "The order did not open");
        Says("mail server accepted, 250");
        Browser.FindElement(By.CssSelector(".trail a[data-node='rule-costly-holds']")).SendKeys(Keys.Enter);
        Until(() => TextOf(By.Id("node")).Contains("here 6,200.00", StringComparison.Ordinal), "The rule's details did not open");
        Browser.FindElement(By.CssSelector(".trail a[data-node^='delivery-']")).SendKeys(Keys.Enter);
        Until(() => TextOf(By.Id("node")).Contains("2.0.0 Taken as", StringComparison.Ordinal), "The delivery's details did not open");
    }

    [Fact]
    public void The_list_is_searched_filtered_and_looked_at_with_the_keyboard_alone()
    {
        Go("/orders");
        var rows = Browser.FindElements(By.CssSelector("tr[data-open]")).Count;
        Assert.True(rows > 3, "The demo has open orders.");
        Browser.FindElement(By.CssSelector("a[data-look]")).SendKeys(Keys.Enter);
        Until(() => TextOf(By.CssSelector("tr.opn")).Contains("Who was told", StringComparison.Ordinal), "The quick look did not open");
        Browser.FindElement(By.Name("q")).SendKeys("no such vessel" + Keys.Enter);
        Until(() => Main.Contains("No order fits these filters.", StringComparison.Ordinal), "The search did not empty the list");
        Browser.FindElement(By.TagName("body")).SendKeys("/");
        Assert.Equal("jump", Browser.SwitchTo().ActiveElement().GetAttribute("id"));
    }

    [Fact]
    public void What_is_typed_to_find_an_order_stays_under_the_fingers_while_the_list_changes()
    {
        Go("/orders");
        var berth = Browser.FindElement(By.CssSelector("#orders tbody td:nth-child(2) .muted")).Text;
        var field = Browser.FindElement(By.Name("q"));
        field.SendKeys("berth");
        Until(() => Browser.Url.Contains("q=berth", StringComparison.Ordinal), "The list was not asked");

        // It is the same field, it has the focus, and what is typed on while the answer comes is not lost.
        field.SendKeys(" " + berth);
        Until(() => Browser.Url.EndsWith($"q=berth+{berth}", StringComparison.Ordinal), "The rest was not asked");
        Assert.Equal($"berth {berth}", field.GetAttribute("value"));
        Assert.Equal("q", Browser.SwitchTo().ActiveElement().GetAttribute("name"));
        Until(
            () => TextsOf("#orders tbody td:nth-child(2) .muted") is { Length: > 0 } places && places.All(p => p == berth),
            $"Only orders of berth {berth} are listed"
        );
        NoSeriousFault();
    }

    [Fact]
    public void The_guide_opens_at_the_right_place_and_each_of_its_pages_holds_together()
    {
        Go("/rules");
        Choose("a.help");
        Until(() => Browser.Url.EndsWith("/guide/rules", StringComparison.Ordinal), "The guide opens at the rules");
        foreach (var (name, _) in Pages.Guide.IndexModel.Titles)
        {
            Go("/guide/" + name);
            Until(() => Browser.FindElements(By.CssSelector(".gd-t h1")).Count == 1, $"{name} has a heading");
            Until(
                () => (bool)Browser.ExecuteScript("return [...document.querySelectorAll('.gd-t img')].every(i => i.complete && i.naturalWidth > 600)")!,
                $"The pictures of {name} are there"
            );
            var broken = (string)
                Browser.ExecuteAsyncScript(
                    "const done = arguments[0]; Promise.all([...document.querySelectorAll('.gd a')].map(a => fetch(a.href).then(r => r.ok ? '' : a.href))).then(all => done(all.join('')))"
                )!;
            Assert.Equal("", broken);
        }

        NoSeriousFault();
        Go("/guide/no-such-page");
        Until(() => TextOf(By.TagName("h1")).Length > 0 && Without(".gd-t"), "A page that is not there is said so");
    }

    [Fact]
    public void A_rule_with_a_mistake_says_so_beside_the_field_and_keeps_what_was_typed()
    {
        GoToNewRule();
        Browser.FindElement(By.Name("name")).SendKeys("Mistaken");
        Press("button[value='add:c']", "c-0-v0");
        Press("button[value='group:c']", "c-1-0-v0");
        Browser.FindElement(By.Id("c-1-0-v0")).SendKeys("much");
        Press("button[value=save].btn-primary", "c-1-0-v0");
        Assert.Contains("'much' is not an amount such as 500", TextOf(By.CssSelector(".grp .grp .invalid-feedback")));
        Assert.Equal("much", ValueOf("c-1-0-v0"));
        Assert.Equal("Mistaken", Browser.FindElement(By.Name("name")).GetAttribute("value"));
    }

    [Fact]
    public void A_rule_is_turned_off_and_on_from_the_list()
    {
        Go("/rules?q=stock");
        Browser.FindElement(By.CssSelector("button.sluice")).Click();
        Says("'Stock below zero' is off from the next event on.");
        Browser.FindElement(By.CssSelector("button.sluice")).Click();
        Says("is on from the next event on.");
    }

    [Fact]
    public async Task A_mail_that_waits_is_seen_with_the_server_s_words_and_sent_when_the_fault_is_lifted()
    {
        await World.SendAsync(
            HttpMethod.Put,
            "/api/rules/waits",
            World.World.Demo.Token,
            "name: Waits\nwhen: [test.waits]\ntell: [ { address: \"waits@a.example\", outside: true } ]",
            "application/yaml"
        );
        World.World.StandIns.Faults.Add(new Demo.StandIns.Fault("mail", "waits@*", "defer", 0));
        await World.EventAsync(WorldFixture.Event("waits-1", "AQ-90002", "test.waits"));
        Until(
            () =>
            {
                Go("/proof?state=waiting&find=waits");
                return Main.Contains("not now: 4.7.1 Greylisted, come back later", StringComparison.Ordinal);
            },
            "The waiting delivery is not shown"
        );
        Until(
            () =>
            {
                // The list follows the news: a key that is pressed while it is drawn anew is pressed again, and not while its answer comes, for which the
                // driver waits five seconds each time it looks.
                if (Without("tr.opn"))
                {
                    Browser.FindElement(By.CssSelector("a[data-look]")).SendKeys(Keys.Enter);
                    _ = Browser.FindElements(By.CssSelector("tr.opn")).Count;
                }

                return TextOf(By.CssSelector("tr.opn")).Contains("Next try", StringComparison.Ordinal);
            },
            "The details did not open"
        );
        World.World.StandIns.Faults.Clear();
        Choose("tr.opn .btn-primary");
        await World.UntilAsync("/api/deliveries?order=AQ-90002", d => d["items"]![0]!["state"]!.GetValue<string>() == "handed-over");
        Go(Browser.Url[World.Url.Length..]);
        Says("2.0.0 Taken as");
        Assert.Contains("You get this because this address is named in it", Browser.FindElement(By.CssSelector("textarea[readonly]")).GetAttribute("value"));
    }

    [Fact]
    public void Somebody_is_invited_by_mail_sets_a_password_and_sees_what_staff_may_see()
    {
        Go("/settings/users");
        Browser.FindElement(By.Id("Name")).SendKeys("Bram Osei");
        Browser.FindElement(By.Id("Email")).SendKeys("bram.osei@averilquay.example");
        Browser.FindElement(By.CssSelector("form.pad .btn-primary")).Click();
        Says("An invitation is on its way to bram.osei@averilquay.example");
        var mail = World.World.StandIns.Mail.Mails.Last(m => m.To == "bram.osei@averilquay.example");
        var link = mail.Text.Split('\n').First(l => l.Contains("/password?", StringComparison.Ordinal)).Trim();
        Browser.Manage().Cookies.DeleteAllCookies();
        Open(link);
        Browser.FindElement(By.Id("Password")).SendKeys("a long password");
        Browser.FindElement(By.CssSelector("form .btn-primary")).Click();
        Until(() => Main.Contains("open", StringComparison.Ordinal), "The new user is not signed in");
        Assert.DoesNotContain("Rules", TextOf(By.CssSelector("nav.nav")));
        Go("/rules");
        Says("Your role does not allow this");
    }

    [Fact]
    public void A_source_key_is_shown_once_and_works_until_it_is_revoked()
    {
        Go("/sources?id=new&edit=true");
        Browser.FindElement(By.Id("sname")).SendKeys("Second till");
        Browser.FindElement(By.CssSelector("#kind option[value=events]")).Click();
        Choose("form.ef .btn-primary");
        Until(() => TextOf(By.Id("secret")).Length > 0, "The key is shown");
        var key = TextOf(By.Id("secret"));
        Assert.StartsWith("sk-", key);
        var sent = World.SendAsync(HttpMethod.Post, "/api/events", key, WorldFixture.Event("till-1", "AQ-90003"), "application/cloudevents+json").Result;
        Assert.Equal(System.Net.HttpStatusCode.Accepted, sent.Status);
        Go("/sources?id=second-till");
        Assert.DoesNotContain(key, Browser.PageSource);
    }

    [Fact]
    public void A_draft_is_rehearsed_before_it_is_saved()
    {
        Go("/rules/placed-close-to-sailing");
        var value = Browser.FindElement(By.CssSelector(".ed input.v"));
        value.Clear();
        value.SendKeys("1 s");
        Browser.FindElement(By.CssSelector("button[value=rehearse]")).Click();
        Until(() => TextOf(By.Id("rehearsal")).Contains("This draft 0", StringComparison.Ordinal), "The draft is rehearsed");
        Assert.Contains("would lose theirs", TextOf(By.Id("rehearsal")));
        Says("A draft of version 2, kept since");
        NoSeriousFault();
        Browser.ExecuteScript("document.querySelector('form[data-guard]').removeAttribute('data-guard'); window.onbeforeunload = null");
        Browser.FindElement(By.LinkText("Orders")).Click();
        try
        {
            Browser.SwitchTo().Alert().Accept();
        }
        catch (NoAlertPresentException)
        {
            // The guard asks only where a person has typed since the page was loaded.
        }
    }

    [Fact]
    public async Task A_gateway_is_made_with_the_fields_of_its_channel_and_what_was_typed_stays_after_a_mistake()
    {
        Go("/channels");
        Assert.NotEmpty(Browser.FindElements(By.CssSelector("tr.sel")));
        Browser.FindElement(By.LinkText("Connect a gateway")).Click();
        Until(() => Browser.FindElements(By.Id("encryption")).Count == 1 && Without("#segmentCost"), "A mail gateway has no segments");
        Choose("a[href*='channel=sms']");
        Until(() => Browser.FindElements(By.Id("segmentCost")).Count == 1 && Without("#encryption"), "An SMS gateway has no encryption to choose");
        Browser.FindElement(By.Id("newId")).SendKeys("third-sms");
        Browser.FindElement(By.Id("gname")).SendKeys("Third line");
        Browser.FindElement(By.Id("address")).SendKeys("no address");
        Choose("form.ef .btn-primary");
        Until(() => Browser.FindElements(By.CssSelector("#address.is-invalid")).Count == 1, "The mistake stands at its field");
        Assert.Equal(
            ("third-sms", "Third line", 1),
            (
                Browser.FindElement(By.Id("newId")).GetDomProperty("value"),
                Browser.FindElement(By.Id("gname")).GetDomProperty("value"),
                Browser.FindElements(By.Id("segmentCost")).Count
            )
        );
        NoSeriousFault();

        // Neither is another gateway's place taken, nor a line left out that is no header; 0,07 is seven hundredths.
        var phone = (await World.GetAsync("/api/gateways/phone")).Body!.ToJsonString();
        Type("#newId", "phone");
        Type("#address", "https://sms.example/send");
        Type("#segmentCost", "0,07");
        Type("#headers", "X-Key: one\nBearer abc");
        Choose("form.ef .btn-primary");
        Says("There is a gateway 'phone' already. Give this one another id.");
        Says("'Bearer abc' is no header: write its name, a colon and its value.");
        Assert.Equal(phone, (await World.GetAsync("/api/gateways/phone")).Body!.ToJsonString());
        Type("#newId", "third-sms");
        Type("#headers", "X-Key: one");
        Choose("form.ef .btn-primary");
        Says("'Third line' is saved");
        var saved = (await World.GetAsync("/api/gateways/third-sms")).Body!;
        Assert.Equal((0.07m, """["X-Key"]"""), ((decimal)saved["segmentCost"]!, saved["headers"]!.ToJsonString()));
        await World.SendAsync(HttpMethod.Delete, "/api/gateways/third-sms", World.World.Demo.Token);
    }
}
