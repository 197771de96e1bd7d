using System.Text.Json.Nodes;
using NodaTime;
using Sirena.Core.Instructions;
using Sirena.Core.Orders;
using Sirena.Core.Wordings;

namespace Sirena.Core.Tests.Wordings;

/// <summary>Sentences that Sirena makes in English, in the reader's language.</summary>
public sealed class LanguageTests
{
    [Theory]
    [InlineData("you are named in it", "está entre as pessoas indicadas")]
    [InlineData("you are in Galley kitchen", "faz parte de Galley kitchen")]
    [InlineData("you are on duty for Galley kitchen", "está de serviço em Galley kitchen")]
    [InlineData("you are on duty for Galley kitchen at Quay 4", "está de serviço em Galley kitchen, Quay 4")]
    [InlineData("you cover for Noor Haddad: they are on duty for Galley kitchen", "substitui Noor Haddad: está de serviço em Galley kitchen")]
    [InlineData(
        "you cover for Noor Haddad, for whom Milo Trask would: they are in Cold store",
        "substitui Noor Haddad, em vez de Milo Trask: faz parte de Cold store"
    )]
    [InlineData("Farah Mensah has it already.", "Já está com Farah Mensah.")]
    [InlineData("Nothing was added. Give at least one address.", "Nada foi acrescentado. Indique pelo menos um endereço.")]
    public void A_sentence_is_said_with_the_same_names(string english, string said)
    {
        Assert.Equal(said, TextLanguage.Of("pt").Say(english));
        Assert.Equal(english, TextLanguage.En.Say(english));
    }

    [Theory]
    [InlineData("")]
    [InlineData("you dance in Galley kitchen")]
    [InlineData("{0} has it already")]
    public void What_it_does_not_know_stays_as_it_is(string english) => Assert.Equal(english, TextLanguage.Of("pt").Say(english));

    [Fact]
    public void A_name_that_reads_like_a_sentence_is_said_once_and_ends()
    {
        var deep = string.Concat(Enumerable.Repeat("you cover for A: ", 200)) + "they are in B";
        Assert.EndsWith("faz parte de B", TextLanguage.Of("pt").Say(deep));
    }

    [Fact]
    public void Days_are_those_of_the_language()
    {
        var day = new LocalDate(2026, 11, 24);
        Assert.Equal(("Tue", "24 Nov", "Tue 24 Nov"), (TextLanguage.En.Weekday(day), TextLanguage.En.DayOfYear(day), TextLanguage.En.Date(day)));
        Assert.Equal(
            ("ter", "24 nov", "ter 24 nov"),
            (TextLanguage.Of("pt").Weekday(day), TextLanguage.Of("pt").DayOfYear(day), TextLanguage.Of("pt").Date(day))
        );
    }

    public static TheoryData<string> Clauses
    {
        get
        {
            var all = new TheoryData<string>();
            (string Kind, string With)[] asked =
            [
                ("release", "{}"),
                ("hold", "{}"),
                ("hold", """{"reason":"over the limit"}"""),
                ("status", """{"to":"picking"}"""),
                ("capture", "{}"),
                ("refund", "{}"),
                ("refund", """{"amount":12.5,"reason":"late"}"""),
                ("tag", """{"add":["a","b"]}"""),
                ("tag", """{"remove":["a"],"of":"customer"}"""),
                ("tag", """{"add":["a"],"remove":["b"]}"""),
                ("note", """{"text":"knock"}"""),
                ("note", """{"text":"knock","visibleToCustomer":true}"""),
                ("assign", """{"salesperson":"IC"}"""),
                ("cancel", "{}"),
                ("cancel", """{"putBack":true,"reason":"no stock"}"""),
                ("intake", """{"state":"open"}"""),
                ("intake", """{"state":"closed","until":"2026-11-28T18:00:00Z","reason":"stocktaking"}"""),
            ];
            foreach (var (kind, with) in asked)
            {
                all.Add(InstructionKinds.Find(kind)!.Clause(JsonNode.Parse(with)!.AsObject(), id => id));
            }

            return all;
        }
    }

    [Theory]
    [MemberData(nameof(Clauses))]
    public void What_is_asked_of_the_order_system_is_said_in_every_language(string clause)
    {
        foreach (var language in TextLanguage.All.Where(l => l != TextLanguage.En))
        {
            var said = language.Say(clause);
            Assert.NotEqual(clause, said);
            Assert.Equal(clause.Split('\'').Where((_, i) => i % 2 == 1), said.Split('\'').Where((_, i) => i % 2 == 1));
        }
    }

    [Fact]
    public void What_is_asked_is_said_in_the_words_of_whoever_is_to_press_it() =>
        Assert.Equal("reter a encomenda porque 'over the limit'", TextLanguage.Of("pt").Say("hold the order because 'over the limit'"));

    [Fact]
    public void A_shipped_text_that_a_language_lacks_is_named_and_one_of_fields_alone_is_the_same()
    {
        var pt = TextLanguage.Of("pt");
        Assert.Equal("{{order.number}}: {{order.total}} ({{event.what}})", pt.Text("{{order.number}}: {{order.total}} ({{event.what}})"));
        Assert.Equal("Regra", pt.Text("Rule"));
        Assert.Equal("Dance", TextLanguage.En.Text("Dance"));
        Assert.Contains("pt.json lacks the text 'Dance'", Assert.Throws<InvalidOperationException>(() => pt.Text("Dance")).Message);
    }

    [Fact]
    public void Every_event_has_a_name_in_every_language()
    {
        foreach (var language in TextLanguage.All.Where(l => l != TextLanguage.En))
        {
            Assert.Equal([], EventTypes.All.Where(t => language.Event(t) == TextLanguage.En.Event(t)));
        }

        Assert.Equal(("Held", "Retida"), (TextLanguage.En.Event("order.held"), TextLanguage.Of("pt").Event("order.held")));
        Assert.Equal("order.seal-broken", TextLanguage.Of("pt").Event("order.seal-broken"));
    }

    [Fact]
    public void Shipped_texts_name_the_same_fields_in_every_language()
    {
        foreach (var wording in ShippedWordings.All)
        {
            foreach (var text in wording.Texts.Where(t => t.Language != "en"))
            {
                var english = wording.For(text.Audience, "en")!.Parts;
                Assert.Equal(english.Fields.Distinct().Order(), text.Parts.Fields.Distinct().Order());
                Assert.Equal(english.Facts.Select(f => f.Value), text.Parts.Facts.Select(f => f.Value));
                Assert.NotEqual(english.Subject + english.Text + english.Sms, text.Parts.Subject + text.Parts.Text + text.Parts.Sms);
            }
        }
    }
}
