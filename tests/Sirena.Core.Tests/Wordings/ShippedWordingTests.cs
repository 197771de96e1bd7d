using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Wordings;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Wordings;

public class ShippedWordingTests
{
    private static FinishedText Text(string order, params string[] others)
    {
        var staff = new StaffDirectory([], [], []);
        return new ShippedWording(Facts(order), staff, "https://sirena.example", "Averil Quay Provisions").For(Rule("r") with { Name = "Held for credit" }, new Told("ines.calder", Channel.Mail, "i@a.example", "you are in Kitchen"), others);
    }

    [Fact]
    public void It_says_why_its_reader_got_it_and_links_to_the_order()
    {
        var text = Text("""{"number":"AQ-1","hold":{"reason":"credit limit"},"total":1284.5,"currency":"EUR"}""", "Second rule").Text;
        Assert.Contains("You get this because you are in Kitchen and rule 'Held for credit' matched.", text);
        Assert.Contains("Rule 'Second rule' matched too", text);
        Assert.Contains("https://sirena.example/orders/AQ-1", text);
        Assert.Contains("Total: 1,284.50 EUR", text);
    }

    [Fact]
    public void A_customer_reads_where_the_order_stands_and_nothing_of_the_inside()
    {
        var wording = new ShippedWording(Facts("""{"number":"AQ-1","status":"loaded","hold":{"reason":"credit limit"},"risk":{"level":"high"},"customer":{"name":"MV Corvane"}}"""), new StaffDirectory([], [], []), "https://sirena.example", "Averil Quay Provisions");
        var text = wording.For(Rule("r") with { Name = "Held for credit" }, new Told(null, Channel.Mail, "p@a.example", "you are the order's customer", Customer: true), ["Other rule"]);
        Assert.Contains("Status: loaded", text.Text);
        foreach (var inside in new[] { "credit limit", "high", "Held for credit", "Other rule", "sirena.example" })
        {
            Assert.DoesNotContain(inside, text.Text);
            Assert.DoesNotContain(inside, text.Html);
        }
    }

    [Fact]
    public void Nothing_in_an_order_can_break_out_of_the_text()
    {
        var text = Text("""{"hold":{"reason":"a\r\nBcc: x@y.example <b>"}}""");
        Assert.DoesNotContain('\n', text.Subject);
        Assert.Contains("&lt;b&gt;", text.Html);
    }
}
