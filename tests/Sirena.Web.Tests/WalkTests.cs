using OpenQA.Selenium;
using OpenQA.Selenium.Interactions;
using Sirena.Demo.StandIns;

namespace Sirena.Web.Tests;

/// <summary>
/// A supervisor's hour in the demo with the keys alone: whatever is typed into a field and whatever is pressed counts as one input; going from one to the next
/// by Tab does not.
/// </summary>
public sealed class WalkTests(WorldFixture world) : BrowserTests(world)
{
    private int inputs;

    [Fact]
    public async Task An_hour_of_a_supervisor_takes_at_most_seventy_inputs_and_no_mouse()
    {
        foreach (var n in new[] { 1, 2, 3 })
        {
            await World.EventAsync(
                WorldFixture.Event(
                    $"walk-{n}",
                    $"AQ-9080{n}",
                    "order.held",
                    ""","dueAt":"2027-03-01T10:00:00Z","extra":{"berth":"N3"},"customer":{"name":"MV Corvane"},"hold":{"reason":"over the credit limit"}"""
                )
            );
        }

        await World.EventAsync(WorldFixture.Event("walk-4", "AQ-90804", "order.unheard-of", ""","dueAt":"2027-03-01T10:00:00Z" """));
        await World.UntilAsync("/api/alerts?order=AQ-90803", a => a["items"]!.AsArray().Count > 0, 20);

        Step("take, pass on, end");
        Key("nav.nav a[href='/watch']");
        Key($"{Row("AQ-90801")} button[value=taken]");
        Says("AQ-90801: You have it.");
        Key($"{Row("AQ-90802")} .passon summary");
        Write($"{Row("AQ-90802")} .passon input[name=to]", "Bram Osei");
        Key($"{Row("AQ-90802")} .passon button");
        Says("AQ-90802: Passed on to Bram Osei.");
        Key($"{Row("AQ-90801")} button[value=done]");
        Says("AQ-90801: Done.");

        Step("find by berth");
        Key("nav.nav a[href='/orders']");
        Write("input[name=q]", "berth N3 corvane");
        Until(
            () => Browser.FindElements(By.CssSelector("#orders tr[data-open]")).Count is > 0 and < 20 && Main.Contains("AQ-90803", StringComparison.Ordinal),
            "Only orders of that berth stay"
        );

        Step("why nobody");
        Key("nav.nav a[href='/proof']");
        Write("#ask-order", "AQ-90804");
        Take(".ask select[name=person]", "Ines Calder");
        Key(".ask button");
        Until(
            () => Browser.Url.Contains("why=ines.calder", StringComparison.Ordinal) && Browser.FindElements(By.Id("why")).Count > 0,
            "The order says why not"
        );

        Step("a rule with two cases, rehearsed, in force");
        await World.World.ExecuteAsync("delete from kept_drafts where rule_id = 'new'");
        Key("nav.nav a[href='/rules']");
        Key("main a[href='/rules/new']");
        Write("#name", "Walked by keys");
        Take("#when-0", "an order is flagged risky");
        Key("#case-add", "k0-c-0-f");
        Take("#k0-c-0-f", "the risk", "k0-c-0-is");
        Take("#k0-c-0-v", "high");
        Take("#k0-t0", "whoever is on duty in Credit control", "k0-t0");
        Key("#case-add", "k1-c-0-f");
        Take("#k1-c-0-f", "the risk", "k1-c-0-is");
        Take("#k1-c-0-v", "medium");
        Take("#k1-t0", "everyone in Desk", "k1-t0");
        Key("button[value=rehearse]");
        Until(
            () =>
                TextOf(By.Id("rehearsal")).Contains("30 days", StringComparison.Ordinal)
                || TextOf(By.Id("rehearsal")).Contains("This draft", StringComparison.Ordinal),
            "It is rehearsed"
        );
        Key("button[value=save].btn-primary");
        Says("Saved as version 1");

        Step("trail");
        Write("#jump", "AQ-90801" + Keys.Enter);
        Until(() => Browser.FindElements(By.CssSelector(".trail")).Count > 0, "The trail is drawn");

        Step("difference");
        Write("#jump", "Walked by" + Keys.Enter);
        Write("#name", "Walked by two keys");
        Key("button[value=save].btn-primary");
        Says("Saved as version 2");
        Key("main a[href*='compare=1']");
        Says("Walked by two keys");

        Step("break and mend the mail");
        World.World.StandIns.Faults.Add(new Fault("mail", "*", "down", 0));
        Key("nav.nav a[href='/channels']");
        Key("main button[formaction*=Test], main form[action*=Test] button");
        Until(() => Browser.FindElements(By.CssSelector("#test h3.flare")).Count > 0, "The test says what is broken");
        World.World.StandIns.Faults.Clear();
        Key("main button[formaction*=Test], main form[action*=Test] button");
        Until(() => Browser.FindElements(By.CssSelector("#test h3.glass")).Count > 0, "It works again");

        Step("a dark hour to a shift");
        Key("nav.nav a[href='/people']");
        Key("nav.subnav a[href='/people/coverage']");
        Take("#Of", "Quayside drivers");
        Key("ul.dark a[href*='#add']");
        Take("#ad-who", "Okke Brandsma");
        Key("#add .btn-primary");
        Says("Okke Brandsma is on duty for");

        Step("leave with cover");
        Write("#jump", "Milo Trask" + Keys.Enter);
        Write("#lv-f", "1 Mar");
        Write("#lv-t", "2 Mar");
        Take("#lv-c", "Kaia Lund");
        Key("form[action*=Leave] .btn");
        Says("Leave added; Kaia Lund covers.");

        Step("Sunday 03:00");
        Key("nav.subnav a[href='/people/who']");
        Take("#Rule", "Alongside, drivers to the quay");
        Write("#At", "Sun 3:00" + Keys.Enter);
        Until(() => Main.Contains("would be told on Sun", StringComparison.Ordinal), "It says who on Sunday at three");

        Step("words");
        Key("nav.nav a[href='/wording']");
        Write("#wording textarea, #wording [contenteditable=true]", "Look: ");
        Key("#wording button[value=save]");
        Says("aved");

        Step("notice");
        Write("#jump", "Milo Trask" + Keys.Enter);
        Key("nav.subnav a[href='/people/notices']");
        Take("#n-t0", "everyone in Desk");
        Write("#headline", "Stocktaking at six");
        Write("#text", "The chandlery counts from six to seven.");
        Key("button[name=act][value=send]");
        Says("told");

        Step("pause");
        Key("nav.nav a[href='/watch']");
        Key("main a[href='/pauses']");
        Write("#until", "tomorrow 8");
        Write("#reason", "stocktaking");
        Key("form .btn-primary");
        Says("stocktaking");

        Step("ledger, summary, user");
        Key("nav.nav a[href='/proof']");
        Says("AQ-90801");
        Key("details.menu summary");
        Key("details.menu a[href='/settings']");
        Key("main a[href='/settings/records']");
        Write("#to", "maren.holt@averilquay.example" + Keys.Enter);
        Says("maren.holt@averilquay.example");
        Key("main a[href='/settings/users']");
        Write("#Name", "Signe Aalto");
        Write("#Email", "signe.aalto@averilquay.example" + Keys.Enter);
        Says("An invitation is on its way");

        Assert.InRange(inputs, 40, 70);
    }

    private string done = "";

    private void Step(string name) => done = name;

    private static string Row(string order) => $".board .row:has(a[href='/orders/{order}'])";

    // What has the keys, where that is what is sought; else how many times Tab is pressed before looking again. The order on the page is only near
    // that of the keys, so most of the way is gone at once and the rest step by step.
    private const string Look = """
        const here = document.activeElement;
        const is = e => e.matches(arguments[0]) || e.previousElementSibling?.matches?.(arguments[0]) || e.closest('.pickb')?.previousElementSibling?.matches(arguments[0]);
        if (here !== document.body && is(here)) return here;
        const stops = [...document.querySelectorAll('a[href], button, input, select, textarea, summary, [tabindex="0"], [contenteditable]')]
            .filter(e => !e.disabled && e.tabIndex >= 0 && e.checkVisibility({ visibilityProperty: true }));
        const to = stops.findIndex(is), at = stops.indexOf(here);
        return to < 0 ? 1 : Math.max(1, Math.floor(((to - at + stops.length) % stops.length) * .8));
        """;

    // By Tab alone; whoever goes around twice without coming there has no way to it.
    private IWebElement Reach(string selector)
    {
        Until(() => Browser.FindElements(By.CssSelector(selector)).Count > 0, $"{done}: {selector} is there");
        var first = (string)Browser.ExecuteScript("return document.activeElement.outerHTML.slice(0, 200)")!;
        for (var pressed = 0; pressed < 900;)
        {
            var here = Browser.ExecuteScript(Look, selector);
            if (here is IWebElement found)
            {
                return found;
            }

            var tabs = new Actions(Browser);
            for (var i = 0; i < (long)here!; i++, pressed++)
            {
                tabs.SendKeys(Keys.Tab);
            }

            tabs.Perform();
        }

        throw new InvalidOperationException($"{done}: the keys do not reach {selector} from {first}");
    }

    private void Key(string selector, string? then = null)
    {
        var before = then is null ? null : Browser.FindElements(By.Id(then)).FirstOrDefault();
        Reach(selector);
        inputs++;
        new Actions(Browser).SendKeys(Keys.Enter).Perform();
        Drawn(then, before);
    }

    private void Write(string selector, string text)
    {
        Reach(selector);
        inputs++;
        new Actions(Browser).SendKeys(text).Perform();
    }

    // What begins as it is typed is chosen, in a list of the browser's and in one that is found in by typing.
    private void Take(string selector, string text, string? then = null)
    {
        var before = then is null ? null : Browser.FindElements(By.Id(then)).FirstOrDefault();
        var here = Reach(selector);
        inputs++;
        if (here.TagName == "select")
        {
            new Actions(Browser).SendKeys(text).Perform();
        }
        else
        {
            Find(here, text);
        }

        Drawn(then, before);
    }

    private void Drawn(string? id, IWebElement? before)
    {
        if (id is not null)
        {
            Until(
                () => Browser.FindElements(By.Id(id)).FirstOrDefault() is { } now ? !now.Equals(before) : before is not null,
                $"{done}: nothing was drawn anew"
            );
        }
    }
}
