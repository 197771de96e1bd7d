using CsCheck;
using NodaTime;
using Sirena.Core.People;
using Sirena.Formats.Calendars;
using static Sirena.Core.Tests.People.Calendars;

namespace Sirena.Core.Tests.People;

/// <summary>A calendar's shifts as the Rota page changes them: who is on duty afterwards, and what an export says.</summary>
public class ShiftChangeTests
{
    private const string Both = "ATTENDEE:mailto:ann@a.example\r\nATTENDEE;CN=Ben B:mailto:ben@a.example\r\n";
    private const string Ann = "ATTENDEE:mailto:ann@a.example\r\n";
    private const string Day = "DTSTART;TZID=Europe/Lisbon:20260601T080000\r\nDTEND;TZID=Europe/Lisbon:20260601T160000\r\n";
    private const string Four = Day + "RRULE:FREQ=DAILY;COUNT=4\r\n";

    private static string Event(string lines, string people) => $"BEGIN:VEVENT\r\nUID:u1\r\nDTSTAMP:20260101T000000Z\r\n{lines}{people}END:VEVENT\r\n";

    // The second of June differs: noon to eight.
    private static string Second(string people) =>
        Event(
            "RECURRENCE-ID;TZID=Europe/Lisbon:20260602T080000\r\nDTSTART;TZID=Europe/Lisbon:20260602T120000\r\nDTEND;TZID=Europe/Lisbon:20260602T200000\r\n",
            people
        );

    private sealed class Desk
    {
        private readonly List<Shift> shifts;

        public Desk(string events)
        {
            var file = Read(Of(events));
            Assert.Empty(file.Errors);
            shifts = [.. file.Shifts];
        }

        public string Text => RotaCalendar.Write("Desk", shifts, Lisbon, Now);

        public string Days => Words(shifts);

        // What a calendar program would read of it.
        public string Again => Words(Read(Text).Shifts);

        public IReadOnlyList<Duty> Duties(IEnumerable<Shift>? of = null) => new Rota(of ?? shifts, Lisbon).Between("desk", At(1, 0), At(9, 0));

        public void Move(int day, string whose, string who, int from, int to, bool all = false) =>
            Change(Duty(day, whose), (c, duty) => c.Move(duty, who, new LocalDateTime(2026, 6, day, from, 0), new LocalDateTime(2026, 6, day, to, 0), all));

        public void Remove(int day, string whose, bool all = false) => Change(Duty(day, whose), (c, duty) => c.Remove(duty, all));

        private Duty Duty(int day, string whose) => Duties().First(d => d.Person == whose && d.From.InZone(Lisbon).Day == day);

        private void Change(Duty duty, Action<ShiftChange, Duty> change)
        {
            var uid = shifts.First(s => s.Id == duty.Shift).Uid;
            var changed = new ShiftChange([.. shifts.Where(s => s.Uid == uid)], id => new(id, id.ToUpperInvariant(), id + "@a.example"), Known, Lisbon, Now);
            change(changed, duty);
            shifts.AddRange(changed.Added);
            changed.Gone.ForEach(g => shifts.Remove(g));
        }

        private string Words(IEnumerable<Shift> of) =>
            string.Join(' ', Duties(of).Select(d => $"{d.From.InZone(Lisbon):dd'/'HH}-{d.To.InZone(Lisbon):HH}{d.Person[0]}"));

        private static Instant At(int day, int hour) => new LocalDateTime(2026, 6, day, hour, 0).InZoneLeniently(Lisbon).ToInstant();
    }

    private static void Stands(Desk desk, string days)
    {
        Assert.Equal(days, desk.Days);
        Assert.Equal(days, desk.Again);
    }

    [Theory]
    [InlineData("ann", 10, 18, "01/08-16b 01/10-18a")]
    [InlineData("cleo", 8, 16, "01/08-16b 01/08-16c")]
    [InlineData("ben", 16, 20, "01/08-16b 01/16-20b")]
    public void Of_two_on_one_shift_the_one_who_is_moved_is_moved_alone(string who, int from, int to, string days)
    {
        var desk = new Desk(Event(Day, Both));
        desk.Move(1, "ann", who, from, to);
        Stands(desk, days);
        Assert.Contains("CN=Ben B", desk.Text, StringComparison.Ordinal);
    }

    [Fact]
    public void Of_two_on_one_shift_the_one_who_is_taken_off_is_taken_off_alone()
    {
        var desk = new Desk(Event(Day, Both));
        desk.Remove(1, "ann");
        Stands(desk, "01/08-16b");
        Assert.Contains("CN=Ben B", desk.Text, StringComparison.Ordinal);
        Assert.DoesNotContain("ann@", desk.Text, StringComparison.Ordinal);
        desk.Remove(1, "ben");
        Assert.Equal("", desk.Days);
    }

    [Theory]
    [InlineData(false, "01/08-16a 01/08-16b 02/08-16b 02/10-12a 03/08-16a 03/08-16b 04/08-16a 04/08-16b")]
    [InlineData(true, "01/08-16b 01/10-12a 02/08-16b 02/10-12a 03/08-16b 03/10-12a 04/08-16b 04/10-12a")]
    public void Of_a_series_of_two_one_is_moved_once_or_every_time(bool all, string days)
    {
        var desk = new Desk(Event(Four, Both));
        desk.Move(2, "ann", "ann", 10, 12, all);
        Stands(desk, days);
    }

    [Theory]
    [InlineData(false, "01/08-16a 01/08-16b 02/08-16a 03/08-16a 03/08-16b 04/08-16a 04/08-16b")]
    [InlineData(true, "01/08-16a 02/08-16a 03/08-16a 04/08-16a")]
    public void Of_a_series_of_two_one_is_taken_off_once_or_every_time(bool all, string days)
    {
        var desk = new Desk(Event(Four, Both));
        desk.Remove(2, "ben", all);
        Stands(desk, days);
    }

    [Fact]
    public void A_night_that_differs_goes_to_whoever_has_the_series_from_now_on()
    {
        var desk = new Desk(Event(Four, Both) + Second(""));
        Stands(desk, "01/08-16a 01/08-16b 02/12-20a 02/12-20b 03/08-16a 03/08-16b 04/08-16a 04/08-16b");
        desk.Move(1, "ann", "cleo", 8, 16, all: true);
        Stands(desk, "01/08-16b 01/08-16c 02/12-20b 02/12-20c 03/08-16b 03/08-16c 04/08-16b 04/08-16c");
    }

    [Theory]
    [InlineData(Ann, "01/08-16b 03/08-16b 04/08-16b")]
    [InlineData(Both, "01/08-16b 02/12-20b 03/08-16b 04/08-16b")]
    [InlineData("", "01/08-16b 02/12-20b 03/08-16b 04/08-16b")]
    public void Whoever_is_taken_off_a_series_is_off_its_nights_that_differ(string people, string days)
    {
        var desk = new Desk(Event(Four, Both) + Second(people));
        desk.Remove(1, "ann", all: true);
        Stands(desk, days);
    }

    [Fact]
    public void A_night_that_differs_and_names_nobody_is_moved_for_one_of_those_of_its_series()
    {
        var desk = new Desk(Event(Four, Both) + Second(""));
        desk.Move(2, "ann", "ann", 13, 15);
        Stands(desk, "01/08-16a 01/08-16b 02/12-20b 02/13-15a 03/08-16a 03/08-16b 04/08-16a 04/08-16b");
    }

    [Theory]
    [InlineData("COUNT=5\r\nEXDATE;TZID=Europe/Lisbon:20260603T080000", "01/09-17a 02/09-17a 04/09-17a 05/09-17a")]
    [InlineData("COUNT=5\r\nEXDATE:20260603T070000Z", "01/09-17a 02/09-17a 04/09-17a 05/09-17a")]
    [InlineData("UNTIL=20260603T070000Z", "01/09-17a 02/09-17a 03/09-17a")]
    [InlineData("COUNT=2\r\nRDATE;TZID=Europe/Lisbon:20260607T080000", "01/09-17a 02/09-17a 07/09-17a")]
    [InlineData("COUNT=2\r\nRDATE;VALUE=PERIOD;TZID=Europe/Lisbon:20260607T080000/20260607T100000", "01/09-17a 02/09-17a 07/09-11a")]
    [InlineData("COUNT=2\r\nRDATE;VALUE=PERIOD;TZID=Europe/Lisbon:20260607T080000/PT3H", "01/09-17a 02/09-17a 07/09-12a")]
    public void A_series_that_is_moved_takes_along_what_is_left_out_of_it_and_what_it_has_besides(string rule, string days)
    {
        var desk = new Desk(Event($"{Day}RRULE:FREQ=DAILY;{rule}\r\n", Ann));
        desk.Move(1, "ann", "ann", 9, 17, all: true);
        Stands(desk, days);
    }

    [Fact]
    public void A_night_that_differs_from_a_series_that_is_moved_stays_as_it_is_and_is_none_besides()
    {
        var desk = new Desk(Event(Four, Ann) + Second(""));
        desk.Move(1, "ann", "ben", 9, 17, all: true);
        Stands(desk, "01/09-17b 02/12-20b 03/09-17b 04/09-17b");
    }

    // A calendar may name the night by its day alone; of whole days it always does.
    [Theory]
    [InlineData(9, 17, Day, "01/09-17a 02/12-20a 03/09-17a 04/09-17a")]
    [InlineData(7, 12, Day, "01/07-12a 02/12-20a 03/07-12a 04/07-12a")]
    [InlineData(1, 2, "DTSTART;VALUE=DATE:20260601\r\nDTEND;VALUE=DATE:20260602\r\n", "01/01-02a 02/12-20a 03/01-02a 04/01-02a")]
    public void A_night_that_is_named_by_its_day_stands_for_it_after_its_series_was_moved(int from, int to, string first, string days)
    {
        var night = Event(
            "RECURRENCE-ID;VALUE=DATE:20260602\r\nDTSTART;TZID=Europe/Lisbon:20260602T120000\r\nDTEND;TZID=Europe/Lisbon:20260602T200000\r\n",
            ""
        );
        var desk = new Desk(Event(first + "RRULE:FREQ=DAILY;COUNT=4\r\n", Ann) + night);
        desk.Move(1, "ann", "ann", from, to, all: true);
        Stands(desk, days);
    }

    [Fact]
    public void A_night_that_is_taken_away_does_not_come_back_when_another_differs_too()
    {
        var third = Event(
            "RECURRENCE-ID;TZID=Europe/Lisbon:20260603T080000\r\nDTSTART;TZID=Europe/Lisbon:20260603T120000\r\nDTEND;TZID=Europe/Lisbon:20260603T200000\r\n",
            Ann
        );
        foreach (var events in new[] { Second(Ann) + third + Event(Four, Ann), Event(Four, Ann) + third + Second(Ann) })
        {
            var desk = new Desk(events);
            desk.Remove(3, "ann");
            Stands(desk, "01/08-16a 02/12-20a 04/08-16a");
            desk.Remove(2, "ann");
            Stands(desk, "01/08-16a 04/08-16a");
        }
    }

    [Fact]
    public void Of_times_that_a_calendar_lists_one_by_one_one_is_taken_away_or_moved()
    {
        var desk = new Desk(Event($"{Day}RDATE;TZID=Europe/Lisbon:20260603T080000,20260605T080000\r\n", Ann));
        Stands(desk, "01/08-16a 03/08-16a 05/08-16a");
        desk.Remove(3, "ann");
        Stands(desk, "01/08-16a 05/08-16a");
        desk.Move(5, "ann", "ben", 10, 12);
        Stands(desk, "01/08-16a 05/10-12b");
    }

    [Fact]
    public void Whatever_is_changed_of_one_nobody_else_s_duty_is_another()
    {
        var three = Both + "ATTENDEE:mailto:cleo@a.example\r\n";
        var rule = OneOf("", "RRULE:FREQ=DAILY;COUNT=4\r\n", "RRULE:FREQ=DAILY;UNTIL=20260605T070000Z\r\n", "RDATE;TZID=Europe/Lisbon:20260602T080000\r\n");
        var night = OneOf("-", "", Both, Ann);
        var change = Gen.Select(Gen.Int[0, 2], Gen.Bool, OneOf("ann", "dan"), Gen.Int[6, 12], Gen.Int[1, 6]);
        Gen.Select(rule, night, change.Array[1, 4])
            .Sample(
                (repeats, differs, changes) =>
                {
                    var desk = new Desk(
                        Event(Day + repeats, three) + (differs == "-" || !repeats.StartsWith("RRULE", StringComparison.Ordinal) ? "" : Second(differs))
                    );
                    string Others() => string.Join('\n', desk.Duties().Where(d => d.Person is "ben" or "cleo").Select(d => $"{d.Person} {d.From} {d.To}"));
                    var before = Others();
                    foreach (var (which, all, who, from, hours) in changes)
                    {
                        int[] days = [.. desk.Duties().Where(d => d.Person == "ann").Select(d => d.From.InZone(Lisbon).Day)];
                        if (days.Length == 0)
                        {
                            return;
                        }

                        var day = days[which % days.Length];
                        if (hours == 1)
                        {
                            desk.Remove(day, "ann", all);
                        }
                        else
                        {
                            desk.Move(day, "ann", who, from, from + hours, all);
                        }

                        Assert.Equal(before, Others());
                        Assert.Equal(desk.Days, desk.Again);
                    }
                },
                iter: 300
            );
    }

    private static Gen<string> OneOf(params string[] texts) => Gen.Int[0, texts.Length - 1].Select(i => texts[i]);
}
