using Sirena.Web.Pages.Answers;

namespace Sirena.Web.Tests;

public class MessagePartsTests
{
    private const string Base = "https://sirena.example";

    private const string Mail = """
        Check the payment before anything is packed.

        Customer: MV Corvane
        Due: Tue 24 Nov, 15:30
        Because of: first order, night

          12 x Fish pie, tray of 12
           2 x Rope

        You get this because you are in Kitchen and rule 'Risky order' matched.
        Rule 'Second rule' matched too; this message stands for both.

        I have it: https://sirena.example/a/k
        The order and its trail: https://sirena.example/orders/AQ-1
        Why was I told: https://sirena.example/mine/why/1

        Averil Quay Provisions, by Sirena
        """;

    [Fact]
    public void A_mail_is_set_as_words_facts_and_goods_without_its_links_and_its_why()
    {
        var said = MessageParts.Of("AQ-1: flagged risky, high", Mail, Base);
        Assert.Equal("AQ-1: flagged risky, high", said.Headline);
        Assert.Equal(["Check the payment before anything is packed."], said.Words);
        Assert.Equal([("Customer", "MV Corvane"), ("Due", "Tue 24 Nov, 15:30"), ("Because of", "first order, night")], said.Facts);
        Assert.Equal([("12", "Fish pie, tray of 12"), ("2", "Rope")], said.Goods);
    }

    [Theory]
    [InlineData("AQ-1 held, due Tue 24 Nov, 15:30. Reply OK 2761 or https://sirena.example/a/9ip5PnGttIxbNOWgQQZXAw", "AQ-1 held, due Tue 24 Nov, 15:30")]
    [InlineData("AQ-1 for 15:30: 4 Fish pie, MV Corvane. OK 2761", "AQ-1 for 15:30: 4 Fish pie, MV Corvane")]
    [InlineData("AQ-1 retida. Responda OK 2761 ou https://sirena.example/a/k", "AQ-1 retida")]
    [InlineData("Say OK to the crew", "Say OK to the crew")]
    public void A_short_text_loses_the_code_and_the_link_that_the_buttons_stand_for(string text, string words) =>
        Assert.Equal([words], MessageParts.Of("Held", text, Base).Words);

    [Fact]
    public void A_text_without_a_subject_has_its_first_line_for_one_and_says_it_once()
    {
        var said = MessageParts.Of("", "Berths 4 to 7 closed\nUse the north ramp.\nBerths 4 to 7 closed", Base);
        Assert.Equal("Berths 4 to 7 closed", said.Headline);
        Assert.Equal(["Use the north ramp."], said.Words);
        Assert.Equal("", MessageParts.Of("", "", Base).Headline);
    }

    [Fact]
    public void It_says_only_what_stands_in_it()
    {
        var said = MessageParts.Of("AQ-1: held", Mail, Base);
        Assert.True(said.Says("15:30"));
        Assert.True(said.Says("AQ-1"));
        Assert.False(said.Says("16:45"));
        Assert.False(said.Says("1,284.50"));
    }

    [Fact]
    public void Links_to_elsewhere_and_long_labels_stay_words()
    {
        var said = MessageParts.Of(
            "x",
            "Drawing: https://files.example/a.pdf\nthis is no label of a fact: at all\nA very long label that is a sentence: yes",
            Base
        );
        Assert.Equal([("Drawing", "https://files.example/a.pdf")], said.Facts);
        Assert.Equal(2, said.Words.Count);
    }
}
