using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using Sirena.Shots;

namespace Sirena.Web.Tests;

/// <summary>A signed-in person in front of the demo's pages.</summary>
public abstract class BrowserTests : BrowserPages, IClassFixture<WorldFixture>
{
    /// <summary>Signs the supervisor in.</summary>
    protected BrowserTests(WorldFixture world)
        : base(world.Browser)
    {
        World = world;
        SignIn(0);
    }

    protected WorldFixture World { get; }

    protected override string Url => World.Url;

    protected void SignIn(int user)
    {
        SignOut();
        if (World.SessionAsync(user).Result is { } session)
        {
            Browser.ExecuteCdpCommand(
                "Network.setCookie",
                new()
                {
                    ["name"] = WorldFixture.Cookie,
                    ["value"] = session,
                    ["url"] = World.Url,
                    ["httpOnly"] = true,
                }
            );
            return;
        }

        var who = World.World.Demo.Users[user];
        Browser.SignIn(World.Url, who.Email, who.Password);
        if (Browser.Manage().Cookies.GetCookieNamed(WorldFixture.Cookie) is { } begun)
        {
            World.Keep(user, begun.Value);
        }
    }

    /// <summary>A new rule, without the draft that another test may have left.</summary>
    protected void GoToNewRule(string more = "")
    {
        World.World.ExecuteAsync("delete from kept_drafts where rule_id = 'new'").Wait();
        Go("/rules/new" + more);
    }
}

/// <summary>Somebody in front of pages.</summary>
public abstract class BrowserPages(ChromeDriver browser)
{
    protected ChromeDriver Browser { get; } = browser;

    protected abstract string Url { get; }

    /// <summary>What the main part of the page says; cells of a table stand a space apart.</summary>
    protected string Main
    {
        get
        {
            var text = (string?)null;
            Until(
                () => (text = (string?)Browser.ExecuteScript("return document.getElementById('main')?.innerText.replace(/[\\t\\u00a0]+/g, ' ')")) is not null,
                "The page has no main part"
            );
            return text!;
        }
    }

    /// <summary>Waits until the page says it.</summary>
    protected void Says(string words) => Until(() => Main.Contains(words, StringComparison.Ordinal), $"The page does not say '{words}'");

    protected void Go(string path) => Open(Url + path);

    /// <summary>
    /// Opens an address. A form with changes asks before it is left; the driver answers that by itself, and now and then finds the question gone as it does.
    /// </summary>
    protected void Open(string address)
    {
        for (var left = Sirena.Shots.World.Patience; left > 0; left--)
        {
            try
            {
                Browser.Navigate().GoToUrl(address);
                return;
            }
            catch (WebDriverArgumentException) when (left > 1) { }
        }
    }

    /// <summary>Nobody is signed in. The page that is shown may still be asking for news: it is left first, or its answer could bring a cookie of its own.</summary>
    protected void SignOut()
    {
        Open("about:blank");
        Browser.ExecuteCdpCommand("Network.clearBrowserCookies", []);
    }

    protected void Until(Func<bool> good, string what)
    {
        for (var end = DateTime.UtcNow.AddSeconds(12 * Sirena.Shots.World.Patience); DateTime.UtcNow < end; Task.Delay(80).Wait())
        {
            try
            {
                if (good())
                {
                    return;
                }
            }
            catch (Exception e) when (e is StaleElementReferenceException or NoSuchElementException or InvalidElementStateException or UnknownErrorException)
            {
                // The page was just replaced, or is being so: what was found is gone or cannot be pressed any more.
                // Caught between two documents, the driver calls it unknown: "Node with given id does not belong to the document".
            }
        }

        var page =
            $"{Browser.FindElements(By.Id("strip")).FirstOrDefault()?.Text} | {(Browser.FindElements(By.Id("main")).FirstOrDefault() ?? Browser.FindElements(By.TagName("body")).FirstOrDefault())?.Text}".ReplaceLineEndings(
                " / "
            );
        Assert.Fail($"{what}; {Browser.Url} says: {(page.Length <= 900 ? page : $"{page[..400]} … {page[^500..]}")}");
    }

    /// <summary>Whether the page holds nothing that a selector names: asked now, where finding would wait for it to come.</summary>
    protected bool Without(string selector) => (bool)Browser.ExecuteScript("return !document.querySelector(arguments[0])", selector)!;

    /// <summary>What stands in a field.</summary>
    protected string? ValueOf(string id) => Steady(() => Browser.FindElement(By.Id(id)).GetAttribute("value"));

    /// <summary>What an element says.</summary>
    protected string TextOf(By by) => Steady(() => Browser.FindElement(by).Text);

    /// <summary>What each of some elements says.</summary>
    protected string[] TextsOf(string selector) => Steady(() => Browser.FindElements(By.CssSelector(selector)).Select(e => e.Text).ToArray());

    /// <summary>Reads from the page, and once more what was drawn anew between finding and reading it: lists follow the news by themselves.</summary>
    protected static T Steady<T>(Func<T> read)
    {
        for (var left = 10; ; left--)
        {
            try
            {
                return read();
            }
            catch (StaleElementReferenceException) when (left > 1) { }
        }
    }

    /// <summary>Types a text into the field that a selector names, in place of what stands there.</summary>
    protected void Type(string selector, string text)
    {
        var field = Browser.FindElement(By.CssSelector(selector));
        Browser.ExecuteScript("arguments[0].scrollIntoView({block:'center'})", field);
        field.Clear();
        field.SendKeys(text);
    }

    /// <summary>The form that holds what a selector names is sent as it is: the server shall answer what the browser would not send.</summary>
    protected void Unchecked(string selector) => Browser.ExecuteScript("document.querySelector(arguments[0]).closest('form').noValidate = true", selector);

    /// <summary>Presses what a selector names and waits until the page has been drawn anew: until the element of that id is another one, or is there.</summary>
    protected void Press(string selector, string then)
    {
        var before = Browser.ExecuteScript("return document.getElementById(arguments[0])", then) as IWebElement;
        Choose(selector);
        Until(
            () => Browser.FindElements(By.Id(then)).FirstOrDefault() is { } now ? !now.Equals(before) : before is not null,
            $"Nothing was drawn anew after {selector}"
        );
    }

    /// <summary>Presses what a selector names, brought into the middle of the window first: an option of a long list may lie outside of it.</summary>
    protected void Choose(string selector)
    {
        Assert.NotEmpty(Browser.FindElements(By.CssSelector(selector)));

        // A list that follows the news may be drawn anew between finding and pressing.
        Until(
            () =>
            {
                var element = Browser.FindElement(By.CssSelector(selector));
                if (
                    Browser.ExecuteScript(
                        "const s = arguments[0].closest('option') && arguments[0].closest('select'); return s?.hidden ? s.nextElementSibling?.querySelector('.pickf') : null",
                        element
                    )
                    is IWebElement field
                )
                {
                    Find(field, (string)Browser.ExecuteScript("return arguments[0].text.trim()", element)!);
                    return true;
                }

                Browser.ExecuteScript("(arguments[0].closest('select') ?? arguments[0]).scrollIntoView({ block: 'center', behavior: 'instant' })", element);
                element.Click();
                return true;
            },
            $"{selector} can be pressed"
        );
    }

    /// <summary>Finds in a long list by typing, and takes what is marked.</summary>
    protected void Find(IWebElement field, string text)
    {
        field.SendKeys(Keys.Control + "a");
        field.SendKeys(text);
        Until(
            () =>
                text
                == (string?)
                    Browser.ExecuteScript("return document.getElementById(arguments[0].getAttribute('aria-activedescendant'))?.firstChild.textContent", field),
            $"'{text}' is found"
        );
        field.SendKeys(Keys.Enter);
    }

    /// <summary>Presses what the part of a page that says some words holds, found and pressed in one go, so that a redrawing cannot come in between.</summary>
    protected void PressIn(string parts, string words, string selector) =>
        Until(
            () =>
                (bool)
                    Browser.ExecuteScript(
                        "const p = [...document.querySelectorAll(arguments[0])].find(p => p.textContent.includes(arguments[1])); const e = p?.querySelector(arguments[2]); if (!e) return false; e.click(); return true;",
                        parts,
                        words,
                        selector
                    )!,
            $"{words} has no {selector}"
        );

    /// <summary>Nothing serious or critical by axe-core on the page that is shown.</summary>
    protected void NoSeriousFault()
    {
        Browser.ExecuteScript(File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "vendor", "axe.min.js")));
        var found = (string)
            Browser.ExecuteAsyncScript(
                "const done = arguments[0]; axe.run(document, { resultTypes: ['violations'] }).then(r => done(JSON.stringify(r.violations.filter(v => ['serious', 'critical'].includes(v.impact)).map(v => v.id + ': ' + v.nodes.slice(0, 3).map(n => n.html.slice(0, 160)).join(' | ')))))"
            )!;
        Assert.Equal("[]", found);
    }
}
