using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Wordings;

namespace Sirena.Core.Tests.Wordings;

/// <summary>Facts: label and value in one list, each gone where its value is.</summary>
public class FactTests
{
    private static readonly WordingParts Parts = new()
    {
        Subject = "{{order.number}}: {{facts}}",
        Text = "Look at it.\n\n{{facts}}\n\nThank you.",
        Sms = "{{order.number}}: {{facts}}. Reply",
        Chat = "{{facts}}",
        Push = "{{facts}}",
        Screen = "{{facts}}",
        Ticket = "{{order.number}}\n{{facts}}",
        Facts =
        [
            new Fact("Customer", "order.customer.name"),
            new Fact("Due", "order.dueAt.time", Labelled: true),
            new Fact("Gate", "order.extra.gate"),
            new Fact("Berth", "order.extra.berth"),
        ],
    };

    private static FinishedText By(Channel channel, WordingParts? parts = null, MessageFacts? about = null) =>
        new Composer(about ?? ComposerTests.About()).For(channel, parts ?? Parts);

    [Theory]
    [InlineData(Channel.Sms, "AQ-1: MV Corvane <b>, Due: 15:30, N3. Reply")]
    [InlineData(Channel.Screen, "Customer: MV Corvane <b>\nDue: 15:30\nBerth: N3")]
    [InlineData(Channel.Ticket, "AQ-1\nCustomer: MV Corvane <b>\nDue: 15:30\nBerth: N3")]
    public void Short_messages_join_values_by_commas_the_others_take_a_line_each(Channel channel, string expected) => Assert.Equal(expected, By(channel).Text);

    [Fact]
    public void Push_and_the_subject_are_joined_and_chat_is_escaped_with_a_line_each()
    {
        Assert.StartsWith("MV Corvane <b>, Due: 15:30, N3", By(Channel.Push).Text);
        Assert.Equal("AQ-1: MV Corvane <b>, Due: 15:30, N3", By(Channel.Mail).Subject);
        Assert.StartsWith("Customer: MV Corvane \\<b\\>\nDue: 15:30\nBerth: N3", By(Channel.Chat).Text);
    }

    [Fact]
    public void A_mail_has_lines_in_its_text_and_two_columns_in_its_page()
    {
        var mail = By(Channel.Mail);
        Assert.StartsWith("Look at it.\r\n\r\nCustomer: MV Corvane <b>\r\nDue: 15:30\r\nBerth: N3\r\n\r\nThank you.\r\n", mail.Text);
        Assert.Contains(">Customer</th><td style=\"vertical-align:top;padding:1px 0\">MV Corvane &lt;b&gt;</td>", mail.Html);
        Assert.Contains(">Look at it.</p><table", mail.Html);
        Assert.Contains("</table><p style=\"margin:0 0 14px\">Thank you.</p>", mail.Html);
        Assert.DoesNotContain("Gate", mail.Html + mail.Text);
        Assert.Contains("<p>Hello</p><table", By(Channel.Mail, Parts with { Html = "<p>Hello</p><p>\n{{facts}} </p>" }).Html);
    }

    [Theory]
    [InlineData("Before.\n\n{{facts}}\n\nAfter.", "Before.\n\nAfter.")]
    [InlineData("Before.\n{{facts}}\nAfter.", "Before.\nAfter.")]
    [InlineData("{{facts}}\nAfter.", "After.")]
    [InlineData("Before.\n\n{{facts}}", "Before.")]
    [InlineData("Facts: {{facts}}.", "Facts: .")]
    [InlineData("{{#facts}}With {{facts}}{{/facts}}{{^facts}}None{{/facts}}", "None")]
    public void Where_all_are_left_out_there_is_no_gap(string text, string expected)
    {
        var none = new WordingParts
        {
            Text = text,
            Screen = text,
            Html = "<p>x</p><p>{{facts}}</p>",
            Facts = [new Fact("Gate", "order.extra.gate")],
        };
        Assert.Equal(expected, By(Channel.Screen, none).Text);
        Assert.Equal(expected, By(Channel.Screen, none with { Facts = [] }).Text);
        Assert.Contains("<p>x</p>", By(Channel.Mail, none).Html);
        Assert.DoesNotContain("<p></p>", By(Channel.Mail, none).Html);
        Assert.DoesNotContain("<table", By(Channel.Mail, none with { Html = null }).Html);
        Assert.DoesNotContain('\uE002', By(Channel.Mail, none).Html + By(Channel.Mail, none).Text + By(Channel.Sms, none).Text);
    }

    [Fact]
    public void A_value_cannot_pose_as_the_place_of_the_facts()
    {
        var about = ComposerTests.About("""{"number":"AQ-1","customer":{"name":"x\uE002y"}}""");
        Assert.Equal("x y", By(Channel.Screen, new WordingParts { Screen = "{{order.customer.name}}", Facts = Parts.Facts }, about).Text);
    }

    [Theory]
    [InlineData("Due", "order.dueAt", Audience.Customer, null)]
    [InlineData("Risk", "order.risk.level", Audience.Customer, "'order.risk.level' is internal: a customer may not read it")]
    [InlineData("Risk", "order.risk.level", Audience.Staff, null)]
    [InlineData("Due", "order.dueAtt", Audience.Staff, "There is no field 'order.dueAtt'. Did you mean 'order.dueAt'?")]
    [InlineData("Due", "{{order.dueAt}}", Audience.Staff, "without braces: order.dueAt.")]
    [InlineData("Due", "", Audience.Staff, "A fact needs a field")]
    [InlineData("Due", "facts", Audience.Staff, "no field that a fact can show")]
    [InlineData("Due", "#order.lines", Audience.Staff, "no field that a fact can show")]
    [InlineData("", "order.dueAt", Audience.Staff, "A fact's label is one line")]
    [InlineData("{{order.number}}", "order.dueAt", Audience.Staff, "A label is plain words")]
    [InlineData("a\nb", "order.dueAt", Audience.Staff, "A fact's label is one line")]
    [InlineData("123456789012345678901234567890123456789012345678901234567890", "order.dueAt", Audience.Staff, null)]
    [InlineData("1234567890123456789012345678901234567890123456789012345678901", "order.dueAt", Audience.Staff, "A fact's label is one line")]
    public void What_a_fact_may_say_is_checked_for_its_reader(string label, string value, Audience audience, string? problem)
    {
        var mistakes = WordingCheck.OfFacts(
            new WordingParts { Text = "{{facts}}", Facts = [new Fact("Number", "order.number"), new Fact(label, value)] },
            audience
        );
        if (problem is null)
        {
            Assert.Empty(mistakes);
        }
        else
        {
            var mistake = Assert.Single(mistakes);
            Assert.Equal((Fact.Field, 2), (mistake.Part, mistake.Mistake.Line));
            Assert.Contains(problem, mistake.Mistake.Problem);
        }
    }

    [Fact]
    public void Fields_of_facts_count_where_a_text_places_them_and_texts_with_the_same_facts_are_the_same()
    {
        Assert.Equal(["order.number", "order.customer.name", "order.dueAt.time", "order.extra.gate", "order.extra.berth"], Parts.Fields);
        Assert.Equal(
            ["order.number"],
            (Parts with { Subject = null, Text = null, Sms = "{{order.number}}", Chat = null, Push = null, Screen = null, Ticket = null }).Fields
        );
        Assert.Equal(Parts, Parts with { Facts = [.. Parts.Facts] });
        Assert.NotEqual(Parts, Parts with { Facts = Parts.Facts.RemoveAt(0) });
        Assert.Single(WordingCheck.OfFacts(new WordingParts { Text = "x", Facts = [.. Enumerable.Repeat(Parts.Facts[0], Fact.Most + 1)] }, Audience.Staff));
    }

    [Fact]
    public void Every_shipped_wording_with_facts_says_where_they_stand_and_reads_without_a_gap()
    {
        var bare = ComposerTests.About("""{"number":"AQ-1"}""");
        foreach (var text in ShippedWordings.All.SelectMany(w => w.Texts.Select(t => (w.Id, Text: t))).Where(x => x.Text.Parts.Facts.Length > 0))
        {
            Assert.True(
                text.Text.Parts.Fields.Contains(text.Text.Parts.Facts[0].Value),
                $"{text.Id} {text.Text.Audience} {text.Text.Language} places its facts"
            );
            var mail = By(Channel.Mail, text.Text.Parts, bare with { Audience = text.Text.Audience });
            Assert.False(mail.Text.Contains("\r\n\r\n\r\n", StringComparison.Ordinal), $"{text.Id} {text.Text.Audience} {text.Text.Language}: {mail.Text}");
        }
    }
}
