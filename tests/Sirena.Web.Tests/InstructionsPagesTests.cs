using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using OpenQA.Selenium;
using Sirena.Demo.OrderSystem;
using Sirena.Storage;

namespace Sirena.Web.Tests;

/// <summary>What is done to an order from its page, from a message's page and by a rule, with the demo's order system at the other end.</summary>
public sealed class InstructionsPagesTests(WorldFixture world) : BrowserTests(world)
{
    private static int number = 96_000;

    private static string Next() => $"AQ-{Interlocked.Increment(ref number)}";

    // The stand-in does what it is asked and tells of it by the demo's key.
    private async Task ConnectAsync()
    {
        var system = new OrderSystem(
            new HttpClient(),
            World.World.Nodes[0].Services.GetRequiredService<IDbContextFactory<SirenaDb>>(),
            World.World.Demo,
            World.World.StandIns.Moods
        );
        World.World.StandIns.Moods.Do = system.DoAsync;
        var (status, body, _) = await World.SendAsync(
            HttpMethod.Put,
            "/api/sources/events",
            World.World.Demo.Token,
            $$"""{ "kind": "events", "takes": ["release", "hold", "status", "capture", "tag", "note", "cancel"], "instructionsTo": "{{World.World.StandIns.Url}}/order-system/instructions/events", "instructionsSecret": "a-key-that-signs" }"""
        );
        Assert.True(status is System.Net.HttpStatusCode.OK, body?.ToJsonString());
    }

    private Task PlaceAsync(string order, string more = "", string type = "order.placed") =>
        World.EventAsync(
            WorldFixture.Event(
                Guid.NewGuid().ToString(),
                order,
                type,
                ",\"status\":\"loaded\",\"salesperson\":\"odile.varga\",\"total\":900,\"customer\":{\"name\":\"MV Corvane\",\"email\":\"purser@corvane.example\"}"
                    + more
            )
        );

    private Task<JsonNode> StandsAsync(string order, string kind, string state) =>
        World.UntilAsync(
            $"/api/instructions?order={order}",
            l => l["items"]!.AsArray().Any(i => (string)i!["kind"]! == kind && (string)i["state"]! == state),
            20
        );

    [Fact]
    public async Task A_supervisor_moves_an_order_telling_nobody_and_cancels_with_a_second_touch()
    {
        await ConnectAsync();
        var order = Next();
        await PlaceAsync(order);
        await World.UntilAsync($"/api/orders/{order}/trail", t => t["events"]!.AsArray().Any(e => e!["decidedAt"] is not null));
        Go($"/orders/{order}");
        Says("What can be done to it");
        Says("Nothing was asked of the order system yet");
        Says("it is not held");
        NoSeriousFault();
        Choose("#do details:has(#do-status) summary");
        Choose("#do-status input[value=alongside] + span");
        Until(() => TextOf(By.Id("weigh-status")).Contains("Move to Alongside, tell both", StringComparison.Ordinal), "The button repeats the choice");
        Choose("#do-status input[name=tell][value=nobody]");
        Until(() => TextOf(By.Id("weigh-status")).Contains("Move to Alongside, tell nobody", StringComparison.Ordinal), "The button repeats whom it tells");
        Choose("#weigh-status button");
        Says("Asked. It is done when the order itself shows it.");
        await StandsAsync(order, "status", "seen");
        Until(() => TextOf(By.Id("done")).Contains("Shown by the order", StringComparison.Ordinal), "The page fills it in by itself");
        Says("Nobody is told of it, chosen by Maren Holt.");
        Assert.DoesNotContain(World.World.StandIns.Mail.Mails, m =>
            m.Subject.Contains(order, StringComparison.Ordinal) && m.Subject.Contains("longside", StringComparison.Ordinal)
        );

        Choose("#do details:has(#do-cancel) summary");
        Browser.FindElement(By.Id("d-cancel-reason")).SendKeys("sailed early");
        Choose("#weigh-cancel button");
        Says("Cancel the order, for good");
        Assert.DoesNotContain((await World.GetAsync($"/api/instructions?order={order}")).Body!["items"]!.AsArray(), i => (string)i!["kind"]! == "cancel");
        Choose("#weigh-cancel .btn-danger");
        var cancelled = await StandsAsync(order, "cancel", "seen");
        Assert.Equal("sailed early", (string)cancelled["items"]![0]!["with"]!["reason"]!);
        Go($"/orders/{order}");
        Says("it is Cancelled already");
        Go("/proof/instructions?state=seen");
        Says(order);
        NoSeriousFault();
    }

    [Fact]
    public async Task A_refusal_stands_in_the_order_systems_words()
    {
        await ConnectAsync();
        var order = Next();
        await PlaceAsync(order);
        await World.UntilAsync($"/api/orders/{order}/trail", t => t["events"]!.AsArray().Any(e => e!["decidedAt"] is not null));
        World.World.StandIns.Moods.Set("refuse", 1, null);
        Go($"/orders/{order}");
        Choose("#do details:has(#do-hold) summary");
        Browser.FindElement(By.Id("d-hold-reason")).SendKeys("papers");
        Choose("#weigh-hold button");
        await StandsAsync(order, "hold", "refused");
        Until(() => TextOf(By.Id("done")).Contains("The ledger's day is closed for this order.", StringComparison.Ordinal), "The refusal is shown");
    }

    [Fact]
    public async Task A_rule_built_in_the_editor_holds_an_order_and_its_reader_releases_it_from_the_message()
    {
        await ConnectAsync();
        var order = Next();
        GoToNewRule();
        Browser.FindElement(By.Id("name")).SendKeys($"Holds {order}");
        Choose("#when-0 option[value='order.payment-failed']");
        Press("#k0-t0 option[value='person:ines.calder']", "k0-t0");
        Press("#k0-dadd", "k0-dk0");
        Press("#k0-dk0 option[value=hold]", "k0-dk0");
        Browser.FindElement(By.Id("k0-dv0")).SendKeys("payment of {{order.total}} failed");
        Press("#k0-dadd", "k0-dk1");
        Choose("#k0-dw1 option[value=offer]");
        Press("#k0-dk1 option[value=release]", "k0-dk1");
        Until(
            () =>
                Browser
                    .FindElement(By.CssSelector("#live .sentence"))
                    .Text.Contains(
                        "hold the order because 'payment of {{order.total}} failed' and tell Ines Calder by mail; whoever is told may release the order",
                        StringComparison.Ordinal
                    ),
            "The sentence follows"
        );
        Choose("button[value=save].btn-primary");
        Says("Saved as version 1");
        await PlaceAsync(order, type: "order.payment-failed");
        var held = await StandsAsync(order, "hold", "seen");
        Assert.Equal("payment of 900.00 EUR failed", (string)held["items"]![0]!["with"]!["reason"]!);

        var link = "";
        Until(
            () =>
                (
                    link = Regex
                        .Match(
                            World
                                .World.StandIns.Mail.Mails.LastOrDefault(m =>
                                    m.To.Contains("ines.calder", StringComparison.Ordinal) && m.Text.Contains(order, StringComparison.Ordinal)
                                )
                                ?.Text
                                ?? "",
                            "/a/[A-Za-z0-9_-]{22}"
                        )
                        .Value
                ).Length > 0,
            $"Ines is told of {order}"
        );
        Go(link);
        Says("Release the order");
        NoSeriousFault();
        Choose(".off form .btn.first");
        Says("You have it");
        NoSeriousFault();
        await StandsAsync(order, "release", "seen");
        Until(
            () => Main.Contains("Release the order, Ines Calder", StringComparison.Ordinal) && Regex.Count(Main, "Shown by the order") == 2,
            "The page looks again by itself"
        );
        var alerts = await World.UntilAsync($"/api/alerts?order={order}", a => a["items"]!.AsArray().Any(i => (string?)i!["takenBy"] == "ines.calder"));
        Assert.NotNull(alerts);

        // The trail draws what was asked because of the event, by the rule and by its reader, and each opens.
        SignIn(0);
        Go($"/orders/{order}?event=1");
        var drawn = Browser.FindElements(By.CssSelector(".trail [data-node^='instruction-']"));
        Assert.Equal(["asked by the rule", "asked by Ines Calder"], drawn.Select(d => Regex.Match(d.Text, "asked by [^\n]+").Value.Trim()));
        Assert.Contains("hold the order", drawn[0].Text, StringComparison.Ordinal);
        Choose(".trail [data-node^='instruction-']");
        Says("Its number for the order system is");

        // The editor shows what it saved.
        Go($"/rules/holds-{order.ToLowerInvariant()}");
        Assert.Equal("payment of {{order.total}} failed", ValueOf("k0-dv0"));
    }

    [Fact]
    public async Task Settings_say_who_may_and_a_source_says_what_it_takes()
    {
        await ConnectAsync();
        Go("/settings/instructions");
        Says("Who may do what to orders");
        NoSeriousFault();
        Choose("select[name='capture.who'] option[value=staff]");
        Choose("input[name='capture.second']");
        Choose(".rights ~ .card-foot .btn-primary");
        Says("Saved, in force at once.");
        var rights = (await World.GetAsync("/api/instructions/rights")).Body!["items"]!.AsArray().Single(r => (string)r!["kind"]! == "capture")!;
        Assert.True((bool)rights["secondYes"]!);
        await World.SendAsync(HttpMethod.Put, "/api/instructions/rights", World.World.Demo.Token, "[]");
        Go("/sources?id=events&edit=true");
        Says("What it can be asked to do");
        Choose("input[name=takes][value=assign] + span");
        Choose("form.ef .bt .btn-primary");
        Says("is saved");
        Assert.Contains("assign", (await World.GetAsync("/api/sources/events")).Body!["takes"]!.AsArray().Select(t => (string)t!));
    }
}
