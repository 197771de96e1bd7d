using System.Net;
using OpenQA.Selenium;

namespace Sirena.Web.Tests;

/// <summary>The settings of the business, its hours and what is kept: in the browser, with mistakes and what becomes of them.</summary>
public sealed class SettingsPagesTests(WorldFixture world) : BrowserTests(world)
{
    private string Value(string id) => Browser.FindElement(By.Id(id)).GetAttribute("value")!;

    private string Mistake(string id) => Browser.FindElement(By.CssSelector($"div:has(> #{id}) > .invalid-feedback")).Text;

    [Fact]
    public void The_business_is_saved_whole_or_not_and_each_mistake_stands_at_its_field()
    {
        Go("/settings");
        string[] ids = ["name", "base", "zone", "currency", "server", "from"];
        var before = ids.ToDictionary(id => id, Value);
        (string Id, string Typed, string Problem)[] wrong =
        [
            ("base", "sirena.example", "Give an address that begins with http:// or https://."),
            ("zone", "Europe/Nowhere", "'Europe/Nowhere' is no IANA time zone. Try Europe/Lisbon."),
            ("currency", "Euro", "Give a code of ISO 4217, such as EUR."),
            ("server", "mail example", "Give host and port, such as mail.example:25."),
            ("from", "sirena at home", "This address"),
        ];
        foreach (var (id, typed, _) in wrong)
        {
            Type($"#{id}", typed);
        }

        Type("#name", "Averil Quay & Daughters");
        Choose("main form .btn-primary");
        Until(() => Browser.FindElements(By.CssSelector(".is-invalid")).Count == wrong.Length, "Each mistake is marked");
        Assert.All(wrong, w => Assert.StartsWith(w.Problem, Mistake(w.Id)));
        Assert.All(wrong, w => Assert.Equal(w.Typed, Value(w.Id)));
        Assert.Equal("Averil Quay & Daughters", Value("name"));
        NoSeriousFault();

        foreach (var more in new[] { "?from=mail", "#top", "?", "#" })
        {
            Type("#base", "https://sirena.example" + more);
            Choose("main form .btn-primary");
            Until(() => Mistake("base").StartsWith("Links are made by adding to it", StringComparison.Ordinal), $"{more} is refused");
        }

        // Nothing was saved of it, not the name either.
        Go("/settings");
        Assert.All(ids, id => Assert.Equal(before[id], Value(id)));
        Type("#name", "Averil Quay & Daughters");
        Type("#zone", "Atlantic/Madeira");
        Choose("main form .btn-primary");
        Says("Saved. In force from the next message.");
        Go("/settings");
        Assert.Equal(("Averil Quay & Daughters", "Atlantic/Madeira", before["currency"]), (Value("name"), Value("zone"), Value("currency")));
        Type("#name", before["name"]);
        Type("#zone", before["zone"]);
        Choose("main form .btn-primary");
        Says("Saved. In force from the next message.");
    }

    [Fact]
    public void Hours_of_a_team_and_holidays_are_added_understood_and_taken_away()
    {
        Go("/settings/hours");
        Choose("#h-t option[value=kitchen]");
        Type("#h-f", "08:00");
        Type("#h-e", "08:00");
        Choose("input[name=days][value=Monday]");
        Choose("form[action*='Add'] .btn");
        Says("The begin and the end of the hours are the same. Put one of them elsewhere.");

        // What was typed stands there again, and only what was wrong is typed anew.
        Assert.Equal(("kitchen", "08:00", "08:00"), (ValueOf("h-t"), ValueOf("h-f"), ValueOf("h-e")));
        Assert.Equal(["Monday"], Browser.FindElements(By.CssSelector("input[name=days]:checked")).Select(b => b.GetAttribute("value")));
        Type("#h-f", "22:00");
        Type("#h-e", "06:00");
        Choose("input[name=days][value=Tuesday]");
        Choose("form[action*='Add'] .btn");
        Says("Added hours of work of Kitchen. It holds for alerts that are raised from now on.");
        Assert.Contains("Mon, Tue 22:00 to 06:00", Main);
        PressIn("form", "Mon, Tue 22:00", ".links");
        Says("Took hours of work of Kitchen away.");
        Assert.DoesNotContain("Mon, Tue 22:00", Main);

        Type("#h-d", "24 dec 2027");
        Type("#h-n", "Christmas Eve");
        Choose("form[action*='Holiday'] .btn");
        Says("Added the holiday Christmas Eve.");
        Assert.Contains("Fri 24 Dec 2027", Main);

        // The same day has one name.
        Type("#h-d", "24 dec 2027");
        Type("#h-n", "The eve");
        Choose("form[action*='Holiday'] .btn");
        Says("Added the holiday The eve.");
        Assert.DoesNotContain("Christmas Eve", Main);
        Type("#h-d", "the day after never");
        Type("#h-n", "Never");
        Says("No day. Write one such as tomorrow, Friday");
        Unchecked("#h-d");
        Choose("form[action*='Holiday'] .btn");
        Says("'the day after never' is no day. Write one such as tomorrow, Friday, 28 Nov or 28/11/2026.");
        Assert.Equal(("the day after never", "Never"), (ValueOf("h-d"), ValueOf("h-n")));
        Go("/settings/hours");
        PressIn("form", "The eve", ".links");
        Says("Took the holiday of 2027-12-24 away.");
        Assert.DoesNotContain("The eve", Main);
        NoSeriousFault();
    }

    [Fact]
    public void What_is_gone_meanwhile_or_was_never_there_is_said_and_nothing_is_saved()
    {
        Go("/settings/hours");
        var page = (string)Browser.ExecuteScript("return document.querySelector('form[action*=Add] input[name=__RequestVerificationToken]').value")!;
        (HttpStatusCode, string) Post(string address, params (string Name, string Value)[] fields)
        {
            var answer =
                (IReadOnlyDictionary<string, object>)
                    Browser.ExecuteAsyncScript(
                        "const done = arguments[arguments.length - 1], body = new URLSearchParams(arguments[1]); fetch(arguments[0], { method: 'POST', body }).then(async r => done({ status: r.status, text: await r.text() }))",
                        address,
                        fields.Append(("__RequestVerificationToken", page)).ToDictionary(f => f.Item1, f => (object)f.Item2)
                    )!;
            return ((HttpStatusCode)(long)answer["status"], (string)answer["text"]);
        }

        void Refused(string words, string address, params (string Name, string Value)[] fields)
        {
            var (status, text) = Post(address, fields);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
            Assert.Contains(words, WebUtility.HtmlDecode(text));
        }

        Refused("There is no team 'no-such-team' any more.", "/settings/hours?handler=Add", ("team", "no-such-team"), ("from", "08:00"), ("to", "16:00"));
        Refused("That holiday is no longer there.", "/settings/hours?handler=Work", ("date", "2031-01-01"));
        Refused("Those hours are no longer there.", "/settings/hours?handler=Drop", ("index", "99"));
        Refused("There is no person 'nobody.here' any more.", "/people/teams?handler=Site", ("name", "Annex"), ("manager", "nobody.here"));
        Refused("There is no team 'no-such-team' any more.", "/people/teams?handler=Site", ("name", "Annex"), ("team", "no-such-team"));
        Refused("What passes the quiet is one of", "/people/teams?handler=Quiet", ("passes", "very"));
        Refused("What somebody may is one of", "/settings/users?handler=Invite", ("Name", "X"), ("Email", "x@averilquay.example"), ("Role", "captain"));
        Refused("Choose a channel of the list.", "/people/bram.osei?handler=OptOut", ("of", "event:order.held"), ("channel", "fax"));
        Refused("Choose a channel of the list.", "/people/bram.osei?handler=Order", ("urgent", "fax"));
        Go("/people/teams");
        Assert.DoesNotContain("Annex", Main);
    }

    [Fact]
    public async Task How_long_things_are_kept_has_bounds_and_is_in_force_when_it_is_saved()
    {
        Go("/settings/records");
        Type("#bodyDays", "0");
        Type("#rowMonths", "241");
        Type("#arrivalDays", "a while");
        Choose("form[action*='Keep'] .btn-primary");
        Until(() => Browser.FindElements(By.CssSelector(".is-invalid")).Count == 3, "Each mistake is marked");
        Says("Texts are kept from 1 to 3,650 days.");
        Says("Deliveries are kept from 1 to 240 months.");
        Says("What came from sources is kept from 1 to 3,650 days.");
        Assert.Equal(("0", "241", "a while"), (Value("bodyDays"), Value("rowMonths"), Value("arrivalDays")));
        Type("#bodyDays", "45");
        Type("#rowMonths", "18");
        Type("#arrivalDays", "20");
        Choose("form[action*='Keep'] .btn-primary");
        Says("Saved. Upkeep begins with it within minutes.");
        Assert.Equal(1, await World.World.CountAsync("select count(*) from business where body_days = 45 and row_months = 18 and arrival_days = 20"));
        Assert.Equal(1, await World.World.CountAsync("select count(*) from audit where thing = 'records' and what like 'Set texts to be kept 45 days,%'"));
    }
}
