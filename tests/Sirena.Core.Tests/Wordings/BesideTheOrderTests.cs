using Sirena.Core.Deliveries;
using Sirena.Core.Wordings;

namespace Sirena.Core.Tests.Wordings;

/// <summary>What texts say of an event beside its order: extras, notes, its own attributes.</summary>
public sealed class BesideTheOrderTests
{
    private const string Order = """{"number":"AQ-1","customer":{"name":"MV Corvane"}}""";

    [Theory]
    [InlineData("{{event.extra.seal}}", "4471")]
    [InlineData("{{event.extra.pier}}", "N3")]
    [InlineData("{{event.extra.nothing}}", "")]
    [InlineData("{{event.subject}}", "AQ-1")]
    [InlineData("{{event.local-hour}}", "12")]
    [InlineData("{{event.nothing}}", "")]
    [InlineData("{{note.from}}", "ines.calder")]
    [InlineData("{{note.public}}", "Bring a crane")]
    [InlineData("{{note.by}}", "ines.calder")]
    public void What_an_event_says_beside_the_order_is_said_too(string text, string said)
    {
        var facts = Build.Facts(
            Order,
            data: """{"event":{"extra":{"seal":"4471"}},"pier":"N3","note":{"by":"ines.calder","text":"Bring a crane","visibleToCustomer":true}}"""
        );
        Assert.Equal(said, new Composer(ComposerTests.About(facts: facts)).For(Channel.Sms, new WordingParts { Sms = text }).Text);
    }

    [Fact]
    public void A_note_that_the_customer_may_not_see_is_not_said_to_them()
    {
        var facts = Build.Facts(Order, data: """{"note":{"by":"ines.calder","text":"Bring a crane","visibleToCustomer":false}}""");
        Assert.Equal("", new Composer(ComposerTests.About(facts: facts)).For(Channel.Sms, new WordingParts { Sms = "{{note.public}}" }).Text);
    }
}
