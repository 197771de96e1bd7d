using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

namespace Sirena.Shots;

/// <summary>Debian's Chromium, headless, driven by its ChromeDriver.</summary>
public static class Browser
{
    /// <summary>Starts one with a page of that size in CSS pixels.</summary>
    public static ChromeDriver Start(int width = 1280, int height = 800)
    {
        var folder = Directory.CreateTempSubdirectory("sirena-browser-").FullName;
        var options = new ChromeOptions { BinaryLocation = "/usr/bin/chromium", PageLoadStrategy = PageLoadStrategy.Normal };
        options.AddArguments(
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-extensions",
            "--disable-features=SpareRendererForSitePerProcess",
            "--disable-dev-shm-usage",
            "--hide-scrollbars",
            "--lang=en",
            $"--user-data-dir={folder}"
        );
        var service = ChromeDriverService.CreateDefaultService("/usr/bin", "chromedriver");
        service.SuppressInitialDiagnosticInformation = true;
        service.HideCommandPromptWindow = true;
        var driver = new Driver(service, options, folder);
        Fit(driver, width, height);
        driver.Manage().Timeouts().ImplicitWait = TimeSpan.FromSeconds(5);
        return driver;
    }

    /// <summary>Gives the tab in front a page of that size in CSS pixels, a phone's where it is said.</summary>
    public static void Fit(ChromeDriver browser, int width = 1280, int height = 800, bool phone = false) =>
        browser.ExecuteCdpCommand(
            "Emulation.setDeviceMetricsOverride",
            new()
            {
                ["width"] = width,
                ["height"] = height,
                ["deviceScaleFactor"] = 1,
                ["mobile"] = phone,
            }
        );

    /// <summary>
    /// Signs somebody in. On a busy machine the page's own focus may come while keys are typed, and an answer that was still
    /// on its way may bring the cookie of a session before: what was typed is looked at, and the form is filled in again.
    /// </summary>
    /// <exception cref="InvalidOperationException">The page still asks; it says what the page says.</exception>
    public static void SignIn(this IWebDriver browser, string url, string email, string password)
    {
        for (var left = World.Patience; left > 0; left--)
        {
            browser.Navigate().GoToUrl(url + "/sign-in");
            if (browser.FindElements(By.Id("Email")).Count == 0)
            {
                // Somebody is signed in by a cookie that came late.
                browser.Manage().Cookies.DeleteAllCookies();
                continue;
            }

            Type(browser, "Email", email);
            Type(browser, "Password", password);
            browser.FindElement(By.CssSelector("form .btn-primary")).Click();
            for (var end = DateTime.UtcNow.AddSeconds(12 * World.Patience); DateTime.UtcNow < end;)
            {
                if (browser.FindElements(By.CssSelector("header.top, #problem")) is [{ } found, ..])
                {
                    if (found.TagName == "header")
                    {
                        return;
                    }

                    break;
                }
            }
        }

        throw new InvalidOperationException($"Nobody is signed in; {browser.Url} says: {browser.FindElement(By.TagName("body")).Text}");
    }

    private static void Type(IWebDriver browser, string id, string text)
    {
        var field = browser.FindElement(By.Id(id));
        for (var left = World.Patience; left > 0 && field.GetDomProperty("value") != text; left--)
        {
            field.Clear();
            field.SendKeys(text);
        }
    }

    // What it keeps on disk goes with it.
    private sealed class Driver(ChromeDriverService service, ChromeOptions options, string folder) : ChromeDriver(service, options, TimeSpan.FromSeconds(60))
    {
        protected override void Dispose(bool disposing)
        {
            base.Dispose(disposing);
            if (Directory.Exists(folder))
            {
                Directory.Delete(folder, recursive: true);
            }
        }
    }
}
