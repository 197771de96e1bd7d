using System.Text.Json;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using Sirena.Shots;

namespace Sirena.Web.Tests;

public sealed class PagesTests : IClassFixture<WorldFixture>
{
    private readonly WorldFixture world;
    private readonly ChromeDriver browser;

    public PagesTests(WorldFixture world)
    {
        this.world = world;
        browser = world.Browser;
        browser.Manage().Cookies.DeleteAllCookies();
        var maren = world.World.Demo.Users[0];
        browser.SignIn(world.Url, maren.Email, maren.Password);
    }

    private void Go(string path) => browser.Navigate().GoToUrl(world.Url + path);

    private string Main => browser.FindElement(By.Id("main")).Text;

    private void Until(Func<bool> good, string what)
    {
        for (var end = DateTime.UtcNow.AddSeconds(12); DateTime.UtcNow < end; Task.Delay(80).Wait())
        {
            try
            {
                if (good())
                {
                    return;
                }
            }
            catch (Exception e) when (e is StaleElementReferenceException or NoSuchElementException)
            {
                // The page was just replaced.
            }
        }

        Assert.Fail($"{what}; the page says: {Main}");
    }

    [Fact]
    public async Task From_a_new_rule_to_the_trail_of_its_alert()
    {
        Go("/rules/new");
        browser.FindElement(By.Name("name")).SendKeys("Costly holds");
        browser.FindElement(By.CssSelector("select[name=when] option[value='order.held']")).Click();
        browser.FindElement(By.CssSelector("button[value='add:c']")).Click();
        var value = browser.FindElement(By.Name("c.0.value"));
        value.SendKeys("5,000");
        browser.FindElement(By.CssSelector("select[name=tell] option[value='person:ines.calder']")).Click();
        browser.FindElement(By.CssSelector("button[value=save].btn-primary")).Click();
        Assert.Contains("Saved as version 1. In force from the next event.", Main);
        Assert.Contains("When an order is held and the total is at least 5,000.00, tell Ines Calder by mail.", Main);

        await world.EventAsync(WorldFixture.Event("page-1", "AQ-90001", more: ",\"total\":6200,\"hold\":{\"reason\":\"something new\"},\"customer\":{\"name\":\"MV Corvane\"}"));
        await world.UntilAsync("/api/deliveries?order=AQ-90001", d => d["items"]!.AsArray().Any(i => i!["state"]!.GetValue<string>() == "handed-over"));
        browser.FindElement(By.Id("jump")).SendKeys("aq-90001" + Keys.Enter);
        Until(() => Main.Contains("Held in", StringComparison.Ordinal) || Main.Contains("AQ-90001", StringComparison.Ordinal), "The order did not open");
        Assert.Contains("mail server accepted, 250", Main);
        browser.FindElement(By.CssSelector(".trail a[data-node='rule-costly-holds']")).SendKeys(Keys.Enter);
        Until(() => browser.FindElement(By.Id("node")).Text.Contains("here 6200", StringComparison.Ordinal), "The rule's details did not open");
        browser.FindElement(By.CssSelector(".trail a[data-node^='delivery-']")).SendKeys(Keys.Enter);
        Until(() => browser.FindElement(By.Id("node")).Text.Contains("2.0.0 Taken as", StringComparison.Ordinal), "The delivery's details did not open");
    }

    [Fact]
    public void The_list_is_searched_filtered_and_looked_at_with_the_keyboard_alone()
    {
        Go("/orders");
        var rows = browser.FindElements(By.CssSelector("tr[data-open]")).Count;
        Assert.True(rows > 3, "The demo has open orders.");
        browser.FindElement(By.CssSelector("a[data-look]")).SendKeys(Keys.Enter);
        Until(() => browser.FindElement(By.CssSelector("tr.opn")).Text.Contains("Who was told", StringComparison.Ordinal), "The quick look did not open");
        browser.FindElement(By.Name("q")).SendKeys("no such vessel" + Keys.Enter);
        Until(() => Main.Contains("No order fits these filters.", StringComparison.Ordinal), "The search did not empty the list");
        browser.FindElement(By.TagName("body")).SendKeys("/");
        Assert.Equal("jump", browser.SwitchTo().ActiveElement().GetAttribute("id"));
    }

    [Fact]
    public void A_rule_with_a_mistake_says_so_beside_the_field_and_keeps_what_was_typed()
    {
        Go("/rules/new");
        browser.FindElement(By.Name("name")).SendKeys("Mistaken");
        browser.FindElement(By.CssSelector("button[value='group:c']")).Click();
        var field = browser.FindElement(By.Name("c.0.0.field"));
        field.Clear();
        field.SendKeys("order.totl");
        browser.FindElement(By.CssSelector("button[value=save].btn-primary")).Click();
        Assert.Contains("There is no field 'order.totl'. Did you mean 'order.total'?", browser.FindElement(By.CssSelector(".grp .grp .invalid-feedback")).Text);
        Assert.Equal("order.totl", browser.FindElement(By.Name("c.0.0.field")).GetAttribute("value"));
        Assert.Equal("Mistaken", browser.FindElement(By.Name("name")).GetAttribute("value"));
    }

    [Fact]
    public void A_rule_is_turned_off_and_on_from_the_list()
    {
        Go("/rules?q=stock");
        browser.FindElement(By.CssSelector("button.sluice")).Click();
        Assert.Contains("'Stock below zero' is off from the next event on.", Main);
        browser.FindElement(By.CssSelector("button.sluice")).Click();
        Assert.Contains("is on from the next event on.", Main);
    }

    [Fact]
    public async Task A_mail_that_waits_is_seen_with_the_server_s_words_and_sent_when_the_fault_is_lifted()
    {
        await world.SendAsync(HttpMethod.Put, "/api/rules/waits", world.World.Demo.Token, "name: Waits\nwhen: [test.waits]\ntell: [ { address: \"waits@a.example\", outside: true } ]", "application/yaml");
        world.World.StandIns.Faults.Add(new Demo.StandIns.Fault("mail", "waits@*", "defer", 0));
        await world.EventAsync(WorldFixture.Event("waits-1", "AQ-90002", "test.waits"));
        Until(() =>
        {
            Go("/proof?state=waiting&find=waits");
            return Main.Contains("not now: 4.7.1 Greylisted, come back later", StringComparison.Ordinal);
        }, "The waiting delivery is not shown");
        browser.FindElement(By.CssSelector("a[data-look]")).SendKeys(Keys.Enter);
        Until(() => browser.FindElement(By.CssSelector("tr.opn")).Text.Contains("Next try", StringComparison.Ordinal), "The details did not open");
        world.World.StandIns.Faults.Clear();
        browser.FindElement(By.CssSelector("tr.opn .btn-primary")).Click();
        await world.UntilAsync("/api/deliveries?order=AQ-90002", d => d["items"]![0]!["state"]!.GetValue<string>() == "handed-over");
        Go(browser.Url[world.Url.Length..]);
        Assert.Contains("2.0.0 Taken as", Main);
        Assert.Contains("You get this because this address is named in it", browser.FindElement(By.CssSelector("textarea[readonly]")).GetAttribute("value"));
    }

    [Fact]
    public void Somebody_is_invited_by_mail_sets_a_password_and_sees_what_staff_may_see()
    {
        Go("/settings/users");
        browser.FindElement(By.Id("Name")).SendKeys("Bram Osei");
        browser.FindElement(By.Id("Email")).SendKeys("bram.osei@averilquay.example");
        browser.FindElement(By.CssSelector("form.pad .btn-primary")).Click();
        Assert.Contains("An invitation is on its way to bram.osei@averilquay.example", Main);
        var mail = world.World.StandIns.Mail.Mails.Last(m => m.To == "bram.osei@averilquay.example");
        var link = mail.Text.Split('\n').First(l => l.Contains("/password?", StringComparison.Ordinal)).Trim();
        browser.Manage().Cookies.DeleteAllCookies();
        browser.Navigate().GoToUrl(link);
        browser.FindElement(By.Id("Password")).SendKeys("a long password");
        browser.FindElement(By.CssSelector("form .btn-primary")).Click();
        Until(() => Main.Contains("open", StringComparison.Ordinal), "The new user is not signed in");
        Assert.DoesNotContain("Rules", browser.FindElement(By.CssSelector("nav.nav")).Text);
        Go("/rules");
        Assert.Contains("Your role does not allow this", Main);
    }

    [Fact]
    public void A_source_key_is_shown_once_and_works_until_it_is_revoked()
    {
        Go("/settings/sources");
        browser.FindElement(By.Id("Name")).SendKeys("Second till");
        browser.FindElement(By.CssSelector("form.pad .btn-primary")).Click();
        var key = browser.FindElement(By.Id("secret")).Text;
        Assert.StartsWith("sk-", key);
        var sent = world.SendAsync(HttpMethod.Post, "/api/events", key, WorldFixture.Event("till-1", "AQ-90003"), "application/cloudevents+json").Result;
        Assert.Equal(System.Net.HttpStatusCode.Accepted, sent.Status);
        Go("/settings/sources");
        Assert.DoesNotContain(key, browser.PageSource);
    }

    [Theory]
    [InlineData("/orders")]
    [InlineData("/orders?look=first")]
    [InlineData("/orders/first")]
    [InlineData("/rules")]
    [InlineData("/rules/new")]
    [InlineData("/rules/risky-order")]
    [InlineData("/proof?period=7")]
    [InlineData("/settings")]
    [InlineData("/settings/sources")]
    [InlineData("/settings/users")]
    [InlineData("/settings/tokens")]
    [InlineData("/sign-out")]
    public async Task No_page_has_a_serious_accessibility_fault_or_asks_for_anything_from_elsewhere(string path)
    {
        var first = (await world.GetAsync("/api/alerts?limit=1")).Body!["items"]![0]!["order"]!.GetValue<string>();
        Go(path.Replace("first", first, StringComparison.Ordinal));
        browser.ExecuteScript(File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "vendor", "axe.min.js")));
        var found = (string)browser.ExecuteAsyncScript("const done = arguments[0]; axe.run(document, { resultTypes: ['violations'] }).then(r => done(JSON.stringify(r.violations.filter(v => ['serious', 'critical'].includes(v.impact)).map(v => v.id + ': ' + v.nodes.slice(0, 3).map(n => n.html.slice(0, 160)).join(' | ')))))")!;
        Assert.Empty(JsonSerializer.Deserialize<string[]>(found)!);
        var asked = (string)browser.ExecuteScript("return JSON.stringify(performance.getEntriesByType('resource').map(e => e.name))")!;
        Assert.All(JsonSerializer.Deserialize<string[]>(asked)!, name => Assert.StartsWith(world.Url, name));
        Assert.DoesNotContain(browser.Manage().Logs.GetLog(LogType.Browser), l => l.Message.Contains("Content Security Policy", StringComparison.Ordinal));
    }
}
