using NodaTime;
using Sirena.Core.Sources;

namespace Sirena.Core.Tests.Sources;

/// <summary>What is usual of a source, and when its silence is said.</summary>
public sealed class RhythmTests
{
    // A zone without changes of the clock: what the tests live through is drawn by the hour of the day.
    private static readonly DateTimeZone Utc = DateTimeZone.Utc;
    private static readonly Instant Monday = Instant.FromUtc(2026, 3, 2, 0, 0);

    // Busy from 8 to 18, a little in the evening, nothing at night.
    private static double Rate(int hourOfDay, double scale) =>
        hourOfDay switch
        {
            >= 8 and < 18 => 30,
            >= 18 and < 22 => 6,
            _ => 0.2,
        } * scale;

    private static List<HourCount> Counts(int weeks, double scale, Func<double, int> draw) =>
        [.. Enumerable.Range(0, weeks * 168).Select(h => new HourCount(Monday + Duration.FromHours(h), draw(Rate(h % 24, scale))))];

    private static int Poisson(Random chance, double rate)
    {
        var (count, left) = (0, Math.Exp(-rate));
        for (var product = chance.NextDouble(); product > left; product *= chance.NextDouble())
        {
            count++;
        }

        return count;
    }

    [Fact]
    public void It_needs_fourteen_days_and_two_hundred_events()
    {
        var now = Monday + Duration.FromDays(13);
        Assert.False(Rhythm.Of(Counts(8, 1, r => (int)r).Where(c => c.Hour < now), Monday, now, Utc, []).IsKnown);
        now = Monday + Duration.FromDays(14);
        Assert.True(Rhythm.Of(Counts(8, 1, r => (int)r).Where(c => c.Hour < now), Monday, now, Utc, []).IsKnown);
        Assert.False(Rhythm.Of([new HourCount(Monday, 199)], Monday, now, Utc, []).IsKnown);
    }

    [Fact]
    public void The_busiest_hour_is_heard_in_minutes_and_three_at_night_is_not()
    {
        var now = Monday + Duration.FromDays(56);
        var rhythm = Rhythm.Of(Counts(8, 1, r => (int)Math.Round(r)), Monday, now, Utc, []);
        Assert.Equal(1, rhythm.Dispersion, 1);
        var noon = now + Duration.FromHours(12);
        var said = rhythm.SaidAt(noon, 9.2)!.Value - noon;
        Assert.InRange(said.TotalMinutes, 18, 45);
        Assert.True(rhythm.Surprise(noon, noon + said + Duration.FromMinutes(1)) > rhythm.Threshold(9.2));
        var night = now + Duration.FromHours(27);
        Assert.True(rhythm.Surprise(night, night + Duration.FromHours(4)) < 9.2);
    }

    [Fact]
    public void Newer_weeks_weigh_more_and_holidays_are_like_no_other_day()
    {
        var now = Monday + Duration.FromDays(56);
        var counts = Enumerable.Range(0, 8 * 168).Select(h => new HourCount(Monday + Duration.FromHours(h), h < 7 * 168 ? 10 : 30)).ToList();
        var usual = Rhythm.Of(counts, Monday, now, Utc, []).Usual(now + Duration.FromHours(9));
        Assert.InRange(usual, 13, 16);
        LocalDate[] holidays = [new LocalDate(2026, 4, 20), new LocalDate(2026, 4, 27)];
        var without = Rhythm.Of(counts, Monday, now, Utc, holidays);
        Assert.InRange(without.Usual(now + Duration.FromDays(7) + Duration.FromHours(9)), 9.9, 10.1);
        Assert.Equal(0, without.Usual(now + Duration.FromHours(9)));
        Assert.Equal(0, without.Expected(now + Duration.FromHours(1), now + Duration.FromHours(10)));
    }

    private static Rhythm Steady(int perHour, int days = 14) =>
        Rhythm.Of(
            Enumerable.Range(0, days * 24).Select(h => new HourCount(Monday + Duration.FromHours(h), perHour)),
            Monday,
            Monday + Duration.FromDays(days),
            Utc,
            []
        );

    [Fact]
    public void What_a_span_usually_brings_is_the_sum_of_its_hours_and_parts_of_hours()
    {
        var (rhythm, now) = (Steady(4), Monday + Duration.FromDays(14));
        Assert.Equal((672, 1), (rhythm.EventsAWeek, rhythm.Dispersion));
        Assert.Equal(7, rhythm.Expected(now + Duration.FromMinutes(30), now + Duration.FromMinutes(135)), 9);
        Assert.Equal(1, rhythm.Expected(now + Duration.FromMinutes(10), now + Duration.FromMinutes(25)), 9);
        Assert.Equal(0, rhythm.Expected(now, now));
        Assert.Equal(28 * 24 * 4, rhythm.Expected(now - Duration.FromDays(40), now), 6);
        Assert.Equal(7, rhythm.Surprise(now + Duration.FromMinutes(30), now + Duration.FromMinutes(135)), 9);
    }

    // ln(672 events x 20 weeks) + 1.5, which four an hour bring in 2 h 45 min.
    [Fact]
    public void A_silence_is_said_when_what_it_would_have_brought_reaches_the_threshold()
    {
        var (rhythm, now) = (Steady(4), Monday + Duration.FromDays(14));
        var wanted = Math.Log(672 * 20) + 1.5;
        Assert.Equal(wanted, rhythm.Threshold(9.2), 9);
        Assert.Equal(20, rhythm.Threshold(20));
        var since = now + Duration.FromMinutes(30);
        Assert.Equal(wanted / 4, (rhythm.SaidAt(since, 9.2)!.Value - since).TotalHours, 6);
        Assert.Null(Steady(0).SaidAt(now, 9.2));
        Assert.Equal(9.2, Steady(0).Threshold(9.2));
    }

    [Fact]
    public void Counts_that_go_up_and_down_make_a_silence_less_of_a_surprise()
    {
        // Two an hour in the first week and six in the second, which weighs more: 0.85 to 1.
        var counts = Enumerable.Range(0, 336).Select(h => new HourCount(Monday + Duration.FromHours(h), h < 168 ? 2 : 6));
        var rhythm = Rhythm.Of(counts, Monday, Monday + Duration.FromDays(14), Utc, []);
        var usual = ((0.85 * 2) + 6) / 1.85;
        Assert.Equal(usual, rhythm.Usual(Monday), 9);
        Assert.Equal((Math.Pow(2 - usual, 2) + Math.Pow(6 - usual, 2)) / usual, rhythm.Dispersion, 9);
        Assert.Equal(usual / rhythm.Dispersion, rhythm.Surprise(Monday, Monday + Duration.FromHours(1)), 9);
    }

    [Theory]
    [InlineData(0, true)]
    [InlineData(1, false)]
    [InlineData(60, false)]
    [InlineData(61, false)]
    public void The_hour_in_which_a_source_begins_counts_when_it_is_whole(int minutes, bool counts)
    {
        var rhythm = Rhythm.Of(
            [new HourCount(Monday, 60), new HourCount(Monday + Duration.FromMinutes(20), 40)],
            Monday + Duration.FromMinutes(minutes),
            Monday + Duration.FromDays(14) + Duration.FromMinutes(59),
            Utc,
            []
        );
        Assert.Equal(counts ? 100 * 0.85 / 1.85 : 0, rhythm.Usual(Monday + Duration.FromDays(21)), 9);
        Assert.Equal(1, rhythm.Dispersion);
    }

    [Fact]
    public void Nothing_older_than_eight_weeks_counts_nor_the_hour_that_still_runs()
    {
        var now = Monday + Duration.FromDays(63) + Duration.FromMinutes(30);
        var rhythm = Rhythm.Of([new HourCount(Monday, 500), new HourCount(now, 700)], Monday, now, Utc, []);
        Assert.Equal((0, false), (rhythm.EventsAWeek, rhythm.IsKnown));
        var known = Rhythm.Of([new HourCount(Monday + Duration.FromDays(7), 200)], Monday, now, Utc, []);
        Assert.True(known.IsKnown);
        Assert.Equal(200 * Math.Pow(0.85, 8) / Enumerable.Range(1, 8).Sum(week => Math.Pow(0.85, week)), known.EventsAWeek, 9);
    }

    // Twenty weeks are lived through minute by minute, quiet as chance has it; what is said is a false alarm. The seeds are fixed: the figures for many more
    // are in docs/figures.md, by bench sources.
    [Theory]
    [InlineData(0.05, 1)]
    [InlineData(1, 1)]
    [InlineData(4, 1)]
    [InlineData(1, 6)]
    public void A_source_of_any_size_raises_few_false_alarms(double scale, int burst)
    {
        var (alarms, sources) = (0, 6);
        for (var seed = 0; seed < sources; seed++)
        {
            alarms += FalseAlarms.In(new Random(seed), 20, scale, burst, Monday, Utc);
        }

        Assert.True(alarms <= sources, $"{alarms} false alarms in {sources} times 20 weeks");
    }
}
