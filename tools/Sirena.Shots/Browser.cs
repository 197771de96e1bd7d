using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

namespace Sirena.Shots;

/// <summary>Debian's Chromium, headless, driven by its ChromeDriver.</summary>
public static class Browser
{
    /// <summary>Starts one with a page of that size in CSS pixels.</summary>
    public static ChromeDriver Start(int width = 1280, int height = 800)
    {
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
            "--disable-dev-shm-usage",
            "--hide-scrollbars",
            "--lang=en",
            $"--user-data-dir={Directory.CreateTempSubdirectory("sirena-browser-").FullName}"
        );
        var service = ChromeDriverService.CreateDefaultService("/usr/bin", "chromedriver");
        service.SuppressInitialDiagnosticInformation = true;
        service.HideCommandPromptWindow = true;
        var driver = new ChromeDriver(service, options, TimeSpan.FromSeconds(60));
        driver.ExecuteCdpCommand(
            "Emulation.setDeviceMetricsOverride",
            new()
            {
                ["width"] = width,
                ["height"] = height,
                ["deviceScaleFactor"] = 1,
                ["mobile"] = false,
            }
        );
        driver.Manage().Timeouts().ImplicitWait = TimeSpan.FromSeconds(5);
        return driver;
    }

    /// <summary>Signs somebody in.</summary>
    public static void SignIn(this IWebDriver browser, string url, string email, string password)
    {
        browser.Navigate().GoToUrl(url + "/sign-in");
        browser.FindElement(By.Id("Email")).SendKeys(email);
        browser.FindElement(By.Id("Password")).SendKeys(password);
        browser.FindElement(By.CssSelector("form .btn-primary")).Click();
        browser.FindElement(By.CssSelector("header.top"));
    }
}
