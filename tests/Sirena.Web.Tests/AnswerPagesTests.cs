using System.Net;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using OpenQA.Selenium;

namespace Sirena.Web.Tests;

/// <summary>Staff with a phone: the page behind a message's link, and their own list.</summary>
public sealed class AnswerPagesTests : BrowserTests, IDisposable
{
    private const string Lines =
        ",\"dueAt\":\"2031-05-04T09:30:00Z\",\"total\":920.4,\"customer\":{\"name\":\"SY Little Auk\"},\"lines\":[{\"sku\":\"A\",\"title\":\"Lunch box, cold\",\"quantity\":12,\"shipped\":0}]";

    public AnswerPagesTests(WorldFixture world)
        : base(world) => Shots.Browser.Fit(Browser, 390, 844, phone: true);

    public void Dispose() => Browser.ExecuteCdpCommand("Emulation.clearDeviceMetricsOverride", []);

    private async Task<string> RaiseAsync(string id, string tell, string by = "mail", string more = "")
    {
        Assert.True(
            (
                await World.SendAsync(
                    HttpMethod.Put,
                    $"/api/rules/{id}",
                    World.World.Demo.Token,
                    $"name: Phone {id}\nwhen: [test.{id}]\nurgency: urgent\ntell: [ {tell} ]\nby: {{ allAtOnce: [{by}] }}\nladder: [ {{ after: PT9M, tell: [ {{ person: hugo.brandt }} ] }} ]{more}",
                    "application/yaml"
                )
            ).Status
                is HttpStatusCode.Created
                    or HttpStatusCode.OK
        );
        var number = $"PH-{id}-{Guid.NewGuid().ToString()[..5]}";
        await World.EventAsync(WorldFixture.Event(Guid.NewGuid().ToString(), number, $"test.{id}", Lines));
        return number;
    }

    // The link in the message about an order that went to an address.
    private string Link(string to, string number)
    {
        var link = "";
        Until(
            () =>
                (
                    link = Regex
                        .Match(
                            World
                                .World.StandIns.Mail.Mails.LastOrDefault(m =>
                                    m.To.StartsWith(to, StringComparison.Ordinal) && m.Text.Contains(number, StringComparison.Ordinal)
                                )
                                ?.Text
                                ?? World.World.StandIns.Phone.Messages.LastOrDefault(m => m.To == to && m.Text.Contains(number, StringComparison.Ordinal))?.Text
                                ?? "",
                            "/a/[A-Za-z0-9_-]{22}"
                        )
                        .Value
                ).Length > 0,
            $"{to} is told of {number}"
        );
        return link;
    }

    private async Task<JsonNode> AlertAsync(string number) => (await World.GetAsync($"/api/alerts?order={number}")).Body!["items"]![0]!;

    [Fact]
    public async Task The_page_says_what_happened_by_when_and_who_is_next_and_one_tap_answers()
    {
        var number = await RaiseAsync("tap", "{ person: ines.calder }, { person: odile.varga }");
        Go(Link("ines.calder", number));
        Says("because you are named");
        foreach (
            var words in new[]
            {
                number,
                "SY Little Auk",
                "Due 4 May",
                "If nobody answers, Hugo Brandt is told next.",
                "12",
                "Lunch box, cold",
                "This link answers for Ines Calder only.",
            }
        )
        {
            Says(words);
        }

        Assert.DoesNotContain("http", Main);
        Assert.True(Without("script"));
        Assert.True(Browser.FindElement(By.CssSelector(".first")).Size.Height >= 84, "The first button is for a thumb");
        Assert.Equal("open", (string)(await AlertAsync(number))["state"]!);
        NoSeriousFault();
        Choose("button[value=taken]");
        Says("You have it");
        Says("done expected by");
        Assert.Equal("ines.calder", (string)(await AlertAsync(number))["takenBy"]!);

        Go(Link("odile.varga", number));
        Says("Ines Calder has it");
        Says("nothing is left for you to do");
        Assert.True(Without("form button"));
        NoSeriousFault();

        Go(Link("ines.calder", number));
        Choose("button[value=done]");
        Says("Done. Thank you.");
        Assert.Equal("done", (string)(await AlertAsync(number))["state"]!);
    }

    [Fact]
    public async Task An_answer_that_there_is_not_takes_nothing()
    {
        var number = await RaiseAsync("odd", "{ person: ines.calder }");
        var link = Link("ines.calder", number);
        Go(link);
        Browser.ExecuteScript("document.querySelector('button[value=taken]').value = 'maybe'");
        Choose("button[value=maybe]");
        Says("Choose one of the answers.");
        Assert.Equal("open", (string)(await AlertAsync(number))["state"]!);
        SignIn(1);
        Go("/mine");
        PressIn(".mc", number, "button[value=declined]");
        Says("Noted: you cannot.");
    }

    [Fact]
    public async Task It_is_passed_on_by_a_colleague_s_name_and_a_name_of_nobody_is_said()
    {
        var number = await RaiseAsync("pass", "{ person: ines.calder }");
        Go(Link("ines.calder", number));
        Browser.FindElement(By.CssSelector(".ppass summary")).SendKeys(Keys.Enter);
        Browser.FindElement(By.Id("to")).SendKeys("Odile Vargas");
        Choose(".ppass form button");
        Says("There is no person and no team 'Odile Vargas'. Did you mean 'Odile Varga'?");
        Assert.Equal("Odile Vargas", ValueOf("to"));
        Type("#to", "odile");
        Choose(".ppass form button");
        Says("Passed on");
        Go(Link("odile.varga", number));
        Says("I have it");
        var answers = (await AlertAsync(number))["answers"]!.AsArray();
        Assert.Equal("passed", (string)answers.Single()!["answer"]!);
    }

    [Fact]
    public async Task Who_cannot_says_so_and_may_think_better_of_it()
    {
        var number = await RaiseAsync("cannot", "{ person: ines.calder }, { person: odile.varga }");
        Go(Link("ines.calder", number));
        Choose("button[value=declined]");
        Says("Noted: you cannot");
        Says("Hugo Brandt is told next");
        Choose("button[value=taken]");
        Says("You have it");
    }

    [Fact]
    public async Task A_page_shows_no_more_of_the_order_than_its_message_and_an_outsider_no_colleagues()
    {
        await World.SendAsync(
            HttpMethod.Put,
            "/api/wordings/short-words",
            World.World.Demo.Token,
            "name: Short words\ntexts:\n  - audience: staff\n    sms: \"{{order.number}} waits. OK {{answer.code}} {{answer.link}}\"\n  - audience: outside\n    mail: { subject: \"{{order.number}} waits\", text: \"Look at {{order.number}}. {{answer.link}}\" }",
            "application/yaml"
        );
        var number = await RaiseAsync(
            "short",
            "{ person: odile.varga }, { address: harbour@port.example, outside: true }",
            "sms, mail",
            "\nwording: short-words"
        );
        Go(Link("+447700900103", number));
        Says(number);
        foreach (var inside in new[] { "Lunch box", "Little Auk", "Due", "920" })
        {
            Assert.DoesNotContain(inside, Main);
        }

        Go(Link("harbour@port.example", number));
        Says("This link answers for harbour@port.example only.");
        foreach (var inside in new[] { "Varga", "Brandt", "Pass on", "Lunch box" })
        {
            Assert.DoesNotContain(inside, Main);
        }

        Choose("button[value=taken]");
        Says("You have it");
    }

    [Fact]
    public async Task My_alerts_part_what_waits_from_what_is_mine_and_what_others_took()
    {
        SignIn(1);
        Go("/mine");
        var number = await RaiseAsync("own", "{ person: ines.calder }, { person: odile.varga }", "screen");
        string Card() => TextsOf(".mc").FirstOrDefault(c => c.Contains(number, StringComparison.Ordinal)) ?? "";
        Until(() => Card().Contains("I have it", StringComparison.Ordinal), "The new alert appears by itself");
        Assert.Contains("SY Little Auk", Card());
        Assert.Contains("Hugo Brandt", Card());
        Assert.DoesNotContain("http", Card());
        NoSeriousFault();

        PressIn(".mc", number, "button[value=taken]");
        Says("You have it.");
        Says("Yours");
        Until(() => Card().Contains("You have it since", StringComparison.Ordinal), "It is among mine");

        var other = await RaiseAsync("own", "{ person: ines.calder }, { person: odile.varga }", "screen");
        await World.UntilAsync($"/api/alerts?order={other}", a => a["items"]!.AsArray().Count == 1);
        await World.SendAsync(
            HttpMethod.Post,
            $"/api/alerts/{(string)(await AlertAsync(other))["id"]!}/answers",
            World.World.Demo.Token,
            """{"person":"odile.varga","answer":"taken"}"""
        );
        Until(() => TextOf(By.CssSelector(".over")).Contains("Odile Varga has it", StringComparison.Ordinal), "What a colleague took stands below");
        Assert.Equal(["Alerts", "Orders", "My hours", "How I am reached"], TextsOf(".tabbar > a").Select(a => a.ReplaceLineEndings(" ")));
    }
}
