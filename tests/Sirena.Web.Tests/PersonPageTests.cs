using System.Net;
using System.Text.Json.Nodes;
using OpenQA.Selenium;

namespace Sirena.Web.Tests;

/// <summary>What somebody wishes and how they are reached, on their own page; people who leave and come back; teams; a rota replaced by a file.</summary>
public sealed class PersonPageTests(WorldFixture world) : BrowserTests(world)
{
    private string Token => World.World.Demo.Token;

    private async Task<JsonNode> PersonAsync(string id) => (await World.GetAsync("/api/people/" + id)).Body!;

    // Presses the button or link of that name, in the row or form that says some words where they are given.
    private void PressNamed(string name, string within = "", bool asks = false)
    {
        var place = within.Length == 0 ? "" : $"[ancestor::*[self::tr or self::form][contains(.,'{within}')]]";
        var button = By.XPath($"//main//button[normalize-space()='{name}']{place}");
        Until(() => Browser.FindElements(button).Count > 0, $"There is '{name}'");
        if (!asks)
        {
            // What is understood of a time comes beneath its field as it is typed and moves what lies below: found and pressed in one go.
            Until(() => Browser.ExecuteScript("arguments[0].click(); return true", Browser.FindElement(button)) is true, $"'{name}' is pressed");
            return;
        }

        Browser.ExecuteScript("arguments[0].scrollIntoView({ block: 'center', behavior: 'instant' })", Browser.FindElement(button));
        Browser.FindElement(button).Click();
        Browser.SwitchTo().Alert().Accept();
    }

    private void OpenAll() => Browser.ExecuteScript("document.querySelectorAll('main details').forEach(d => d.open = true)");

    [Fact]
    public async Task Somebody_of_the_staff_says_what_they_wish_and_takes_it_back()
    {
        SignIn(1);
        Go("/people/ines.calder");
        var before = await PersonAsync("ines.calder");
        OpenAll();
        PressNamed("Opt out");
        Assert.DoesNotContain("Opted out.", Main);
        Choose("select[name=of] option[value='event:order.held']");
        Choose("form:has(select[name=of]) select[name=channel] option[value=sms]");
        PressNamed("Opt out");
        Says("Opted out.");
        Says("when an order is held by SMS");
        Assert.Contains("order.held", (await PersonAsync("ines.calder"))["optOuts"]!.ToJsonString());
        PressNamed("Opt in", "when an order is held by SMS");
        Says("Opted in again.");

        OpenAll();
        Type("#q-f", "25:00");
        Says("No time of day. Write one such as 8:30");
        Unchecked("#q-f");
        PressNamed("Add", "Beginning on");
        Says("'25:00'");
        Assert.True(Browser.FindElement(By.Id("q-f")).Displayed, "What was typed is not shut away");
        Assert.Equal("25:00", ValueOf("q-f"));
        Type("#q-f", "22.15");
        Type("#q-t", "5:45");
        Choose("label:has(input[name=days][value=Friday])");
        PressNamed("Add", "Beginning on");
        Says("Quiet hours added.");
        Says("22:15 to 05:45");
        Assert.Contains("22:15", (await PersonAsync("ines.calder"))["quiet"]!.ToJsonString());
        PressNamed("End", "22:15 to 05:45");
        Says("Quiet hours taken away.");

        Choose("#fb-prompt option[value=sms]");
        PressNamed("Save the order");
        Says("Saved.");
        Assert.Equal("sms", (string?)(await PersonAsync("ines.calder"))["first"]!["prompt"]);
        Choose("#fb-prompt option[value='']");
        PressNamed("Save the order");
        Says("Saved.");

        Type("#lv-f", "3 May 2028");
        Type("#lv-t", "1 May 2028");
        PressNamed("Add leave");
        Says("The leave ends before it begins.");
        Type("#lv-t", "5 May 2028");
        PressNamed("Add leave");
        Says("Leave added; nobody covers.");
        Says("3 May 2028");
        PressNamed("Take away", "3 May 2028");
        Says("Leave taken away.");
        Assert.Equal(before.ToJsonString(), (await PersonAsync("ines.calder")).ToJsonString());

        // What is decided for them by others is not theirs to change.
        Assert.True(Without("form[action*=Archive]"));
        Assert.True(Browser.FindElements(By.Id("f-name")).All(f => !f.Enabled));
    }

    [Fact]
    public async Task An_address_is_put_first_and_taken_away_and_a_broken_one_is_used_again()
    {
        const string Two = """[{"channel":"mail","address":"wanda@one.example"},{"channel":"mail","address":"wanda@two.example"}]""";
        Assert.Equal(
            HttpStatusCode.OK,
            (await World.SendAsync(HttpMethod.Patch, "/api/people/wanda.petrov", Token, $$"""{"contacts":{{Two}}}""", "application/merge-patch+json")).Status
        );
        Go("/people/wanda.petrov");
        string[] Addresses() => TextsOf("section[aria-labelledby=h-con] td b");
        Assert.Equal(["wanda@one.example", "wanda@two.example"], Addresses());
        PressNamed("Use first", "wanda@two.example");
        Says("wanda@two.example is used first.");
        Assert.Equal(["wanda@two.example", "wanda@one.example"], Addresses());
        PressNamed("Take away", "wanda@one.example", asks: true);
        Says("wanda@one.example taken away.");
        Assert.Equal(["wanda@two.example"], Addresses());
        await World.World.ExecuteAsync(
            "update contact_points set broken_at = now(), broken_because = '550 no such mailbox' where address = 'wanda@two.example'; update business set rota_version = rota_version + 1"
        );
        Until(
            () =>
            {
                Go("/people/wanda.petrov");
                return Main.Contains("broken since", StringComparison.Ordinal);
            },
            "It is broken"
        );
        Says("550 no such mailbox");
        PressNamed("It is mended", "wanda@two.example");
        Says("wanda@two.example is used again.");
        Assert.DoesNotContain("broken since", Main);
    }

    [Fact]
    public async Task Whoever_leaves_is_told_nothing_and_may_come_back()
    {
        Go("/people/new");
        Browser.FindElement(By.Id("f-name")).SendKeys("Teo Marsh");
        Browser.FindElement(By.Id("f-con")).SendKeys("teo@marsh");
        Choose("main form .btn-primary");
        Says("'teo@marsh' has no domain ending.");
        Assert.Equal("Teo Marsh", ValueOf("f-name"));
        Type("#f-con", "teo@marsh.example, teo@home.example");
        Choose("main form .btn-primary");
        Says("Teo Marsh is there. Add how to reach them, and their shifts.");
        Says("teo@home.example");

        // The same name once more is somebody else's id, and nothing of them is replaced.
        Go("/people/new");
        Browser.FindElement(By.Id("f-name")).SendKeys("Teo Marsh");
        Choose("main form .btn-primary");
        Says("Teo Marsh has the id 'teo.marsh' already. Write the name differently.");
        Assert.Equal(2, (await PersonAsync("teo.marsh"))["contacts"]!.AsArray().Count);

        Go("/people/teo.marsh");
        Says("No open alert waits for Teo.");
        PressNamed("Archive Teo", asks: true);
        Says("Archived: nobody tells them anything any more");
        Assert.True((bool)(await PersonAsync("teo.marsh"))["archived"]!);
        Go("/people?find=teo+marsh");
        Says("Nobody fits that.");
        Go("/people/teo.marsh");
        PressNamed("Bring back");
        Says("They can be told again.");
        Go("/people?find=teo+marsh");
        Says("Teo Marsh");

        // A name that is a word of the pages' addresses gets an id at which the page opens.
        Go("/people/new");
        Browser.FindElement(By.Id("f-name")).SendKeys("New");
        Choose("main form .btn-primary");
        Says("New is there.");
        Assert.EndsWith("/people/new-2", Browser.Url, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_team_and_a_site_are_made_and_changed_and_none_is_made_twice()
    {
        Go("/people/teams");
        Browser.FindElement(By.Id("tn")).SendKeys("Night watch");
        PressNamed("Add it", "A new team");
        Says("Saved the team Night watch.");
        Browser.FindElement(By.Id("tn")).SendKeys("night  WATCH");
        PressNamed("Add it", "A new team");
        Says("There is a team 'night-watch' already.");
        Browser.FindElement(By.Id("sn")).SendKeys("Dry dock");
        PressNamed("Add it", "A new site");
        Says("Saved the site Dry dock.");
        OpenAll();
        Type("#tn-night-watch", "Watch of the night");
        Choose("form:has(#tn-night-watch) input[type=checkbox]");
        Choose("form:has(#tn-night-watch) .btn-primary");
        Says("Saved the team Watch of the night.");
        OpenAll();
        Type("#sp-dry-dock", "printer:99999");
        Choose("form:has(#sp-dry-dock) .btn-primary");
        Says("'printer:99999'");
        Assert.Single(Browser.FindElements(By.CssSelector("main details.edit[open]")));
        Assert.Equal("printer:99999", ValueOf("sp-dry-dock"));
        Type("#sp-dry-dock", "127.0.0.1:9100");
        Choose("#sm-dry-dock option[value='ines.calder']");
        Choose("#st-dry-dock option[value='night-watch']");
        Choose("form:has(#sp-dry-dock) .btn-primary");
        Says("Saved the site Dry dock.");
        var site = (await World.GetAsync("/api/sites")).Body!["items"]!.AsArray().Single(s => (string)s!["id"]! == "dry-dock")!;
        Assert.Equal(("ines.calder", "night-watch"), ((string?)site["manager"], (string?)site["team"]));
        var team = (await World.GetAsync("/api/teams")).Body!["items"]!.AsArray().Single(t => (string)t!["id"]! == "night-watch")!;
        Assert.Equal("Watch of the night", (string?)team["name"]);
    }

    [Fact]
    public async Task A_file_that_takes_most_of_a_rota_away_asks_first_and_a_feed_ends_when_it_is_revoked()
    {
        Assert.Equal(
            HttpStatusCode.OK,
            (
                await World.SendAsync(
                    HttpMethod.Put,
                    "/api/people",
                    Token,
                    "- { id: lou.finch, name: Lou Finch, teams: [divers], contacts: [ { channel: mail, address: lou@finch.example } ] }",
                    "application/yaml"
                )
            ).Status
        );
        static string Calendar(params int[] days) =>
            "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//elsewhere//EN\r\n"
            + string.Concat(
                days.Select(d =>
                    $"BEGIN:VEVENT\r\nUID:d{d}\r\nDTSTAMP:20260101T000000Z\r\nDTSTART:202703{d:00}T080000Z\r\nDTEND:202703{d:00}T160000Z\r\nATTENDEE:mailto:lou@finch.example\r\nEND:VEVENT\r\n"
                )
            )
            + $"BEGIN:VEVENT\r\nUID:x\r\nDTSTAMP:20260101T000000Z\r\nDTSTART:20270301T080000Z\r\nDTEND:20270301T090000Z\r\nSUMMARY:{new string('m', 5_000)}\r\nEND:VEVENT\r\n"
            + "END:VCALENDAR\r\n";
        Assert.Equal(HttpStatusCode.OK, (await World.SendAsync(HttpMethod.Put, "/api/teams/divers/rota", Token, Calendar(2, 3, 4), "text/calendar")).Status);
        var file = Path.Combine(Path.GetTempPath(), $"r-{Guid.NewGuid().ToString()[..8]}.ics");
        try
        {
            Go("/people/rota?team=divers&week=2027-03-01");
            int Shifts() => Browser.FindElements(By.CssSelector("[data-person='lou.finch'] a[data-from]")).Count;
            Assert.Equal(3, Shifts());
            void Import(string text)
            {
                File.WriteAllText(file, text);
                Browser.FindElement(By.Id("file")).SendKeys(file);
                PressNamed("Import", asks: true);
            }

            Import("<html>no calendar</html>");
            Says("Nothing was imported.");
            Assert.Equal(3, Shifts());
            Import(Calendar(2, 9));
            Says("2 of 3 shifts would go");
            NoSeriousFault();
            Browser.FindElement(By.LinkText("Leave the rota as it is")).Click();
            Until(() => Shifts() == 3, "Nothing has changed");
            Import(Calendar(2, 9));
            PressNamed("Replace it all the same");
            Says($"The rota of divers now has 2 entries from {Path.GetFileName(file)}.");

            // What is no shift is said, the begin of it: its whole name would not fit into what goes to the next page.
            Says("mmmm…, it names nobody on duty");
            Assert.Equal(1, Shifts());

            PressNamed("Make an address to subscribe to");
            Until(() => TextOf(By.CssSelector(".secret")).Contains("/rota/divers.ics?key=ck-", StringComparison.Ordinal), "The address is shown");
            var path = new Uri(TextOf(By.CssSelector(".secret"))).PathAndQuery;
            Assert.Equal(HttpStatusCode.OK, (await World.SendAsync(HttpMethod.Get, path, null)).Status);
            PressNamed("Revoke", asks: true);
            Says("That calendar address opens nothing any more.");
            Assert.Equal(HttpStatusCode.NotFound, (await World.SendAsync(HttpMethod.Get, path, null)).Status);
        }
        finally
        {
            File.Delete(file);
        }
    }
}
