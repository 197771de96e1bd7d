using System.Text.RegularExpressions;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using Sirena.Shots;

namespace Sirena.Web.Tests;

/// <summary>An installation of which nobody has set anything up, and a browser.</summary>
public sealed class EmptyFixture : IAsyncLifetime
{
    public World World { get; private set; } = null!;

    public ChromeDriver Browser { get; private set; } = null!;

    public async ValueTask InitializeAsync()
    {
        World = await World.EmptyAsync(Environment.GetEnvironmentVariable("SIRENA_TEST_SERVER")!);
        Browser = Browsers.Take();
    }

    public async ValueTask DisposeAsync()
    {
        Browsers.Give(Browser);
        await World.DisposeAsync();
    }
}

/// <summary>
/// A stranger's first day: from the printed link to the first answered alert, every station by what really happened, counting what had to be typed and pressed.
/// </summary>
public sealed class FirstDayTests(EmptyFixture empty) : BrowserPages(empty.Browser), IClassFixture<EmptyFixture>
{
    private int inputs;

    protected override string Url => empty.World.Url;

    private void TypeOnce(string id, string text)
    {
        Type($"#{id}", text);
        inputs++;
    }

    private void PressOnce(string selector)
    {
        Choose(selector);
        inputs++;
    }

    private void Heads(string words) => Until(() => TextOf(By.TagName("h1")).Contains(words, StringComparison.Ordinal), $"The heading does not say '{words}'");

    [Fact]
    public async Task From_an_empty_database_to_the_first_answered_alert_in_at_most_forty_inputs()
    {
        empty.World.StandIns.Names.Services["_submission._tcp.averilquay.example"] = ("localhost", (ushort)empty.World.StandIns.SmtpPort);
        await empty.World.ExecuteAsync("insert into one_time_links (hash, expires_at) values (sha256('the-first-day'), now() + interval '1 hour')");
        Go("/set-up/the-first-day");
        Assert.NotNull(NodaTime.DateTimeZoneProviders.Tzdb.GetZoneOrNull(ValueOf("Zone")!));
        TypeOnce("Business", "Averil Quay");
        TypeOnce("Name", "Maren Holt");
        TypeOnce("Email", "maren.holt@averilquay.example");
        TypeOnce("Password", "a long way to Averil");
        TypeOnce("Zone", "Europe/Lisbon");
        PressOnce("button.btn-primary");
        Heads("0 of 5 are proved");
        NoSeriousFault();

        // Mail: the server that the domain publishes is found, kept and tried.
        TypeOnce("address", "sirena@averilquay.example");
        PressOnce("form[action*=Find] button");
        Says("averilquay.example publishes it");
        Assert.Equal($"localhost:{empty.World.StandIns.SmtpPort}", ValueOf("server"));
        NoSeriousFault();
        PressOnce("form[action*=Mail] .btn-primary");
        Says("The message was taken.");
        Until(() => empty.World.StandIns.Mail.Mails.Any(m => m.To.Contains("maren.holt@averilquay.example", StringComparison.Ordinal)), "The test arrived");
        Go("/");
        Heads("1 of 5 are proved");

        // People: wrong, then right.
        Says("Only one can be reached so far");
        TypeOnce("name", "Tomas Reyle");
        TypeOnce("email", "tomas.reyle@averilquay.example");
        TypeOnce("phone", "12");
        PressOnce("form[action*=Person] .btn-primary");
        Says("The phone number");
        Assert.Equal(("Tomas Reyle", "tomas.reyle@averilquay.example", "12"), (ValueOf("name"), ValueOf("email"), ValueOf("phone")));
        TypeOnce("phone", "");
        PressOnce("form[action*=Person] .btn-primary");
        Says("2 people, 2 reachable");

        // Orders: the line on the page works as it stands.
        Go("/");
        Heads("2 of 5 are proved");
        PressOnce("form[action*=Key] button");
        Says("It is shown only now");
        var curl = TextOf(By.CssSelector(".curl"));
        var key = Regex.Match(curl, "Bearer ([^']+)'").Groups[1].Value;
        using var http = new HttpClient();
        using var request = new HttpRequestMessage(HttpMethod.Post, Regex.Match(curl, "curl -sS (\\S+)").Groups[1].Value)
        {
            Content = new StringContent(
                Regex.Match(curl, "-d '(.*)'", RegexOptions.Singleline).Groups[1].Value,
                new System.Net.Http.Headers.MediaTypeHeaderValue("application/cloudevents+json")
            ),
        };
        request.Headers.Authorization = new("Bearer", key);
        using var answer = await http.SendAsync(request, TestContext.Current.CancellationToken);
        Assert.Equal(System.Net.HttpStatusCode.Accepted, answer.StatusCode);

        // The page hears of it by itself.
        Heads("3 of 5 are proved");
        NoSeriousFault();

        // A rule that is ready, put in force from the editor.
        PressOnce("a[href='/rules/new?ready=held']");
        Until(() => Browser.FindElement(By.Name("name")).GetAttribute("value") == "Held: tell at once", "The ready rule is there");
        PressOnce("button[value=save].btn-primary");
        Until(() => !Browser.Url.Contains("/rules/new", StringComparison.Ordinal), "It is in force");
        Go("/first-day");
        PressOnce("form[action*=MadeUp] button[value='order.held']");
        Heads("4 of 5 are proved");

        // The alert goes out by the mail server that was found, and is answered by the link in it.
        string? link = null;
        Until(
            () =>
                (
                    link = empty
                        .World.StandIns.Mail.Mails.Where(m => m.Text.Contains("TRY-", StringComparison.Ordinal))
                        .Select(m => Regex.Match(m.Text, "http\\S+/a/[A-Za-z0-9_-]{22}").Value)
                        .FirstOrDefault(l => l.Length > 0)
                )
                    is not null,
            "The alert arrived"
        );
        Assert.StartsWith(Url, link, StringComparison.Ordinal);
        Open(link!);
        Until(() => TextOf(By.TagName("body")).Contains("TRY-", StringComparison.Ordinal), "The link opens the alert");
        Browser.FindElements(By.TagName("button")).First(b => b.Text == "I have it").Click();
        inputs++;
        Until(() => TextOf(By.TagName("body")).Contains("You have it", StringComparison.Ordinal), "It is answered");
        Go("/first-day");
        Heads("All five are proved");
        NoSeriousFault();
        Assert.InRange(inputs, 1, 40);

        // From now on the way in leads to the orders.
        Go("/");
        Until(() => Browser.Url.EndsWith("/orders", StringComparison.Ordinal), "The orders are the way in now");
    }
}
