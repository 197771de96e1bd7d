using System.Collections.Concurrent;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

[assembly: AssemblyFixture(typeof(Sirena.Web.Tests.Browsers))]

namespace Sirena.Web.Tests;

/// <summary>The browsers of the run, handed from one class to the next: to start one takes a processor ten seconds.</summary>
public sealed class Browsers : IDisposable
{
    private static readonly ConcurrentBag<ChromeDriver> Free = [];

    /// <summary>One that nobody has.</summary>
    public static ChromeDriver Take() => Free.TryTake(out var one) ? one : Shots.Browser.Start();

    /// <summary>
    /// Gives one back in a tab of its own, signed out: what a class set for its pages (sizes, media, scripts) goes with the tab. One that does not answer any
    /// more ends.
    /// </summary>
    public static void Give(ChromeDriver one)
    {
        try
        {
            one.Navigate().GoToUrl("about:blank");
            one.ExecuteCdpCommand("Network.clearBrowserCookies", []);
            var before = one.WindowHandles;
            var fresh = one.SwitchTo().NewWindow(WindowType.Tab).CurrentWindowHandle;
            foreach (var handle in before)
            {
                one.SwitchTo().Window(handle).Close();
            }

            one.SwitchTo().Window(fresh);
            Shots.Browser.Fit(one);
            Free.Add(one);
        }
        catch (WebDriverException)
        {
            one.Dispose();
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        while (Free.TryTake(out var one))
        {
            one.Dispose();
        }
    }
}
