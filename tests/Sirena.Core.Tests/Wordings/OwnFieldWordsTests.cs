using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Wordings;

namespace Sirena.Core.Tests.Wordings;

/// <summary>What messages say of the fields that are the business's own.</summary>
public sealed class OwnFieldWordsTests
{
    private static readonly OwnField Gate = new("order.extra.gate", "Gate")
    {
        InMessages = true,
        InShort = true,
        Names = { ["pt"] = "Porta" },
    };
    private static readonly OwnField Purse = new("order.extra.purse", "PO number") { InShort = true, ForCustomers = true };
    private static readonly OwnField Crew = new("order.extra.crew", "Crew") { InMessages = true, ForCustomers = true };

    private const string Order =
        """{"number":"AQ-1","customer":{"name":"MV Corvane"},"extra":{"gate":"4 West","purse":"P-77","crew":31},"dueAt":"2026-11-24T15:30:00Z"}""";

    private static readonly WordingParts Parts = new()
    {
        Subject = "AQ-1",
        Facts = [new Fact("Customer", "order.customer.name"), new Fact("Own", OwnField.All), new Fact("Due", "order.dueAt.time")],
        Text = "{{facts}}",
        Ticket = "{{facts}}",
        Sms = "{{order.number}}{{#order.own}}, {{order.own}}{{/order.own}}",
    };

    private static string By(Channel channel, Audience audience = Audience.Staff, string language = "en", string order = Order, WordingParts? parts = null) =>
        new Composer(ComposerTests.About(order, audience, language, own: [Gate, Purse, Crew])).For(channel, parts ?? Parts).Text;

    [Theory]
    [InlineData(Audience.Staff, "en", "AQ-1, gate 4 West, PO number P-77")]
    [InlineData(Audience.Outside, "en", "AQ-1, gate 4 West, PO number P-77")]
    [InlineData(Audience.Staff, "pt", "AQ-1, porta 4 West, PO number P-77")]
    [InlineData(Audience.Customer, "en", "AQ-1, PO number P-77")]
    public void A_short_text_names_those_that_were_chosen_for_it(Audience audience, string language, string text) =>
        Assert.Equal(text, By(Channel.Sms, audience, language));

    [Theory]
    [InlineData(Audience.Staff, "en", "Customer: MV Corvane\nGate: 4 West\nCrew: 31\nDue: 15:30")]
    [InlineData(Audience.Staff, "pt", "Customer: MV Corvane\nPorta: 4 West\nCrew: 31\nDue: 15:30")]
    [InlineData(Audience.Customer, "en", "Customer: MV Corvane\nPO number: P-77\nCrew: 31\nDue: 15:30")]
    public void Facts_have_them_where_the_wording_puts_them(Audience audience, string language, string text) =>
        Assert.Equal(text, By(Channel.Ticket, audience, language));

    [Fact]
    public void What_an_order_does_not_have_is_not_spoken_of()
    {
        Assert.Equal("AQ-1", By(Channel.Sms, order: """{"number":"AQ-1"}"""));
        Assert.Equal("Due: 15:30", By(Channel.Ticket, order: """{"number":"AQ-1","dueAt":"2026-11-24T15:30:00Z","extra":{"gate":""}}"""));
    }

    [Fact]
    public void A_field_that_the_wording_shows_itself_is_not_shown_twice() =>
        Assert.Equal(
            "To: 4 West\nCrew: 31",
            By(Channel.Ticket, parts: Parts with { Facts = [new Fact("To", "order.extra.gate"), new Fact("Own", OwnField.All)] })
        );

    [Fact]
    public void It_stands_in_a_mail_s_table_under_its_own_name()
    {
        var mail = new Composer(ComposerTests.About(Order, own: [Gate])).For(Channel.Mail, Parts);
        Assert.Contains(">Gate</th>", mail.Html, StringComparison.Ordinal);
        Assert.Contains(">4 West</td>", mail.Html, StringComparison.Ordinal);
        Assert.DoesNotContain("Own", mail.Text, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("order.own", "gate 4 West, PO number P-77")]
    [InlineData("order.total", null)]
    [InlineData("order.lines.title", "Fish pie, Rope")]
    [InlineData("order.lines.quantity", "12, 2")]
    [InlineData("order.lines.now.title", "Fish pie")]
    [InlineData("order.lines.later.later", "8, 2")]
    [InlineData("order.lines.count", "2")]
    [InlineData("order.lines.nothing", null)]
    [InlineData("order.hold.reason", null)]
    [InlineData("order.dueAt.time", "15:30")]
    [InlineData("business.name", "Averil Quay Provisions")]
    public void The_finder_shows_what_each_field_is_worth_for_an_order(string path, string? value)
    {
        const string lines = """
            ,"lines":[{"sku":"A","title":"Fish pie","quantity":12,"shipped":4},{"sku":"B","title":"Rope","quantity":2}]}
            """;
        var order = Order[..^1] + lines;
        Assert.Equal(value, new Composer(ComposerTests.About(order, own: [Gate, Purse, Crew])).Value(path));
    }

    [Theory]
    [InlineData("order.customer.name", true)]
    [InlineData("order.status", false)]
    [InlineData("order.lines", false)]
    [InlineData("order.hold.reason", false)]
    [InlineData("links.order", true)]
    [InlineData("answer.code", true)]
    [InlineData("no.such", false)]
    public void The_finder_shows_what_the_event_has(string path, bool there) =>
        Assert.Equal(there, new Composer(ComposerTests.About(Order)).Value(path) is not null);

    [Fact]
    public void Of_no_lines_the_finder_shows_nothing() => Assert.Null(new Composer(ComposerTests.About(Order)).Value("order.lines.title"));

    [Fact]
    public void What_ships_names_no_field_of_any_trade()
    {
        foreach (var parts in ShippedWordings.All.SelectMany(w => w.Texts).Select(t => t.Parts))
        {
            Assert.DoesNotContain(parts.Fields, f => f.StartsWith("order.extra.", StringComparison.Ordinal));
        }
    }
}
