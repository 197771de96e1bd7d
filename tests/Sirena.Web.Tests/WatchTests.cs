using System.Net;
using System.Text.Json.Nodes;
using OpenQA.Selenium;

namespace Sirena.Web.Tests;

/// <summary>The Watch: fuses, answers from it, what it hears by itself.</summary>
public sealed class WatchTests(WorldFixture world) : BrowserTests(world)
{
    private async Task<string> RaiseAsync(string id, string more = "")
    {
        Assert.True(
            (
                await World.SendAsync(
                    HttpMethod.Put,
                    $"/api/rules/{id}",
                    World.World.Demo.Token,
                    $"name: Fuse {id}\nwhen: [test.{id}]\nurgency: urgent\ntell: [ {{ person: ines.calder }} ]\nby: {{ allAtOnce: [sms] }}\nladder: [ {{ after: PT4M, tell: [ {{ person: odile.varga }} ] }}, {{ after: PT20M, tell: [ {{ team: desk }} ] }} ]{more}",
                    "application/yaml"
                )
            ).Status
                is HttpStatusCode.Created
                    or HttpStatusCode.OK
        );
        var number = $"WT-{id}-{Guid.NewGuid().ToString()[..5]}";
        await World.EventAsync(WorldFixture.Event(Guid.NewGuid().ToString(), number, $"test.{id}", ",\"customer\":{\"name\":\"MV Corvane\"}"));
        return number;
    }

    // The Watch is drawn anew as news come: a row is found in one go, so that a redrawing cannot come in between.
    private IWebElement? Row(string number) =>
        (IWebElement?)
            Browser.ExecuteScript("return [...document.querySelectorAll('#watch .row')].find(r => r.innerText.includes(arguments[0])) ?? null", number);

    private void PressIn(string number, string selector) => PressIn("#watch .row", number, selector);

    [Fact]
    public async Task A_new_alert_appears_by_itself_burns_towards_its_next_step_and_is_cut_by_who_takes_it()
    {
        Go("/watch");
        var number = await RaiseAsync("burns");
        Until(() => Row(number) is not null, "The alert appears on the open page");
        Until(
            () => Row(number)!.FindElement(By.CssSelector("svg.fz")).GetAttribute("aria-label")!.Contains("next step in", StringComparison.Ordinal),
            "The fuse says its next step"
        );
        Until(() => Row(number)!.FindElement(By.CssSelector("[data-until]")).Text is ['i', 'n', ' ', '3', ':', ..], "The countdown runs");
        Assert.Contains("Odile Varga", Row(number)!.Text);
        NoSeriousFault();
        PressIn(number, "button[value=taken]");
        Says("You have it.");
        Assert.EndsWith("/watch", Browser.Url);
        Until(() => Row(number)!.Text.Contains("Maren Holt has it", StringComparison.Ordinal), "The fuse is cut with the name");
        PressIn(number, "button[value=done]");
        Until(() => Row(number) is null, "What is done leaves the Watch");
    }

    [Fact]
    public async Task A_supervisor_says_for_whoever_has_it_that_it_is_done_and_the_trail_keeps_who_entered_it()
    {
        Go("/watch");
        var number = await RaiseAsync("entered");
        var alert = (await World.UntilAsync($"/api/alerts?order={number}", a => a["items"]!.AsArray().Count == 1))["items"]![0]!;
        await World.SendAsync(
            HttpMethod.Post,
            $"/api/alerts/{(string)alert["id"]!}/answers",
            World.World.Demo.Token,
            """{"person":"ines.calder","answer":"taken"}"""
        );
        Until(() => Row(number)?.Text.Contains("Ines Calder has it", StringComparison.Ordinal) == true, "Somebody has it");
        PressIn(number, "button[value=done]");
        Says("Done, entered for Ines Calder.");
        var answers = (await World.GetAsync($"/api/alerts?order={number}")).Body!["items"]![0]!["answers"]!.AsArray();
        var done = answers.Single(a => (string)a!["answer"]! == "done")!;
        Assert.Equal(("ines.calder", "Maren Holt"), ((string)done["person"]!, (string)done["enteredBy"]!));
        Go($"/orders/{number}");
        Says("Ines Calder has it, Fuse entered, by api, entered by Maren Holt");
        Says("Ines Calder has done it, Fuse entered, by screen, entered by Maren Holt");
    }

    [Fact]
    public async Task Arrows_move_between_fuses_and_a_drawing_leaves_the_keys_where_they_are()
    {
        var (first, second) = (await RaiseAsync("keys"), await RaiseAsync("keys"));
        Go("/watch");
        Until(() => Row(first) is not null && Row(second) is not null, "Both are on the page");
        string At() => (string)Browser.ExecuteScript("return document.activeElement.closest('[data-alert]')?.querySelector('.id')?.textContent ?? ''")!;
        string[] order =
        [
            .. (
                (IEnumerable<object>)Browser.ExecuteScript("return [...document.querySelectorAll('#watch [data-alert] .id')].map(e => e.textContent)")!
            ).Cast<string>(),
        ];
        void Press(string key) => new OpenQA.Selenium.Interactions.Actions(Browser).SendKeys(key).Perform();
        Press(Keys.ArrowDown);
        Assert.Equal(order[0], At());
        Press(Keys.ArrowDown);
        Assert.Equal(order[1], At());
        Press(Keys.ArrowUp);
        Assert.Equal(order[0], At());
        var third = await RaiseAsync("keys");
        Until(() => Row(third) is not null, "News are drawn meanwhile");
        Assert.Equal(order[0], At());
        Press(Keys.Enter);
        Until(() => Browser.Url.EndsWith($"/orders/{order[0]}", StringComparison.Ordinal), "Enter opens the order");
    }

    [Fact]
    public async Task An_alert_climbs_is_answered_from_a_phone_and_the_Watch_of_another_browser_cuts_its_fuse_within_a_second()
    {
        Assert.True(
            (
                await World.SendAsync(
                    HttpMethod.Put,
                    "/api/rules/climbing",
                    World.World.Demo.Token,
                    "name: Climbing\nwhen: [test.climbing]\nurgency: urgent\ntell: [ { person: ines.calder } ]\nby: { allAtOnce: [sms] }\nladder: [ { after: PT2S, tell: [ { person: odile.varga } ] }, { after: PT10M, tell: [ { team: desk } ] } ]",
                    "application/yaml"
                )
            ).Status is HttpStatusCode.Created
        );
        var number = $"WT-climbing-{Guid.NewGuid().ToString()[..5]}";
        Go("/watch");
        await World.EventAsync(WorldFixture.Event(Guid.NewGuid().ToString(), number, "test.climbing"));
        Until(
            () => World.World.StandIns.Phone.Messages.Count(m => m.Text.Contains(number, StringComparison.Ordinal)) == 2,
            "Nobody answered, so the second step told somebody else"
        );
        var link = System
            .Text.RegularExpressions.Regex.Match(
                World.World.StandIns.Phone.Messages.Last(m => m.Text.Contains(number, StringComparison.Ordinal)).Text,
                "http\\S+/a/\\S+"
            )
            .Value;
        Until(() => Row(number)?.Text.Contains("Varga", StringComparison.Ordinal) == true, "The Watch shows the second step");

        // Another browser: the page behind the message's link, and its button.
        using var phone = new HttpClient();
        var page = await phone.GetStringAsync(link);
        var token = System.Text.RegularExpressions.Regex.Match(page, "name=\"__RequestVerificationToken\"[^>]*value=\"([^\"]+)\"").Groups[1].Value;
        var begin = System.Diagnostics.Stopwatch.GetTimestamp();
        var answered = await phone.PostAsync(link, new FormUrlEncodedContent([new("answer", "taken"), new("__RequestVerificationToken", token)]));
        Assert.Contains("You have it", await answered.Content.ReadAsStringAsync(TestContext.Current.CancellationToken));
        Until(() => Row(number)?.Text.Contains("Odile Varga has it", StringComparison.Ordinal) == true, "The fuse is cut");
        TestContext.Current.SendDiagnosticMessage(
            $"The fuse was cut {System.Diagnostics.Stopwatch.GetElapsedTime(begin).TotalMilliseconds:0} ms after the answer."
        );
    }

    [Fact]
    public async Task Passing_on_from_the_Watch_tells_the_other_person()
    {
        var number = await RaiseAsync("onward");
        await World.UntilAsync($"/api/alerts?order={number}", a => a["items"]!.AsArray().Count == 1);
        Go("/watch");
        PressIn(number, ".passon summary");
        Row(number)!.FindElement(By.CssSelector(".passon input[name=to]")).SendKeys("hugo.brandt");
        PressIn(number, ".passon button");
        Says("Passed on to Hugo Brandt.");
        var items = (await World.UntilAsync($"/api/deliveries?order={number}", d => d["items"]!.AsArray().Any(i => (string?)i!["person"] == "hugo.brandt")))[
            "items"
        ]!.AsArray();
        Assert.Contains(items, i => (string?)i!["person"] == "ines.calder");
        var alert = (await World.GetAsync($"/api/alerts?order={number}")).Body!["items"]![0]!;
        Assert.Equal(("open", "passed"), ((string)alert["state"]!, (string)alert["answers"]![0]!["answer"]!));
    }

    [Fact]
    public async Task Passing_on_by_the_API_needs_somebody_who_exists()
    {
        var number = await RaiseAsync("api");
        var id = (string)(await World.UntilAsync($"/api/alerts?order={number}", a => a["items"]!.AsArray().Count == 1))["items"]![0]!["id"]!;
        var (status, body, _) = await World.SendAsync(
            HttpMethod.Post,
            $"/api/alerts/{id}/answers",
            World.World.Demo.Token,
            """{"person":"ines.calder","answer":"passed","to":"hugo.brand"}"""
        );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains("hugo.brandt", body!.ToJsonString());
        Assert.Equal(
            HttpStatusCode.Created,
            (
                await World.SendAsync(
                    HttpMethod.Post,
                    $"/api/alerts/{id}/answers",
                    World.World.Demo.Token,
                    """{"person":"ines.calder","answer":"passed","to":"warehouse"}"""
                )
            ).Status
        );
    }

    [Fact]
    public async Task Lanes_by_due_time_one_team_alone_and_the_wall()
    {
        await RaiseAsync("lanes");
        Go("/watch?lanes=due");
        Says("Not due");
        Go("/watch?team=account-managers&span=240");
        Until(() => Browser.FindElements(By.CssSelector("#watch .lane")).Count <= 1, "One lane alone");
        Go("/watch?wall=true");
        Assert.False(Browser.FindElement(By.CssSelector("header.top")).Displayed);
        Assert.True(Browser.FindElement(By.Id("watch")).Displayed);
    }
}
