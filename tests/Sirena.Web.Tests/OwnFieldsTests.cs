using OpenQA.Selenium;
using Sirena.Storage;

namespace Sirena.Web.Tests;

/// <summary>Fields of orders that are the business's own: chosen in the settings, shown where they were chosen for.</summary>
public sealed class OwnFieldsTests(WorldFixture world) : BrowserTests(world)
{
    private IWebElement Row(string path) => Browser.FindElement(By.CssSelector($"tr:has(input[value='{path}'])"));

    private void Tick(string path, string place)
    {
        var box = Row(path).FindElement(By.CssSelector($"input[type=checkbox][name^='{place}-']"));
        Browser.ExecuteScript("arguments[0].scrollIntoView({block:'center'})", box);
        box.Click();
    }

    private void Name(string path, string name)
    {
        var input = Row(path).FindElement(By.CssSelector("input[name^='name-']:not([lang])"));
        input.Clear();
        input.SendKeys(name);
    }

    private void Save() => Choose(".own-f .btn-primary");

    [Fact]
    public async Task A_field_that_came_is_named_and_stands_in_lists_on_the_order_and_in_messages()
    {
        await World.EventAsync(WorldFixture.Event("own-1", "AQ-71001", more: ",\"extra\":{\"pilotName\":\"Sable Ostrom\",\"berth\":\"N9\"}"));
        await World.UntilAsync("/api/orders/AQ-71001/trail", t => t["events"] is not null);

        // What comes is offered by itself, a few seconds later.
        Until(
            () =>
            {
                Go("/settings/fields");
                return Browser.FindElements(By.CssSelector("input[value='order.extra.pilotName']")).Count == 1;
            },
            "The field that came is offered"
        );
        Says("Sable Ostrom");
        NoSeriousFault();
        Name("order.extra.pilotName", "Pilot");
        Tick("order.extra.pilotName", "lists");
        Tick("order.extra.pilotName", "messages");
        Save();
        Says("Saved. In force in lists at once");
        Assert.Equal("Pilot", Row("order.extra.pilotName").FindElement(By.CssSelector("input[name^='name-']:not([lang])")).GetAttribute("value"));

        Go("/orders?q=AQ-71001");
        Says("N9, Sable Ostrom");
        Assert.Equal("Number, customer, berth, pilot", Browser.FindElement(By.Name("q")).GetAttribute("placeholder"));
        Go("/orders/AQ-71001");
        Says("Pilot");
        Says("Sable Ostrom");
        var (_, preview, _) = await World.SendAsync(
            HttpMethod.Post,
            "/api/previews",
            World.World.Demo.Token,
            """{"wording":"order-held","order":{"number":"AQ-71001","extra":{"pilotName":"Sable Ostrom"}},"event":"order.held","audience":"staff","language":"en"}"""
        );
        Assert.Contains("Pilot: Sable Ostrom", preview!.ToJsonString(), StringComparison.Ordinal);

        Go("/settings/fields");
        Tick("order.extra.pilotName", "lists");
        Tick("order.extra.pilotName", "messages");
        Save();
        Says("Saved.");
        Go("/orders?q=AQ-71001");
        Assert.DoesNotContain("Sable Ostrom", Main, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_cannot_be_a_field_is_refused_and_what_was_typed_stays()
    {
        Go("/settings/fields");
        var count = await World.World.CountAsync("select jsonb_array_length(own_fields)::bigint from business");
        var path = Browser.FindElement(By.CssSelector("input[aria-label='Path of another field']"));
        path.SendKeys("order.total");
        Browser.FindElement(By.CssSelector("input[aria-label='Name of another field']")).SendKeys("Sum");
        Browser.FindElement(By.CssSelector("input[aria-label='Another field: Lists']")).Click();
        Save();
        Says("'order.total' is no field of your own");
        Assert.Contains(Browser.FindElements(By.CssSelector("input[name^='name-']")), i => i.GetAttribute("value") == "Sum");
        NoSeriousFault();
        Assert.Equal(count, await World.World.CountAsync("select jsonb_array_length(own_fields)::bigint from business"));

        // What was typed wrong is typed anew in its place; a field that is shown nowhere would be gone without a word.
        path = Browser.FindElement(By.CssSelector("input[aria-label='Path of order.total']"));
        path.Clear();
        path.SendKeys("order.extra.craneNo");
        Browser.FindElement(By.CssSelector("input[aria-label='Order.total: Lists']")).Click();
        Save();
        Says("order.extra.craneNo has no tick");
        Browser.FindElement(By.CssSelector("input[aria-label='Order.extra.craneNo: Messages']")).Click();
        Save();
        Says("Saved. In force in lists at once");
        Assert.Equal(count + 1, await World.World.CountAsync("select jsonb_array_length(own_fields)::bigint from business"));
        Tick("order.extra.craneNo", "messages");
        Save();
        Until(() => Without("input[value='order.extra.craneNo']"), "What was never seen is offered no more");
    }
}
