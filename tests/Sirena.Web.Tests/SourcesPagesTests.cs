using System.Net;
using OpenQA.Selenium;

namespace Sirena.Web.Tests;

/// <summary>
/// The supervisor's way: a source is connected, a body comes that nobody described, its values are clicked together, what lay there is taken again.
/// </summary>
public sealed class SourcesPagesTests(WorldFixture world) : BrowserTests(world)
{
    private Task<(HttpStatusCode Status, System.Text.Json.Nodes.JsonNode? Body, HttpResponseMessage Answer)> CallAsync(string body) =>
        World.SendAsync(HttpMethod.Post, "/api/in/fish-dock/a-long-secret", null, body);

    [Fact]
    public async Task An_order_system_of_its_own_shape_is_connected_without_a_programmer()
    {
        Go("/sources?id=new&edit=true");
        Browser.FindElement(By.Id("sname")).SendKeys("Fish dock");
        Choose("#proof option[value=inAddress]");
        Browser.FindElement(By.Id("secret-f")).SendKeys("a-long-secret");
        Choose("form.ef .btn-primary");
        Says("Fish dock is connected");
        Says("Nothing has arrived yet");
        foreach (var n in new[] { 1, 2, 3 })
        {
            var (status, _, _) = await CallAsync(
                $$"""{"kind":"NEW","head":{"order_no":"F-{{n}}","state":"received","due":"{{n + 12}}/05/2027 10:00"},"sum":"1.2{{n}}0,00"}"""
            );
            Assert.Equal(HttpStatusCode.Accepted, status);
        }

        await World.UntilAsync("/api/sources/fish-dock/arrivals?state=not-understood", a => a["items"]!.AsArray().Count == 3);
        Go("/sources/fish-dock/reading");
        Says("3 bodies of Fish dock to be read");
        Press("button[value=propose]", "map");
        Says("leaves no other way");
        Press("button[value='take:all']", "map");
        Says("3 of Fish dock’s last 3 bodies are understood");
        Says("Received");
        NoSeriousFault();

        // One value by hand: the field first, then its value.
        Choose("#addf option[value='order.via']");
        Until(
            () =>
                Browser.FindElements(By.CssSelector("button[value='value:$.kind']")).Count == 1
                && Main.Contains("is open: click its value", StringComparison.Ordinal),
            "The field waits for its value"
        );
        Press("button[value='value:$.kind']", "map");
        Until(() => TextOf(By.Id("row-order-via")).Contains("NEW", StringComparison.Ordinal), "What comes out is shown");
        Press("#row-order-via button[value='drop:order.via']", "map");
        Choose(".head .btn-primary");
        Says("Reading 1 is in force");
        Says("3 of the 3 kept would be understood now");
        Choose(".srct .btn-primary");
        Says("3 bodies are understood now");
        var trail = await World.UntilAsync("/api/orders/F-3/trail", t => t["events"]!.AsArray().Any(e => e!["decidedAt"] is not null));
        Assert.True((bool)trail["events"]![0]!["decidedLate"]!);

        // Its shape changes: what comes is kept, the strip says so, and the page leads to the body.
        await CallAsync("""{"kind":"NEW","head":{"order_no":"F-9","state":"received","due":"31/02/2027 10:00"},"sum":"9,00"}""");
        // Other tests trouble the strip too: behind its "more" it may be.
        Until(
            () => Browser.FindElement(By.Id("strip")).GetDomProperty("textContent")!.Contains("not understood", StringComparison.Ordinal),
            "The strip says it"
        );
        Go("/sources?id=fish-dock");
        Browser.FindElement(By.LinkText("mend")).Click();
        Says("cannot be read");
        Says("31/02/2027 10:00");
        NoSeriousFault();
    }

    [Fact]
    public async Task A_list_is_looked_at_before_it_is_real()
    {
        await World.SendAsync(
            HttpMethod.Put,
            "/api/sources/dock-list",
            World.World.Demo.Token,
            """{ "name": "Dock list", "kind": "listing", "prefix": "DL-", "listing": { "key": "no" }, "reading": { "order": { "number": { "column": "no" }, "status": { "column": "status" } } } }"""
        );
        Go("/sources/dock-list/listing");
        Says("No list has come yet");
        Hand("no;status\n1;received\n2;received\n");
        Says("This list would change 2 orders and tell nobody");
        Assert.Equal(0, await World.World.CountAsync("select count(*) from orders where number like 'DL-%'"));
        Choose("button[formaction*=Take]");
        Says("taken");
        Assert.Equal(2, await World.World.CountAsync("select count(*) from orders where number like 'DL-%'"));
        Hand("no;status\n1;picking\n2;received\nx\n");
        Says("This list would change 1 order and tell");
        Says("the row has 1 of 2 cells");
        NoSeriousFault();
        Go("/sources/dock-list/listing");
        Hand("no;status\n1;\"picking\n");
        Says("never closed");
    }

    [Fact]
    public async Task A_bad_cell_is_mended_and_each_gone_row_gets_its_meaning_before_the_list_is_taken()
    {
        await World.SendAsync(
            HttpMethod.Put,
            "/api/sources/berth-book",
            World.World.Demo.Token,
            """{ "name": "Berth book", "kind": "listing", "prefix": "BB-", "listing": { "key": "no", "gone": "cancelled", "goneAtMost": 1 }, "reading": { "order": { "number": { "column": "no" }, "status": { "column": "status" }, "dueAt": { "column": "sails", "form": "dd/MM/uuuu HH:mm", "zone": "Europe/Lisbon" } } } }"""
        );
        Go("/sources/berth-book/listing");
        Hand("no;status;sails\n1;received;24/12/2026 09:00\n2;received;24/12/2026 10:00\n3;received;24/12/2026 11:00\n4;received;24/12/2026 12:00\n");
        Says("This list would change 4 orders");
        Choose("button[formaction*=Take]");
        Says("4 new, 0 changed and 0 gone rows are taken");
        Go("/sources/berth-book/listing");
        Hand("no;status;sails\n1;received;24/12/2026 13:30\n5;received;31/05/2027 25:00\n");
        Says("This list would change 4 orders");
        Says("Thu 24 Dec 13:30");
        Says("sails: wanted is a time of the form dd/MM/uuuu HH:mm");
        NoSeriousFault();
        Choose(".means select[aria-label$=' 2 is gone'] option[value='signed-for']");
        Until(
            () => Browser.FindElements(By.CssSelector(".means select[aria-label$=' 2 is gone'] option[value='signed-for'][selected]")).Count == 1,
            "The meaning is kept"
        );
        Choose(".means select[aria-label$=' 3 is gone'] option[value='=stays']");
        Until(
            () => Browser.FindElements(By.CssSelector(".means select[aria-label$=' 3 is gone'] option[value='=stays'][selected]")).Count == 1,
            "The other meaning is kept"
        );
        var cell = Browser.FindElement(By.CssSelector(".mend input[name=text]"));
        cell.Clear();
        cell.SendKeys("31/05/2027 05:00");
        Choose(".mend button");
        Says("This list would change 5 orders");
        Assert.DoesNotContain("wanted is", Main, StringComparison.Ordinal);
        var run = Browser.Url;
        Choose("button[formaction*=Take]");
        Says("1 new, 1 changed and 3 gone rows are taken");
        async Task<string?> StatusAsync(string order) =>
            (string?)
                (await World.UntilAsync($"/api/orders/{order}/trail", t => t["events"]!.AsArray().All(e => e!["decidedAt"] is not null)))["order"]?["status"];
        Assert.Equal(
            ("signed-for", "received", "cancelled", "received"),
            (await StatusAsync("BB-2"), await StatusAsync("BB-3"), await StatusAsync("BB-4"), await StatusAsync("BB-5"))
        );

        // An ended run opens as it was, and can be changed no more.
        Open(run);
        Says("1 new, 1 changed, 3 gone of 2 rows");
        Says("counts as still open");
        Assert.True(Without(".mend, .means, button[formaction*=Take]"));

        // The row that stays is asked about again.
        Go("/sources/berth-book/listing");
        Hand("no;status;sails\n1;received;24/12/2026 13:30\n5;received;31/05/2027 05:00\n");
        Says("This list would change 1 order");
        Says("due 24 Dec 11:00");
    }

    [Fact]
    public async Task Many_rows_come_in_pages()
    {
        await World.SendAsync(
            HttpMethod.Put,
            "/api/sources/long-list",
            World.World.Demo.Token,
            """{ "name": "Long list", "kind": "listing", "prefix": "LL-", "listing": { "key": "no" }, "reading": { "order": { "number": { "column": "no" }, "status": { "column": "status" } } } }"""
        );
        Go("/sources/long-list/listing");
        Hand("no;status\n" + string.Concat(Enumerable.Range(1, 450).Select(n => $"{n};received\n")));
        Says("This list would change 450 orders");
        Says("442 more new");
        Choose(".lst tbody tr:last-child a");
        Says("Page 1 of 3");
        Choose("a[rel=next]");
        Says("Page 2 of 3");
        Assert.Equal(200, Browser.FindElements(By.CssSelector(".lst td.id")).Count);
    }

    [Fact]
    public async Task A_source_of_which_nothing_is_expected_is_not_said_to_be_quiet()
    {
        await World.SendAsync(
            HttpMethod.Put,
            "/api/sources/still-dock",
            World.World.Demo.Token,
            """{ "name": "Still dock", "kind": "calls", "proof": { "key": true } }"""
        );
        await World.World.ExecuteAsync(
            "update sources set last_at = now() - interval '3 hours', silent_since = now() - interval '3 hours' where id = 'still-dock'"
        );
        Go("/sources?id=still-dock");
        Says("Nothing since");
        Browser.FindElement(By.CssSelector("form[action*=NotBefore] input[name=why]")).SendKeys("x");
        Choose("form[action*=NotBefore] button");
        Says("Say in 3 to 200 characters why");
        var why = Browser.FindElement(By.CssSelector("form[action*=NotBefore] input[name=why]"));
        why.Clear();
        why.SendKeys("it is being updated");
        Choose("form[action*=NotBefore] button");
        Says("Nothing is expected of it before");
        Says("it is being updated");
        Assert.DoesNotContain("Nothing since", Main, StringComparison.Ordinal);
        NoSeriousFault();
        Choose("form[action*=Expect] button");
        Says("Nothing since");
    }

    [Fact]
    public void The_columns_of_a_list_are_clicked_together_too()
    {
        Go("/sources?id=new&edit=true");
        Browser.FindElement(By.Id("sname")).SendKeys("Yacht book");
        Choose("#kind option[value=listing]");
        Choose("details.more-f summary");
        Browser.FindElement(By.Id("key")).SendKeys("Nr");
        Choose("form.ef .btn-primary");
        Until(() => TextOf(By.Id("secret")).Length > 0, "It is connected");
        Go("/sources/yacht-book/listing");
        Hand("Nr;Stand;Liefertermin;Betrag\nY1;received;24.12.2026;1.284,50\nY2;picking;03.12.2026;7,00\n");
        Says("say which column is what");
        Go("/sources/yacht-book/reading");
        Press("button[value=propose]", "map");
        Press("button[value='take:all']", "map");
        Says("2 of Yacht book’s last 2 bodies are understood");
        Choose(".head .btn-primary");
        Says("Reading 1 is in force");
        Go("/sources/yacht-book/listing");
        Hand("Nr;Stand;Liefertermin;Betrag\nY1;received;24.12.2026;1.284,50\nY2;picking;03.12.2026;7,00\n");
        Says("This list would change 2 orders and tell nobody");
        Says("Thu 24 Dec 00:00");
    }

    [Fact]
    public async Task What_was_not_heard_is_taken_over()
    {
        await World.SendAsync(
            HttpMethod.Put,
            "/api/sources/own-list",
            World.World.Demo.Token,
            """{ "name": "Its own list", "kind": "listing", "prefix": "OL-", "listing": { "role": "check", "key": "no", "stands": 1 }, "reading": { "order": { "number": { "column": "no" }, "status": { "column": "status" } } } }"""
        );
        await World.SendAsync(
            HttpMethod.Put,
            "/api/sources/own-ledger",
            World.World.Demo.Token,
            """{ "name": "Own ledger", "kind": "calls", "prefix": "OL-", "proof": { "key": true } }"""
        );
        Go("/sources/own-list/listing");
        Hand("no;status\n1;received\n2;received\n");
        Choose("button[formaction*=Take]");
        Says("taken");
        Go("/orders/missing?source=own-list");
        Says("2 orders differ from what the order system knows");
        Assert.NotEmpty(Browser.FindElements(By.CssSelector("svg.missd")));
        NoSeriousFault();

        // What is refused forgets neither the orders that were chosen nor the reason.
        Choose("input[value='own-list|OL-2']");
        Choose("button[formaction*=SetAside]");
        Says("Nothing was set aside: say why, in 3 to 500 characters.");
        Assert.True(Browser.FindElement(By.CssSelector("input[value='own-list|OL-2']")).Selected);
        Choose("input[value='own-list|OL-2']");
        Type("input[name=reason]", "A trial of theirs");
        Choose("button[formaction*=SetAside]");
        Says("Nothing was set aside: choose orders.");
        Assert.Equal("A trial of theirs", Browser.FindElement(By.Name("reason")).GetAttribute("value"));
        Choose("input[value='own-list|OL-2']");
        Choose("button[formaction*=SetAside]");
        Says("1 difference is set aside; it comes back when the order changes there again.");
        Says("1 order differs from what the order system knows");
        Choose("input[value='own-list|OL-1']");
        Choose(".card-foot .btn-primary");
        Browser.SwitchTo().Alert().Accept();
        Says("1 order is taken over as of now");
        Says("The order system and Sirena agree");
        await World.UntilAsync("/api/orders/OL-1/trail", t => t["events"]!.AsArray().Count == 1);
    }

    private void Hand(string list)
    {
        // The browser reads it when the form goes: it stays.
        var file = Path.Combine(Path.GetTempPath(), $"list-{Guid.NewGuid():N}.csv");
        File.WriteAllText(file, list);
        Browser.FindElement(By.CssSelector("input[type=file]")).SendKeys(file);
        Choose("form[enctype] button");
    }

    [Fact]
    public async Task Somebody_with_a_link_sees_that_one_station_and_what_became_of_their_calls()
    {
        Go("/first-day?at=Orders&keep=true");
        Choose("button[formaction*='handler=Link']");
        var link = "";
        Until(() => (link = TextOf(By.Id("given"))).Contains("/first-day/orders/", StringComparison.Ordinal), "The link is shown");
        await World.SendAsync(HttpMethod.Post, "/api/events", "no-key-of-ours", "{}", "application/cloudevents+json");
        await World.EventAsync("{ this is no event");

        // Without a user: the page of the link, and nothing else.
        SignOut();
        Go(new Uri(link).AbsolutePath);
        Tells("Connect the order system of Averil Quay Provisions");
        Tells("A source key is needed.");
        Tells("The body cannot be read.");
        Browser.FindElement(By.CssSelector(".fd-r summary")).Click();
        Until(() => TextOf(By.CssSelector(".fd-r pre")).Contains("this is no event", StringComparison.Ordinal), "It stands there word for word");
        // What is being read stays as it is; once the keys are elsewhere, the page goes on.
        Browser.FindElement(By.TagName("h1")).Click();
        await World.EventAsync("[]", "text/plain");
        Tells("This content type is not taken.");
        NoSeriousFault();

        // The demo's order system has proved itself: its key is not replaced by whoever holds the link.
        Assert.True(Without("main form button"));
        Go("/first-day");
        Until(() => Browser.Url.Contains("/sign-in", StringComparison.Ordinal), "The other stations ask who it is");
        Go("/first-day/orders/nothing");
        Tells("This link does not work");

        // A page without the frame of those that are signed in.
        void Tells(string words) => Until(() => TextOf(By.TagName("body")).Contains(words, StringComparison.Ordinal), $"The page does not say '{words}'");
    }

    // Hours of several rows were one row after anything else of the source had been saved.
    [Fact]
    public async Task Hours_of_intake_keep_all_their_rows_and_what_is_half_said_is_asked_about()
    {
        var token = World.World.Demo.Token;
        const string Source = "/api/sources/hours-kept";
        var (made, _, _) = await World.SendAsync(
            HttpMethod.Put,
            Source,
            token,
            """{"name":"Hours kept","kind":"calls","takes":["intake"],"intake":{"open":[{"days":["mon","tue"],"from":"08:00","to":"18:00"},{"days":["sat"],"from":"09:00","to":"13:00"}],"exceptions":[{"date":"2026-12-24","from":"08:00","to":"12:00","name":"Christmas Eve"}],"holidays":true}}"""
        );
        Assert.Equal(System.Net.HttpStatusCode.Created, made);
        async Task<string> HoursAsync()
        {
            var intake = (await World.GetAsync(Source)).Body!["intake"]!;
            return intake is System.Text.Json.Nodes.JsonObject
                ? string.Join(
                    "; ",
                    intake["open"]!
                        .AsArray()
                        .Select(o => $"{string.Join(',', o!["days"]!.AsArray())} {o["from"]}-{o["to"]}")
                        .Concat(intake["exceptions"]!.AsArray().Select(e => $"{e!["date"]} {e["from"]}-{e["to"]} {e["name"]}"))
                )
                : intake.ToString();
        }

        var before = await HoursAsync();
        void Save() => Choose("form.ef .btn-primary");
        void Open()
        {
            Go("/sources?id=hours-kept&edit=true");
            Browser.ExecuteScript("document.querySelectorAll('details.more-f').forEach(d => d.open = true)");
        }

        Open();
        Type("#sname", "Hours kept well");
        Save();
        Says("Hours kept well is saved.");
        Assert.Equal(before, await HoursAsync());

        Open();
        Type("[id='intake.2.from']", "10");
        Save();
        Until(() => Browser.FindElements(By.CssSelector("form.ef .invalid-feedback")).Any(e => e.Displayed), "The other half is asked about");
        Assert.Equal(before, await HoursAsync());
        Type("[id='intake.2.to']", "12:30");
        Browser.ExecuteScript("document.querySelector('[name=\"intake.2.days\"][value=sun]').checked = true");
        Type("#intakeExceptions", "2026-12-24 8:00 – 12:00 Christmas Eve");
        Save();
        Says("Hours kept well is saved.");
        Assert.Contains("sun 10:00-12:30", await HoursAsync(), StringComparison.Ordinal);
        Assert.Contains("2026-12-24 08:00-12:00 Christmas Eve", await HoursAsync(), StringComparison.Ordinal);

        // A mistake in the last row alone leaves that row where it stands.
        void ClearRow(int row)
        {
            Browser.FindElement(By.Id($"intake.{row}.from")).Clear();
            Browser.FindElement(By.Id($"intake.{row}.to")).Clear();
        }

        Open();
        ClearRow(0);
        ClearRow(1);
        Type("[id='intake.2.to']", "soon");
        Save();
        Says("'soon' is no time of day");
        Assert.Equal("soon", ValueOf("intake.2.to"));

        Open();
        foreach (var row in new[] { 0, 1, 2 })
        {
            ClearRow(row);
        }

        Save();
        Says("Days that differ need the usual hours beside them");
        Browser.FindElement(By.Id("intakeExceptions")).Clear();
        Save();
        Says("Hours kept well is saved.");
        Assert.Equal("always", await HoursAsync());
        await World.SendAsync(HttpMethod.Delete, Source, token);
    }
}
