using CsCheck;
using NodaTime;
using NodaTime.Text;

namespace Sirena.Core.Tests;

/// <summary>Days and times as people type them, on a Saturday at 13:36.</summary>
public sealed class WhenTextTests
{
    private static readonly LocalDateTime Now = new(2026, 11, 28, 13, 36, 41);

    private static string? Read(string? text) =>
        WhenText.Read(text, Now) is { } at ? LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd HH:mm").Format(at) : null;

    [Theory]
    [InlineData("14:30", "2026-11-28 14:30")]
    [InlineData("13:36", "2026-11-29 13:36")]
    [InlineData("8", "2026-11-29 08:00")]
    [InlineData("18h", "2026-11-28 18:00")]
    [InlineData("18h15", "2026-11-28 18:15")]
    [InlineData("14.30", "2026-11-28 14:30")]
    [InlineData("1430", "2026-11-28 14:30")]
    [InlineData("noon", "2026-11-29 12:00")]
    [InlineData("midnight", "2026-11-29 00:00")]
    [InlineData("now", "2026-11-28 13:36")]
    [InlineData("today 18:00", "2026-11-28 18:00")]
    [InlineData("today 9:15", "2026-11-28 09:15")]
    [InlineData("tomorrow 8", "2026-11-29 08:00")]
    [InlineData("Tomorrow at 8", "2026-11-29 08:00")]
    [InlineData("tomorrow", "2026-11-29 00:00")]
    [InlineData("yesterday 22:00", "2026-11-27 22:00")]
    [InlineData("Fri 14:30", "2026-12-04 14:30")]
    [InlineData("saturday 14:00", "2026-11-28 14:00")]
    [InlineData("Sat 13:00", "2026-12-05 13:00")]
    [InlineData("sat", "2026-11-28 00:00")]
    [InlineData("mon 0700", "2026-11-30 07:00")]
    [InlineData("28 Nov 13:36", "2026-11-28 13:36")]
    [InlineData("1 january 8:00", "2027-01-01 08:00")]
    [InlineData("15 Sept 2027", "2027-09-15 00:00")]
    [InlineData("3rd Dec, 9:00", "2026-12-03 09:00")]
    [InlineData("28/11/2026 13:36", "2026-11-28 13:36")]
    [InlineData("1/2", "2027-02-01 00:00")]
    [InlineData("24.12. 18:00", "2026-12-24 18:00")]
    [InlineData("24.12.27 18", "2027-12-24 18:00")]
    [InlineData("2026-11-28", "2026-11-28 00:00")]
    [InlineData("2026-11-28T13:36", "2026-11-28 13:36")]
    [InlineData("2026-11-28 13:36", "2026-11-28 13:36")]
    [InlineData("Sat 28 Nov 2026, 13:36", "2026-11-28 13:36")]
    [InlineData("in 2 h", "2026-11-28 15:36")]
    [InlineData("in 90 min", "2026-11-28 15:06")]
    [InlineData("+1h 30min", "2026-11-28 15:06")]
    [InlineData("2h30m", "2026-11-28 16:06")]
    [InlineData("in 3 days", "2026-12-01 13:36")]
    [InlineData("in 2 weeks", "2026-12-12 13:36")]
    [InlineData("29 Feb 2028 10:00", "2028-02-29 10:00")]
    [InlineData("13:37", "2026-11-28 13:37")]
    [InlineData("0", "2026-11-29 00:00")]
    [InlineData("23:59", "2026-11-28 23:59")]
    [InlineData("midday", "2026-11-29 12:00")]
    [InlineData("sun", "2026-11-29 00:00")]
    [InlineData("mon", "2026-11-30 00:00")]
    [InlineData("tue", "2026-12-01 00:00")]
    [InlineData("wed", "2026-12-02 00:00")]
    [InlineData("thu", "2026-12-03 00:00")]
    [InlineData("sat 13:36", "2026-12-05 13:36")]
    [InlineData("sat 13:37", "2026-11-28 13:37")]
    [InlineData("28 Nov 8:00", "2026-11-28 08:00")]
    [InlineData("Sat 28 Nov 8:00", "2026-11-28 08:00")]
    [InlineData("28 May", "2027-05-28 00:00")]
    [InlineData("31 May", "2026-05-31 00:00")]
    [InlineData("31/1", "2027-01-31 00:00")]
    [InlineData("30/4", "2027-04-30 00:00")]
    [InlineData("1/12", "2026-12-01 00:00")]
    [InlineData("24.12.99", "2099-12-24 00:00")]
    [InlineData("24.12.00", "2000-12-24 00:00")]
    [InlineData("1/1/1970", "1970-01-01 00:00")]
    [InlineData("31 Dec 2199", "2199-12-31 00:00")]
    [InlineData("2199-12-31", "2199-12-31 00:00")]
    [InlineData("Tue 2026-12-01", "2026-12-01 00:00")]
    [InlineData("Tue 2026-12-01 8:15", "2026-12-01 08:15")]
    [InlineData("2026-12-01 at 8", "2026-12-01 08:00")]
    [InlineData("2026-12-01 noon", "2026-12-01 12:00")]
    [InlineData("12 decem 2026 7", "2026-12-12 07:00")]
    [InlineData("1 Sept. 2027", "2027-09-01 00:00")]
    [InlineData("2026-11-28T13:36:59", "2026-11-28 13:36")]
    [InlineData("in 9999 days", "2054-04-14 13:36")]
    [InlineData("in 2001 weeks", "2065-04-04 13:36")]
    [InlineData("in 9999 min", "2026-12-05 12:15")]
    [InlineData("in 1 week 2 days 3 h 4 min", "2026-12-07 16:40")]
    [InlineData("2 h", "2026-11-28 15:36")]
    [InlineData("2h", "2026-11-29 02:00")]
    public void It_is_understood(string typed, string meant) => Assert.Equal(meant, Read(typed));

    [Theory]
    [InlineData(null)]
    [InlineData("")]
    [InlineData("soon")]
    [InlineData("25:00")]
    [InlineData("8:60")]
    [InlineData("29 Feb 2027")]
    [InlineData("31/11/2026")]
    [InlineData("11/28/2026")]
    [InlineData("Mon 28 Nov 2026")]
    [InlineData("28 Nov 2026 25:00")]
    [InlineData("tomorrow maybe")]
    [InlineData("28")]
    [InlineData("1 Jan 2200")]
    [InlineData("1/1/1969")]
    [InlineData("in 9999999 days")]
    [InlineData("at")]
    [InlineData("24:00")]
    [InlineData("23:60")]
    [InlineData("fr 14:30")]
    [InlineData("5 no")]
    [InlineData("31/4")]
    [InlineData("1/13")]
    [InlineData("1/0")]
    [InlineData("0/5")]
    [InlineData("0 May")]
    [InlineData("100th May")]
    [InlineData("2200-01-01")]
    [InlineData("1969-12-31")]
    [InlineData("in 10000 min")]
    [InlineData("in 9999 weeks")]
    [InlineData("fri fri")]
    [InlineData("Wed 2026-12-01")]
    [InlineData("Fri 9999-12-31 8:00")]
    [InlineData("2026-12-01 8 8")]
    [InlineData("5 May 27 8:00 more")]
    public void It_is_refused_and_not_guessed(string? typed) => Assert.Null(Read(typed));

    [Fact]
    public void A_time_of_today_s_weekday_that_is_over_is_next_week_s_on_every_day()
    {
        for (var day = new LocalDate(2026, 11, 23); day < new LocalDate(2026, 11, 30); day = day.PlusDays(1))
        {
            var (now, word) = (day.At(new LocalTime(9, 0)), day.DayOfWeek.ToString()[..3]);
            Assert.Equal(day.PlusWeeks(1).At(new LocalTime(8, 0)), WhenText.Read($"{word} 8:00", now));
            Assert.Equal(day.PlusWeeks(1).At(new LocalTime(9, 0)), WhenText.Read($"{word} 9:00", now));
            Assert.Equal(day.At(new LocalTime(9, 1)), WhenText.Read($"{word} 9:01", now));
            Assert.Equal(day.PlusDays(6).At(new LocalTime(8, 0)), WhenText.Read($"{day.PlusDays(6).DayOfWeek.ToString()[..3]} 8:00", now));
        }
    }

    [Fact]
    public void What_is_written_is_read_again()
    {
        for (var i = 0; i < 2_000; i++)
        {
            var at = new LocalDateTime(2026, 11, 28, 0, 7).PlusDays(i * 3 - 3_000).PlusMinutes(i * 37 % 1_440);
            Assert.Equal(at, WhenText.Read(WhenText.Write(at), Now));
            Assert.Equal(at.Date, WhenText.ReadDay(WhenText.Write(at.Date), Now));
        }
    }

    // Arabic, Persian, Devanagari and wide digits mean the same as ours.
    [Theory]
    [InlineData("٣:٣٠", "03:30")]
    [InlineData("۱۸", "18:00")]
    [InlineData("１４：３０", null)]
    [InlineData("１４:３０", "14:30")]
    [InlineData("०८३०", "08:30")]
    [InlineData("٩٩", null)]
    public void Digits_of_any_script_are_digits(string typed, string? meant) =>
        Assert.Equal(meant, WhenText.ReadTime(typed)?.ToString("HH:mm", System.Globalization.CultureInfo.InvariantCulture));

    [Fact]
    public void Whatever_is_typed_is_read_or_not_and_never_more_than_that() =>
        Gen.String[Gen.OneOf(Gen.Char["0123456789 :./hdmwin,-+T"], Gen.Char["٣۹०９²½Ⅳ\ud800\u0000İß"]), 0, 14]
            .Sample(typed =>
            {
                WhenText.Read(typed, Now);
                WhenText.ReadDay(typed, Now);
                WhenText.ReadTime(typed);
                Durations.ParseWords(typed);
                return true;
            });

    [Fact]
    public void Sixty_characters_are_read_and_more_are_not()
    {
        var most = "in 1 minutes" + string.Concat(Enumerable.Repeat(" 1 min", 8));
        Assert.Equal(60, most.Length);
        Assert.Equal(Now.PlusMinutes(9).Date.At(new LocalTime(13, 45)), WhenText.Read(most, Now));
        Assert.Null(WhenText.Read("in 1 minutes 1 mins" + string.Concat(Enumerable.Repeat(" 1 min", 7)), Now));
        var days = "in 1 days 1 d" + string.Concat(Enumerable.Repeat(" 1 d", 11)) + " 1 w";
        Assert.Equal(61, days.Length);
        Assert.Null(WhenText.ReadDay(days, Now));
        Assert.Equal(Now.Date.PlusDays(20), WhenText.ReadDay(days.Replace("days", "day", StringComparison.Ordinal), Now));
    }

    [Theory]
    [InlineData("today", "2026-11-28")]
    [InlineData("Friday", "2026-12-04")]
    [InlineData("24 Dec", "2026-12-24")]
    [InlineData("24/12/2026", "2026-12-24")]
    [InlineData("2026-12-24", "2026-12-24")]
    [InlineData("in 7 days", "2026-12-05")]
    [InlineData("in 1 week", "2026-12-05")]
    [InlineData("2 weeks 1 day", "2026-12-13")]
    [InlineData("Sat 28 Nov 2026", "2026-11-28")]
    [InlineData("31 Dec 2199", "2199-12-31")]
    [InlineData("yesterday", "2026-11-27")]
    [InlineData("in 2 h", null)]
    [InlineData("in 1 day 2 h", null)]
    [InlineData("2200-01-01", null)]
    [InlineData("now", null)]
    [InlineData("", null)]
    [InlineData("tomorrow 8", null)]
    [InlineData("8:00", null)]
    public void A_day_has_no_time_of_day(string typed, string? meant) =>
        Assert.Equal(meant, WhenText.ReadDay(typed, Now) is { } day ? LocalDatePattern.Iso.Format(day) : null);

    [Theory]
    [InlineData("8", "08:00")]
    [InlineData("8:30", "08:30")]
    [InlineData("0830", "08:30")]
    [InlineData("23.59", "23:59")]
    [InlineData("8 h", "08:00")]
    [InlineData("midnight", "00:00")]
    [InlineData("830", null)]
    [InlineData("24", null)]
    [InlineData("8pm", null)]
    public void A_time_of_day(string typed, string? meant) =>
        Assert.Equal(meant, WhenText.ReadTime(typed)?.ToString("HH:mm", System.Globalization.CultureInfo.InvariantCulture));

    [Theory]
    [InlineData("8", "08:00")]
    [InlineData("8.30", "08:30")]
    [InlineData("23:59", "23:59")]
    [InlineData("soon", "soon")]
    [InlineData("25:00", "25:00")]
    [InlineData("", "")]
    public void A_time_becomes_that_of_documents_and_what_is_none_stays(string typed, string written) => Assert.Equal(written, WhenText.Clocked(typed));
}
