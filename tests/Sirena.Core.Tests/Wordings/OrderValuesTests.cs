using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Wordings;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Wordings;

/// <summary>What a text can say of an event and its order, and to whom.</summary>
public sealed class OrderValuesTests
{
    private const string Order = """
        {"number":"AQ-1","status":"loaded","site":"galley","salesperson":"OV","currency":"EUR","total":1284.5,"discountTotal":3,"via":"web",
         "placedAt":"2026-11-23T12:10:00Z","dueAt":"2026-11-24T15:30:00Z","customer":{"name":"MV\nTarn","tags":["gold","reefer"]},
         "extra":{"berth":"N3","gate":"east\nside","paid":true,"weight":1250.5,"seals":["A","B"]},
         "lines":[{"sku":"A","title":"Fish pie","quantity":12,"shipped":4,"unitPrice":38,"site":"galley","weight":2.5},
                  {"sku":"A","title":"Fish pie, large","quantity":2,"shipped":2,"unitPrice":10.5},
                  {"title":"Rope","quantity":"many"}]}
        """;

    private const string Before = """{"lines":[{"sku":"A","quantity":12,"shipped":1},{"title":"Rope","shipped":9},{"sku":"A","shipped":3}]}""";

    private const string Data = """
        {"order":{},"event":{"extra":{"lorry":"L7"}},"change":{"field":"site","before":"galley","after":"cellar","count":3},
         "note":{"text":"two\nlines","by":"odile.varga","visibleToCustomer":true},"hold":{"reason":"one\ntwo"},"list":[1,2.5,"x",true,null]}
        """;

    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 12, 10);

    private static readonly Person Odile = new()
    {
        Id = "odile.varga",
        Name = "Odile Varga",
        Contacts =
        [
            new ContactPoint
            {
                Channel = Channel.Mail,
                Address = "broken@averilquay.example",
                BrokenAt = Noon,
            },
            new ContactPoint
            {
                Channel = Channel.Sms,
                Address = "+447700900999",
                Pending = true,
            },
            new ContactPoint { Channel = Channel.Sms, Address = "+447700900123" },
            new ContactPoint { Channel = Channel.Mail, Address = "odile@averilquay.example" },
            new ContactPoint { Channel = Channel.Mail, Address = "second@averilquay.example" },
        ],
    };

    private static readonly OwnField[] Own =
    [
        new("order.extra.berth", "Berth")
        {
            InShort = true,
            InMessages = true,
            ForCustomers = true,
        },
        new("order.extra.weight", "PO weight") { InShort = true },
        new("order.extra.nothing", "Nothing") { InShort = true },
        new("order.extra.gate", "Gate") { ForCustomers = true, InMessages = true },
    ];

    private static string Write(
        string text,
        Audience audience = Audience.Staff,
        string language = "en",
        bool html = false,
        string order = Order,
        string data = Data
    )
    {
        var names = new TextNames(
            id =>
                id switch
                {
                    "loaded" => "Loaded",
                    "galley" => "The galley",
                    "odile.varga" => "Odile Varga",
                    _ => id,
                },
            id => id == "loaded" ? "On its way" : "",
            code => code is "OV" ? Odile : null
        )
        {
            Own = Own,
        };
        var facts = Facts(order, Before, data, "order.shipped", Now);
        var values = new OrderValues(facts, TextLanguage.Of(language), audience, names, Now, html);
        return MessageWriter.Write(ParsedText.Of(text), values.Root, html ? ValueForm.Html : ValueForm.Text);
    }

    [Theory]
    [InlineData("{{order.status}}, {{order.status.plain}}", "Loaded, loaded")]
    [InlineData("{{order.site}}, {{order.site.plain}}, {{order.site.manager}}", "The galley, galley, ")]
    [InlineData("{{order.salesperson}}, {{order.salesperson.plain}}", "Odile Varga, OV")]
    [InlineData("{{order.salesperson.email}} {{order.salesperson.phone}}|{{order.salesperson.teams}}", "odile@averilquay.example +447700900123|")]
    [InlineData("{{order.customer.name}}", "MV Tarn")]
    [InlineData("{{order.customer.tags}}; {{order.customer.tags.count}}; {{order.customer.nothing}}", "gold, reefer; 2; ")]
    [InlineData("{{order.total}}, {{order.discountTotal}}", "1,284.50 EUR, 3.00 EUR")]
    [InlineData("{{order.until-due}} left of {{order.age}}", "3 h 20 min left of 1 day")]
    [InlineData("{{order.extra.gate}}", "east\nside")]
    [InlineData("{{order.extra.paid}}, {{order.extra.weight}}, {{order.extra.seals}}, {{order.extra.nothing}}", "yes, 1,250.5, A, B, ")]
    [InlineData("{{order.own}}", "berth N3, PO weight 1,250.5")]
    [InlineData("{{order.nothing}}{{order}}", "")]
    public void An_order_is_said_in_names_people_know(string text, string said) => Assert.Equal(said, Write(text));

    [Theory]
    [InlineData("{{order.status}}, {{order.status.plain}}", "On its way, loaded")]
    [InlineData("{{order.site}}", "The galley")]
    [InlineData("{{order.own}}", "berth N3")]
    public void A_customer_reads_the_words_that_are_for_customers(string text, string said) => Assert.Equal(said, Write(text, Audience.Customer));

    [Fact]
    public void Which_fields_of_ones_own_a_reader_sees_is_chosen_for_each_audience()
    {
        string For(Audience audience) =>
            string.Join(
                ' ',
                new TextNames(i => i, i => i, _ => null) { Own = Own }
                    .OwnFor(audience)
                    .Select(f => f.Name)
            );
        Assert.Equal(("Berth Gate", "Berth Gate", "Berth Gate"), (For(Audience.Staff), For(Audience.Outside), For(Audience.Customer)));
        Assert.Empty(new TextNames(i => i, i => i, _ => null) { Own = [new("order.extra.x", "X") { InMessages = true }] }.OwnFor(Audience.Customer));
        Assert.Empty(new TextNames(i => i, i => i, _ => null) { Own = [new("order.extra.x", "X") { ForCustomers = true }] }.OwnFor(Audience.Staff));
    }

    [Theory]
    [InlineData("""{"salesperson":"XX"}""", "{{order.salesperson}}|{{order.salesperson.email}}|{{order.salesperson.phone}}", "XX||")]
    [InlineData("""{"salesperson":7,"status":3,"site":null}""", "{{order.salesperson}}|{{order.status}}|{{order.site}}", "7|3|")]
    [InlineData("{}", "{{order.lines}}|{{order.lines.table}}|{{order.lines.count}}|{{order.shipped-now}}", "||0|0")]
    [InlineData("""{"lines":"none"}""", "{{^order.lines}}no lines{{/order.lines}}", "no lines")]
    public void What_is_not_known_stays_as_it_came(string order, string text, string said) => Assert.Equal(said, Write(text, order: order));

    // Of two lines of one article the first before is the first now, and a quantity that is no number counts as none.
    [Theory]
    [InlineData("{{order.lines}}", "12 Fish pie, 2 Fish pie, large, many Rope")]
    [InlineData("{{order.lines.count}} {{order.shipped-now}}", "3 3")]
    [InlineData("{{#order.lines}}{{now}} of {{quantity}}, {{later}} later;{{/order.lines}}", "3 of 12, 8 later;0 of 2, 0 later;0 of many, 0 later;")]
    [InlineData("{{#order.lines.now}}{{title}}{{/order.lines.now}}", "Fish pie")]
    [InlineData("{{#order.lines.later}}{{title}}: {{later}}{{/order.lines.later}}", "Fish pie: 8")]
    [InlineData("{{order.lines.sum.quantity}}, {{order.lines.sum.value}}, {{order.lines.sum.weight}}", "14, 477.00 EUR, ")]
    [InlineData("{{order.lines.now.sum.quantity}}, {{order.lines.now.sum.value}}", "3, 114.00 EUR")]
    [InlineData("{{order.lines.later.sum.quantity}}, {{order.lines.later.sum.value}}", "8, 304.00 EUR")]
    [InlineData("{{order.lines.now.later}}|{{order.lines.now.count}}|{{order.lines.later.now}}", "|1|")]
    [InlineData(
        "{{#order.lines}}[{{unitPrice}} {{value}} {{site}} {{weight}}]{{/order.lines}}",
        "[38.00 EUR 456.00 EUR The galley 2.5][10.50 EUR 21.00 EUR  ][ 0.00 EUR  ]"
    )]
    [InlineData("{{order.lines.table}}", "  12 x Fish pie\n   2 x Fish pie, large\n   0 x Rope")]
    [InlineData("{{order.lines.now.table}}", "   3 x Fish pie")]
    [InlineData("{{order.lines.later.table}}", "   8 x Fish pie")]
    public void Lines_say_what_goes_now_and_what_follows(string text, string said) => Assert.Equal(said, Plain(Write(text)));

    [Fact]
    public void In_a_mail_the_lines_are_a_table_in_which_no_title_can_pose_as_more()
    {
        var html = Plain(
            Write(
                "{{order.lines.table}}",
                language: "pt",
                html: true,
                order: """{"lines":[{"title":"<b>Pie</b>","quantity":1234.5},{"sku":"S-1","quantity":1}]}"""
            )
        );
        Assert.Contains("<td align=\"right\">1.234,5</td><td>&lt;b&gt;Pie&lt;/b&gt;</td>", html, StringComparison.Ordinal);
        Assert.Contains("<td align=\"right\">1</td><td>S-1</td></tr></table>", html, StringComparison.Ordinal);
        Assert.Contains("<b>Quantidade</b>", html, StringComparison.Ordinal);
    }

    [Fact]
    public void A_table_holds_five_hundred_lines()
    {
        var order = $$"""{"lines":[{{string.Join(',', Enumerable.Range(1, 501).Select(n => $$"""{"title":"T{{n}}.","quantity":1}"""))}}]}""";
        Assert.Equal((500, "501"), (Write("{{order.lines.table}}", order: order).Split('\n').Length, Write("{{order.lines.count}}", order: order)));
        var html = Write("{{order.lines.table}}", html: true, order: order);
        Assert.Contains("T500.", html, StringComparison.Ordinal);
        Assert.DoesNotContain("T501.", html, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("{{event.extra.lorry}}|{{event.extra.nothing}}|{{event.type}}", "L7||order.shipped")]
    [InlineData("{{change.before}} to {{change.after}}, {{change.count}}", "The galley to cellar, 3")]
    [InlineData("{{note.text}}", "two\nlines")]
    [InlineData("{{note.public}} from {{note.from}}", "two\nlines from Odile Varga")]
    [InlineData("{{hold.reason}}", "one two")]
    [InlineData("{{list}}|{{#list}}<{{.}}>{{/list}}", "1, 2.5, x, yes|<1><2.5><x><yes><>")]
    [InlineData("{{nothing}}{{nothing.at.all}}", "")]
    public void What_happened_is_said_too(string text, string said) => Assert.Equal(said, Write(text));

    [Theory]
    [InlineData("""{"note":{"text":"for us","visibleToCustomer":false}}""", "{{note.public}}|{{note.from}}", "|")]
    [InlineData("""{"note":{"text":"for us"}}""", "{{note.public}}|{{note.text}}", "|for us")]
    [InlineData("""{"note":{"text":7,"visibleToCustomer":true,"by":7}}""", "{{note.public}}|{{note.from}}", "|")]
    [InlineData("""{"other":{"public":"p","from":"f"}}""", "{{other.public}} {{other.from}}", "p f")]
    public void A_note_shows_to_customers_only_what_is_for_them(string data, string text, string said) => Assert.Equal(said, Write(text, data: data));

    // The marks around what is written as it is stand for nothing that a reader sees.
    private static string Plain(string text) => text.Replace("\uE000", "", StringComparison.Ordinal).Replace("\uE001", "", StringComparison.Ordinal);
}
