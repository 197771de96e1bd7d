using NodaTime;
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
        Assert.Equal(said, TextLanguage.Pt.Say(english));
        Assert.Equal(english, TextLanguage.En.Say(english));
    }

    [Theory]
    [InlineData("")]
    [InlineData("you dance in Galley kitchen")]
    [InlineData("{0} has it already")]
    public void What_it_does_not_know_stays_as_it_is(string english) => Assert.Equal(english, TextLanguage.Pt.Say(english));

    [Fact]
    public void A_name_that_reads_like_a_sentence_is_said_once_and_ends()
    {
        var deep = string.Concat(Enumerable.Repeat("you cover for A: ", 200)) + "they are in B";
        Assert.EndsWith("faz parte de B", TextLanguage.Pt.Say(deep));
    }

    [Fact]
    public void Days_are_those_of_the_language()
    {
        var day = new LocalDate(2026, 11, 24);
        Assert.Equal(("Tue", "24 Nov", "Tue 24 Nov"), (TextLanguage.En.Weekday(day), TextLanguage.En.DayOfYear(day), TextLanguage.En.Date(day)));
        Assert.Equal(("ter", "24 nov", "ter 24 nov"), (TextLanguage.Pt.Weekday(day), TextLanguage.Pt.DayOfYear(day), TextLanguage.Pt.Date(day)));
    }
}
