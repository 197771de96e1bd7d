using System.Net;
using OpenQA.Selenium;

namespace Sirena.Web.Tests;

/// <summary>The page of ladders that many rules use: none is lost to another of its name, none is changed that a rule cannot follow.</summary>
public sealed class LaddersPageTests(WorldFixture world) : BrowserTests(world)
{
    private const string Steps = "- after: PT7M\n  tell: [ { team: desk } ]\n";

    private string Token => World.World.Demo.Token;

    private Task RuleAsync(string id, string more, string person = "odile.varga") =>
        World.RuleAsync(id, $"name: Rule {id}\nwhen: [test.{id}]\ntell: [ {{ person: {person} }} ]\n{more}");

    private async Task<string> SentenceAsync(string id) => (string)(await World.GetAsync($"/api/rules/{id}")).Body!["sentence"]!;

    private void Add(string name, string steps)
    {
        Go("/rules/ladders?id=new");
        Type("#name", name);
        Type("#steps", steps);
        Choose("form.ef .btn-primary");
    }

    private void Change(string id, string steps)
    {
        Go($"/rules/ladders?id={id}");
        Type("#steps", steps);
        Choose("form.ef .btn-primary");
    }

    [Fact]
    public async Task A_ladder_is_added_followed_by_its_rules_and_removed_when_none_is_left()
    {
        Add("Night shift", Steps);
        Says("'Night shift' is saved.");
        Says("No rule uses it.");
        await RuleAsync("by-night", "ladder: { shared: night-shift }");
        Change("night-shift", Steps.Replace("PT7M", "PT11M", StringComparison.Ordinal));
        Says("'Night shift' is saved, with a new version of the rule that uses it, in force from the next event.");
        Assert.Contains("after 11 min", await SentenceAsync("by-night"), StringComparison.Ordinal);

        Go("/rules/ladders?id=night-shift");
        Choose("button[formaction*=Remove]");
        Browser.SwitchTo().Alert().Accept();
        Says("It is used by 'Rule by-night'. Give this rule steps of its own first.");
        await RuleAsync("by-night", "");
        Go("/rules/ladders?id=night-shift");
        Choose("button[formaction*=Remove]");
        Browser.SwitchTo().Alert().Accept();
        Says("The ladder is removed.");
        NoSeriousFault();
    }

    [Fact]
    public async Task Another_of_its_name_does_not_take_its_place()
    {
        Add("Harbour gate", Steps);
        Says("'Harbour gate' is saved.");
        await RuleAsync("at-the-gate", "ladder: { shared: harbour-gate }");
        Add("Harbour Gate", Steps.Replace("PT7M", "PT1H", StringComparison.Ordinal));
        Says("There is a shared ladder 'harbour-gate' already. Choose another name.");
        Assert.Contains("PT1H", Browser.FindElement(By.Id("steps")).GetDomProperty("value"), StringComparison.Ordinal);
        Assert.Contains("after 7 min", await SentenceAsync("at-the-gate"), StringComparison.Ordinal);

        // From the editor of a rule that does not use it neither.
        GoToNewRule();
        Type("#name", "Shares a name");
        Choose("#when-0 option[value='order.refunded']");
        Press("#k0-t0 option[value='person:ines.calder']", "k0-t0");
        Press("#k0-sadd", "k0-s0-d");
        Press("#k0-s0-t0 option[value='team:desk']", "k0-s0-t0");
        Browser.ExecuteScript("document.querySelector('.sharel').open = true");
        Browser.FindElement(By.Id("k0-share")).SendKeys("harbour gate");
        Choose("button[value='share:k0']");
        Says("There is a shared ladder 'Harbour gate' already, which this rule does not use.");
        Assert.Contains("after 7 min", await SentenceAsync("at-the-gate"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_ladder_that_one_of_its_rules_cannot_follow_is_not_changed_for_the_others_either()
    {
        Add("Two rules", Steps);
        Says("'Two rules' is saved.");
        await RuleAsync("follows", "ladder: { shared: two-rules }");
        Assert.Equal(
            HttpStatusCode.OK,
            (
                await World.SendAsync(
                    HttpMethod.Put,
                    "/api/people",
                    Token,
                    "- { id: leaves.soon, name: Leaves Soon, contacts: [ { channel: mail, address: leaves@averilquay.example } ] }",
                    "application/yaml"
                )
            ).Status
        );
        await RuleAsync("cannot-follow", "ladder: { shared: two-rules }", "leaves.soon");
        await World.World.ExecuteAsync("update people set archived_at = now() where id = 'leaves.soon'");
        Assert.Equal(
            HttpStatusCode.OK,
            (
                await World.SendAsync(HttpMethod.Patch, "/api/people/odile.varga", Token, """{"post":"Head of the desk"}""", "application/merge-patch+json")
            ).Status
        );
        Change("two-rules", Steps.Replace("PT7M", "PT2H", StringComparison.Ordinal));
        Says("The rule 'Rule cannot-follow' uses it and cannot follow:");
        Assert.Contains("after 7 min", await SentenceAsync("follows"), StringComparison.Ordinal);
        Assert.Equal(1, await World.World.CountAsync("select count(*) from ladders where id = 'two-rules' and steps::text like '%PT7M%'"));
    }

    [Theory]
    [InlineData("", Steps, "Give the ladder a name")]
    [InlineData("Broken", "- after: soon\n  tell: [ { team: desk } ]\n", "after")]
    [InlineData("Nobody", "- after: PT5M\n  tell: [ { person: nobody.here } ]\n", "nobody.here")]
    public void What_cannot_be_a_ladder_is_refused_and_what_was_typed_stays(string name, string steps, string sentence)
    {
        Go("/rules/ladders?id=new");
        Type("#name", name);
        Type("#steps", steps);
        Unchecked("#name");
        Choose("form.ef .btn-primary");
        Until(() => TextOf(By.CssSelector("form.ef .said.bad")).Contains(sentence, StringComparison.Ordinal), "It says what is wrong");
        Assert.Equal(steps.Trim(), Browser.FindElement(By.Id("steps")).GetDomProperty("value")!.ReplaceLineEndings("\n").Trim());
    }
}
