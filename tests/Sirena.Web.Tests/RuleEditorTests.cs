using OpenQA.Selenium;

namespace Sirena.Web.Tests;

public sealed class RuleEditorTests(WorldFixture world) : BrowserTests(world)
{
    private string Sentence => TextOf(By.CssSelector("#live .sentence"));

    [Fact]
    public void The_keys_stay_near_what_was_removed()
    {
        GoToNewRule();
        Press("#case-add", "k0-c-0-f");
        Press("#k0-c-0-f option[value='order.risk.level']", "k0-c-0-is");
        Press("button[name=act][value^='drop:']", "k0-tadd");
        Until(() => Browser.SwitchTo().ActiveElement().TagName is not "body", "The focus is not lost");
    }

    [Fact]
    public async Task A_branch_rule_is_built_without_typing_a_field_name_rehearsed_saved_and_followed_by_the_next_event()
    {
        // The history is another one each day: one event at least is there to rehearse over.
        await World.EventAsync(
            WorldFixture.Event(
                "branch-0",
                "AQ-80002",
                type: "order.risk-flagged",
                more: ",\"salesperson\":\"odile.varga\",\"total\":900,\"risk\":{\"level\":\"high\"}"
            )
        );
        await World.UntilAsync("/api/orders/AQ-80002/trail", t => t["events"]!.AsArray().Any(e => e!["decidedAt"] is not null));
        GoToNewRule();
        Browser.FindElement(By.Id("name")).SendKeys("Branches by risk");
        Choose("#when-0 option[value='order.risk-flagged']");
        Press("#case-add", "k0-c-0-f");
        Press("#k0-c-0-f option[value='order.risk.level']", "k0-c-0-is");
        Choose("#k0-c-0-v option[value='high']");
        Press("#k0-t0 option[value='duty:credit-control']", "k0-t0");
        Press("#k0-tadd", "k0-t1");
        Press("#k0-t1 option[value='role:salesperson']", "k0-t1");
        Press("#case-add", "k1-c-0-f");
        Press("#k1-c-0-f option[value='order.risk.level']", "k1-c-0-is");
        Choose("#k1-c-0-v option[value='medium']");
        Press("#k1-t0 option[value='team:desk']", "k1-t0");
        Until(
            () =>
                Sentence
                == "When an order is flagged risky: if the risk is high, tell whoever is on duty in Credit control and the order's salesperson by mail; if the risk is medium, tell everyone in Desk by mail; otherwise tell nobody.",
            "The sentence follows"
        );
        NoSeriousFault();

        Choose("button[value=rehearse]");
        Until(() => TextOf(By.Id("rehearsal")).Contains("would gain an alert", StringComparison.Ordinal), "The draft is rehearsed");
        Browser.ExecuteScript("document.querySelectorAll('#rehearsal details').forEach(d => d.open = true)");
        Choose("#rehearsal button[value^='trace:']");
        Until(() => TextOf(By.Id("trial")).Contains("the risk is", StringComparison.Ordinal), "The opened order shows its trace");

        Browser.ExecuteScript(
            "document.getElementById('pasted').value = arguments[0]",
            """{ "type": "order.risk-flagged", "data": { "order": { "number": "AQ-80000", "salesperson": "odile.varga", "risk": { "level": "high" } } } }"""
        );
        Choose("button[value=try]");
        Until(() => TextOf(By.Id("trial")).Contains("AQ-80000", StringComparison.Ordinal), "The pasted event is tried");
        Assert.Contains("case first", TextOf(By.Id("trial")));
        Assert.Contains("Odile Varga", TextOf(By.Id("trial")));

        Browser.FindElement(By.Id("note")).SendKeys("asked for by finance");
        Choose("button[value=save].btn-primary");
        Until(() => Main.Contains("Saved as version 1, in force for the next event", StringComparison.Ordinal), "The rule is saved");
        Says("asked for by finance");
        Assert.DoesNotContain(World.World.StandIns.Mail.Mails, m => m.Subject.Contains("AQ-80000", StringComparison.Ordinal));

        await World.EventAsync(
            WorldFixture.Event(
                "branch-1",
                "AQ-80001",
                type: "order.risk-flagged",
                more: ",\"salesperson\":\"odile.varga\",\"total\":900,\"risk\":{\"level\":\"high\"}"
            )
        );
        await World.UntilAsync("/api/alerts?order=AQ-80001", a =>
            a["items"]!.AsArray().Any(i => (string)i!["rule"]! == "branches-by-risk" && (string)i["case"]! == "first")
        );
        Go("/rules/branches-by-risk");
        Says("First event under it: AQ-80001");
    }

    [Fact]
    public async Task Steps_are_shared_from_the_editor_used_by_another_rule_and_changed_for_both_without_a_document()
    {
        GoToNewRule();
        Browser.FindElement(By.Id("name")).SendKeys("Shares its steps");
        Choose("#when-0 option[value='order.refunded']");
        Press("#k0-t0 option[value='person:ines.calder']", "k0-t0");
        Press("#k0-sadd", "k0-s0-d");
        Press("#k0-s0-t0 option[value='team:desk']", "k0-s0-t0");
        Browser.ExecuteScript("document.querySelector('.sharel').open = true");
        Choose("button[value='share:k0']");
        Says("Give the ladder a name");
        Browser.ExecuteScript("document.querySelector('.sharel').open = true");
        Browser.FindElement(By.Id("k0-share")).SendKeys("After hours");
        Choose("button[value='share:k0']");
        Says("The steps are the shared ladder 'After hours' now.");
        Says("after 5 min everyone in Desk");
        Choose("button[value=save].btn-primary");
        Says("Saved as version 1");

        await World.SendAsync(
            HttpMethod.Put,
            "/api/rules/uses-shared",
            World.World.Demo.Token,
            "name: Uses shared\nwhen: [test.shared-2]\ntell: [ { person: odile.varga } ]\nladder: { shared: after-hours }",
            "application/yaml"
        );
        Press("button[value='unshare:k0']", "k0-s0-d");
        Type("#k0-s0-d", "9 min");
        Browser.ExecuteScript("document.querySelector('.sharel').open = true");
        Browser.FindElement(By.Id("k0-share")).SendKeys("after HOURS");
        Choose("button[value='share:k0']");
        Says("with a new version of the 2 rules that use it");
        var other = (await World.GetAsync("/api/rules/uses-shared")).Body!;
        Assert.Equal(2, (int)other["version"]!);
        Assert.Contains("after 9 min", (string)other["sentence"]!);
        Assert.Equal("shared: after-hours", $"shared: {(string)other["ladder"]!["shared"]!}");
        NoSeriousFault();
    }

    [Fact]
    public void A_draft_is_kept_when_the_browser_closes_and_dropped_when_asked()
    {
        Go("/rules/stock-below-zero");
        var name = Browser.FindElement(By.Id("name"));
        name.Clear();
        name.SendKeys("Stock under water");
        Until(() => TextOf(By.CssSelector(".kept")).Contains("A draft of version", StringComparison.Ordinal), "The draft is kept while typing");
        Assert.Equal("name", Browser.SwitchTo().ActiveElement().GetAttribute("id"));
        Browser.ExecuteScript("window.stop(); document.querySelector('form[data-guard]').dispatchEvent(new Event('submit'))");
        Go("/orders");
        Go("/rules");
        Says("Draft of version 2 waits");
        Go("/rules/stock-below-zero");
        Assert.Equal("Stock under water", ValueOf("name"));
        Choose("button[value='drop-draft']");
        Browser.SwitchTo().Alert().Accept();
        Until(() => Main.Contains("The draft is dropped.", StringComparison.Ordinal), "The draft is dropped");
        Assert.Equal("Stock below zero", ValueOf("name"));
    }

    [Fact]
    public async Task Versions_are_compared_and_an_old_one_is_put_in_force_again()
    {
        foreach (var (total, urgency) in new[] { (500, "prompt"), (900, "urgent") })
        {
            await World.SendAsync(
                HttpMethod.Put,
                "/api/rules/compared",
                World.World.Demo.Token,
                $"name: Compared\nwhen: [test.compared]\nurgency: {urgency}\nonlyIf: {{ field: order.total, is: at-least, value: {total} }}\ntell: [ {{ team: desk }} ]",
                "application/yaml"
            );
        }

        Go("/rules/compared?compare=1");
        Assert.Equal(
            "Urgency\nprompt\nurgent\nOnly if\nthe total is at least 500.00 EUR\nthe total is at least 900.00 EUR",
            TextOf(By.CssSelector(".diff")).ReplaceLineEndings("\n")
        );
        Choose("button[value='restore:1']");
        Browser.SwitchTo().Alert().Accept();
        Until(() => Main.Contains("Version 1 is in force again, as version 3", StringComparison.Ordinal), "The old version is back");
        Assert.Contains("the total is at least 500.00", Sentence);
    }

    [Fact]
    public async Task A_rule_is_copied_and_turned_off_until_a_time_with_a_reason()
    {
        Go("/rules/new?from=alongside");
        Assert.EndsWith(", copy", ValueOf("name"));
        Choose("button[value=save].btn-primary");
        Until(() => Main.Contains("Saved as version 1", StringComparison.Ordinal), "The copy is saved");
        Browser.FindElement(By.Id("note")).SendKeys("by hand this week");

        // The page has asked for the sentence anew meanwhile: a note alone is no draft that would stand before the reason.
        Until(
            () =>
                (bool)
                    Browser.ExecuteScript(
                        "return performance.getEntriesByType('resource').some(e => e.initiatorType === 'fetch' && e.name.includes('/rules/') && e.responseEnd > 0)"
                    )!,
            "The sentence is asked for while typing"
        );
        var until = DateTime.UtcNow.AddDays(2);
        Browser.ExecuteScript("document.getElementById('until').value = arguments[0]", $"{until:yyyy-MM-dd}T10:00");
        Choose("button[value=off]");
        Until(() => Main.Contains("is off from the next event on, until", StringComparison.Ordinal), "The rule is off");
        Says("by hand this week");
        Go("/rules?show=off");
        Says("by hand this week");
        var id = Browser.FindElement(By.CssSelector("tr.offr a.n")).GetAttribute("href")!.Split('/')[^1];
        await World.World.ExecuteAsync($"update rule_versions set off_until = now() - interval '1 second' where rule_id = '{id}' and book_to is null");
        await World.UntilAsync($"/api/rules/{id}", r => (bool)r["on"]!);
    }

    [Fact]
    public void A_document_with_a_mistake_names_the_line()
    {
        GoToNewRule("?as=document");
        Browser.ExecuteScript(
            "document.getElementById('text').value = arguments[0]",
            "name: Typed\nwhen: [order.held]\ntell: [ { team: desk } ]\nonlyIf:\n  all:\n    - { field: order.totl, is: at-least, value: 5 }\n"
        );
        Choose("button[value=save].btn-primary");
        Until(
            () => Main.Contains("Line 6, column 16: There is no field 'order.totl'. Did you mean 'order.total'?", StringComparison.Ordinal),
            "The line is named"
        );
    }

    [Fact]
    public async Task Words_documents_repeats_and_limits_are_chosen_and_nothing_of_them_is_lost()
    {
        Assert.True(
            (
                await World.SendAsync(
                    HttpMethod.Put,
                    "/api/rules/whole",
                    World.World.Demo.Token,
                    "name: Whole\nwhen: [order.shipped]\ntell: [ { role: customer } ]\nby: { allAtOnce: [mail] }\nwording: order-shipped\nladder: [ { after: PT5M, tell: [ { team: desk } ], wording: finance, repeat: { times: 2, every: PT3M } } ]\ndoneWithin: PT2H\npullForward: false\nstorm: { alerts: 9, within: PT10M }\nattach: [ { document: shipping-note, audience: customer } ]",
                    "application/yaml"
                )
            ).Status is System.Net.HttpStatusCode.Created
        );
        Go("/rules/whole");
        Until(() => Browser.FindElements(By.CssSelector("#k0-fuse svg")).Count == 1, "The fuse of the draft is drawn");
        Choose("#k0-wd option[value='drivers']");
        Press("#attach-add", "sheet");
        Choose("button[value=save]");
        Until(() => Main.Contains("Version 2", StringComparison.Ordinal), "It is in force");
        var saved = (await World.GetAsync("/api/rules/whole")).Body!;
        Assert.Equal("drivers", (string)saved["wording"]!);
        Assert.Equal(
            ("finance", 2, "PT3M"),
            ((string)saved["ladder"]![0]!["wording"]!, (int)saved["ladder"]![0]!["repeat"]!["times"]!, (string)saved["ladder"]![0]!["repeat"]!["every"]!)
        );
        Assert.Equal(
            ("PT2H", false, 9, 2),
            ((string)saved["doneWithin"]!, (bool)saved["pullForward"]!, (int)saved["storm"]!["alerts"]!, saved["attach"]!.AsArray().Count)
        );
        NoSeriousFault();
    }
}
