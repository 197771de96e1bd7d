using Ical.Net;
using Ical.Net.DataTypes;
using NodaTime;
using NodaTime.Calendars;
using Period = NodaTime.Period;

namespace Sirena.Core.People;

/// <summary>
/// A repetition by RFC 5545, 3.3.10, in wall-clock time. It is worked out here and not by the calendar package, because that one counts every time since the
/// first and
/// knows no bound: an hourly shift since 1970 costs it minutes. Here a stretch of time costs as many steps as it has periods (decision 12).
/// </summary>
public sealed class Recurrence
{
    private readonly RecurrenceRule rule;
    private readonly LocalDateTime start;
    private readonly IReadOnlyList<LocalTime> times;
    private readonly IWeekYearRule weeks;
    private readonly int[] months;
    private readonly int[] monthDays;
    private readonly IsoDayOfWeek firstDay;

    /// <summary>A rule and the time that it begins with.</summary>
    /// <param name="rule">A rule that repeats hourly or more seldom.</param>
    /// <param name="start">DTSTART, wall clock.</param>
    /// <param name="until">The last time that counts, wall clock; <see langword="null"/> for no end.</param>
    public Recurrence(RecurrenceRule rule, LocalDateTime start, LocalDateTime? until)
    {
        (this.rule, this.start, Until) = (rule, start, until);
        firstDay = Iso(rule.FirstDayOfWeek);
        weeks = WeekYearRules.ForMinDaysInFirstWeek(4, firstDay);
        var free = rule is { ByWeekNo.Count: 0, ByYearDay.Count: 0, ByMonthDay.Count: 0, ByDay.Count: 0 };
        months = rule.ByMonth.Count == 0 && free && rule.Frequency == FrequencyType.Yearly ? [start.Month] : [.. rule.ByMonth];
        monthDays = free && rule.Frequency is FrequencyType.Yearly or FrequencyType.Monthly ? [start.Day] : [.. rule.ByMonthDay];
        times = [.. Times(Or(rule.ByHour, start.Hour))];
    }

    /// <summary>The last time that counts.</summary>
    public LocalDateTime? Until { get; }

    /// <summary>The times in a stretch, in order: those of the rule from its begin on, at most COUNT of them.</summary>
    /// <param name="from">Its begin.</param>
    /// <param name="to">Its end, not included.</param>
    /// <param name="budget">What may be spent on it: one for each period looked at and for each time found.</param>
    public IEnumerable<LocalDateTime> Between(LocalDateTime from, LocalDateTime to, StepBudget budget)
    {
        var found = 0;
        var last = Until is { } until && until < to ? until.PlusTicks(1) : to;
        for (var period = rule.Count is null ? FirstNear(from) : 0; Begin(period) is { } begin && begin <= last.Date; period++)
        {
            budget.Spend();
            foreach (var time in InPeriod(period))
            {
                budget.Spend();
                if (time < start)
                {
                    continue;
                }

                if (time >= last || ++found > (rule.Count ?? int.MaxValue))
                {
                    yield break;
                }

                if (time >= from)
                {
                    yield return time;
                }
            }
        }
    }

    // The periods are numbered from the one that holds the begin; one before is looked at too, for weeks and hours that reach over.
    private long FirstNear(LocalDateTime from)
    {
        var away = rule.Frequency switch
        {
            FrequencyType.Yearly => from.Year - start.Year,
            FrequencyType.Monthly => ((from.Year - start.Year) * 12L) + from.Month - start.Month,
            FrequencyType.Weekly => Period.DaysBetween(start.Date, from.Date) / 7,
            FrequencyType.Daily => Period.DaysBetween(start.Date, from.Date),
            _ => Hours(from) - Hours(start),
        };
        return Math.Max(0, (away / rule.Interval) - 1);
    }

    private static long Hours(LocalDateTime at) => (Period.DaysBetween(new LocalDate(1970, 1, 1), at.Date) * 24L) + at.Hour;

    // The first day of a period; null once it is beyond what can be told.
    private LocalDate? Begin(long period)
    {
        var step = period * rule.Interval;
        if (step > 2_100_000)
        {
            return null;
        }

        return rule.Frequency switch
        {
            FrequencyType.Yearly => start.Year + step < 2300 ? new LocalDate((int)(start.Year + step), 1, 1) : null,
            FrequencyType.Monthly => step < 4000 ? new LocalDate(start.Year, start.Month, 1).PlusMonths((int)step) : null,
            FrequencyType.Weekly => step < 20_000 ? WeekOf(start.Date).PlusWeeks((int)step) : null,
            FrequencyType.Daily => step < 150_000 ? start.Date.PlusDays((int)step) : null,
            _ => start.Date.PlusDays((int)((start.Hour + step) / 24)),
        };
    }

    private LocalDate WeekOf(LocalDate day) => day.DayOfWeek == firstDay ? day : day.Previous(firstDay);

    private IEnumerable<LocalDateTime> InPeriod(long period)
    {
        var begin = Begin(period)!.Value;
        var days = rule.Frequency switch
        {
            FrequencyType.Yearly => Days(begin, begin.PlusYears(1)),
            FrequencyType.Monthly => Days(begin, begin.PlusMonths(1)),
            FrequencyType.Weekly => Days(begin, begin.PlusWeeks(1)),
            _ => Days(begin, begin.PlusDays(1)),
        };
        if (rule.Frequency == FrequencyType.Hourly)
        {
            var hour = (int)((start.Hour + (period * rule.Interval)) % 24);
            return rule.ByHour.Count > 0 && !rule.ByHour.Contains(hour) ? [] : Positions(days.SelectMany(d => Times([hour]).Select(d.At)));
        }

        return Positions(days.SelectMany(d => times.Select(d.At)));
    }

    private IEnumerable<LocalTime> Times(IEnumerable<int> hours) =>
        from hour in hours
        from minute in Or(rule.ByMinute, start.Minute)
        from second in Or(rule.BySecond, start.Second)
        select new LocalTime(hour, minute, second);

    private IEnumerable<LocalDateTime> Positions(IEnumerable<LocalDateTime> all)
    {
        if (rule.BySetPosition.Count == 0)
        {
            return all;
        }

        LocalDateTime[] set = [.. all];
        return rule.BySetPosition.Select(p => p > 0 ? p - 1 : set.Length + p).Where(i => i >= 0 && i < set.Length).Distinct().Order().Select(i => set[i]);
    }

    private IEnumerable<LocalDate> Days(LocalDate from, LocalDate to)
    {
        for (var day = from; day < to; day = day.PlusDays(1))
        {
            if (months.Length > 0 && !months.Contains(day.Month))
            {
                day = day.With(DateAdjusters.EndOfMonth);
            }
            else if (Fits(day))
            {
                yield return day;
            }
        }
    }

    private bool Fits(LocalDate day) =>
        (monthDays.Length == 0 || monthDays.Contains(day.Day) || monthDays.Contains(day.Day - day.Calendar.GetDaysInMonth(day.Year, day.Month) - 1))
        && (
            rule.ByYearDay.Count == 0
            || rule.ByYearDay.Contains(day.DayOfYear)
            || rule.ByYearDay.Contains(day.DayOfYear - day.Calendar.GetDaysInYear(day.Year) - 1)
        )
        && (rule.ByWeekNo.Count == 0 || InWeek(day))
        && (rule.ByDay.Count == 0 ? rule.Frequency != FrequencyType.Weekly || day.DayOfWeek == start.DayOfWeek : rule.ByDay.Any(d => On(day, d)));

    private bool InWeek(LocalDate day)
    {
        var (week, year) = (weeks.GetWeekOfWeekYear(day), weeks.GetWeekYear(day));
        return year == day.Year && (rule.ByWeekNo.Contains(week) || rule.ByWeekNo.Contains(week - weeks.GetWeeksInWeekYear(year) - 1));
    }

    // 'The second Tuesday' is one of the month where there is one, else of the year; other frequencies know no such thing.
    private bool On(LocalDate day, WeekDay wanted)
    {
        if (day.DayOfWeek != Iso(wanted.DayOfWeek))
        {
            return false;
        }

        if (wanted.Offset is not { } nth || nth == 0 || rule.Frequency is not (FrequencyType.Yearly or FrequencyType.Monthly))
        {
            return true;
        }

        var ofMonth = rule.Frequency == FrequencyType.Monthly || rule.ByMonth.Count > 0;
        var (number, length) = ofMonth ? (day.Day, day.Calendar.GetDaysInMonth(day.Year, day.Month)) : (day.DayOfYear, day.Calendar.GetDaysInYear(day.Year));
        return nth > 0 ? ((number - 1) / 7) + 1 == nth : ((length - number) / 7) + 1 == -nth;
    }

    private static IsoDayOfWeek Iso(DayOfWeek day) => day == DayOfWeek.Sunday ? IsoDayOfWeek.Sunday : (IsoDayOfWeek)(int)day;

    private static IEnumerable<int> Or(IReadOnlyCollection<int> given, int own) => given.Count == 0 ? [own] : given.Distinct().Order();
}

/// <summary>How much work may be spent on something that comes from outside. It counts steps, so that the answer is the same on every machine.</summary>
/// <param name="steps">How many there are.</param>
public sealed class StepBudget(int steps)
{
    private int left = steps;

    /// <summary>Spends one.</summary>
    /// <exception cref="BudgetSpentException">None is left.</exception>
    public void Spend()
    {
        if (--left < 0)
        {
            throw new BudgetSpentException();
        }
    }
}

/// <summary>The work that something from outside may cost is used up.</summary>
public sealed class BudgetSpentException() : Exception("It takes too much work to work out.");
