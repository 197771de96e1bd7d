using System.Net;
using OpenQA.Selenium;

namespace Sirena.Web.Tests;

/// <summary>What is typed is not lost: to somebody else who saved first, to a session that ended.</summary>
public sealed class KeptFormsTests(WorldFixture world) : BrowserTests(world)
{
    private Task<(HttpStatusCode Status, System.Text.Json.Nodes.JsonNode? Body, HttpResponseMessage Answer)> ElseAsync(string path, string merge) =>
        World.SendAsync(HttpMethod.Patch, path, World.World.Demo.Token, merge, "application/merge-patch+json");

    [Fact]
    public async Task Of_two_who_change_a_person_the_second_sees_both_and_chooses()
    {
        Go("/people/dario.neves");
        Type("form[action*=Save] input[name=post]", "Night driver");
        Assert.Equal(HttpStatusCode.OK, (await ElseAsync("/api/people/dario.neves", """{"post":"Crane driver"}""")).Status);
        Browser.FindElement(By.CssSelector("form[action*=Save] .btn-primary")).Click();
        Says("saved this at");
        Until(
            () =>
                TextOf(By.CssSelector("tr[data-field=post]")) is var row
                && row.Contains("Crane driver", StringComparison.Ordinal)
                && row.Contains("Night driver", StringComparison.Ordinal),
            "Both versions stand beside each other"
        );
        Assert.Contains("Crane driver", (await World.GetAsync("/api/people/dario.neves")).Body!.ToJsonString());
        NoSeriousFault();
        Browser.FindElement(By.CssSelector("main .btn-primary")).Click();
        Until(
            () => Browser.FindElement(By.CssSelector("form[action*=Save] input[name=post]")).GetAttribute("value") == "Night driver",
            "Theirs is saved over it"
        );

        Type("form[action*=Save] input[name=post]", "Day driver");
        Assert.Equal(HttpStatusCode.OK, (await ElseAsync("/api/people/dario.neves", """{"language":"en"}""")).Status);
        Browser.FindElement(By.CssSelector("form[action*=Save] .btn-primary")).Click();
        Says("Keep what is there now");
        Browser.FindElement(By.LinkText("Keep what is there now")).Click();
        Until(
            () => Browser.FindElement(By.CssSelector("form[action*=Save] input[name=post]")).GetAttribute("value") == "Night driver",
            "Nothing of the second form was saved"
        );
    }

    [Theory]
    [InlineData("/orders/statuses?id=picking", "status:picking")]
    [InlineData("/settings", "settings")]
    [InlineData("/settings/hours", "hours")]
    [InlineData("/settings/fields", "own-fields")]
    [InlineData("/settings/branding", "branding")]
    [InlineData("/settings/records", "records")]
    [InlineData("/people/teams", "teams")]
    [InlineData("/people/rota?team=desk&week=2027-05-03&add=2027-05-04T09:00", "rota:desk")]
    [InlineData("/channels?id=phone&edit=true", "gateway:phone")]
    [InlineData("/wording?id=order-held", "wording:order-held")]
    public async Task A_form_that_somebody_overtook_is_not_saved(string page, string thing)
    {
        Go(page);
        var form = Browser
            .FindElements(By.CssSelector("main form[method=post]"))
            .First(f => f.FindElements(By.Name("drawn-from")).Count > 0 && f.FindElements(By.CssSelector("button.btn")).Any(b => b.Displayed));
        await World.World.ExecuteAsync($"insert into audit (at, by, thing, what) values (now(), 'Ines Calder', '{thing}', 'Changed it in another room.')");
        var newest = await World.World.CountAsync("select max(id) from audit");
        Browser.ExecuteScript("arguments[0].noValidate = true; arguments[0].requestSubmit()", form);
        Says("Ines Calder saved this at");
        Says("Changed it in another room.");
        Assert.Equal(0L, await World.World.CountAsync($"select count(*) from audit where thing = '{thing}' and id > {newest}"));
    }

    [Fact]
    public void A_form_outlives_its_session()
    {
        Go("/people/dario.neves");
        Type("form[action*=Save] input[name=post]", "Ferry driver");
        Browser.ExecuteCdpCommand("Network.clearBrowserCookies", []);
        Browser.FindElement(By.CssSelector("form[action*=Save] .btn-primary")).Click();
        Until(
            () => TextOf(By.TagName("main")).Contains("Your session has ended. What you filled in is kept", StringComparison.Ordinal),
            "The sign-in says that the form is kept"
        );
        var who = World.World.Demo.Users[0];
        Browser.FindElement(By.Id("Email")).SendKeys(who.Email);
        Browser.FindElement(By.Id("Password")).SendKeys("not the password");
        Browser.FindElement(By.CssSelector("main .btn-primary")).Click();
        Until(() => Browser.FindElement(By.Id("problem")).Displayed, "A wrong password is said");
        Browser.FindElement(By.Id("Password")).SendKeys(who.Password);
        Browser.FindElement(By.CssSelector("main .btn-primary")).Click();
        Until(() => TextOf(By.Id("restored")).Contains("Ferry driver", StringComparison.Ordinal), "What was typed is there");
        NoSeriousFault();
        Browser.FindElement(By.CssSelector("#restored .btn-primary")).Click();
        Until(() => Browser.FindElement(By.CssSelector("form[action*=Save] input[name=post]")).GetAttribute("value") == "Ferry driver", "And is saved");
    }

    [Fact]
    public async Task A_kept_form_is_a_sealed_one_of_ours_and_goes_nowhere_else()
    {
        using var client = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false });
        using var sent = await client.PostAsync(
            World.Url + "/people/dario.neves?handler=Save",
            new FormUrlEncodedContent([new("post", "typed")]),
            TestContext.Current.CancellationToken
        );
        Assert.Equal(HttpStatusCode.TemporaryRedirect, sent.StatusCode);
        Assert.Equal("/sign-in/kept?return=%2Fpeople%2Fdario.neves%3Fhandler%3DSave", sent.Headers.Location!.ToString());
        using var kept = await client.PostAsync(
            World.Url + sent.Headers.Location,
            new FormUrlEncodedContent([new("post", "typed")]),
            TestContext.Current.CancellationToken
        );
        var page = await kept.Content.ReadAsStringAsync(TestContext.Current.CancellationToken);
        Assert.Equal(HttpStatusCode.Unauthorized, kept.StatusCode);
        Assert.Contains("name=\"Kept\"", page);
        Assert.DoesNotContain("typed", page);
        using var away = await client.PostAsync(
            World.Url + "/sign-in/kept?return=https%3A%2F%2Felsewhere.example%2F",
            new FormUrlEncodedContent([new("post", "typed")]),
            TestContext.Current.CancellationToken
        );
        Assert.Equal("/sign-in", away.Headers.Location!.ToString());
        using var part = new HttpRequestMessage(HttpMethod.Post, World.Url + "/people/dario.neves?handler=Save")
        {
            Content = new FormUrlEncodedContent([new("post", "typed")]),
        };
        part.Headers.Add("HX-Request", "true");
        Assert.Equal(HttpStatusCode.Unauthorized, (await client.SendAsync(part, TestContext.Current.CancellationToken)).StatusCode);
    }
}
