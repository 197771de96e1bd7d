using OpenQA.Selenium;
using OpenQA.Selenium.Interactions;

namespace Sirena.Web.Tests;

/// <summary>
/// The pages about people in the browser: a dark hour is found and mended, a shift moved by keys, a person reached again; staff see only their own page.
/// </summary>
public sealed class PeoplePagesTests(WorldFixture world) : BrowserTests(world)
{
    [Fact]
    public void The_dark_Sunday_night_of_Credit_control_is_found_in_coverage_and_mended_there()
    {
        Go("/people/coverage?of=team:credit-control&week=2027-01-04");
        Says("Sun 23:00 to 24:00");
        Says("Nobody of Credit control is on duty until Mon 07:00.");
        Browser.FindElements(By.LinkText("Add a shift there")).Last().Click();
        Until(() => ValueOf("ad-from") == "Sun 10 Jan 2027, 23:00", "The form holds the dark hour");
        Browser.FindElement(By.CssSelector("#ad-who option[value='farah.mensah']")).Click();
        Browser.FindElement(By.CssSelector("#add .btn-primary")).Click();
        Until(
            () => Main.Contains("Farah Mensah is on duty for Credit control, Sun 10 Jan 23:00 to Mon 00:00.", StringComparison.Ordinal),
            "The shift is there"
        );
        Go("/people/who?rule=held-for-credit&at=2027-01-10T23:30");
        Says("1 person would be told on Sun 10 Jan, 23:30");
        Says("is on duty for Credit control");
        Go("/people/who?rule=held-for-credit&at=2027-01-17T23:30");
        Says("Nobody would be told");
    }

    [Fact]
    public async Task Many_people_come_in_pages_and_are_found_by_any_of_their_words()
    {
        var many = string.Concat(
            Enumerable
                .Range(1, 130)
                .Select(n =>
                    $"- {{ id: crew-{n}, name: Crew {n:000} Ólsen, teams: [night-crew], contacts: [ {{ channel: mail, address: crew{n}@averilquay.example }} ] }}\n"
                )
        );
        Assert.Equal(
            System.Net.HttpStatusCode.OK,
            (await World.SendAsync(HttpMethod.Put, "/api/people", World.World.Demo.Token, many, "application/yaml")).Status
        );
        Go("/people");
        Says("Page 1 of 3");
        Choose("a[rel=next]");
        Says("Page 2 of 3");
        Choose("#team option[value=night-crew]");
        Says("130 people");
        var find = Browser.FindElement(By.Id("find"));
        find.SendKeys("olsen 07");
        Until(
            () => Main.Contains("Crew 079 Ólsen", StringComparison.Ordinal) && !Main.Contains("Crew 080 Ólsen", StringComparison.Ordinal),
            "Marks and order of words do not matter"
        );
        Assert.Equal("find", Browser.SwitchTo().ActiveElement().GetAttribute("id"));
        find.SendKeys(" nobody");
        Says("Nobody fits that.");
        NoSeriousFault();
        Choose(".flt a");
        Says("Page 1 of 3");

        // More people than a page holds are fetched when somebody begins to choose.
        Go("/proof");
        Assert.Single(Browser.FindElements(By.CssSelector("select[name=person] option")));
        var choice = Browser.FindElement(By.Id("person-pick"));
        choice.SendKeys("crew 077");
        Until(() => Browser.FindElements(By.CssSelector("#person-pick-list .picko")).Count == 1, "One fits");
        choice.SendKeys(Keys.Enter);
        Assert.Equal("crew-77", Browser.FindElement(By.CssSelector("select[name=person]")).GetDomProperty("value"));

        // Taken out past Sirena, which looks again after a few seconds: the other tests want the lists as they were.
        await World.World.ExecuteAsync("delete from people where id like 'crew-%'; delete from teams where id = 'night-crew'");
        Until(
            () =>
            {
                Go("/people");
                return !Main.Contains("Page 1 of", StringComparison.Ordinal);
            },
            "They are gone"
        );
    }

    [Fact]
    public void An_answer_that_comes_while_the_time_is_moved_on_does_not_put_it_back()
    {
        Go("/people/who?rule=held-for-credit&at=2027-02-01T10:00");
        Browser.ExecuteScript(
            "const ask = window.fetch; window.fetch = (...what) => { window.fetch = ask; return ask(...what).then(answer => new Promise(go => { window.letIn = () => go(answer); })); }"
        );
        Browser.FindElement(By.Id("slide")).SendKeys(Keys.ArrowRight);
        Until(() => Browser.ExecuteScript("return !!window.letIn") is true, "The page is asked for a quarter past ten");
        Browser.ExecuteScript(
            "document.getElementById('slide').stepUp(); document.getElementById('slide').dispatchEvent(new Event('input', { bubbles: true })); letIn()"
        );
        Until(() => TextOf(By.TagName("h1")).EndsWith("Mon 1 Feb, 10:30", StringComparison.Ordinal), "The answer is that of half past ten");
    }

    [Fact]
    public void The_time_is_moved_and_the_answer_follows()
    {
        Go("/people/who?rule=held-for-credit&at=2027-02-01T10:00");
        Assert.Contains("Farah Mensah", TextOf(By.Id("answer")));
        int Place() => int.Parse(Browser.FindElement(By.Id("slide")).GetDomProperty("value")!, System.Globalization.CultureInfo.InvariantCulture);
        var afternoon = Place() + (6 * 4);
        Until(
            () =>
            {
                // On a slow machine a press may meet the page while it is drawn anew around the slide.
                if (Place() < afternoon)
                {
                    Browser.FindElement(By.Id("slide")).SendKeys(Keys.ArrowRight);
                }

                return Place() == afternoon;
            },
            "The slide is moved on by six hours"
        );
        Until(
            () =>
                TextOf(By.TagName("h1")).EndsWith("Mon 1 Feb, 16:00", StringComparison.Ordinal)
                && TextOf(By.CssSelector("#answer tbody tr")).Contains("Joost Hale", StringComparison.Ordinal),
            "Joost is on duty in the afternoon"
        );
    }

    [Fact]
    public void One_of_several_boxes_of_a_name_is_ticked_and_the_others_stay_as_they_are()
    {
        Go("/people/who?tell=team:kitchen");
        string[] Boxes() => [.. Browser.FindElements(By.CssSelector("input[name=by]")).Select(b => $"{b.GetAttribute("value")} {b.Selected}")];
        var before = Boxes();
        Assert.True(before.Length > 3);
        Choose("input[name=by][value=sms]");
        Until(() => Browser.Url.Contains("by=sms", StringComparison.Ordinal), "The page was asked again");
        Assert.Equal([.. before.Select(b => b == "sms False" ? "sms True" : b)], Boxes());
    }

    [Fact]
    public void A_shift_is_moved_by_the_keys_for_one_night_copied_by_form_and_taken_away()
    {
        const string rota = "/people/rota?team=desk&week=2027-03-01";
        Go(rota);
        IWebElement Shift(string from) => Browser.FindElement(By.CssSelector($"[data-person='finn.ashby'] a[data-from='{from}']"));
        var shift = Shift("2027-03-02T12:00");
        shift.SendKeys(Keys.Shift + Keys.ArrowRight);
        shift.SendKeys(Keys.ArrowRight);
        shift.SendKeys(Keys.Enter);
        Until(() => Main.Contains("Finn Ashby: Tue 2 Mar 13:15 to 21:15.", StringComparison.Ordinal), "It moved by an hour and a quarter");
        Assert.Equal("2027-03-03T20:00", Shift("2027-03-03T12:00").GetAttribute("data-to"));
        Shift("2027-03-02T13:15").SendKeys(Keys.Enter);
        Until(() => TextOf(By.CssSelector("#open h2")).StartsWith("Finn Ashby", StringComparison.Ordinal), "It opens");
        foreach (var (id, words) in new[] { ("mv-from", "6 March 2027 9:00"), ("mv-to", "Sat 6/3/2027 11") })
        {
            Type($"#{id}", words);
        }

        Until(() => TextOf(By.Id("mv-to-is")) == "Sat 6 Mar 2027, 11:00, Lisbon time", "What is understood stands beneath");
        Browser.FindElement(By.XPath("//button[text()='Copy it there']")).Click();
        Until(() => Main.Contains("Finn Ashby is on duty for Desk, Sat 6 Mar 09:00 to 11:00.", StringComparison.Ordinal), "It is copied");
        Shift("2027-03-06T09:00").SendKeys(Keys.Enter);
        Until(() => Browser.FindElement(By.CssSelector("#open .btn-danger")).Displayed, "It opens");
        Browser.FindElement(By.CssSelector("#open .btn-danger")).Click();
        Browser.SwitchTo().Alert().Accept();
        Until(() => Main.Contains("Taken away: Finn Ashby, Sat 6 Mar 09:00 to 11:00.", StringComparison.Ordinal), "It is gone");
    }

    [Fact]
    public async Task Of_two_who_serve_a_shift_together_the_one_whose_bar_is_moved_is_moved_alone()
    {
        var token = World.World.Demo.Token;
        var people = string.Concat(
            new[] { ("pia.ana", "Pia Ana"), ("bo.bern", "Bo Bern") }.Select(p =>
                $"- {{ id: {p.Item1}, name: {p.Item2}, teams: [pairs], contacts: [ {{ channel: mail, address: {p.Item1}@averilquay.example }} ] }}\n"
            )
        );
        Assert.Equal(System.Net.HttpStatusCode.OK, (await World.SendAsync(HttpMethod.Put, "/api/people", token, people, "application/yaml")).Status);
        const string Calendar =
            "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//elsewhere//EN\r\nBEGIN:VEVENT\r\nUID:pair-1\r\nDTSTAMP:20260101T000000Z\r\n"
            + "DTSTART;TZID=Europe/Lisbon:20270302T080000\r\nDTEND;TZID=Europe/Lisbon:20270302T160000\r\nRRULE:FREQ=DAILY;COUNT=3\r\n"
            + "ATTENDEE:mailto:pia.ana@averilquay.example\r\nATTENDEE:mailto:bo.bern@averilquay.example\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n";
        Assert.Equal(System.Net.HttpStatusCode.OK, (await World.SendAsync(HttpMethod.Put, "/api/teams/pairs/rota", token, Calendar, "text/calendar")).Status);
        string[] Bars(string person) =>
            Steady(() =>
                Browser.FindElements(By.CssSelector($"[data-person='{person}'] a[data-from]")).Select(b => b.GetAttribute("data-from")![8..]).ToArray()
            );
        void Opens(string person, string from)
        {
            Browser.FindElement(By.CssSelector($"[data-person='{person}'] a[data-from='2027-03-{from}']")).SendKeys(Keys.Enter);
            Until(() => TextOf(By.CssSelector("#open h2")).StartsWith("Bo Bern", StringComparison.Ordinal), "His shift opens, not hers");
        }

        Go("/people/rota?team=pairs&week=2027-03-01");
        Opens("bo.bern", "03T08:00");
        Type("#mv-from", "3 March 2027 10:00");
        Type("#mv-to", "3 March 2027 18:00");
        Browser.FindElement(By.XPath("//button[text()='Move it']")).Click();
        Until(() => Main.Contains("Bo Bern: Wed 3 Mar 10:00 to 18:00.", StringComparison.Ordinal), "His is moved");
        Assert.Equal(["02T08:00", "03T08:00", "04T08:00"], Bars("pia.ana"));
        Assert.Equal(["02T08:00", "03T10:00", "04T08:00"], Bars("bo.bern"));
        Opens("bo.bern", "04T08:00");
        Choose("#open input[value=all]");
        Browser.FindElement(By.CssSelector("#open .btn-danger")).Click();
        Browser.SwitchTo().Alert().Accept();
        Until(() => Main.Contains("Taken away: Bo Bern", StringComparison.Ordinal), "He is off the series");
        Assert.Equal(["02T08:00", "03T08:00", "04T08:00"], Bars("pia.ana"));
        Assert.Equal(["03T10:00"], Bars("bo.bern"));
        await World.World.ExecuteAsync(
            "delete from shifts where team = 'pairs'; delete from people where id in ('pia.ana', 'bo.bern'); delete from teams where id = 'pairs'"
        );
    }

    [Fact]
    public async Task Saving_something_of_a_person_or_a_site_leaves_what_the_form_does_not_offer()
    {
        var token = World.World.Demo.Token;
        async Task<System.Text.Json.Nodes.JsonNode> PersonAsync(string id) => (await World.GetAsync("/api/people/" + id)).Body!;
        async Task<(System.Net.HttpStatusCode Status, System.Text.Json.Nodes.JsonNode? Body)> PatchAsync(string id, string body)
        {
            var (status, answer, _) = await World.SendAsync(HttpMethod.Patch, "/api/people/" + id, token, body, "application/merge-patch+json");
            return (status, answer);
        }

        Assert.Equal(System.Net.HttpStatusCode.OK, (await PatchAsync("greta.solheim", """{"codes":["G SOLHEIM","GS"],"first":{"prompt":"screen"}}""")).Status);
        Go("/people/greta.solheim");
        Type("#f-post", "Order desk, early");
        Choose("form[action*=Save] .btn-primary");
        Says("Saved.");
        Choose("#fb-urgent option[value=sms]");
        Choose("form[action*=Order] .links");
        Says("Saved.");
        var greta = await PersonAsync("greta.solheim");
        Assert.Equal(["G SOLHEIM", "GS"], greta["codes"]!.AsArray().Select(c => (string)c!));
        Assert.Equal("""{"prompt":"screen","urgent":"sms"}""", greta["first"]!.ToJsonString());

        // A code tells one person: it is not given twice, by no door.
        var (refused, why) = await PatchAsync("finn.ashby", """{"codes":["gs"]}""");
        Assert.Equal(System.Net.HttpStatusCode.UnprocessableEntity, refused);
        Assert.StartsWith("The code 'gs' belongs to Greta Solheim.", (string?)why!["errors"]![0]!["problem"]);
        Assert.Equal(System.Net.HttpStatusCode.UnprocessableEntity, (await PatchAsync("finn.ashby", """{"codes":["g;s"]}""")).Status);
        Go("/people/finn.ashby");
        Type("#f-codes", "FA, g solheim");
        Choose("form[action*=Save] .btn-primary");
        Says("The code 'g solheim' belongs to Greta Solheim.");
        Assert.Equal("FA, g solheim", ValueOf("f-codes"));
        Assert.Equal(System.Net.HttpStatusCode.OK, (await PatchAsync("greta.solheim", """{"codes":null,"first":null}""")).Status);

        var site = (await World.GetAsync("/api/sites")).Body!["items"]!.AsArray().First(s => s!["manager"] is not null)!;
        var (id, manager) = ((string)site["id"]!, (string)site["manager"]!);
        Assert.Equal(System.Net.HttpStatusCode.OK, (await PatchAsync(manager, """{"archived":true}""")).Status);
        Go("/people/teams");
        Browser.ExecuteScript("document.querySelectorAll('details.edit').forEach(d => d.open = true)");
        Type($"#sn-{id}", (string)site["name"]! + " 2");
        Choose($"form:has(#sn-{id}) .btn-primary");
        Says("Saved the site");
        var after = (await World.GetAsync("/api/sites")).Body!["items"]!.AsArray().First(s => (string)s!["id"]! == id)!;
        Assert.Equal(((string)site["name"]! + " 2", manager), ((string)after["name"]!, (string?)after["manager"]));
        Assert.Equal(System.Net.HttpStatusCode.OK, (await PatchAsync(manager, """{"archived":false}""")).Status);
    }

    [Fact]
    public async Task A_circle_of_covers_is_refused_by_the_part_of_a_document_that_makes_it()
    {
        var token = World.World.Demo.Token;
        Task<(System.Net.HttpStatusCode Status, System.Text.Json.Nodes.JsonNode? Body, HttpResponseMessage Answer)> AwayAsync(string id, string cover) =>
            World.SendAsync(
                HttpMethod.Patch,
                "/api/people/" + id,
                token,
                $$"""{"away":[{"from":"2028-05-03","to":"2028-05-07","cover":"{{cover}}"}]}""",
                "application/merge-patch+json"
            );
        Assert.Equal(System.Net.HttpStatusCode.OK, (await AwayAsync("wanda.petrov", "joost.hale")).Status);
        var (status, body, _) = await AwayAsync("joost.hale", "wanda.petrov");
        Assert.Equal(System.Net.HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains("The covers go in a circle", body!.ToJsonString());
    }

    [Fact]
    public void A_shift_is_dragged_to_somebody_else()
    {
        Go("/people/rota?team=desk&week=2027-04-05");
        var shift = Browser.FindElement(By.CssSelector("[data-person='greta.solheim'] a[data-from='2027-04-10T08:00']"));
        var to = Browser.FindElement(By.CssSelector("[data-person='clara.bonnet'] svg"));
        new Actions(Browser).MoveToElement(shift).ClickAndHold().MoveByOffset(6, 0).MoveByOffset(-6, to.Location.Y - shift.Location.Y + 8).Release().Perform();
        Until(() => Main.Contains("Clara Bonnet: Sat 10 Apr 08:00 to 20:00.", StringComparison.Ordinal), "Clara has it");
        Assert.NotNull(Browser.FindElement(By.CssSelector("[data-person='greta.solheim'] a[data-from='2027-04-11T08:00']")));
    }

    [Fact]
    public void Several_addresses_go_into_one_field_and_a_bad_one_is_named()
    {
        Go("/people/dario.neves");
        Browser.FindElement(By.CssSelector("form[action*=Contact] input[name=address]")).SendKeys("dario@a.example; dario@b");
        Browser.FindElement(By.CssSelector("form[action*=Contact] .btn")).Click();
        Until(() => Main.Contains("Nothing was added. 'dario@b' has no domain ending.", StringComparison.Ordinal), "The bad one is named");
        Assert.Equal("dario@a.example; dario@b", Browser.FindElement(By.CssSelector("form[action*=Contact] input[name=address]")).GetAttribute("value"));
        Type("form[action*=Contact] input[name=address]", "dario@a.example, dario@b.example");
        Browser.FindElement(By.CssSelector("form[action*=Contact] .btn")).Click();
        Until(() => Main.Contains("dario@a.example, dario@b.example added.", StringComparison.Ordinal), "Both are there");
    }

    [Fact]
    public void Staff_verify_their_own_address_by_its_code_and_see_nobody_elses_page()
    {
        SignIn(2);
        Go("/people/ines.calder");
        Assert.Contains("role does not allow", TextOf(By.TagName("body")));
        Go("/people");
        Assert.Contains("role does not allow", TextOf(By.TagName("body")));
        Go("/people/tomas.reyle");
        Browser.FindElement(By.CssSelector("form[action*=Contact] input[name=address]")).SendKeys("tomas.private@a.example");
        Browser.FindElement(By.CssSelector("form[action*=Contact] .btn")).Click();
        Until(() => Main.Contains("not used until its code has come back", StringComparison.Ordinal), "It waits for its code");
        Browser.FindElement(By.XPath("//tr[contains(.,'tomas.private')]//button[text()='Send a code']")).Click();
        Until(() => Main.Contains("A code is on its way to tomas.private@a.example.", StringComparison.Ordinal), "The code is sent");
        var code = World.World.StandIns.Mail.Mails.Last(m => m.To == "tomas.private@a.example").Subject.Split(' ')[0];
        void Enter(string text)
        {
            Browser.FindElement(By.XPath("//tr[contains(.,'tomas.private')]//input[@name='code']")).SendKeys(text);
            Browser.FindElement(By.XPath("//tr[contains(.,'tomas.private')]//button[text()='Enter']")).Click();
        }

        Enter("000000");
        Until(
            () => Main.Contains("That is not the code that was sent to tomas.private@a.example. 4 tries are left.", StringComparison.Ordinal),
            "A wrong one is refused"
        );
        Enter(code);
        Until(() => Main.Contains("tomas.private@a.example is verified.", StringComparison.Ordinal), "The right one verifies");
    }

    [Fact]
    public void A_circle_of_covers_is_refused_where_it_is_made()
    {
        void Leave(string person, string cover)
        {
            Go("/people/" + person);
            Browser.ExecuteScript("document.getElementById('lv-f').value='2027-05-03';document.getElementById('lv-t').value='2027-05-07'");
            Choose($"#lv-c option[value='{cover}']");
            Browser.FindElement(By.XPath("//button[text()='Add leave']")).Click();
        }

        Leave("milo.trask", "bram.osei");
        Until(() => Main.Contains("Leave added; Bram Osei covers.", StringComparison.Ordinal), "The first leave is there");
        Leave("bram.osei", "milo.trask");
        Until(
            () => Main.Contains("The covers would go in a circle at one time: Bram Osei → Milo Trask → Bram Osei.", StringComparison.Ordinal),
            "The circle is refused"
        );

        // The leave that was meant stands there again, with its cover.
        Assert.Equal(("Mon 3 May 2027", "Fri 7 May 2027", "milo.trask"), (ValueOf("lv-f"), ValueOf("lv-t"), ValueOf("lv-c")));
    }

    [Fact]
    public void The_business_is_quiet_at_night_and_a_calendar_address_opens_its_one_feed()
    {
        Go("/people/teams");
        Browser.ExecuteScript("document.getElementById('bq-f').value='22:30';document.getElementById('bq-t').value='05:30'");
        Browser.FindElement(By.CssSelector(".quiet-b .btn")).Click();
        Until(() => Main.Contains("every day 22:30 to 05:30", StringComparison.Ordinal), "The quiet hours are there");
        Go("/people/who?tell=person:finn.ashby&at=2027-01-12T23:00");
        Says("quiet until Wed 05:30");
        Go("/people/teams");
        Browser.FindElement(By.CssSelector(".quiet-b .links")).Click();
        Until(() => Main.Contains("None: only each person's own hold.", StringComparison.Ordinal), "They are taken away");
        Go("/people/finn.ashby");
        Browser.FindElement(By.CssSelector("form[action*=Feed] .links")).Click();
        Until(() => TextOf(By.CssSelector(".secret")).Contains("/rota/people/finn.ashby.ics?key=ck-", StringComparison.Ordinal), "The address is shown");
        var path = new Uri(TextOf(By.CssSelector(".secret"))).PathAndQuery;
        Assert.Equal(System.Net.HttpStatusCode.OK, World.SendAsync(HttpMethod.Get, path, null).Result.Status);
        Assert.Equal(
            System.Net.HttpStatusCode.NotFound,
            World.SendAsync(HttpMethod.Get, path.Replace("finn.ashby", "ines.calder", StringComparison.Ordinal), null).Result.Status
        );
    }

    [Fact]
    public void A_card_of_which_only_the_name_is_known_is_asked_about()
    {
        var file = Path.Combine(Path.GetTempPath(), $"cards-{Guid.NewGuid():N}.vcf");
        File.WriteAllText(
            file,
            "BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Dario Neves\r\nEMAIL:dario.home@n.example\r\nEND:VCARD\r\nBEGIN:VCARD\r\nVERSION:4.0\r\nFN:Odile Varga\r\nEMAIL:odile.other@n.example\r\nEND:VCARD\r\n"
        );
        Go("/people/files");
        Browser.FindElement(By.Id("file")).SendKeys(file);
        Browser.FindElement(By.CssSelector("form[enctype] .btn-primary")).Click();
        Says("2 names are known, with another address");
        NoSeriousFault();
        Choose("select[name='meant[dario.neves]'] option[value='dario.neves']");
        Choose("select[name='meant[odile.varga]'] option[value='+']");
        Browser.FindElement(By.CssSelector("#meant .btn-primary")).Click();
        Says("1 added, 1 changed.");
        Go("/people/dario.neves");
        Says("dario.home@n.example");
        Says("Quayside drivers");
        Go("/people/odile.varga-2");
        Says("odile.other@n.example");
        File.Delete(file);
    }
}
