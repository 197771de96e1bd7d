using System.Text.Json.Nodes;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using Sirena.Shots;

namespace Sirena.Web.Tests;

/// <summary>Everybody's light and reach: each page by axe-core in both lights, wide and on a phone; without a line; in the reader's language.</summary>
public sealed class ReachTests(WorldFixture world) : BrowserTests(world)
{
    // The pages of a supervisor, filled and empty. {order}, {alert} and {delivery} are looked up.
    internal static readonly string[] Filled =
    [
        "/watch",
        "/mine",
        "/orders",
        "/orders?open={order}",
        "/orders?look={order}",
        "/orders/{order}",
        "/orders/fields",
        "/orders/missing",
        "/orders/statuses",
        "/orders/statuses?id=picking",
        "/rules",
        "/rules/{rule}",
        "/rules/new",
        "/rules/ladders",
        "/people",
        "/people/{person}",
        "/people/new",
        "/people/rota?team=kitchen",
        "/people/teams",
        "/people/who?rule={rule}",
        "/people/coverage",
        "/people/files",
        "/people/notices",
        "/pauses",
        "/sources",
        "/sources?id=new&edit=true",
        "/sources?id=ledger",
        "/sources?id=events",
        "/sources/ledger/reading",
        "/channels",
        "/channels?id=phone",
        "/channels?id=new&edit=true",
        "/channels/senders",
        "/wording",
        "/proof",
        "/proof?period=30&state=failed",
        "/proof/why?order={order}",
        "/proof/instructions",
        "/proof/undecided",
        "/first-day",
        "/guide",
        "/guide/rules",
        "/settings",
        "/settings/users",
        "/settings/branding",
        "/settings/hours",
        "/settings/fields",
        "/settings/instructions",
        "/settings/records",
        "/settings/tokens",
        "/password/new",
        "/jump?to=nothing+like+this",
        "/sign-out",
    ];

    private static readonly string[] Empty =
    [
        "/orders?q=nothing+like+this",
        "/orders/NOTHING",
        "/rules?q=nothing+like+this",
        "/people?q=nothing+like+this",
        "/proof?find=nothing+like+this",
        "/mine?wall=true",
        "/not/there",
    ];

    [Fact]
    public void No_page_has_a_fault_in_either_light_wide_or_on_a_phone_or_asks_for_anything_from_elsewhere()
    {
        var faults = new List<string>();
        Browser.ExecuteCdpCommand(
            "Emulation.setEmulatedMedia",
            new()
            {
                ["features"] = new[]
                {
                    new Dictionary<string, object> { ["name"] = "prefers-reduced-motion", ["value"] = "reduce" },
                },
            }
        );
        try
        {
            foreach (var path in Filled.Concat(Empty))
            {
                Look(Real(path), faults);
            }

            SignOut();
            foreach (var path in new[] { "/sign-in", "/forgot", "/a/nothing", "/u/nothing", "/password?key=nothing" })
            {
                Look(path, faults);
            }
        }
        finally
        {
            Size(1280, 800);
            Browser.ExecuteCdpCommand("Emulation.setEmulatedMedia", new() { ["features"] = Array.Empty<object>() });
        }

        Assert.True(faults.Count == 0, string.Join('\n', faults));
    }

    [Fact]
    public void The_light_is_chosen_and_stays()
    {
        Go("/orders");
        var day = Ground();
        Choose("details.menu summary");
        Choose("[data-light-choice=night]");
        Assert.NotEqual(day, Ground());
        Assert.Equal("true", Browser.FindElement(By.CssSelector("[data-light-choice=night]")).GetAttribute("aria-pressed"));
        Go("/rules");
        Assert.Equal("night", Browser.FindElement(By.TagName("html")).GetAttribute("data-light"));
        Choose("details.menu summary");
        Choose("[data-light-choice='']");
        Assert.Equal(day, Ground());
        Browser.ExecuteCdpCommand(
            "Emulation.setEmulatedMedia",
            new()
            {
                ["features"] = new[]
                {
                    new Dictionary<string, object> { ["name"] = "prefers-color-scheme", ["value"] = "dark" },
                },
            }
        );
        Assert.NotEqual(day, Ground());
        Browser.ExecuteCdpCommand(
            "Emulation.setEmulatedMedia",
            new()
            {
                ["features"] = new[]
                {
                    new Dictionary<string, object> { ["name"] = "prefers-color-scheme", ["value"] = "light" },
                },
            }
        );
    }

    [Fact]
    public void Paper_leaves_out_what_only_a_screen_needs()
    {
        Go(Real("/orders/{order}"));
        Browser.ExecuteCdpCommand("Emulation.setEmulatedMedia", new() { ["media"] = "print" });
        try
        {
            Assert.False(Browser.FindElement(By.CssSelector("header.top")).Displayed);
            Assert.False(Browser.FindElement(By.Id("strip")).Displayed);
            Assert.Contains($"by {World.World.Demo.Users[0].Name}", TextOf(By.CssSelector(".printed")));
            Assert.DoesNotContain(Browser.FindElements(By.CssSelector("main .btn")), b => b.Displayed);
        }
        finally
        {
            Browser.ExecuteCdpCommand("Emulation.setEmulatedMedia", new() { ["media"] = "" });
        }
    }

    [Fact]
    public void Staff_read_their_pages_in_their_language()
    {
        SignIn(4);
        Go("/mine");
        Assert.Equal("pt", Browser.FindElement(By.TagName("html")).GetAttribute("lang"));
        Says("Neste aparelho");
        Assert.Contains("Os meus alertas", TextOf(By.CssSelector("nav.nav")));
        Go($"/people/{PersonOf(4)}");
        Says("Horas de sossego");
        Browser.FindElement(By.CssSelector("input[name=address].f")).SendKeys("nobody at all");
        Choose("form:has(input[name=address].f) .btn");
        Says("Nada foi acrescentado.");
    }

    [Fact]
    public async Task Without_a_line_the_page_says_how_old_it_is_and_keeps_an_answer_until_it_is_back()
    {
        await using var line = new Line(Url);
        var who = World.World.Demo.Users[0];
        await World.EventAsync(WorldFixture.Event("line-1", "AQ-90701", "order.held", ""","hold":{"reason":"over the credit limit"}"""));
        static JsonNode? Held(JsonNode alerts) => alerts["items"]!.AsArray().FirstOrDefault(a => a!["rule"]!.ToString() == "held-for-credit");
        var alert = Held(await World.UntilAsync("/api/alerts?order=AQ-90701", a => Held(a) is not null, 20))!["id"]!.ToString();
        await World.World.ExecuteAsync(
            $"insert into deliveries (id, alert_id, order_number, rule_id, step, person, channel, \"to\", state, created_at, due_at, deadline, tries, answered) values ('{Guid.CreateVersion7()}', '{alert}', 'AQ-90701', 'held-for-credit', 0, '{PersonOf(0)}', 'screen', '{PersonOf(0)}', 'landed', now(), now(), now() + interval '1 hour', 1, false)"
        );
        SignOut();
        Browser.SignIn(line.Url, who.Email, who.Password);
        Open(line.Url + "/mine");
        Says("AQ-90701");
        Until(
            () =>
                Script(
                    "navigator.serviceWorker.ready.then(() => caches.open('sirena')).then(s => s.match('/css/base.css', { ignoreSearch: true })).then(m => done(!!navigator.serviceWorker.controller && !!m))"
                ) || Again(),
            "The worker has the page and what it is drawn with"
        );
        Browser.Navigate().Refresh();
        Until(() => Script("caches.open('sirena').then(s => s.match('/mine')).then(m => done(!!m))"), "The page is kept");

        line.Cut();
        Browser.Navigate().Refresh();
        Says("There is no line to the server.");
        Says("This is what stood at");
        Says("AQ-90701");
        PressIn(".mc", "AQ-90701", "button[value=taken]");
        Says("Kept on this device at");
        Browser.Navigate().Refresh();
        Says("It is sent when the line is back.");
        Assert.Equal("open", Held((await World.GetAsync("/api/alerts?order=AQ-90701")).Body!)!["state"]!.ToString());

        line.Mend();
        Says("AQ-90701: You have it.");
        line.Cut();
        Browser.Navigate().Refresh();
        Says("There is no line to the server.");
        line.Mend();
        Until(() => Browser.FindElement(By.Id("offline")).GetDomProperty("hidden") is "true" or "True", "The page comes anew by itself when the line is back");
        var answers = Held(await World.UntilAsync("/api/alerts?order=AQ-90701", a => Held(a)!["state"]!.ToString() == "taken"))!["answers"]!.AsArray();
        Assert.Single(answers);
        Assert.Equal("screen", answers[0]!["via"]!.ToString());
        Browser.ExecuteScript("navigator.serviceWorker.getRegistrations().then(all => all.forEach(r => r.unregister()))");

        bool Script(string body) => Browser.ExecuteAsyncScript($"const done = arguments[0]; {body}.catch(() => done(false))") is true;
        bool Again()
        {
            Browser.Navigate().Refresh();
            return false;
        }
    }

    private string PersonOf(int user) => World.World.Demo.Users[user].Email.Split('@')[0];

    private string Ground() => (string)Browser.ExecuteScript("return getComputedStyle(document.body).backgroundColor")!;

    private string Real(string path) => path.Contains('{', StringComparison.Ordinal) ? Real(path, World.OrderAsync().Result, PersonOf(0)) : path;

    /// <summary>A page of <see cref="Filled"/> with an order, a rule and a person that there are.</summary>
    internal static string Real(string path, string order, string person) =>
        path.Replace("{order}", order, StringComparison.Ordinal)
            .Replace("{rule}", "held-for-credit", StringComparison.Ordinal)
            .Replace("{person}", person, StringComparison.Ordinal);

    // Loaded once; by day wide and on a phone, at night in both what only colours decide, and at 320 px whether it fits.
    private void Look(string path, List<string> faults)
    {
        Size(1280, 800);
        Go(path);
        Browser.ExecuteScript(File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "vendor", "axe.min.js")));
        foreach (var (light, width, height) in new[] { ("day", 1280, 800), ("night", 1280, 800), ("day", 390, 844), ("night", 390, 844) })
        {
            Size(width, height);
            var found = (string)
                Browser.ExecuteAsyncScript(
                    "const [light, done] = arguments; document.documentElement.dataset.light = light; axe.run(document, { resultTypes: ['violations'], ...(light === 'night' ? { runOnly: ['color-contrast'] } : { rules: { 'target-size': { enabled: true } } }) }).then(r => done(r.violations.map(v => v.id + ' ' + v.nodes.length + ': ' + v.nodes.slice(0, 3).map(n => n.target.join(' ') + ' ' + n.html.slice(0, 110) + (v.id === 'color-contrast' ? ' ' + (n.any[0]?.data?.fgColor ?? '') + ' on ' + (n.any[0]?.data?.bgColor ?? '') : '')).join(' | ')).join('\\n    ')))",
                    light
                )!;
            if (found.Length > 0)
            {
                faults.Add($"{path} {width} {light}:\n    {found}");
            }
        }

        var asked = (string)Browser.ExecuteScript("return performance.getEntriesByType('resource').map(e => e.name).join('\\n')")!;
        faults.AddRange(asked.Split('\n').Where(a => a.Length > 0 && !a.StartsWith(World.Url, StringComparison.Ordinal)).Select(a => $"{path} asks for {a}"));
        faults.AddRange(
            Browser
                .Manage()
                .Logs.GetLog(LogType.Browser)
                .Where(l => l.Message.Contains("Content Security Policy", StringComparison.Ordinal))
                .Select(l => $"{path}: {l.Message}")
        );

        // At 320 px, as at 400 % of 1280, nothing is scrolled sideways but what scrolls by itself.
        Size(320, 844);
        var over = (long)Browser.ExecuteScript("return document.documentElement.scrollWidth - innerWidth")!;
        if (over > 1)
        {
            faults.Add($"{path} at 320 px is {over} px too wide");
        }
    }

    private void Size(int width, int height) => Shots.Browser.Fit(Browser, width, height);
}
