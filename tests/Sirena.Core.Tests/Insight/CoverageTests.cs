using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Insight;
using Sirena.Core.People;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Insight;

/// <summary>The hours of a week in which somebody would be told, and why not in the others.</summary>
public sealed class CoverageTests
{
    private static readonly LocalDate Monday = new(2026, 11, 23);
    private static readonly Told Ines = new("ines.calder", Channel.Mail, "ines@b.example", "you are in Desk");

    private static Resolution Reached(params Told[] told) => new(told, [], []);

    private static Resolution Left(params LeftOut[] left) => new([], [], left);

    [Fact]
    public void A_week_has_168_hours_one_fewer_in_spring_and_none_more_in_autumn()
    {
        Coverage Week(LocalDate monday) => Coverage.Of(monday, Lisbon, _ => Reached(Ines));
        Assert.Equal((672, 168m, 0m), (Week(Monday).Quarters.Count, Week(Monday).Hours, Week(Monday).DarkHours));
        var spring = Week(new LocalDate(2026, 3, 23));
        Assert.Equal((167m, 0m), (spring.Hours, spring.DarkHours));
        Assert.Equal(4, spring.Quarters.Count(q => q.Skipped && q.Day == new LocalDate(2026, 3, 29) && q.From.Hour == 1));
        Assert.All(spring.Quarters.Where(q => q.Skipped), q => Assert.Equal((0, 0, null, null), (q.Reached, q.Doubtful, q.Because, q.Unreachable)));
        Assert.Equal(168m, Week(new LocalDate(2026, 10, 19)).Hours);
    }

    [Fact]
    public void Of_an_hour_that_comes_twice_the_darker_one_counts()
    {
        var second = Instant.FromUtc(2026, 10, 25, 1, 0);
        var week = Coverage.Of(new LocalDate(2026, 10, 19), Lisbon, at => at >= second && at < second + Duration.FromHours(1) ? Left() : Reached(Ines));
        var dark = Assert.Single(week.DarkTimes());
        Assert.Equal((new LocalDateTime(2026, 10, 25, 1, 0), new LocalDateTime(2026, 10, 25, 2, 0), "nobody is named"), (dark.From, dark.To, dark.Because));
        Assert.Equal(1m, week.DarkHours);
    }

    [Fact]
    public void People_are_counted_once_and_doubtful_where_no_address_is_verified()
    {
        var told = Reached(
            Ines,
            Ines with
            {
                Channel = Channel.Sms,
                Contact = "+447700900123",
            },
            new Told("milo.trask", Channel.Mail, "milo@b.example", "you are in Desk", Verified: false),
            new Told(null, Channel.Mail, "harbour@port.example", "this address is named in it")
        );
        var quarter = Coverage.Of(Monday, Lisbon, _ => told).Quarters[0];
        Assert.Equal((2, 1, false, null), (quarter.Reached, quarter.Doubtful, quarter.Dark, quarter.Because));
    }

    [Fact]
    public void Why_nobody_would_be_told_is_said_of_whoever_is_on_duty_before_the_recipient()
    {
        var nobody = new LeftOut("desk", "nobody of Desk is on duty", Nobody: true);
        var off = new LeftOut("ines.calder", "off duty") { OffDuty = true };
        var away = new LeftOut("milo.trask", "no mail address");
        CoverageQuarter First(Resolution who) => Coverage.Of(Monday, Lisbon, _ => who).Quarters[0];
        Assert.Equal(("nobody of Desk is on duty", null, false), Said(First(Left(off, nobody))));
        Assert.Equal(("no mail address", "milo.trask", true), Said(First(Left(nobody, off, away))));
        Assert.Equal(("nobody is named", null, false), Said(First(Left())));
        static (string?, string?, bool) Said(CoverageQuarter q) => (q.Because, q.Unreachable, q.OnDuty);
    }

    [Fact]
    public void Dark_quarters_that_follow_one_another_are_one_time_until_somebody_is_on_duty()
    {
        var tuesday = Monday.PlusDays(1).AtStartOfDayInZone(Lisbon).ToInstant();
        var week = Coverage.Of(Monday, Lisbon, at => at < tuesday ? Reached(Ines)
            : at < tuesday + Duration.FromHours(2) ? Left(new LeftOut("desk", "nobody is on duty", Nobody: true))
            : at < tuesday + Duration.FromHours(3) ? Left(new LeftOut("milo.trask", "no mail address"))
            : at < tuesday + Duration.FromHours(4) ? Reached(Ines)
            : at < tuesday + Duration.FromMinutes(255) ? Left()
            : Reached(Ines));
        Assert.Equal(
            [("00:00", "02:00", false), ("02:00", "03:00", true), ("04:00", "04:15", false)],
            week.DarkTimes().Select(d => (d.From.ToString("HH:mm", null), d.To.ToString("HH:mm", null), d.OnDuty))
        );
        Assert.Equal(3.25m, week.DarkHours);
    }

    [Fact]
    public void Dark_quarters_of_two_who_cannot_be_reached_one_after_the_other_are_two_times()
    {
        var noon = Monday.At(new LocalTime(12, 0)).InZoneLeniently(Lisbon).ToInstant();
        var week = Coverage.Of(Monday, Lisbon, at => at < noon ? Reached(Ines)
            : at < noon + Duration.FromHours(1) ? Left(new LeftOut("milo.trask", "no mail address"))
            : at < noon + Duration.FromHours(3) ? Left(new LeftOut("bram.osei", "no phone number"))
            : Reached(Ines));
        Assert.Equal(
            [("12:00", "13:00", "milo.trask", "no mail address"), ("13:00", "15:00", "bram.osei", "no phone number")],
            week.DarkTimes().Select(d => (d.From.ToString("HH:mm", null), d.To.ToString("HH:mm", null), d.Unreachable, d.Because))
        );
    }

    // The first of them is the one whom the recipients name first.
    [Fact]
    public void Of_several_who_cannot_be_reached_the_first_is_named()
    {
        var (milo, bram) = (new LeftOut("milo.trask", "no mail address"), new LeftOut("bram.osei", "no phone number"));
        var (desk, stores) = (new LeftOut("desk", "nobody of Desk is on duty", Nobody: true), new LeftOut("stores", "Stores has no member", Nobody: true));
        CoverageQuarter First(Resolution who) => Coverage.Of(Monday, Lisbon, _ => who).Quarters[0];
        Assert.Equal(("milo.trask", "no mail address"), (First(Left(milo, bram)).Unreachable, First(Left(milo, bram)).Because));
        Assert.Equal("nobody of Desk is on duty", First(Left(desk, stores)).Because);
    }
}
