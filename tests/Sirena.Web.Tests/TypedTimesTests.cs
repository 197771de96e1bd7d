using NodaTime;
using Sirena.Core.People;
using Sirena.Core.Wordings;
using Sirena.Web.Api;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Tests;

/// <summary>Times and days that are typed in words: what is said of those that are none.</summary>
public sealed class TypedTimesTests
{
    [Theory]
    [InlineData("time", "late", "'late' is no time of day. Write one such as 8:30, 18 or noon.")]
    [InlineData("time", " ", "The begin is missing. Write a time of day such as 8:30, 18 or noon.")]
    [InlineData("day", "never\nmore", "'never more' is no day. Write one such as tomorrow, Friday, 28 Nov or 28/11/2026.")]
    [InlineData("day", null, "The begin is missing. Write a day such as tomorrow, Friday, 28 Nov or 28/11/2026.")]
    [InlineData("moment", "soon", "'soon' is no day and time. Write one such as tomorrow 8, Fri 14:30, 28 Nov 13:36 or in 2 h.")]
    public void What_was_sent_is_quoted_and_what_was_not_is_named(string kind, string? text, string said) =>
        Assert.Equal(said, WhenApi.Refusal(kind, text, "The begin"));

    [Theory]
    [InlineData("22:00", "6", null)]
    [InlineData("late", "6", "'late' is no time of day. Write one such as 8:30, 18 or noon.")]
    [InlineData("22:00", "", "The end of the quiet is missing. Write a time of day such as 8:30, 18 or noon.")]
    [InlineData("8", "8:00", "The begin and the end of the quiet are the same. Put one of them elsewhere.")]
    public void A_span_is_read_or_one_sentence_says_why_not(string from, string to, string? said)
    {
        var (span, problem) = SpanForm.Read(from, to, ["Friday"], "quiet");
        Assert.Equal(said, problem);
        Assert.Equal(said is null ? new WeeklySpan([IsoDayOfWeek.Friday], new LocalTime(22, 0), new LocalTime(6, 0)) : null, span);
    }

    [Fact]
    public void A_span_on_a_day_that_is_none_is_not_one_of_every_day() =>
        Assert.Equal((null, "Choose days of the list."), SpanForm.Read("8", "18", ["Someday"], "hours"));

    // Staff have these on their own page: quiet hours and leave.
    [Fact]
    public void Staff_read_them_in_their_language()
    {
        var portuguese = TextLanguage.Of("pt");
        Assert.Equal("'tarde' não é uma hora. Escreva, por exemplo, 8:30 ou 18.", portuguese.Say(WhenApi.Refusal("time", "tarde", "The begin of the quiet")));
        Assert.Equal("Falta o fim do sossego. Escreva uma hora, por exemplo 8:30 ou 18.", portuguese.Say(WhenApi.Refusal("time", "", "The end of the quiet")));
        Assert.Equal(
            "Falta o último dia da ausência. Escreva um dia, por exemplo 28/11/2026.",
            portuguese.Say(WhenApi.Refusal("day", null, "The last day of the leave"))
        );
        string[] english =
        [
            .. new[] { "time", "day" }.SelectMany(k => new[] { WhenApi.Problem(k), WhenApi.Refusal(k, "x", "The begin of the quiet") }),
            SpanForm.Read("8", "8", [], "quiet").Problem!,
            SpanForm.Read("8", "9", ["x"], "quiet").Problem!,
            "The leave ends before it begins.",
        ];
        Assert.All(english, e => Assert.NotEqual(e, portuguese.Say(e)));
    }
}
