using OpenQA.Selenium;

namespace Sirena.Web.Tests;

/// <summary>A supervisor's way through words, pauses, notices and notes.</summary>
public sealed class WordingPagesTests(WorldFixture world) : BrowserTests(world)
{
    private IWebElement Rich(string part) => Browser.FindElement(By.CssSelector($"[data-part='{part}'] + .rich"));

    // Does something with the editor of a part, r, as typing would, and leaves the cursor at its end.
    private void Edit(string part, string script) =>
        Browser.ExecuteScript(
            $"const r = document.querySelector(\"[data-part='{part}'] + .rich\"); {script}; r.focus(); getSelection().selectAllChildren(r); getSelection().collapseToEnd(); r.dispatchEvent(new Event('input', {{ bubbles: true }}));"
        );

    private string Shown => TextOf(By.Id("preview"));

    [Fact]
    public void A_field_is_put_into_a_text_by_writing_its_name()
    {
        Go("/wording?id=order-held");
        var rich = Browser.FindElement(By.CssSelector("[id='p-mail.subject'] + .rich"));
        rich.SendKeys(Keys.End + " @custom");
        Until(() => Browser.FindElements(By.CssSelector("#at-list:popover-open .picko")).Count > 0, "Fields of that name are offered");
        rich.SendKeys(Keys.Escape);
        Assert.True(Without("#at-list:popover-open"));
        rich.SendKeys("er");
        Until(() => Browser.FindElements(By.CssSelector("#at-list:popover-open .picko[aria-selected=true]")).Count == 1, "They are offered again");
        var path = Browser.FindElement(By.CssSelector("#at-list .picko[aria-selected=true]")).GetAttribute("data-path");
        rich.SendKeys(Keys.Enter);
        Until(
            () => Browser.FindElement(By.Id("p-mail.subject")).GetDomProperty("value")!.EndsWith($" {{{{{path}}}}}", StringComparison.Ordinal),
            "The field stands at the end"
        );
        Browser.ExecuteScript("window.onbeforeunload = null; document.getElementById('wording').removeAttribute('data-guard')");
    }

    [Fact]
    public void The_kitchen_s_SMS_is_rewritten_with_the_field_finder_sent_to_herself_and_set_back()
    {
        Go("/wording?id=kitchen&tab=sms");
        Until(() => Browser.FindElements(By.CssSelector(".rich .fld")).Count > 3, "Fields stand as words");
        Rich("sms").Click();
        Edit("sms", "r.replaceChildren('Kitchen’s list, ready as early as you can so that the drivers need not wait at the quay for it: ')");
        Browser.FindElement(By.Id("field-find")).SendKeys("due time, time");
        Until(() => Browser.FindElements(By.CssSelector("#fields [data-path]:not([hidden])")).Count is > 0 and < 6, "The finder filters");
        Browser.FindElement(By.Id("field-find")).SendKeys(Keys.Enter);
        Until(() => Rich("sms").FindElements(By.CssSelector("[data-tag='order.dueAt.time']")).Count == 1, "Enter puts the field at the cursor");
        Until(
            () => Shown.Contains("’ forces the costly encoding", StringComparison.Ordinal) && TextOf(By.CssSelector("#sms-count dd")) == "2",
            "A curly quote costs a second part"
        );
        NoSeriousFault();
        Edit("sms", "r.firstChild.data = r.firstChild.data.replace('’', \"'\")");
        Until(() => TextOf(By.CssSelector("#sms-count dd")) == "1", "Without it one part is enough");
        Choose("button[value=me]");
        Says("Sent to +44");
        Assert.Contains(World.World.StandIns.Phone.Messages, m => m.Text.StartsWith("Kitchen's list", StringComparison.Ordinal));
        Choose("button[value=save]");
        Says("Saved. In force from the next message on.");
        Says("changed");
        Go("/wording?id=kitchen&tab=sms&compare=true");
        Says("Beside what was shipped");
        Choose("button[value=back]");
        Browser.SwitchTo().Alert().Accept();
        Says("It is as it was shipped again");
    }

    [Fact]
    public void A_mistake_is_marked_while_it_is_typed_and_does_not_save()
    {
        Go("/wording?id=order-held&tab=sms&audience=customer");
        Until(() => Browser.FindElements(By.CssSelector(".rich .fld")).Count > 0, "Fields stand as words");
        Edit("sms", "r.append(' {{order.hold.reason}} {{order.numbr}}')");
        Until(
            () => Shown.Contains("'order.hold.reason' is internal", StringComparison.Ordinal) && Shown.Contains("order.number", StringComparison.Ordinal),
            "Both mistakes are named with the way out"
        );
        Until(() => Rich("sms").FindElements(By.CssSelector(".fld.bad")).Count == 2, "They are marked where they stand");
        Choose("button[value=save]");
        Says("Not saved");
    }

    [Fact]
    public async Task A_preview_stands_on_any_event_as_it_happened_or_imagined_and_what_is_typed_stays()
    {
        await World.EventAsync(
            WorldFixture.Event(
                Guid.NewGuid().ToString(),
                "PV-1",
                "order.placed",
                ",\"dueAt\":\"2031-05-04T09:30:00Z\",\"lines\":[{\"sku\":\"A\",\"title\":\"Mooring line\",\"quantity\":12,\"shipped\":0}]"
            )
        );
        Go("/wording?id=order-shipped&audience=customer&tab=sms&order=PV-1");
        Until(() => Shown.Contains("Your order PV-1: 12 on the way.", StringComparison.Ordinal), "An imagined shipment takes all that is left");
        Assert.Contains("has not happened to PV-1", TextOf(By.Id("when")));
        Assert.Equal(["mail", "sms"], Browser.FindElements(By.CssSelector("[data-tab]")).Select(t => t.GetAttribute("data-tab")!));
        Edit("sms", "r.replaceChildren('News: {{event.name}} {{order.number}} {{order.extra.gate}}')");
        Until(() => Shown.Contains("News: Shipped PV-1", StringComparison.Ordinal), "The preview follows what is typed");
        Until(() => Shown.Contains("Missing in this order, so left out: gate", StringComparison.Ordinal), "What the order lacks is said");
        Choose("select[name=event] option[value='order.placed']");
        Until(() => Shown.Contains("News: Placed PV-1", StringComparison.Ordinal), "Another event, the same unsaved words");
        Assert.Contains("as it was told of PV-1", TextOf(By.Id("when")));
        NoSeriousFault();
    }

    [Fact]
    public async Task Facts_are_written_in_rows_shown_with_their_values_and_moved()
    {
        var number = await World.OrderAsync();
        Go("/wording?id=order-paid&tab=sms&order=" + number);
        Edit("sms", "r.replaceChildren('{{facts}}')");
        IReadOnlyList<IWebElement> Rows() => [.. Browser.FindElements(By.CssSelector("#facts li"))];
        while (Rows().Count > 1)
        {
            Rows()[0].FindElement(By.CssSelector("[data-move='0']")).Click();
        }

        void Write(int row, string label, string value)
        {
            Rows()[row].FindElement(By.Name("f.label")).SendKeys(label);
            Rows()[row].FindElement(By.Name("f.value")).SendKeys(value);
        }

        Write(0, "Number", "order.number");
        Write(1, "Gate", "order.extra.gate");
        Until(
            () => Rows().Count == 3 && Rows()[1].Text.Contains("empty here, left out", StringComparison.Ordinal),
            "An empty row follows, and what the order lacks is pale"
        );
        Until(
            () => Shown.Contains(number, StringComparison.Ordinal) && Rows()[0].Text.Contains(number, StringComparison.Ordinal),
            "The value stands beside the fact and in the preview"
        );
        Rows()[2].FindElement(By.Name("f.value")).Click();
        Choose("#fields [data-path='order.customer.name']");
        Rows()[2].FindElement(By.Name("f.label")).SendKeys("Customer");
        Rows()[2].FindElement(By.CssSelector("[data-move='-1']")).Click();
        Until(() => Rows()[1].FindElement(By.Name("f.value")).GetDomProperty("value") == "order.customer.name", "It moved up");
        NoSeriousFault();
        Rows()[0].FindElement(By.Name("f.value")).SendKeys("x");
        Until(
            () =>
                Browser
                    .FindElement(By.CssSelector(".mist[data-for=facts]"))
                    .Text.Contains("Fact 1: There is no field 'order.numberx'", StringComparison.Ordinal),
            "The mistake names its fact"
        );
        Rows()[0].FindElement(By.Name("f.value")).SendKeys(Keys.Backspace);
        Choose("button[value=save]");
        Says("Saved. In force from the next message on.");
        Assert.Equal(["Number", "Customer", "Gate", ""], Rows().Select(r => r.FindElement(By.Name("f.label")).GetDomProperty("value")));
        Choose("button[value=back]");
        Browser.SwitchTo().Alert().Accept();
        Says("as it was shipped again");
    }

    [Fact]
    public void HTML_of_one_s_own_is_folded_away_until_there_is_some_and_scripts_in_it_do_not_save()
    {
        Go("/wording?id=order-paid&tab=mail");
        Assert.False(Browser.FindElement(By.Id("p-mail.html")).Displayed);
        Browser.FindElement(By.CssSelector("details.own summary")).SendKeys(Keys.Enter);
        Browser.FindElement(By.Id("p-mail.html")).SendKeys("<p>Paid: <b>{{order.total}}</b></p><script>alert(1)</script>");
        Choose("button[value=save]");
        Says("Not saved");
        Assert.True(Browser.FindElement(By.Id("p-mail.html")).Displayed);
    }

    private bool InFrame(string name, string text)
    {
        Browser.SwitchTo().Frame(name);
        try
        {
            return TextOf(By.TagName("body")).Contains(text, StringComparison.Ordinal);
        }
        finally
        {
            Browser.SwitchTo().DefaultContent();
        }
    }

    [Fact]
    public void A_logo_that_is_too_large_or_none_is_refused_with_a_sentence()
    {
        var large = Path.Combine(Path.GetTempPath(), $"{Guid.NewGuid():N}.png");
        File.WriteAllBytes(large, new byte[2 << 20]);
        Go("/settings/branding");
        Browser.FindElement(By.Id("logo")).SendKeys(large);
        Choose("form .btn-primary");
        Says("1 MB is the most");
        File.WriteAllText(large, "no picture");
        Browser.FindElement(By.Id("logo")).SendKeys(large);
        Choose("form .btn-primary");
        Says("no picture that can be read");
        File.Delete(large);
        NoSeriousFault();
        var footer = Browser.FindElement(By.Id("footer"));
        footer.Clear();
        footer.SendKeys("{{business.name}} to {{order.number}}");
        Choose("form .btn-primary");
        Says("can name {{business.name}} and no other field");
        footer = Browser.FindElement(By.Id("footer"));
        Assert.Equal("{{business.name}} to {{order.number}}", footer.GetDomProperty("value"));
        footer.Clear();
        footer.SendKeys("{{business.name}}, at the quay");
        Until(() => InFrame("shown", "Averil Quay Provisions, at the quay"), "The mail beside the form follows what is typed");
        Browser.ExecuteScript("document.getElementById('accent').value = '#0a7a3c'");
        Choose("form .btn-primary");
        Says("Saved. In force from the next message on.");
        Assert.Equal("#0a7a3c", ValueOf("accent"), ignoreCase: true);
    }

    [Fact]
    public void What_is_saved_is_not_overtaken_by_the_drawing_of_what_was_typed_last()
    {
        Go("/settings/branding");
        Until(() => InFrame("shown", "Averil Quay Provisions"), "The mail is drawn beside the form");

        // Typed, then pressed before the drawing's time is up; the page is busy meanwhile, as a slow machine's is.
        Browser.ExecuteScript(
            """
            const footer = document.getElementById('footer');
            footer.value = 'Open from six to two';
            footer.dispatchEvent(new Event('input', { bubbles: true }));
            setTimeout(() => {
              document.querySelector('form .btn-primary').click();
              window.drawBeside(document.getElementById('look'), document.getElementById('draw-look'));
            }, 100);
            """
        );
        Says("Saved. In force from the next message on.");
        Assert.Equal("Open from six to two", Browser.FindElement(By.Id("footer")).GetDomProperty("value"));
    }

    [Fact]
    public async Task A_pause_is_begun_shown_in_the_strip_on_every_page_and_its_alerts_are_sent_knowingly()
    {
        Assert.True(
            (
                await World.SendAsync(
                    HttpMethod.Put,
                    "/api/rules/pz",
                    World.World.Demo.Token,
                    "name: Paused rule\nwhen: [test.pz]\ntell: [ { person: ines.calder } ]\nby: { allAtOnce: [mail] }",
                    "application/yaml"
                )
            ).Status is System.Net.HttpStatusCode.Created
        );
        Go("/pauses?scope=rule:pz");
        Browser.FindElement(By.Id("reason")).SendKeys("stocktaking");
        NoSeriousFault();
        Choose(".ef .btn-primary");
        Says("is paused until");
        await World.EventAsync(WorldFixture.Event(Guid.NewGuid().ToString(), "PZ-1", "test.pz"));
        await World.UntilAsync("/api/alerts?order=PZ-1", a => a["items"]!.AsArray().Count == 1);
        Go("/orders");
        Until(() => TextOf(By.Id("strip")).Contains("stocktaking, 1 held back", StringComparison.Ordinal), "The strip says it on every page");
        Go("/pauses");
        Says("PZ-1");
        Choose("button[value=send]");
        Browser.SwitchTo().Alert().Accept();
        Says("1 alert sent on their way");
        await World.UntilAsync("/api/deliveries?order=PZ-1", d => (string?)d["items"]![0]!["state"] is "handed-over" or "landed");
    }

    [Fact]
    public async Task Of_what_a_pause_holds_some_is_sent_some_dropped_and_nothing_that_nobody_saw()
    {
        await World.RuleAsync("pz2", "name: Half paused\nwhen: [test.pz2]\ntell: [ { person: ines.calder } ]\nby: { allAtOnce: [mail] }");
        Go("/pauses?scope=rule:pz2");
        Browser.FindElement(By.Id("reason")).SendKeys("a new shelf");
        Choose(".ef .btn-primary");
        Says("is paused until");
        async Task HoldsAsync(params string[] orders)
        {
            foreach (var order in orders)
            {
                await World.EventAsync(WorldFixture.Event(Guid.NewGuid().ToString(), order, "test.pz2"));
                await World.UntilAsync($"/api/alerts?order={order}", a => a["items"]!.AsArray().Count == 1);
            }

            Go("/pauses");
            Says(orders[^1]);
        }

        void Drops()
        {
            Choose("button[value=drop]");
            Browser.SwitchTo().Alert().Accept();
        }

        await HoldsAsync("PZ-11", "PZ-12", "PZ-13");
        Choose("button[value=send-some]");
        Says("Nothing was chosen, so nothing was done.");
        PressIn("tr", "PZ-11", "input[name=some]");
        Choose("button[value=drop-some]");
        Says("1 alert dropped; each says so in its trail.");
        Assert.DoesNotContain("PZ-11", Main);
        PressIn("tr", "PZ-12", "input[name=some]");
        Choose("button[value=send-some]");
        Says("1 alert sent on their way.");
        await World.UntilAsync("/api/deliveries?order=PZ-12", d => (string?)d["items"]![0]!["state"] is "handed-over" or "landed");
        Assert.Equal("skipped", (string?)(await World.GetAsync("/api/deliveries?order=PZ-11")).Body!["items"]![0]!["state"]);

        // What came since the page was drawn, and a word that means nothing, drop nothing.
        Browser.ExecuteScript("document.querySelector('input[name=held]').value = 0");
        Drops();
        Says("More has been held back since that page was drawn, so nothing was dropped.");
        Says("PZ-13");
        Browser.ExecuteScript("document.querySelector('button[value=drop]').value = 'burn'");
        Choose("button[value=burn]");
        Browser.SwitchTo().Alert().Accept();
        Says("Nothing was done: say whether what is held is sent or dropped.");
        Says("PZ-13");
        Drops();
        Says("1 alert dropped; each says so in its trail.");
        Assert.Equal("skipped", (string?)(await World.GetAsync("/api/deliveries?order=PZ-13")).Body!["items"]![0]!["state"]);
    }

    [Fact]
    public void A_notice_shows_whom_it_reaches_before_it_goes_and_who_read_it_after()
    {
        Go("/people/notices");
        Choose("#n-t0 option[value='team:kitchen']");
        Until(
            () =>
                TextOf(By.Id("readers")).Contains("would be told", StringComparison.Ordinal)
                && Browser.FindElements(By.CssSelector("#readers tbody tr")).Count > 0,
            "The readers appear"
        );
        Choose("button[value=send]");
        Says("Say in one line what it is about");
        Browser.FindElement(By.Id("headline")).SendKeys("Berths 4 to 7 closed");
        Browser.FindElement(By.Id("text")).SendKeys("From 15:00 to 15:40, use the north ramp.");
        NoSeriousFault();
        Choose("button[value=send]");
        Says("'Berths 4 to 7 closed' is on its way");
        Choose("input[name=by][value=only]");
        Until(() => Browser.FindElements(By.CssSelector("input[name=only]")).Count > 0, "The channels can be chosen");
        Press("label:has(input[name=only][value=sms])", "headline");
        string[] Ticked() =>
            Steady(() => Browser.FindElements(By.CssSelector("input[name=only]")).Where(c => c.Selected).Select(c => c.GetAttribute("value")!).ToArray());
        Until(() => Ticked() is ["sms"], "SMS alone is chosen");
        Browser.FindElement(By.Id("headline")).SendKeys("By SMS only");
        Press("#n-t0 option[value='team:kitchen']", "n-t0");
        Until(() => Browser.FindElements(By.CssSelector("#readers tbody tr")).Count > 0, "The readers appear");
        Choose("button[value=me]");
        Says("'By SMS only' is on its way to you alone.");
        Assert.Equal("By SMS only", ValueOf("headline"));
        Choose("button[value=send]");
        Says("'By SMS only' is on its way");
        PressIn("tr", "By SMS only", "a[href*='from=']");
        Until(() => ValueOf("headline") == "By SMS only", "It is used again");
        Assert.Equal(["sms"], Ticked());
        Go("/people/notices");
        Until(
            () =>
            {
                Browser.Navigate().Refresh();
                return Main.Contains(" told", StringComparison.Ordinal) && !Main.Contains("0 told", StringComparison.Ordinal);
            },
            "The list says how many were told"
        );
        Says("0 read it");
    }

    [Fact]
    public async Task A_note_on_an_order_names_a_colleague_and_stands_in_its_notes()
    {
        await World.EventAsync(
            WorldFixture.Event(
                Guid.NewGuid().ToString(),
                "NT-1",
                "order.placed",
                ",\"customer\":{\"name\":\"MV Corvane\",\"email\":\"purser@corvane.example\"}"
            )
        );
        Go("/orders/NT-1");
        Browser.FindElement(By.Id("note-text")).SendKeys("@ines.caldr is the seal whole?");
        Choose(".notes .btn-primary");
        Says("'@ines.caldr' names nobody");
        Type("#note-text", "@ines.calder is the seal whole?");
        Choose(".notes .btn-primary");
        Says("whoever it names is told");
        Until(
            () =>
            {
                Browser.Navigate().Refresh();
                return Main.Contains("1 note", StringComparison.Ordinal);
            },
            "It stands on the order"
        );
        Says("internal");
        var items = (await World.UntilAsync("/api/deliveries?order=NT-1", d => d["items"]!.AsArray().Any(i => (string?)i!["person"] == "ines.calder")))[
            "items"
        ]!.AsArray();
        Assert.All(items.Where(i => (string?)i!["rule"] == "sirena.note"), i => Assert.Equal("ines.calder", (string?)i!["person"]));
    }
}
