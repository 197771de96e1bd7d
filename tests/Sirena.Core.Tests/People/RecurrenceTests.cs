using CsCheck;
using Ical.Net;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using Ical.Net.Evaluation;
using NodaTime;
using Sirena.Core.People;

namespace Sirena.Core.Tests.People;

/// <summary>Repetitions, worked out here and by the calendar package; where that one is slow or has no bound, ours is compared with itself.</summary>
public sealed class RecurrenceTests
{
    private static readonly Gen<string> Rules = Gen.Select(
            Of("HOURLY", "DAILY", "WEEKLY", "MONTHLY", "YEARLY"),
            Gen.Int[0, 4],
            Of("", "", "1", "2,3", "6,11"),
            Of("", "", "1", "-1", "15,31"),
            Of("", "", "MO", "TU,TH", "2TU", "-1FR"),
            Of("", "", "8", "6,14,22"),
            Of("", "", ";COUNT=7", ";UNTIL=20270301T120000"),
            Of("", "", ";WKST=SU")
        )
        .Select(
            (frequency, interval, months, monthDays, days, hours, end, week) =>
            {
                var numbered = frequency is "MONTHLY" or "YEARLY";
                return $"FREQ={frequency}"
                    + (interval > 0 ? $";INTERVAL={interval}" : "")
                    + (months.Length > 0 ? $";BYMONTH={months}" : "")
                    + (monthDays.Length > 0 && frequency is not "WEEKLY" && (frequency != "YEARLY" || months.Length > 0) ? $";BYMONTHDAY={monthDays}" : "")
                    + (
                        days.Length > 0
                        && (numbered || !days.Any(char.IsAsciiDigit))
                        && !(frequency == "YEARLY" && monthDays.Length + months.Length > 0 && days.Any(char.IsAsciiDigit))
                            ? $";BYDAY={days}"
                            : ""
                    )
                    + (hours.Length > 0 ? $";BYHOUR={hours}" : "")
                    + (frequency == "YEARLY" && end.Contains("UNTIL", StringComparison.Ordinal) ? "" : end)
                    + week;
            }
        );

    private static Gen<string> Of(params string[] all) => Gen.Int[0, all.Length - 1].Select(i => all[i]);

    private static readonly Gen<LocalDateTime> Starts = Gen.Select(Gen.Int[1, 12], Gen.Int[1, 28], Gen.Int[0, 23])
        .Select((m, d, h) => new LocalDateTime(2026, m, d, h, 0));

    [Fact]
    public void Repetitions_agree_with_the_calendar_package() =>
        Gen.Select(Rules, Starts)
            .Sample(
                (text, start) =>
                {
                    var entry = new CalendarEvent
                    {
                        Uid = "a",
                        Start = new CalDateTime(start.ToDateTimeUnspecified()),
                        Duration = Ical.Net.DataTypes.Duration.FromHours(1),
                        RecurrenceRule = new RecurrenceRule(text),
                    };
                    var end = start.PlusMonths(
                        text.Contains("YEARLY", StringComparison.Ordinal) ? 36
                        : text.Contains("HOURLY", StringComparison.Ordinal) ? 1
                        : 13
                    );
                    LocalDateTime[] theirs;
                    try
                    {
                        theirs =
                        [
                            .. entry
                                .GetOccurrences(null, new EvaluationOptions { MaxUnmatchedIncrementsLimit = 1000 })
                                .TakeWhileBefore(new CalDateTime(end.ToDateTimeUnspecified()))
                                .Select(o => LocalDateTime.FromDateTime(o.Period.StartTime.Value))
                                .Distinct(),
                        ];
                    }
                    catch (EvaluationLimitExceededException)
                    {
                        return;
                    }

                    LocalDateTime? until = entry.RecurrenceRule!.Until is { } u ? LocalDateTime.FromDateTime(u.Value) : null;
                    var rule = new Recurrence(entry.RecurrenceRule, start, until);
                    var ours = rule.Between(start, end, new StepBudget(1_000_000)).ToArray();
                    Assert.Equal(theirs, ours);

                    // A stretch from the middle on is the same as the rest of the whole.
                    var middle = start.PlusDays(11).PlusHours(3);
                    Assert.Equal(ours.Where(t => t >= middle), rule.Between(middle, end, new StepBudget(1_000_000)));
                },
                iter: 400
            );

    // The examples of RFC 5545, 3.8.5.3, where more than one part of a rule meets.
    [Theory]
    [InlineData(
        "FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200",
        "1997-01-01",
        "1997-01-01 1997-04-10 1997-07-19 2000-01-01 2000-04-09 2000-07-18 2003-01-01 2003-04-10 2003-07-19 2006-01-01"
    )]
    [InlineData("FREQ=YEARLY;BYYEARDAY=-1,60;COUNT=4", "1999-01-01", "1999-03-01 1999-12-31 2000-02-29 2000-12-31")]
    [InlineData("FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO;COUNT=3", "1997-05-12", "1997-05-12 1998-05-11 1999-05-17")]
    [InlineData("FREQ=YEARLY;BYWEEKNO=-1;BYDAY=MO;COUNT=3", "1997-05-12", "1997-12-22 1998-12-28 1999-12-27")]
    [InlineData("FREQ=YEARLY;BYDAY=20MO;COUNT=3", "1997-05-19", "1997-05-19 1998-05-18 1999-05-17")]
    [InlineData("FREQ=YEARLY;BYDAY=-1SU;COUNT=2", "1997-05-19", "1997-12-28 1998-12-27")]
    [InlineData("FREQ=YEARLY;BYMONTH=3;BYDAY=TH;COUNT=5", "1997-03-13", "1997-03-13 1997-03-20 1997-03-27 1998-03-05 1998-03-12")]
    [InlineData("FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8;COUNT=3", "1996-11-05", "1996-11-05 2000-11-07 2004-11-02")]
    [InlineData("FREQ=YEARLY;COUNT=3", "2024-02-29", "2024-02-29 2028-02-29 2032-02-29")]
    [InlineData("FREQ=MONTHLY;COUNT=3", "1997-01-31", "1997-01-31 1997-03-31 1997-05-31")]
    [InlineData("FREQ=MONTHLY;BYMONTHDAY=-3;COUNT=6", "1997-09-28", "1997-09-28 1997-10-29 1997-11-28 1997-12-29 1998-01-29 1998-02-26")]
    [InlineData("FREQ=MONTHLY;INTERVAL=2;COUNT=4;BYDAY=1SU,-1SU", "1997-09-07", "1997-09-07 1997-09-28 1997-11-02 1997-11-30")]
    [InlineData("FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13;COUNT=4", "1997-09-02", "1998-02-13 1998-03-13 1998-11-13 1999-08-13")]
    [InlineData("FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3", "1997-09-04", "1997-09-04 1997-10-07 1997-11-06")]
    [InlineData("FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2;COUNT=4", "1997-09-29", "1997-09-29 1997-10-30 1997-11-27 1997-12-30")]
    [InlineData("FREQ=MONTHLY;BYDAY=MO,TU;BYSETPOS=9,1,-99;COUNT=3", "1997-09-01", "1997-09-01 1997-09-29 1997-10-06")]
    [InlineData("FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO", "1997-08-05", "1997-08-05 1997-08-10 1997-08-19 1997-08-24")]
    [InlineData("FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU", "1997-08-05", "1997-08-05 1997-08-17 1997-08-19 1997-08-31")]
    [InlineData("FREQ=DAILY;INTERVAL=10;COUNT=3", "1997-09-02", "1997-09-02 1997-09-12 1997-09-22")]
    [InlineData("FREQ=DAILY;BYMONTH=1;COUNT=3", "1998-01-30", "1998-01-30 1998-01-31 1999-01-01")]
    public void The_standard_s_own_examples(string rule, string start, string days)
    {
        var begin = NodaTime.Text.LocalDatePattern.Iso.Parse(start).Value.At(new LocalTime(9, 0));
        var times = new Recurrence(new RecurrenceRule(rule), begin, null).Between(begin, begin.PlusYears(12), new StepBudget(100_000));
        Assert.Equal(days, string.Join(' ', times.Select(t => $"{t.Date:yyyy-MM-dd}")));
    }

    [Theory]
    [InlineData("FREQ=DAILY;COUNT=2;BYHOUR=9,17;BYMINUTE=0,30", "09:00:00 09:30:00")]
    [InlineData("FREQ=DAILY;COUNT=4;BYHOUR=17,9;BYMINUTE=30", "09:30:00 17:30:00 09:30:00 17:30:00")]
    [InlineData("FREQ=HOURLY;INTERVAL=3;COUNT=4", "09:00:00 12:00:00 15:00:00 18:00:00")]
    [InlineData("FREQ=HOURLY;INTERVAL=7;BYHOUR=6,9;COUNT=3", "09:00:00 06:00:00 09:00:00")]
    public void Hours_and_minutes_of_a_day(string rule, string hours)
    {
        var begin = new LocalDateTime(2026, 11, 2, 9, 0);
        var times = new Recurrence(new RecurrenceRule(rule), begin, null).Between(begin, begin.PlusMonths(1), new StepBudget(100_000));
        Assert.Equal(hours, string.Join(' ', times.Select(t => $"{t.TimeOfDay:HH:mm:ss}")));
    }

    [Fact]
    public void The_last_time_counts_and_none_after_it()
    {
        var begin = new LocalDateTime(2026, 11, 2, 9, 0);
        int Until(LocalDateTime until) =>
            new Recurrence(new RecurrenceRule("FREQ=DAILY"), begin, until).Between(begin, begin.PlusYears(1), new StepBudget(100_000)).Count();
        Assert.Equal((3, 2, 1), (Until(begin.PlusDays(2)), Until(begin.PlusDays(2).PlusTicks(-1)), Until(begin)));
    }

    [Fact]
    public void Work_is_counted_and_ends_in_an_exception()
    {
        var hourly = new Recurrence(new RecurrenceRule("FREQ=HOURLY"), new LocalDateTime(1970, 1, 1, 0, 0), null);
        Assert.Equal(672, hourly.Between(new LocalDateTime(2026, 11, 1, 0, 0), new LocalDateTime(2026, 11, 29, 0, 0), new StepBudget(2_000)).Count());
        Assert.Throws<BudgetSpentException>(() =>
            hourly.Between(new LocalDateTime(1970, 1, 1, 0, 0), new LocalDateTime(2026, 1, 1, 0, 0), new StepBudget(2_000)).Count()
        );
    }
}
