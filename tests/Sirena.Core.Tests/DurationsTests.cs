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
    [InlineData("5256000", 315_360_000)]
    [InlineData("1.5", 90)]
    [InlineData("0", 0)]
    [InlineData("2 w", 1_209_600)]
    [InlineData("2w 1d", 1_296_000)]
    [InlineData("1 min 1 sec", 61)]
    [InlineData("0.25 h", 900)]
    public void What_a_person_types_is_read(string text, int seconds) => Assert.Equal(Duration.FromSeconds(seconds), Durations.ParseWords(text));

    [Theory]
    [InlineData("soon")]
    [InlineData("5 parsecs")]
    [InlineData("315360001 s")]
    [InlineData("5256001 min")]
    [InlineData("5256001")]
    [InlineData("-5")]
    [InlineData("1e3")]
    [InlineData("1.23456 h")]
    [InlineData("1234567890 s")]
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
    [InlineData(0, "0 s")]
    [InlineData(59, "59 s")]
    [InlineData(60, "1 min")]
    [InlineData(3_599, "59 min")]
    [InlineData(3_600, "1 h")]
    [InlineData(3_660, "1 h 01")]
    [InlineData(172_799, "47 h 59")]
    [InlineData(172_800, "2 days")]
    public void In_words_the_largest_parts_are_enough(int seconds, string words) => Assert.Equal(words, Duration.FromSeconds(seconds).InWords());

    [Theory]
    [InlineData(0, "0.0 s")]
    [InlineData(40, "0.0 s")]
    [InlineData(1_240, "1.2 s")]
    [InlineData(12_340, "12.3 s")]
    [InlineData(59_900, "59.9 s")]
    [InlineData(60_000, "1 min")]
    [InlineData(null, "–")]
    public void What_something_took_is_said_in_tenths_below_a_minute(int? milliseconds, string words) =>
        Assert.Equal(words, (milliseconds is { } ms ? Duration.FromMilliseconds(ms) : (Duration?)null).Took());

    [Theory]
    [InlineData(0, 0)]
    [InlineData(3_599, 0)]
    [InlineData(3_600, 3_600)]
    [InlineData(90_061, 90_000)]
    public void An_hour_begins_with_its_first_second(long seconds, long hour) =>
        Assert.Equal(Instant.FromUnixTimeSeconds(hour), Instant.FromUnixTimeSeconds(seconds).Hour());

    [Fact]
    public void What_the_database_keeps_is_whole_microseconds()
    {
        var at = Instant.FromUnixTimeTicks(17_000_000_000_000_000);
        Assert.Equal(at, at.Micros());
        Assert.Equal(at, at.PlusTicks(9).Micros());
        Assert.Equal(at.PlusTicks(10), at.PlusTicks(10).Micros());
    }

    [Fact]
    public void An_instant_is_stored_to_the_microsecond_below_and_its_hour_begins_at_it()
    {
        var at = Instant.FromUtc(2026, 11, 24, 12, 59, 59) + Duration.FromTicks(9_999_999);
        Assert.Equal(Instant.FromUtc(2026, 11, 24, 12, 0), at.Hour());
        Assert.Equal(9_999_990, (at.Micros() - Instant.FromUtc(2026, 11, 24, 12, 59, 59)).BclCompatibleTicks);
        Assert.Equal(at.Micros(), at.Micros().Micros());
        Assert.Equal(Instant.FromUtc(2026, 11, 24, 12, 0), Instant.FromUtc(2026, 11, 24, 12, 0).Hour());
    }
}
