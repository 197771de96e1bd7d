using Sirena.Core.People;
using Sirena.Core.Wordings;
using Sirena.Formats.Wordings;

namespace Sirena.Core.Tests.Wordings;

public class WordingCheckTests
{
    private static TextMistake Only(string text, Audience audience = Audience.Staff, bool html = false) => Assert.Single(WordingCheck.Of(text, audience, html));

    [Theory]
    [InlineData("Hi {{order.numbr}}", 1, 4, "no field 'order.numbr'")]
    [InlineData("a\nb {{{order.number}}}", 2, 3, "unescaped")]
    [InlineData("{{&order.number}}", 1, 1, "unescaped")]
    [InlineData("{{> header}}", 1, 1, "take in another text")]
    [InlineData("{{=<% %>=}}", 1, 1, "cannot be changed")]
    [InlineData("x {{order.number", 1, 3, "not closed")]
    [InlineData("x {{", 1, 3, "not closed")]
    [InlineData("x {{{", 1, 4, "not closed")]
    [InlineData("x {{#", 1, 3, "not closed")]
    [InlineData("{{#order.lines}}x", 1, 1, "'order.lines' is not closed")]
    [InlineData("x{{/order.lines}}", 1, 2, "does not begin")]
    [InlineData("{{ }}", 1, 1, "name no field")]
    [InlineData("{{title}}", 1, 1, "no field 'title'")]
    public void A_mistake_says_what_is_wrong_and_where(string text, int line, int column, string words)
    {
        var mistake = Only(text);
        Assert.Equal((line, column), (mistake.Line, mistake.Column));
        Assert.Contains(words, mistake.Problem);
    }

    [Fact]
    public void A_text_of_64_KB_is_read_and_a_longer_one_is_said_to_be_so_at_its_begin()
    {
        var most = new string('a', ParsedText.MostLength);
        Assert.Empty(WordingCheck.Of(most, Audience.Staff, html: false));
        Assert.Equal(new TextMistake(1, 1, 1, "The text is longer than 64 KB."), Only(most + "a"));
    }

    [Fact]
    public void Half_a_character_is_found_where_it_stands() =>
        Assert.Equal(
            (1, 3),
            Only("a " + '\uD800' + " b") is var m && m.Problem.Contains("half a character", StringComparison.Ordinal) ? (m.Line, m.Column) : default
        );

    [Fact]
    public void The_nearest_name_is_proposed() => Assert.Contains("order.number", Only("{{order.numbr}}").Problem);

    [Fact]
    public void Sections_nest_eight_deep_and_no_deeper()
    {
        static string Nest(int n) => string.Concat(Enumerable.Repeat("{{#order.lines}}", n)) + "x" + string.Concat(Enumerable.Repeat("{{/order.lines}}", n));
        Assert.Empty(WordingCheck.Of(Nest(8), Audience.Staff, false));
        Assert.Contains("more than 8 deep", Only(Nest(9)).Problem);
    }

    [Theory]
    [InlineData("{{order.hold.reason}}")]
    [InlineData("{{order.risk.level}}")]
    [InlineData("{{#order.risk}}{{level}}{{/order.risk}}")]
    [InlineData("{{#order.risk.reasons}}{{.}}{{/order.risk.reasons}}")]
    [InlineData("{{note.text}}")]
    [InlineData("{{order.extra.cost}}")]
    [InlineData("{{order.extra.internal}}")]
    [InlineData("{{alert.rule}}")]
    [InlineData("{{delivery.to}}")]
    [InlineData("{{gateway.error}}")]
    [InlineData("{{instruction.words}}")]
    [InlineData("{{alert.personName}}")]
    public void A_customer_s_text_names_nothing_internal(string text)
    {
        Assert.NotEmpty(WordingCheck.Of(text, Audience.Customer, false));
        Assert.All(WordingCheck.Of(text, Audience.Customer, false), m => Assert.Contains("internal", m.Problem));
        Assert.Empty(WordingCheck.Of(text, Audience.Staff, false));
    }

    // What may go outside the house by permission: that a gateway fails, and not how the house sees an order.
    [Theory]
    [InlineData("{{gateway.name}}: {{gateway.error}}", true)]
    [InlineData("{{alert.rule}} {{answer.link}} {{links.order}}", true)]
    [InlineData("{{links.why}}", false)]
    [InlineData("{{order.hold.reason}}", false)]
    [InlineData("{{next.who}}", false)]
    public void Somebody_outside_may_read_more_than_a_customer(string text, bool passes) =>
        Assert.Equal(passes, WordingCheck.Of(text, Audience.Outside, false).Count == 0);

    [Theory]
    [InlineData("{{order.number}} {{order.total}} {{order.dueAt.time}} {{order.extra.vessel}} {{order.customer.phone}} {{note.public}}")]
    [InlineData("{{#order.lines}}{{title}} {{quantity}} {{order.number}}{{/order.lines}} {{order.lines.table}}")]
    [InlineData("{{! a remark }}{{^order.salesperson}}x{{/order.salesperson}}")]
    public void What_may_go_out_passes(string text) => Assert.Empty(WordingCheck.Of(text, Audience.Customer, false));

    [Fact]
    public void A_field_cannot_become_the_address_of_a_link()
    {
        Assert.Contains("inside an address", Only("""<a href="{{order.extra.link}}">x</a>""", html: true).Problem);
        Assert.Empty(WordingCheck.Of("""<a href="{{links.order}}">{{order.number}}</a> {{order.total}}""", Audience.Staff, true));
    }

    [Theory]
    [InlineData("<a href=\"{{order.total}}\">x</a>", true)]
    [InlineData("<a href = \"https://averilquay.example/{{order.total}}\">x</a>", true)]
    [InlineData("<IMG SRC=\"{{order.total}}\">", true)]
    [InlineData("<a href={{order.total}}>x</a>", true)]
    [InlineData("<a href=\"https://averilquay.example\" {{order.total}}>x</a>", false)]
    [InlineData("<a href=\"\" title=\"{{order.total}}\">x</a>", false)]
    [InlineData("<b {{order.total}}>x</b>", false)]
    [InlineData("={{order.total}}", false)]
    [InlineData("href=\"{{order.total}}\"", false)]
    [InlineData("<b>x</b> href=\"{{order.total}}\"", false)]
    [InlineData("<{{order.total}}>", false)]
    [InlineData("<a href=\"{{answer.link}}\">x</a>", false)]
    public void Only_within_the_quotes_of_an_address_it_stands_inside_one(string html, bool inside) =>
        Assert.Equal(inside, WordingCheck.Of(html, Audience.Staff, html: true).Any(m => m.Problem.Contains("inside an address", StringComparison.Ordinal)));

    [Theory]
    [InlineData("<script>alert(1)</script>", "runs a program")]
    [InlineData("<p onclick=\"x()\">a</p>", "onclick")]
    [InlineData("<a href=\"javascript:x()\">a</a>", "leads elsewhere")]
    [InlineData("<iframe src=\"https://a.example\"></iframe>", "not for mail")]
    public void Html_that_does_more_than_show_is_refused(string html, string words) =>
        Assert.Contains(SafeHtml.Mistakes(html), m => m.Problem.Contains(words, StringComparison.Ordinal));

    [Fact]
    public void Plain_html_passes() =>
        Assert.Empty(
            SafeHtml.Mistakes(
                """<p style="color:#333">Order <b>{{order.number}}</b> <a href="{{links.order}}">see it</a> <a href="https://averilquay.example/x">x</a></p><table><tr><td>{{order.total}}</td></tr></table>"""
            )
        );

    [Fact]
    public void A_document_is_read_and_written_back_without_loss()
    {
        foreach (var wording in ShippedWordings.All)
        {
            var (read, errors) = WordingReader.Read(WordingReader.Write(wording).ToJsonString(), yaml: false);
            Assert.Empty(errors);
            Assert.Equal(WordingReader.Write(wording).ToJsonString(), WordingReader.Write(read[0]).ToJsonString());
        }
    }

    [Fact]
    public void A_document_s_mistakes_have_their_place()
    {
        var (_, errors) = WordingReader.Read(
            "name: Held\ntexts:\n  - audience: customer\n    sms: \"held: {{order.hold.reason}}\"\n  - audience: customr\n    sms: x\n",
            yaml: true
        );
        Assert.Contains(errors, e => e.Path == "texts[0].sms" && e.Line == 4 && e.Problem.Contains("internal", StringComparison.Ordinal));
        Assert.Contains(errors, e => e.Path == "texts[1].audience" && e.Problem.Contains("customer", StringComparison.Ordinal));
    }
}
