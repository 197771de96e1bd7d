using CsCheck;
using NodaTime;
using NodaTime.Text;
using Sirena.Core.Sources;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Sources;

/// <summary>Times as order systems write them, by a date pattern of Unicode.</summary>
public sealed class TimeFormTests
{
    [Theory]
    [InlineData("dd/MM/uuuu HH:mm", "24/11/2026 15:30", "2026-11-24T15:30:00Z")]
    [InlineData("d/M/yyyy H:m", "4/3/2026 9:5", "2026-03-04T09:05:00Z")]
    [InlineData("d.M.yy", "4.3.26", "2026-03-04T00:00:00Z")]
    [InlineData("uuuu-MM-dd'T'HH:mm:ss.SSSXXX", "2026-11-24T15:30:00.250+02:00", "2026-11-24T13:30:00.25Z")]
    [InlineData("uuuu-MM-dd'T'HH:mmXXX", "2026-11-24T15:30Z", "2026-11-24T15:30:00Z")]
    [InlineData("uuuuMMddHHmmssx", "20261124153000+01", "2026-11-24T14:30:00Z")]
    [InlineData("uuuuMMddHHmmssxx", "20261124153000-0330", "2026-11-24T19:00:00Z")]
    [InlineData("EEE, dd MMM uuuu HH:mm:ss Z", "Tue, 24 Nov 2026 15:30:00 +0000", "2026-11-24T15:30:00Z")]
    [InlineData("EEEE d MMMM uuuu, hh:mm a", "Tuesday 24 November 2026, 03:30 PM", "2026-11-24T15:30:00Z")]
    [InlineData("'week' dd MM uuuu 'o''clock' HH", "week 24 11 2026 o'clock 15", "2026-11-24T15:00:00Z")]
    [InlineData("dd MM uuuu HH 'o''clock'", "24 11 2026 15 o'clock", "2026-11-24T15:00:00Z")]
    [InlineData("dd MM uuuu HH 'h'''", "24 11 2026 15 h'", "2026-11-24T15:00:00Z")]
    [InlineData("dd MM uuuu HH''", "24 11 2026 15'", "2026-11-24T15:00:00Z")]
    [InlineData("uuuu-MM-dd HH:mm:ssZZZZZ", "2026-11-24 15:30:00+02:00", "2026-11-24T13:30:00Z")]
    [InlineData("uuuu-MM-dd HH:mm:ssZZZZZ", "2026-11-24 15:30:00Z", "2026-11-24T15:30:00Z")]
    [InlineData("uuuu-MM-dd HH:mm:ssZZZ", "2026-11-24 15:30:00+0200", "2026-11-24T13:30:00Z")]
    [InlineData("uuuu-MM-dd HH:mmX", "2026-11-24 15:30+02", "2026-11-24T13:30:00Z")]
    [InlineData("uuuu-MM-dd HH:mmXX", "2026-11-24 15:30-0230", "2026-11-24T18:00:00Z")]
    [InlineData("uuuu-MM-dd HH:mmXX", "2026-11-24 15:30Z", "2026-11-24T15:30:00Z")]
    [InlineData("uuuu-MM-dd HH:mmxxx", "2026-11-24 15:30-02:30", "2026-11-24T18:00:00Z")]
    [InlineData("E dd LLLL y HH:mm", "Tue 24 November 2026 15:30", "2026-11-24T15:30:00Z")]
    [InlineData("dd MMM uu HH:mm", "24 Nov 26 15:30", "2026-11-24T15:30:00Z")]
    [InlineData("dd.MM.yyyy HH:mm:ss.SSSSSSSSS", "24.11.2026 15:30:00.000000001", "2026-11-24T15:30:00.000000001Z")]
    [InlineData("h:mm a, M/d/y", "3:30 PM, 11/24/2026", "2026-11-24T15:30:00Z")]
    [InlineData("epoch-seconds", "1795534200", "2026-11-24T15:30:00Z")]
    [InlineData("epoch-seconds", "0.001", "1970-01-01T00:00:00.001Z")]
    [InlineData("epoch-milliseconds", "1", "1970-01-01T00:00:00.001Z")]
    [InlineData("epoch-seconds", "7258118399", "2199-12-31T23:59:59Z")]
    [InlineData("epoch-seconds", "1795534200.5", "2026-11-24T15:30:00.5Z")]
    [InlineData("epoch-milliseconds", "1795534200250", "2026-11-24T15:30:00.25Z")]
    [InlineData("dd/MM/uuuu HH:mm", "24/07/2026 15:30", "2026-07-24T14:30:00Z")]
    public void A_time_is_read_as_its_form_says(string form, string text, string instant)
    {
        var (read, problem) = TimeForm.Parse(form);
        Assert.Null(problem);
        Assert.Equal(InstantPattern.ExtendedIso.Parse(instant).Value, read!.Read(text, Lisbon));
    }

    [Theory]
    [InlineData("dd/MM/uuuu HH:mm", "2026-11-24 15:30")]
    [InlineData("dd/MM/uuuu HH:mm", "24/11/2026")]
    [InlineData("dd/MM/uuuu HH:mm", "31/02/2026 10:00")]
    [InlineData("dd/MM/uuuu HH:mm", "24/11/1969 10:00")]
    [InlineData("dd/MM/uuuu HH:mm", "24/11/2200 10:00")]
    [InlineData("dd/MM/uuuu HH:mm", "")]
    [InlineData("uuuu-MM-dd'T'HH:mmXXX", "1969-12-31T23:00Z")]
    [InlineData("uuuu-MM-dd'T'HH:mmXXX", "9999-12-31T23:30-12:00")]
    [InlineData("uuuu-MM-dd'T'HH:mmXXX", "-9998-01-01T00:30+12:00")]
    [InlineData("uuuu-MM-dd'T'HH:mmXXX", "2200-01-01T00:00Z")]
    [InlineData("epoch-seconds", "0")]
    [InlineData("epoch-seconds", "7258118400")]
    [InlineData("epoch-seconds", "-5")]
    [InlineData("epoch-seconds", "1e9")]
    [InlineData("epoch-seconds", "7300000000")]
    [InlineData("epoch-milliseconds", "7300000000000")]
    [InlineData("epoch-milliseconds", "now")]
    public void What_has_another_form_or_lies_too_far_away_is_none(string form, string text) => Assert.Null(TimeForm.Parse(form).Form!.Read(text, Lisbon));

    [Theory]
    [InlineData("", "1 to 60 characters")]
    [InlineData("dd/MM/uuuu 'at HH:mm", "a quotation mark is not closed")]
    [InlineData("dd/MM/uuuu G", "The letter 'G'")]
    [InlineData("ddd/MM/uuuu", "The letter 'ddd'")]
    [InlineData("dd/MMMMM/uuuu", "The letter 'MMMMM'")]
    [InlineData("dd/MM/uuu", "The letter 'uuu'")]
    [InlineData("dd dd/MM/uuuu", "does not work")]
    [InlineData("dd/MM/uuuu HH:mmZZZZ", "The letter 'ZZZZ'")]
    [InlineData("dd/MM/uuuu HH:mmXXXX", "The letter 'XXXX'")]
    [InlineData("dd/MM/uuuu HH:mmxxxx", "The letter 'xxxx'")]
    [InlineData("dd/MM/uuuu hh:mm aa", "The letter 'aa'")]
    [InlineData("dd/MM/uuuu HHH:mm", "The letter 'HHH'")]
    [InlineData("dd/MM/uuuu HH:mm:ss.SSSSSSSSSS", "The letter 'SSSSSSSSSS'")]
    [InlineData("EEEEE dd/MM/uuuu", "The letter 'EEEEE'")]
    public void A_form_that_does_not_work_is_refused_with_a_sentence(string form, string problem)
    {
        var (read, wrong) = TimeForm.Parse(form);
        Assert.Null(read);
        Assert.Contains(problem, wrong, StringComparison.Ordinal);
        Assert.Contains("dd/MM/uuuu HH:mm", TimeForm.Parse(new string('d', 61)).Problem, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("dd/MM/uuuu HH:mm", true)]
    [InlineData("uuuu-MM-dd'T'HH:mmXXX", false)]
    [InlineData("epoch-seconds", false)]
    public void Only_a_wall_time_needs_a_zone(string form, bool needs) => Assert.Equal(needs, TimeForm.Parse(form).Form!.NeedsZone);

    [Fact]
    public void Of_a_wall_time_that_the_clock_skips_or_repeats_the_time_after_and_the_first_are_taken()
    {
        var form = TimeForm.Parse("dd/MM/uuuu HH:mm").Form!;
        Assert.Equal(Instant.FromUtc(2026, 3, 29, 1, 30), form.Read("29/03/2026 01:30", Lisbon));
        Assert.Equal(Instant.FromUtc(2026, 10, 25, 0, 30), form.Read("25/10/2026 01:30", Lisbon));
    }

    [Fact]
    public void What_a_form_wrote_it_reads()
    {
        var form = TimeForm.Parse("EEE dd-MMM-uuuu hh:mm:ss a xxx").Form!;
        var pattern = OffsetDateTimePattern.CreateWithInvariantCulture("ddd dd-MMM-uuuu hh:mm:ss tt o<+HH:mm>");
        Gen.Select(Gen.Long[1, 7_200_000_000], Gen.Int[-12, 14])
            .Sample(
                (seconds, hours) =>
                {
                    var at = Instant.FromUnixTimeSeconds(seconds);
                    return form.Read(pattern.Format(at.WithOffset(Offset.FromHours(hours))), Lisbon) == at;
                }
            );
    }
}
