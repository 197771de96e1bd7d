using CsCheck;
using NodaTime;

namespace Sirena.Core.Tests;

public class DurationsTests
{
    [Theory]
    [InlineData("PT5M", 300)]
    [InlineData("P1DT2H", 93_600)]
    [InlineData("-PT30S", -30)]
    [InlineData(" PT0S ", 0)]
    [InlineData("P1W", 604_800)]
    public void An_ISO_8601_duration_of_fixed_length_is_read(string text, int seconds) => Assert.Equal(Duration.FromSeconds(seconds), Durations.Parse(text));

    [Theory]
    [InlineData("P1M")]
    [InlineData("P1Y")]
    [InlineData("5 minutes")]
    [InlineData("")]
    [InlineData("PT")]
    [InlineData("PT2147483648M")]
    [InlineData("-PT2147483648M")]
    [InlineData("P106752D")]
    [InlineData("P99999999999999999999D")]
    public void One_without_a_fixed_length_or_none_at_all_is_not(string text) => Assert.Null(Durations.Parse(text));

    [Theory]
    [InlineData("5 min", 300)]
    [InlineData("5", 300)]
    [InlineData("1 h 30 min", 5_400)]
    [InlineData("1H30M", 5_400)]
    [InlineData("2 days", 172_800)]
    [InlineData("1.5 hours", 5_400)]
    [InlineData("90 s", 90)]
    [InlineData("1 week", 604_800)]
    [InlineData("pt5m", 300)]
    [InlineData("٥ min", 300)]
    [InlineData("１０", 600)]
    [InlineData("१ h ३० min", 5_400)]
    [InlineData("5256000 min", 315_360_000)]
    [InlineData("315360000 s", 315_360_000)]
    public void What_a_person_types_is_read(string text, int seconds) => Assert.Equal(Duration.FromSeconds(seconds), Durations.ParseWords(text));

    [Theory]
    [InlineData("soon")]
    [InlineData("5 parsecs")]
    [InlineData("315360001 s")]
    [InlineData("5256001 min")]
    [InlineData("99999999999")]
    [InlineData("5 min later")]
    [InlineData("")]
    public void What_is_no_length_of_time_is_not(string text) => Assert.Null(Durations.ParseWords(text));

    [Fact]
    public void What_is_written_is_read_back_as_the_same_in_both_forms() =>
        Gen.Int[1, 40_000_000]
            .Select(s => Duration.FromSeconds(s))
            .Sample(span =>
            {
                Assert.Equal(span, Durations.Parse(span.Iso()));
                Assert.Equal(-span, Durations.Parse((-span).Iso()));
                Assert.Equal(span, Durations.ParseWords(span.ExactWords()));
            });

    [Theory]
    [InlineData("PT0S", "PT0S")]
    [InlineData("-PT90S", "-PT1M30S")]
    [InlineData("PT0.5S", "PT0.5S")]
    [InlineData("PT1S", "1 s")]
    [InlineData("P1DT1H1M1S", "1 d 1 h 1 min 1 s")]
    public void What_words_cannot_say_exactly_is_written_as_ISO_8601_does(string iso, string words) =>
        Assert.Equal(words, Durations.Parse(iso)!.Value.ExactWords());

    [Theory]
    [InlineData(40, "40 s")]
    [InlineData(1_080, "18 min")]
    [InlineData(7_200, "2 h")]
    [InlineData(8_880, "2 h 28")]
    [InlineData(90_000, "25 h")]
    [InlineData(-90, "1 min")]
    [InlineData(259_200, "3 days")]
    public void In_words_the_largest_parts_are_enough(int seconds, string words) => Assert.Equal(words, Duration.FromSeconds(seconds).InWords());
}
