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
