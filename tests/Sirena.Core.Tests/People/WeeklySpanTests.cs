using NodaTime;
using Sirena.Core.People;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.People;

/// <summary>Spans of every week: quiet hours, hours of work.</summary>
public sealed class WeeklySpanTests
{
    private static readonly WeeklySpan Nights = new([], new LocalTime(22, 0), new LocalTime(6, 0));
    private static readonly WeeklySpan Fridays = new([IsoDayOfWeek.Friday], new LocalTime(22, 0), new LocalTime(6, 0));

    private static Instant At(int day, int hour, int minute = 0) => Instant.FromUtc(2026, 11, day, hour, minute);

    [Fact]
    public void A_form_s_times_and_days_are_read()
    {
        var read = WeeklySpan.Read("22:00", "06:00", ["Saturday", "Friday", "Friday"])!;
        Assert.Equal(new WeeklySpan([IsoDayOfWeek.Friday, IsoDayOfWeek.Saturday], new LocalTime(22, 0), new LocalTime(6, 0)), read);
        Assert.Empty(WeeklySpan.Read("8:00", "18:00", [])!.Days);

        // A day that is none would leave a span of every day.
        Assert.All(["Someday", "None", "", "3", "8", "friday"], day => Assert.Null(WeeklySpan.Read("8:00", "18:00", ["Friday", day])));
    }

    [Theory]
    [InlineData(null, "06:00")]
    [InlineData("22:00", null)]
    [InlineData("", "06:00")]
    [InlineData("late", "06:00")]
    [InlineData("22:00", "25:00")]
    [InlineData("08:00", "08:00")]
    public void What_is_no_span_is_none(string? from, string? to) => Assert.Null(WeeklySpan.Read(from, to, []));

    [Theory]
    [InlineData(24, 21, 59, null)]
    [InlineData(24, 22, 0, 25)]
    [InlineData(25, 0, 0, 25)]
    [InlineData(25, 5, 59, 25)]
    [InlineData(25, 6, 0, null)]
    public void It_holds_from_its_begin_to_its_end_not_included(int day, int hour, int minute, int? until) =>
        Assert.Equal(until is { } d ? At(d, 6) : null, Nights.Until(At(day, hour, minute), Lisbon));

    [Fact]
    public void It_belongs_to_the_day_on_which_it_begins()
    {
        Assert.Equal(At(28, 6), Fridays.Until(At(27, 23), Lisbon));
        Assert.Equal(At(28, 6), Fridays.Until(At(28, 5), Lisbon));
        Assert.Null(Fridays.Until(At(28, 23), Lisbon));
        Assert.Null(Fridays.Until(At(27, 5), Lisbon));
        Assert.Null(Fridays.On(new LocalDate(2026, 11, 26), Lisbon));
    }

    [Fact]
    public void Spans_that_follow_one_another_are_one_quiet()
    {
        WeeklySpan morning = new([], new LocalTime(6, 0), new LocalTime(9, 0)),
            noon = new([], new LocalTime(12, 0), new LocalTime(13, 0));
        Assert.Equal(At(25, 9), WeeklySpan.Until([morning, Nights, noon], At(24, 23), Lisbon));
        Assert.Equal(At(25, 9), WeeklySpan.Until([Nights, morning], At(25, 6), Lisbon));
        Assert.Null(WeeklySpan.Until([Nights, morning], At(25, 9), Lisbon));
        Assert.Null(WeeklySpan.Until([], At(25, 9), Lisbon));
    }

    [Fact]
    public void Quiet_that_never_ends_ends_after_a_while_of_looking()
    {
        WeeklySpan day = new([], new LocalTime(6, 0), new LocalTime(18, 0)),
            night = new([], new LocalTime(18, 0), new LocalTime(6, 0));
        Assert.True(WeeklySpan.Until([day, night], At(24, 12), Lisbon) > At(29, 12));
    }

    [Fact]
    public void A_night_in_which_the_clocks_change_is_as_long_as_it_is()
    {
        var (from, to) = Nights.On(new LocalDate(2026, 10, 24), Lisbon)!.Value;
        Assert.Equal(Duration.FromHours(9), to - from);
        (from, to) = Nights.On(new LocalDate(2026, 3, 28), Lisbon)!.Value;
        Assert.Equal(Duration.FromHours(7), to - from);
    }

    [Fact]
    public void Two_with_the_same_days_and_times_are_the_same()
    {
        Assert.Equal(Fridays, new WeeklySpan([IsoDayOfWeek.Friday], new LocalTime(22, 0), new LocalTime(6, 0)));
        Assert.Equal(Fridays.GetHashCode(), new WeeklySpan([IsoDayOfWeek.Friday], new LocalTime(22, 0), new LocalTime(6, 0)).GetHashCode());
        Assert.NotEqual(Fridays, Nights);
        Assert.NotEqual(Fridays, Fridays with { To = new LocalTime(7, 0) });
        Assert.NotEqual(Fridays, Fridays with { From = new LocalTime(21, 0) });
        Assert.False(Fridays.Equals(null));
    }
}
