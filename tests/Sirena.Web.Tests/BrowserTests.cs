using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using Sirena.Shots;

namespace Sirena.Web.Tests;

/// <summary>A signed-in person in front of the pages.</summary>
public abstract class BrowserTests : IClassFixture<WorldFixture>
{
    /// <summary>Signs the supervisor in.</summary>
    protected BrowserTests(WorldFixture world)
    {
        World = world;
        Browser = world.Browser;
        SignIn(0);
    }

    protected WorldFixture World { get; }

    protected ChromeDriver Browser { get; }

    protected string Main => Browser.FindElement(By.Id("main")).Text;

    protected void SignIn(int user)
    {
        Browser.Manage().Cookies.DeleteAllCookies();
        var who = World.World.Demo.Users[user];
        Browser.SignIn(World.Url, who.Email, who.Password);
    }

    protected void Go(string path) => Browser.Navigate().GoToUrl(World.Url + path);

    protected void Until(Func<bool> good, string what)
    {
        for (var end = DateTime.UtcNow.AddSeconds(12); DateTime.UtcNow < end; Task.Delay(80).Wait())
        {
            try
            {
                if (good())
                {
                    return;
                }
            }
            catch (Exception e) when (e is StaleElementReferenceException or NoSuchElementException)
            {
                // The page was just replaced.
            }
        }

        Assert.Fail($"{what}; the page says: {Main}");
    }

    /// <summary>Nothing serious or critical by axe-core on the page that is shown.</summary>
    protected void NoSeriousFault()
    {
        Browser.ExecuteScript(File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "vendor", "axe.min.js")));
        var found = (string)Browser.ExecuteAsyncScript("const done = arguments[0]; axe.run(document, { resultTypes: ['violations'] }).then(r => done(JSON.stringify(r.violations.filter(v => ['serious', 'critical'].includes(v.impact)).map(v => v.id + ': ' + v.nodes.slice(0, 3).map(n => n.html.slice(0, 160)).join(' | ')))))")!;
        Assert.Equal("[]", found);
    }
}
