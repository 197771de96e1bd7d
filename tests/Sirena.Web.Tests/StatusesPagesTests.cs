using OpenQA.Selenium;

namespace Sirena.Web.Tests;

public sealed class StatusesPagesTests(WorldFixture world) : BrowserTests(world)
{
    [Fact]
    public async Task A_strange_word_is_given_a_status_and_the_next_event_with_it_stands_in_it()
    {
        await World.EventAsync(WorldFixture.Event("st-1", "AQ-70001", type: "order.status-changed", more: ",\"status\":\"part-loaded\""));
        Go("/orders/statuses");
        Says("part-loaded belongs to no status here; 1 open order stands under it.");
        Choose(".odd a.btn");
        Until(() => ValueOf("name") == "Part loaded", "The form proposes a name");
        Choose("form.ef .btn-primary");
        Until(() => Main.Contains("'Part loaded' is saved, in force from the next event.", StringComparison.Ordinal), "The status is saved");
        Assert.DoesNotContain("belongs to no status", Main);
        Go("/orders/statuses?id=part-loaded");
        Browser.FindElement(By.Id("words")).SendKeys(", half-in");
        Choose("form.ef .btn-primary");
        Until(() => Main.Contains("is saved", StringComparison.Ordinal), "The word is saved");
        await World.EventAsync(WorldFixture.Event("st-2", "AQ-70002", type: "order.status-changed", more: ",\"status\":\"Half-In\""));
        var trail = await World.UntilAsync("/api/orders/AQ-70002/trail", t => t["events"] is not null);
        Assert.NotNull(trail);
        Go("/orders/AQ-70002");
        Says("Part loaded");
    }

    [Fact]
    public async Task An_order_system_that_says_NEW_and_words_with_spaces_gets_its_statuses()
    {
        async Task<string?> StatusAsync(string order) => (string?)(await World.GetAsync($"/api/orders?q={order}")).Body!["items"]![0]!["status"];
        async Task SaysAsync(string order, string word) =>
            await World.EventAsync(WorldFixture.Event(Guid.NewGuid().ToString(), order, type: "order.status-changed", more: $",\"status\":\"{word}\""));
        void Saves(string name)
        {
            Type("#name", name);
            Choose("form.ef .btn-primary");
            Until(() => Main.Contains($"'{name}' is saved", StringComparison.Ordinal), "The status is saved");
        }

        await SaysAsync("AQ-70031", "NEW");
        await SaysAsync("AQ-70032", "Awaiting payment");
        Go("/orders/statuses");
        Says("NEW belongs to no status here");
        PressIn(".odd", "NEW belongs", "a.btn");
        Until(() => ValueOf("name") == "NEW", "The form proposes a name");
        Saves("NEW");
        Assert.DoesNotContain("NEW belongs to no status", Main);
        Assert.Equal("new", await StatusAsync("AQ-70031"));

        // Its id is the word under which other pages make a thing; it can be changed all the same.
        Go("/orders/statuses?id=new");
        Assert.Equal("NEW", ValueOf("name"));
        Saves("Just in");
        PressIn(".odd", "Awaiting payment belongs", "a.btn");
        Until(() => ValueOf("words") == "Awaiting payment", "The word stands in the form");
        Saves("Waits for money");
        Assert.Equal("waits-for-money", await StatusAsync("AQ-70032"));
        await SaysAsync("AQ-70033", "AWAITING PAYMENT");
        await World.UntilAsync("/api/orders?q=AQ-70033", o => (string?)o["items"]?[0]?["status"] == "waits-for-money");
        Go("/orders/statuses?id=waits-for-money");
        Assert.Equal("Awaiting payment", ValueOf("words"));
        Browser.FindElement(By.Id("words")).SendKeys("; just in");
        Choose("form.ef .btn-primary");
        Says("'just in' means 'Just in' already.");
    }

    [Fact]
    public async Task A_status_gets_a_tone_is_dragged_to_its_place_and_begins_a_rule()
    {
        Go("/orders/statuses?id=alongside");
        Says("What happens when an order goes to Alongside");
        Says("Alongside, drivers to the quay");
        Choose(".tones label:has(input[value=dusk])");
        Choose("form.ef .btn-primary");
        Says("'Alongside' is saved");
        Assert.NotEmpty(Browser.FindElements(By.CssSelector("tr[data-status=alongside] .st-dusk")));
        var (status, body, _) = await World.SendAsync(
            HttpMethod.Put,
            "/api/statuses/alongside",
            World.World.Demo.Token,
            """{"name":"Alongside","mark":"alongside","kind":"open","tone":"duck"}"""
        );
        Assert.Equal(System.Net.HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains("is no tone. Choose one of ink, umber, dusk, glass, sand, sky", body!.ToJsonString());

        Browser.ExecuteScript(
            "const [what, onto] = [...arguments].map(id => document.querySelector(`tr[data-status=${id}]`)), dataTransfer = new DataTransfer(); for (const [kind, on] of [['dragstart', what], ['dragover', onto], ['drop', onto], ['dragend', what]]) on.dispatchEvent(new DragEvent(kind, { bubbles: true, cancelable: true, dataTransfer }));",
            "picking",
            "credit-check"
        );
        Until(() => Order().IndexOf("picking") == 1 && Order().IndexOf("credit-check") == 2, "Picking stands before Credit check");
        Go("/orders/statuses?id=picking");
        Choose("button[formaction*='place=3']");
        Until(() => Order().IndexOf("picking") == 2, "Its button puts it back");

        Choose("a.btn[href*='entered=']");
        Until(() => ValueOf("name") == "Picking", "The new rule begins with the status");
        Says("the value after is Picking");

        List<string> Order() => Steady(() => Browser.FindElements(By.CssSelector("tr[data-status]")).Select(r => r.GetAttribute("data-status")!).ToList());
    }

    [Fact]
    public async Task What_the_customer_is_written_stands_at_the_status_as_they_would_read_it()
    {
        await World.EventAsync(
            WorldFixture.Event(
                "letter-1",
                "AQ-70123",
                more: ",\"status\":\"alongside\",\"customer\":{\"name\":\"MV Corvane\",\"email\":\"purser@corvane.example\"}"
            )
        );
        var (status, _, _) = await World.SendAsync(
            HttpMethod.Put,
            "/api/rules/at-the-berth",
            World.World.Demo.Token,
            "name: At the berth\nwhen: [order.status-changed]\nonlyIf: { field: change.after, is: equal, value: alongside }\ntell: [ { role: customer } ]\nby: { allAtOnce: [mail] }",
            "application/yaml"
        );
        Assert.Equal(System.Net.HttpStatusCode.Created, status);
        Go("/orders/statuses?id=alongside");
        Says("At the berth");
        var said = TextsOf(".goes-w dd");
        Assert.Equal(2, said.Length);
        Assert.Matches("^Your order AQ-\\d+: At your berth\\s+Dear ", said[0]);
        Assert.Matches("^A sua encomenda AQ-\\d+: At your berth\\s+Olá ", said[1]);
        NoSeriousFault();
        Choose(".goes-w a");
        Says("Status changed, to customers");
    }

    [Fact]
    public void A_status_in_use_cannot_vanish_and_a_mistake_stands_at_its_field()
    {
        Go("/orders/statuses?id=signed-for");
        Choose("button[formaction*=Remove]");
        Browser.SwitchTo().Alert().Accept();
        Until(() => Main.Contains("'Signed for' cannot vanish:", StringComparison.Ordinal), "It is refused with the reason");
        Browser.FindElement(By.Id("words")).SendKeys(", kitchen");
        Browser.FindElement(By.Id("allowed")).SendKeys("soon");
        Choose("form.ef .btn-primary");
        Until(() => Main.Contains("'kitchen' means 'In the galley' already.", StringComparison.Ordinal), "The mistakes are said");
        Says("'soon' is no number of minutes.");
        Assert.Equal("soon", ValueOf("allowed"));
    }

    [Fact]
    public async Task An_event_of_the_business_s_own_is_named_and_chosen_in_a_rule()
    {
        await World.EventAsync(WorldFixture.Event("own-1", "AQ-70003", type: "order.seal-broken", more: ",\"extra\":{\"seal\":\"S-77\"}"));
        Go("/orders/fields");
        Says("order.seal-broken came 1 time and has no name here.");
        Choose(".odd a.btn");
        Browser.FindElement(By.Id("ename")).SendKeys("Seal broken");
        Browser.FindElement(By.Id("phrase")).SendKeys("an order's seal is broken");
        Choose("#name-it .btn-primary");
        Until(() => Main.Contains("'Seal broken' can be chosen in rules.", StringComparison.Ordinal), "The event is named");
        Until(
            () =>
            {
                Go("/orders/fields?q=seal");
                return Main.Contains("order.extra.seal", StringComparison.Ordinal) && Main.Contains("S-77", StringComparison.Ordinal);
            },
            "The field that it carries is found"
        );
        GoToNewRule();
        Browser.FindElement(By.Id("name")).SendKeys("Seals");
        Choose("#when-0 option[value='order.seal-broken']");
        Press("button[value='add:c']", "c-0-f");
        Press("#c-0-f option[value='order.extra.seal']", "c-0-is");
        Assert.Contains("S-77", Browser.FindElement(By.Id("c-0-l")).GetAttribute("innerHTML"));
        Browser.FindElement(By.Id("c-0-v0")).SendKeys("S-77");
        Press("#k0-t0 option[value='team:desk']", "k0-t0");
        Until(
            () => Main.Contains("When an order's seal is broken and seal is S-77, tell everyone in Desk by mail.", StringComparison.Ordinal),
            "The sentence says the event's own words"
        );
    }

    [Fact]
    public void Why_a_person_was_not_told_is_answered_from_Proof()
    {
        var number = (string)
            World.GetAsync("/api/alerts?limit=100").Result.Body!["items"]!.AsArray().First(a => (string)a!["rule"]! == "placed-close-to-sailing")!["order"]!;
        Go("/proof");
        Browser.FindElement(By.Id("ask-order")).SendKeys(number);
        Choose("select[name=person] option[value='jonas.weil']");
        Choose(".ask button");
        Until(() => TextOf(By.Id("why")).Contains("Jonas Weil", StringComparison.Ordinal), "The order answers");
        Assert.Contains("and would tell others:", TextOf(By.Id("why")));
    }

    [Fact]
    public async Task My_alerts_show_what_the_screen_was_told_land_it_and_take_an_answer()
    {
        await World.SendAsync(
            HttpMethod.Put,
            "/api/rules/own-screen",
            World.World.Demo.Token,
            "name: Own screen\nwhen: [test.screen]\nurgency: urgent\ntell: [ { person: maren.holt } ]\nby: { allAtOnce: [screen] }",
            "application/yaml"
        );
        await World.EventAsync(WorldFixture.Event("scr-1", "AQ-70010", type: "test.screen", more: ",\"customer\":{\"name\":\"MV Corvane\"}"));
        await World.UntilAsync("/api/deliveries?order=AQ-70010", d => d["items"]!.AsArray().Count == 1);
        Go("/mine");
        Until(() => TextsOf(".mc.waits").Any(c => c.Contains("AQ-70010", StringComparison.Ordinal)), "The alert is on the page");
        NoSeriousFault();
        await World.UntilAsync("/api/deliveries?order=AQ-70010", d => (string)d["items"]![0]!["state"]! == "landed");
        // Other alerts may wait for her too.
        PressIn(".mc", "AQ-70010", "button[value=taken]");
        Until(() => Main.Contains("You have it.", StringComparison.Ordinal), "The answer is taken");
        PressIn(".mc", "AQ-70010", "button[value=done]");
        Until(() => Main.Contains("Done. Thank you.", StringComparison.Ordinal), "It is done");
        Assert.Equal("done", (string)(await World.GetAsync("/api/alerts?order=AQ-70010")).Body!["items"]![0]!["state"]!);
    }

    [Fact]
    public async Task Statuses_are_documents_with_a_version()
    {
        var token = World.World.Demo.Token;
        async Task<(System.Net.HttpStatusCode Status, System.Text.Json.Nodes.JsonNode? Body, string? Tag)> Put(string body, string? match = null)
        {
            var (status, answer, raw) = await World.SendAsync(
                HttpMethod.Put,
                "/api/statuses/at-the-gate",
                token,
                body,
                "application/json",
                match is null ? [] : [("If-Match", match)]
            );
            return (status, answer, raw.Headers.ETag?.Tag);
        }

        var made = await Put("""{"name":"At the gate","mark":"gate","kind":"open","words":["GATE","gated"],"allowedMinutes":45}""");
        Assert.Equal(System.Net.HttpStatusCode.Created, made.Status);
        Assert.Equal(["gate", "gated"], made.Body!["words"]!.AsArray().Select(w => ((string)w!).ToLowerInvariant()));
        var changed = await Put("""{"name":"At the gate","mark":"gate","kind":"closed"}""", made.Tag);
        Assert.Equal(System.Net.HttpStatusCode.OK, changed.Status);
        Assert.NotEqual(made.Tag, changed.Tag);
        var stale = await Put("""{"name":"At the gate","mark":"gate","kind":"open"}""", made.Tag);
        Assert.Equal(System.Net.HttpStatusCode.PreconditionFailed, stale.Status);
        Assert.Equal("closed", (string)stale.Body!["current"]!["kind"]!);
        var wrong = await Put("""{"name":"At the gate","mark":"anchor","kind":"shut","allowedMinutes":0,"colour":"red"}""");
        Assert.Equal(System.Net.HttpStatusCode.UnprocessableEntity, wrong.Status);
        Assert.Equal(["colour"], wrong.Body!["errors"]!.AsArray().Select(e => (string)e!["path"]!));
        var several = await Put("""{"name":"At the gate","mark":"gate","kind":"open","words":["at gate","gate, shut"]}""");
        Assert.Equal(System.Net.HttpStatusCode.UnprocessableEntity, several.Status);
        Assert.StartsWith("'gate, shut' is several words", (string?)several.Body!["errors"]![0]!["problem"]);
        var spaced = await Put("""{"name":"At the gate","mark":"gate","kind":"open","words":["at gate","gate shut"]}""");
        Assert.Equal(["at gate", "gate shut"], spaced.Body!["words"]!.AsArray().Select(w => (string)w!));
        async Task<string[]> OrderAsync() => [.. (await World.GetAsync("/api/statuses")).Body!["items"]!.AsArray().Select(s => (string)s!["id"]!)];
        var before = await OrderAsync();
        Assert.Equal("at-the-gate", before[^1]);
        var placed = await Put("""{"name":"At the gate","mark":"gate","kind":"open","position":2}""");
        Assert.Equal(2, (int)placed.Body!["position"]!);
        string[] after = [before[0], "at-the-gate", .. before.Skip(1).SkipLast(1)];
        Assert.Equal(after, await OrderAsync());
        var nowhere = await Put("""{"name":"At the gate","mark":"gate","kind":"open","position":"second"}""");
        Assert.Equal("position", (string?)nowhere.Body!["errors"]![0]!["path"]);
        Assert.Equal(System.Net.HttpStatusCode.Conflict, (await World.SendAsync(HttpMethod.Delete, "/api/statuses/picking", token)).Status);
        Assert.Equal(System.Net.HttpStatusCode.NoContent, (await World.SendAsync(HttpMethod.Delete, "/api/statuses/at-the-gate", token)).Status);
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await World.GetAsync("/api/statuses/at-the-gate")).Status);
    }
}
