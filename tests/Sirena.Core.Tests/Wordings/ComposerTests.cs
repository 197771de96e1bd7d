using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Wordings;
using Sirena.Formats.Wordings;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Wordings;

public class ComposerTests
{
    private const string Full =
        """{"number":"AQ-1","status":"loaded","currency":"EUR","total":1284.5,"dueAt":"2026-11-24T15:30:00Z","salesperson":"odile","customer":{"name":"MV Corvane <b>","phone":"+447700900123"},"hold":{"reason":"credit limit"},"risk":{"level":"high","reasons":["first order","night"]},"extra":{"vessel":"MV Corvane","berth":"N3"},"lines":[{"sku":"A","title":"Fish pie","quantity":12,"shipped":4,"unitPrice":38.0},{"sku":"B","title":"Rope","quantity":2,"shipped":2,"unitPrice":10.0}]}""";
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 12, 10);

    private static readonly OwnField Vessel = new("order.extra.vessel", "Vessel") { InMessages = true, Names = { ["pt"] = "Navio" } };
    private static readonly OwnField Berth = new("order.extra.berth", "Berth")
    {
        InMessages = true,
        InShort = true,
        ForCustomers = true,
        Names = { ["pt"] = "Cais" },
    };

    internal static MessageFacts About(
        string order = Full,
        Audience audience = Audience.Staff,
        string language = "en",
        string type = "order.held",
        Facts? facts = null,
        OwnField[]? own = null
    ) =>
        new(
            facts ?? Facts(order, type: type),
            new TextNames(id => id == "loaded" ? "Loaded" : id, id => id == "loaded" ? "On its way" : "", _ => null) { Own = own ?? [Vessel, Berth] },
            Now,
            "Averil Quay Provisions",
            "https://sirena.example",
            new Branding("#12343B", "", "", null)
        )
        {
            Audience = audience,
            Language = TextLanguage.Of(language),
            Rule = "Held for credit",
            Because = "you are in Kitchen",
            Answer = audience == Audience.Customer ? null : new AnswerWays("https://sirena.example/a/k", "2761"),
        };

    private static string Write(string text, MessageFacts about) => new Composer(about).For(Channel.Sms, new WordingParts { Sms = text }).Text;

    private static FinishedText Shipped(Channel channel, MessageFacts about, string id = "order-held") =>
        new Composer(about).For(channel, ShippedWordings.Find(id)!.For(about.Audience, about.Language.Code)!.Parts);

    [Theory]
    [InlineData("{{order.total}}", "1,284.50 EUR")]
    [InlineData("{{order.total.plain}}", "1284.5")]
    [InlineData("{{order.dueAt}}", "Tue 24 Nov, 15:30")]
    [InlineData("{{order.dueAt.date}}", "Tue 24 Nov")]
    [InlineData("{{order.dueAt.time}}", "15:30")]
    [InlineData("{{order.dueAt.until}}", "in 3 h 20 min")]
    [InlineData("{{order.status}} {{order.status.plain}}", "Loaded loaded")]
    [InlineData("{{order.risk.reasons}}", "first order, night")]
    [InlineData("{{#order.extra.tags}}[{{.}}]{{/order.extra.tags}}{{^order.extra.tags}}none{{/order.extra.tags}}", "none")]
    [InlineData("{{#order.risk.reasons}}[{{.}}]{{/order.risk.reasons}}", "[first order][night]")]
    [InlineData(
        "{{#order.lines}}{{quantity}} {{title}} at {{unitPrice}} of {{order.number}}; {{/order.lines}}",
        "12 Fish pie at 38.00 EUR of AQ-1; 2 Rope at 10.00 EUR of AQ-1;"
    )]
    [InlineData("{{order.lines.table}}", "12 x Fish pie\n   2 x Rope")]
    [InlineData("{{order.lines.count}} {{order.lines.sum.quantity}} {{order.lines.sum.value}}", "2 14 476.00 EUR")]
    [InlineData("{{#order.payment.method}}paid{{/order.payment.method}}{{^order.payment.method}}unpaid{{/order.payment.method}}", "unpaid")]
    [InlineData("{{order.extra.berth}}{{order.extra.nothing}}", "N3")]
    [InlineData("{{answer.link}} {{answer.code}} {{links.order}}", "https://sirena.example/a/k 2761 https://sirena.example/orders/AQ-1")]
    public void A_value_shows_itself_and_its_other_forms_are_fields(string text, string expected) => Assert.Equal(expected, Write(text, About()));

    [Theory]
    [InlineData("{{order.total}}", "1.284,50 EUR")]
    [InlineData("{{order.dueAt}}", "ter 24 nov, 15:30")]
    [InlineData("{{order.dueAt.until}}", "em 3 h 20 min")]
    [InlineData("{{order.risk.level}}", "alto")]
    public void Values_follow_the_reader_s_language(string text, string expected) => Assert.Equal(expected, Write(text, About(language: "pt-PT")));

    [Fact]
    public void What_lay_here_and_is_told_only_now_says_so_to_the_staff_alone()
    {
        var facts = new Facts(
            new Core.Orders.OrderEvent
            {
                EventId = "e",
                Source = "/t",
                Type = "order.held",
                OrderNumber = "AQ-1",
                OrderAfter = Full,
                Data = "{}",
                Time = Now,
                Received = Now,
                DecidedLate = true,
            },
            Lisbon,
            "EUR"
        );
        foreach (var channel in new[] { Channel.Mail, Channel.Sms, Channel.Chat, Channel.Screen, Channel.Ticket, Channel.Push })
        {
            Assert.StartsWith("Late: it came 24/11 12:10, and is told only now.", Shipped(channel, About(facts: facts)).Text);
        }

        Assert.Contains("Late: it came", Shipped(Channel.Mail, About(facts: facts)).Html);
        Assert.StartsWith("Atrasado:", Shipped(Channel.Sms, About(facts: facts, language: "pt")).Text);
        Assert.DoesNotContain("Late:", Shipped(Channel.Mail, About(audience: Audience.Customer, facts: facts), "order-shipped").Text);
        Assert.DoesNotContain("Late:", Shipped(Channel.Mail, About()).Text);
    }

    [Fact]
    public void A_shipment_says_what_goes_now_and_what_follows()
    {
        var facts = new Facts(
            new Core.Orders.OrderEvent
            {
                EventId = "e",
                Source = "/t",
                Type = "order.shipped",
                OrderNumber = "AQ-1",
                OrderBefore = """{"lines":[{"sku":"A","quantity":12,"shipped":0,"title":"Fish pie"}]}""",
                OrderAfter = """{"number":"AQ-1","lines":[{"sku":"A","quantity":12,"shipped":4,"title":"Fish pie"}]}""",
                Data = "{}",
                Time = Now,
                Received = Now,
            },
            DateTimeZone.Utc,
            "EUR"
        );
        var about = About(audience: Audience.Customer, facts: facts);
        Assert.Equal("[4][8]", Write("{{#order.lines.now}}[{{now}}]{{/order.lines.now}}{{#order.lines.later}}[{{later}}]{{/order.lines.later}}", about));
        Assert.Equal("4 now, 8 later", Write("{{#order.lines}}{{now}} now, {{later}} later{{/order.lines}}", about));
        Assert.Contains("Fish pie: 4 now, 8 to follow.", Shipped(Channel.Mail, about, "order-shipped").Text);
        Assert.Equal("Your order AQ-1: 4 on the way, 8 to follow", Shipped(Channel.Mail, about, "order-shipped").Subject);
        Assert.Equal("Averil Quay Provisions: Your order AQ-1: 4 on the way, 8 to follow.", Shipped(Channel.Sms, about, "order-shipped").Text);
    }

    [Fact]
    public void The_shipped_text_says_why_its_reader_got_it_how_to_answer_and_where_the_order_is()
    {
        var about = About() with { Others = ["Second rule"] };
        var mail = Shipped(Channel.Mail, about);
        Assert.Equal("AQ-1: held, credit limit", mail.Subject);
        foreach (
            var part in new[]
            {
                "You get this because you are in Kitchen and rule 'Held for credit' matched.",
                "Rule 'Second rule' matched too",
                "https://sirena.example/orders/AQ-1",
                "Total: 1,284.50 EUR",
                "I have it: https://sirena.example/a/k",
            }
        )
        {
            Assert.Contains(part, mail.Text);
        }

        Assert.Contains("href=\"https://sirena.example/a/k\"", mail.Html);
        Assert.Equal(
            "AQ-1 held, credit limit. MV Corvane <b>, berth N3, due Tue 24 Nov, 15:30, 1,284.50 EUR. Reply OK 2761 or https://sirena.example/a/k",
            Shipped(Channel.Sms, about).Text
        );
        Assert.Contains("I have it: https://sirena.example/a/k", Shipped(Channel.Chat, about).Text);
    }

    [Fact]
    public void A_customer_reads_where_the_order_stands_and_nothing_of_the_inside()
    {
        foreach (var wording in ShippedWordings.All.Where(w => w.For(Audience.Customer, "en") is not null))
        {
            foreach (var channel in Enum.GetValues<Channel>())
            {
                var text = Shipped(channel, About(audience: Audience.Customer) with { Others = ["Other rule"] }, wording.Id);
                foreach (var inside in new[] { "credit limit", "high", "first order", "Held for credit", "Other rule", "sirena.example", "Kitchen" })
                {
                    Assert.DoesNotContain(inside, text.Subject + text.Text + text.Html);
                }
            }
        }

        Assert.Contains("Status: On its way", Shipped(Channel.Mail, About(audience: Audience.Customer)).Text);
    }

    [Theory]
    [InlineData(
        "order.placed",
        "We have your order AQ-1",
        "thank you: we have your order",
        "Averil Quay Provisions: We have your order AQ-1, Tue 24 Nov, 15:30."
    )]
    [InlineData(
        "order.held",
        "Your order AQ-1 waits for a word with us",
        "Please call us and ask for odile.",
        "Averil Quay Provisions: Your order AQ-1 waits for a word with us."
    )]
    [InlineData("order.status-changed", "Your order AQ-1: On its way", "there is news of your order.", "Averil Quay Provisions: Your order AQ-1: On its way.")]
    [InlineData(
        "order.shipped",
        "Your order AQ-1: 6 on the way",
        "goods of your order are on their way to you.",
        "Averil Quay Provisions: Your order AQ-1: 6 on the way."
    )]
    [InlineData(
        "order.risk-flagged",
        "Your order AQ-1 at Averil Quay Provisions",
        "this is how your order stands.",
        "Your order AQ-1 at Averil Quay Provisions: On its way."
    )]
    public void A_customer_gets_a_friendly_line_for_each_event(string type, string subject, string line, string sms)
    {
        var order = type == "order.shipped" ? Full.Replace("\"quantity\":12", "\"quantity\":4", StringComparison.Ordinal) : Full;
        var about = About(order, Audience.Customer, type: type);
        var (mail, phone) = (Shipped(Channel.Mail, about, ShippedWordings.IdFor(type)), Shipped(Channel.Sms, about, ShippedWordings.IdFor(type)));
        Assert.Equal(subject, mail.Subject);
        Assert.Contains(line, mail.Text);
        Assert.Equal(sms, phone.Text);
    }

    [Fact]
    public void Every_customer_s_SMS_of_an_ordinary_order_fits_one_part()
    {
        foreach (
            var wording in ShippedWordings.All.Where(w => w.For(Audience.Customer, "en") is not null && !w.Id.StartsWith("sirena.", StringComparison.Ordinal))
        )
        {
            foreach (var language in new[] { "en", "pt" })
            {
                var sms = SmsText.Of(Shipped(Channel.Sms, About(audience: Audience.Customer, language: language), wording.Id).Text);
                Assert.True(sms is { Segments: 1, Encoding: SmsEncoding.Gsm7 }, $"{wording.Id} in {language} takes {sms.Segments} parts, {sms.Encoding}");
            }
        }
    }

    [Theory]
    [InlineData("kitchen", "AQ-1: 14 to make by 15:30", "Ready by Tue 24 Nov, 15:30.")]
    [InlineData("warehouse", "Pick AQ-1 for 15:30", "12 x Fish pie")]
    [InlineData("finance", "AQ-1: 1,284.50 EUR, held, credit limit", "Risk: high\r\nBecause of: first order, night")]
    [InlineData("sales", "MV Corvane <b>: AQ-1 held, credit limit", "Phone: +447700900123")]
    [InlineData("desk", "AQ-1 held, credit limit, MV Corvane <b>", "Salesperson: odile")]
    [InlineData("drivers", "AQ-1, berth N3, 15:30", "Due: Tue 24 Nov, 15:30")]
    public void Each_role_reads_what_it_needs_first(string role, string subject, string words)
    {
        var mail = Shipped(Channel.Mail, About(), role);
        Assert.Equal(subject, mail.Subject);
        Assert.Contains(words, mail.Text);
        Assert.DoesNotContain(
            "{{",
            mail.Subject + mail.Text + Shipped(Channel.Sms, About(), role).Text + Shipped(Channel.Ticket, About(language: "pt"), role).Text
        );
        Assert.Contains("OK 2761", Shipped(Channel.Sms, About(), role).Text);
    }

    [Theory]
    [InlineData("#12343B", "#ffffff")]
    [InlineData("#FFD54A", "#1B2B34")]
    [InlineData("#FFFFFF", "#1B2B34")]
    [InlineData("#C8472B", "#ffffff")]
    [InlineData("#A3361D", "#ffffff")]
    [InlineData("#000000", "#ffffff")]
    [InlineData("#E8B23A", "#1B2B34")]
    [InlineData("#808080", "#ffffff")]
    [InlineData("#858585", "#1B2B34")]
    [InlineData("#00FF00", "#1B2B34")]
    [InlineData("#FF0000", "#ffffff")]
    [InlineData("#0000FF", "#ffffff")]
    [InlineData("red", "#ffffff")]
    [InlineData("#GGGGGG", "#ffffff")]
    public void What_stands_on_the_business_s_colour_can_be_read(string colour, string on)
    {
        var about = About() with { Branding = new Branding(colour, "", "", null) { Accent = "#0A7A3C" } };
        var html = new Composer(about).For(Channel.Mail, new WordingParts { Text = "See https://sirena.example/orders/AQ-1 and answer." }).Html!;
        Assert.Contains($"background:{colour};color:{on};", html);
        Assert.Contains("<a href=\"https://sirena.example/orders/AQ-1\" style=\"color:#0A7A3C\">", html);
    }

    [Fact]
    public void Every_shipped_text_passes_the_check_of_its_audience()
    {
        var mistakes =
            from wording in ShippedWordings.All
            from text in wording.Texts
            from mistake in WordingReader.Mistakes(text.Parts, text.Audience, null)
            select $"{wording.Id} {text.Audience} {text.Language} {mistake.Part}: {mistake.Mistake.Problem}";
        Assert.Empty(mistakes);
        Assert.All(Core.Orders.EventTypes.All, type => Assert.NotEqual(ShippedWordings.General, ShippedWordings.IdFor(type)));
    }

    [Fact]
    public void Nothing_in_an_order_can_break_out_of_the_text()
    {
        var text = Shipped(
            Channel.Mail,
            About("""{"number":"AQ-1","hold":{"reason":"a\r\nBcc: x@y.example <script>"},"customer":{"name":"\uE000<b>x</b>\uE001"}}""")
        );
        Assert.DoesNotContain('\n', text.Subject);
        Assert.Contains("&lt;script&gt;", text.Html);
        Assert.DoesNotContain("<b>x", text.Html);
        Assert.DoesNotContain("<script", text.Html);
    }

    [Fact]
    public void A_part_that_is_missing_takes_the_nearest_that_is_there()
    {
        var parts = new WordingParts { Subject = "S {{order.number}}", Sms = "short" };
        Assert.Equal(("sms", "sms", "mail.subject", "sms"), (parts.Used("sms"), parts.Used("mail.text"), parts.Used("mail.subject"), parts.Used("push")));
        Assert.Equal("short", new Composer(About()).For(Channel.Screen, parts).Text);
        Assert.StartsWith("short", new Composer(About()).For(Channel.Mail, parts).Text);
    }

    [Fact]
    public void A_text_without_an_end_is_cut_off()
    {
        var lines = string.Join(',', Enumerable.Range(0, 400).Select(i => $$"""{"sku":"{{i}}","title":"{{new string('x', 900)}}","quantity":1}"""));
        Assert.True(
            Write("{{#order.lines}}{{title}}{{/order.lines}}", About($$"""{"number":"A","lines":[{{lines}}]}""")).Length <= MessageWriter.MostOutput + 1
        );
    }

    // Only lines look otherwise in HTML.
    [Fact]
    public void The_table_of_lines_is_one_in_HTML_and_columns_of_text_beside_it()
    {
        var parts = new WordingParts
        {
            Text = "{{order.number}}\n{{order.lines.table}}",
            Html = "<p>{{order.number}} {{order.customer.name}}</p>{{order.lines.table}}",
        };
        var mail = new Composer(About()).For(Channel.Mail, parts);
        Assert.Contains("12 x Fish pie", mail.Text, StringComparison.Ordinal);
        Assert.DoesNotContain("<t", mail.Text, StringComparison.Ordinal);
        Assert.Contains("<p>AQ-1 MV Corvane &lt;b&gt;</p>", mail.Html, StringComparison.Ordinal);
        Assert.Matches("<td[^>]*>Fish pie</td>", mail.Html);
        Assert.DoesNotContain("12 x Fish pie", mail.Html, StringComparison.Ordinal);
    }
}
