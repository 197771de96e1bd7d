using CsCheck;
using NodaTime;
using NodaTime.Text;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Formats.Calendars;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.People;

/// <summary>Repetition and time zones, RFC 5545's own examples among them; both nights on which the clocks change.</summary>
public class RotaTests
{
    private static readonly DateTimeZone NewYork = DateTimeZoneProviders.Tzdb["America/New_York"];

    private static Rota Read(string events, out IReadOnlyList<Shift> shifts, DateTimeZone? zone = null)
    {
        (shifts, _, var errors) = Calendars.Read(Calendars.Of(events.ReplaceLineEndings("\r\n") + "\r\n"), a => a.Split('@')[0]);
        Assert.Empty(errors);
        return new Rota(shifts, zone ?? Lisbon);
    }

    private static string Event(string lines, string uid = "a", string attendee = "ATTENDEE:mailto:finn@a.example") =>
        $"BEGIN:VEVENT\nUID:{uid}\nDTSTAMP:20260101T000000Z\n{attendee}\n{lines}\nEND:VEVENT";

    private static Instant I(string text) => InstantPattern.General.Parse(text).Value;

    // The block of 28 days in which it is asked and the two after it are looked through.
    [Theory]
    [InlineData(0, 0, false)]
    [InlineData(0, 1, true)]
    [InlineData(0, 83, true)]
    [InlineData(0, 84, false)]
    [InlineData(27, 57, true)]
    [InlineData(27, 83, true)]
    [InlineData(27, 85, false)]
    public void Whoever_comes_on_duty_next_is_found_eight_weeks_ahead(int asked, int comes, bool found)
    {
        var begin = NodaConstants.UnixEpoch + (Rota.Block * 740);
        var at = (begin + Duration.FromDays(comes)).InUtc().ToString("uuuuMMdd'T'HHmmss'Z'", null);
        var next = Read(Event($"DTSTART:{at}\nDURATION:PT1H"), out _).Next("desk", begin + Duration.FromDays(asked));
        Assert.Equal(found ? begin + Duration.FromDays(comes) : null, next?.From);
    }

    // RFC 5545, 3.8.5.3; the expected begins are the ones printed there.
    [Theory]
    [InlineData("RRULE:FREQ=DAILY;COUNT=10", "02 03 04 05 06 07 08 09 10 11")]
    [InlineData("RRULE:FREQ=DAILY;INTERVAL=10;COUNT=5", "02 12 22 10-02 10-12")]
    [InlineData("RRULE:FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH", "02 04 16 18 30 10-02 10-14 10-16")]
    [InlineData("RRULE:FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3", "04 10-07 11-06")]
    [InlineData("RRULE:FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15", "02 15 10-02 10-15 11-02 11-15 12-02 12-15")]
    [InlineData("RRULE:FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH", "02 04 09 11 16 18 23 25 30 10-02")]
    public void The_standard_s_own_examples_hold(string rule, string days)
    {
        var rota = Read(Event($"DTSTART;TZID=America/New_York:19970902T090000\nDURATION:PT1H\n{rule}"), out _);
        var begins = rota.Between("desk", I("1997-09-01T00:00:00Z"), I("1998-01-01T00:00:00Z")).Select(d => d.From.InZone(NewYork));
        Assert.All(begins, b => Assert.Equal(9, b.Hour));
        Assert.Equal(days.Split(' '), begins.Select(b => b.Month == 9 ? b.Day.ToString("00") : $"{b.Month:00}-{b.Day:00}"));
    }

    // A series that ends on a day has that day's still, and a night's.
    [Theory]
    [InlineData("19970904", "02 03 04")]
    [InlineData("19970904T130000Z", "02 03 04")]
    [InlineData("19970904T125959Z", "02 03")]
    public void The_last_of_a_series_is_the_one_on_its_last_day(string until, string days)
    {
        var rota = Read(Event($"DTSTART;TZID=America/New_York:19970902T090000\nDURATION:PT1H\nRRULE:FREQ=DAILY;UNTIL={until}"), out _);
        var begins = rota.Between("desk", I("1997-09-01T00:00:00Z"), I("1998-01-01T00:00:00Z")).Select(d => d.From.InZone(NewYork).Day);
        Assert.Equal(days, string.Join(' ', begins.Select(d => d.ToString("00"))));
    }

    // From is within, to is not.
    [Theory]
    [InlineData("", "2026-06-01T08:00:00Z", "2026-06-01T09:00:00Z", 1)]
    [InlineData("", "2026-06-01T07:00:00Z", "2026-06-01T08:00:00Z", 0)]
    [InlineData("", "2026-06-01T09:00:00Z", "2026-06-01T10:00:00Z", 0)]
    [InlineData("RRULE:FREQ=DAILY;COUNT=3", "2026-06-02T07:00:00Z", "2026-06-02T08:00:00Z", 0)]
    [InlineData("RRULE:FREQ=DAILY;COUNT=3", "2026-06-02T07:00:00Z", "2026-06-02T08:00:01Z", 1)]
    [InlineData("RRULE:FREQ=DAILY;COUNT=3", "2026-06-02T09:00:00Z", "2026-06-03T08:00:00Z", 0)]
    [InlineData("RRULE:FREQ=DAILY;COUNT=3", "2026-06-02T08:59:59Z", "2026-06-03T08:00:00Z", 1)]
    public void A_stretch_holds_what_touches_it(string repeats, string from, string to, int count) =>
        Assert.Equal(count, Read(Event($"DTSTART:20260601T080000Z\nDURATION:PT1H\n{repeats}".TrimEnd()), out _).Between("desk", I(from), I(to)).Count);

    [Fact]
    public void Every_Friday_the_13th_is_found_a_year_on()
    {
        var rota = Read(
            Event(
                "DTSTART;TZID=America/New_York:19970902T090000\nDURATION:PT1H\nRRULE:FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13\nEXDATE;TZID=America/New_York:19970902T090000"
            ),
            out _
        );
        Assert.Equal(
            ["1998-02-13", "1998-03-13", "1998-11-13"],
            rota.Between("desk", I("1998-01-01T00:00:00Z"), I("1998-12-31T00:00:00Z")).Select(d => LocalDatePattern.Iso.Format(d.From.InZone(NewYork).Date))
        );
    }

    [Fact]
    public void Exceptions_added_dates_and_nights_that_differ_hold()
    {
        var rota = Read(
            Event(
                "DTSTART;TZID=Europe/Lisbon:20260601T080000\nDTEND;TZID=Europe/Lisbon:20260601T160000\nRRULE:FREQ=DAILY;COUNT=4\nEXDATE;TZID=Europe/Lisbon:20260602T080000\nRDATE;TZID=Europe/Lisbon:20260610T080000"
            )
                + "\n"
                + Event(
                    "RECURRENCE-ID;TZID=Europe/Lisbon:20260603T080000\nDTSTART;TZID=Europe/Lisbon:20260603T120000\nDTEND;TZID=Europe/Lisbon:20260603T140000",
                    attendee: "ATTENDEE:mailto:greta@a.example"
                ),
            out _
        );
        Assert.Equal(
            ["1 finn 07:00", "3 greta 11:00", "4 finn 07:00", "10 finn 07:00"],
            rota.Between("desk", I("2026-06-01T00:00:00Z"), I("2026-07-01T00:00:00Z")).Select(d => $"{d.From.InUtc().Day} {d.Person} {d.From.InUtc():HH:mm}")
        );
    }

    [Fact]
    public void A_time_without_a_zone_and_a_whole_day_are_those_of_the_business()
    {
        var rota = Read(Event("DTSTART:20260601T080000\nDTEND:20260601T090000") + "\n" + Event("DTSTART;VALUE=DATE:20260602", "b"), out _);
        Assert.Equal(
            [(I("2026-06-01T07:00:00Z"), I("2026-06-01T08:00:00Z")), (I("2026-06-01T23:00:00Z"), I("2026-06-02T23:00:00Z"))],
            rota.Between("desk", I("2026-06-01T00:00:00Z"), I("2026-06-05T00:00:00Z")).Select(d => (d.From, d.To))
        );
    }

    // Lisbon's clocks went forward on 29 March 2026 at 01:00 and back on 25 October at 02:00.
    [Theory]
    [InlineData("2026-03-28", "2026-03-29T05:00:00Z", "2026-03-29T06:00:00Z")]
    [InlineData("2026-10-24", "2026-10-25T06:00:00Z", "2026-10-25T05:00:00Z")]
    [InlineData("2026-06-01", "2026-06-02T05:00:00Z", "2026-06-02T05:00:00Z")]
    public void A_shift_of_the_rota_page_ends_by_the_wall_clock_and_an_imported_one_by_its_hours(string day, string wall, string hours)
    {
        var date = LocalDatePattern.Iso.Parse(day).Value;
        var shift = ShiftText.Make(
            "desk",
            new("ivo", "Ivo", "ivo@a.example"),
            new LocalDate(2026, 1, 5).At(new LocalTime(22, 0)),
            new LocalDate(2026, 1, 6).At(new LocalTime(6, 0)),
            Enum.GetValues<IsoDayOfWeek>().Where(d => d != IsoDayOfWeek.None).ToArray(),
            Lisbon,
            null,
            Noon
        );
        Duty Of(Rota rota) => Assert.Single(rota.OnDuty("desk", date.At(new LocalTime(23, 0)).InZoneLeniently(Lisbon).ToInstant()));
        Assert.Equal(I(wall), Of(new Rota([shift], Lisbon)).To);
        shift.WallClock = false;
        Assert.Equal(I(hours), Of(new Rota([shift], Lisbon)).To);
    }

    // 01:00 is skipped on 29 March 2026 in Lisbon: a shift from then begins with the hour after it and ends when the wall says so.
    [Theory]
    [InlineData(1, 2, "2026-03-29T01:00:00Z", "2026-03-29T02:00:00Z")]
    [InlineData(1, 8, "2026-03-29T01:00:00Z", "2026-03-29T08:00:00Z")]
    [InlineData(2, 2, "2026-03-29T01:00:00Z", "2026-03-29T03:00:00Z")]
    [InlineData(0, 3, "2026-03-29T00:00:00Z", "2026-03-29T02:00:00Z")]
    public void A_shift_that_begins_in_the_hour_that_is_skipped_ends_by_the_wall(int from, int hours, string begins, string ends)
    {
        var sunday = new LocalDate(2026, 3, 22).At(new LocalTime(from, 0));
        var shift = ShiftText.Make("desk", new("a", "A", "a@a.example"), sunday, sunday.PlusHours(hours), [IsoDayOfWeek.Sunday], Lisbon, null, Noon);
        var duty = new Rota([shift], Lisbon).Between("desk", I("2026-03-28T12:00:00Z"), I("2026-03-29T12:00:00Z")).Single();
        Assert.Equal((I(begins), I(ends)), (duty.From, duty.To));
    }

    // The first night of the series is an hour short: whoever looks for duty in the last hour of a later one finds it all the same.
    [Theory]
    [InlineData(22, 6, "2026-03-28", "2026-03-31T04:30:00Z")]
    [InlineData(22, 6, "2026-10-24", "2026-10-27T05:30:00Z")]
    public void A_series_that_begins_in_the_night_of_a_change_is_on_duty_to_the_end_of_every_other(int from, int to, string first, string at)
    {
        var day = NodaTime.Text.LocalDatePattern.Iso.Parse(first).Value;
        IsoDayOfWeek[] all = [.. Enum.GetValues<IsoDayOfWeek>().Where(d => d != IsoDayOfWeek.None)];
        var shift = ShiftText.Make(
            "desk",
            new("a", "A", "a@a.example"),
            day.At(new LocalTime(from, 0)),
            day.PlusDays(1).At(new LocalTime(to, 0)),
            all,
            Lisbon,
            null,
            Noon
        );
        var rota = new Rota([shift], Lisbon);
        Assert.Equal("a", Assert.Single(rota.OnDuty("desk", I(at), null)).Person);
        Assert.Empty(rota.OnDuty("desk", I(at) + Duration.FromHours(1), null));
    }

    [Fact]
    public void A_shift_that_the_clocks_skip_as_a_whole_is_none_that_night()
    {
        var sunday = new LocalDate(2026, 3, 22).At(new LocalTime(1, 0));
        var shift = ShiftText.Make("desk", new("a", "A", "a@a.example"), sunday, sunday.PlusHours(1), [IsoDayOfWeek.Sunday], Lisbon, null, Noon);
        Assert.Empty(new Rota([shift], Lisbon).Between("desk", I("2026-03-28T12:00:00Z"), I("2026-03-29T12:00:00Z")));
    }

    [Fact]
    public void A_wall_clock_shift_is_exported_with_the_two_nights_as_exceptions_and_reads_back_to_the_same_duty()
    {
        var shift = ShiftText.Make(
            "desk",
            new("ivo", "Ivo", "ivo@a.example"),
            new LocalDate(2026, 1, 5).At(new LocalTime(22, 0)),
            new LocalDate(2026, 1, 6).At(new LocalTime(6, 0)),
            Enum.GetValues<IsoDayOfWeek>().Where(d => d != IsoDayOfWeek.None).ToArray(),
            Lisbon,
            null,
            Noon
        );
        var text = RotaCalendar.Write("Desk", [shift], Lisbon, I("2027-01-01T00:00:00Z"));
        Assert.Equal(3, text.Split("BEGIN:VEVENT").Length - 1);
        var (read, _, errors) = Calendars.Read(text, a => a.Split('@')[0]);
        Assert.Empty(errors);
        IEnumerable<(string, Instant, Instant)> All(Rota rota) =>
            rota.Between("desk", I("2026-01-01T00:00:00Z"), I("2026-12-30T00:00:00Z")).Select(d => (d.Person, d.From, d.To));
        Assert.Equal(All(new Rota([shift], Lisbon)), All(new Rota(read, Lisbon)));
        Assert.Equal(text, RotaCalendar.Write("Desk", read, Lisbon, I("2027-01-01T00:00:00Z")));
    }

    [Theory]
    [InlineData("DTSTART;TZID=Europe/Lisbon:20260601T080000\nDTEND;TZID=Europe/Lisbon:20260601T160000\nRRULE:FREQ=DAILY;COUNT=4")]
    [InlineData("DTSTART;TZID=Europe/Lisbon:20260601T080000\nDURATION:PT8H\nRRULE:FREQ=DAILY;COUNT=4")]
    public void A_series_is_moved_as_a_whole_or_for_one_time_or_goes_on_without_it(string lines)
    {
        Read(Event(lines), out var shifts);
        string Days(params Shift[] all) =>
            string.Join(
                ' ',
                new Rota(all, Lisbon)
                    .Between("desk", I("2026-06-01T00:00:00Z"), I("2026-07-01T00:00:00Z"))
                    .Select(d => $"{d.From.InZone(Lisbon):dd'/'HH}-{d.To.InZone(Lisbon):HH}{d.Person[0]}")
            );
        Assert.Equal("01/08-16f 02/08-16f 03/08-16f 04/08-16f", Days([.. shifts]));
        var second = I("2026-06-02T07:00:00Z");
        var instead = ShiftText.Instead(
            shifts[0],
            second,
            [new("greta", "Greta", "greta@a.example")],
            new LocalDateTime(2026, 6, 2, 10, 0),
            new LocalDateTime(2026, 6, 2, 12, 0),
            Lisbon,
            Noon
        );
        Assert.Equal("01/08-16f 02/10-12g 03/08-16f 04/08-16f", Days(shifts[0], instead));
        var without = new Shift
        {
            Id = shifts[0].Id,
            Team = "desk",
            Uid = "a",
            People = ["finn"],
            Component = ShiftText.Without(shifts[0].Component, second, Lisbon),
        };
        Assert.Equal("01/08-16f 03/08-16f 04/08-16f", Days(without));
        without.Component = ShiftText.Moved(shifts[0].Component, Period.FromHours(1), Period.FromHours(2));
        Assert.Equal("01/09-18f 02/09-18f 03/09-18f 04/09-18f", Days(without));
    }

    [Fact]
    public void What_cannot_be_a_shift_is_named_by_its_line()
    {
        string Problem(string lines, string attendee = "ATTENDEE:mailto:finn@a.example")
        {
            var (shifts, left, errors) = Calendars.Read($"BEGIN:VCALENDAR\n{Event(lines, attendee: attendee)}\nEND:VCALENDAR\n", a =>
                a.StartsWith("finn", StringComparison.Ordinal) ? "finn" : null
            );
            Assert.Empty(shifts);
            return errors.Count > 0 ? $"{errors[0].Line}: {errors[0].Problem}" : $"{left[0].Line}: {left[0].Because}";
        }

        Assert.Equal(
            "6: The time zone 'Mars/Olympus' is not known. Use a name of the IANA list, such as Europe/Lisbon.",
            Problem("DTSTART;TZID=Mars/Olympus:20260101T080000")
        );
        Assert.Equal(
            "5: nobody has this mail address; add it to a person first",
            Problem("DTSTART:20260101T080000\nDURATION:PT1H", "ATTENDEE:mailto:zoe@a.example")
        );
        Assert.StartsWith("8: A shift cannot repeat more often than hourly.", Problem("DTSTART:20260101T080000\nDURATION:PT1H\nRRULE:FREQ=MINUTELY"));
        Assert.Equal("7: The shift ends before it begins, or lasts nothing.", Problem("DTSTART:20260101T080000Z\nDTEND:20260101T070000Z"));
        Assert.Contains("names nobody", Problem("DTSTART:20260101T080000\nDURATION:PT1H", "SUMMARY:x"));
        Assert.Contains("no calendar", Calendars.Read("hello").Errors[0].Problem);
    }

    [Fact]
    public void No_instant_has_somebody_on_duty_outside_their_shifts()
    {
        var hour = Gen.Int[0, 23];
        var shifts = Gen.Select(hour, Gen.Int[1, 14], Gen.Int[0, 6], Gen.Bool).Array[1, 6];

        // Any quarter of the year, and as often one of the nights in which the clocks change.
        var quarters = Gen.OneOf(Gen.Int[0, 24 * 4 * 364], Gen.Int[84 * 96, (84 * 96) + 16], Gen.Int[294 * 96, (294 * 96) + 16]);
        Gen.Select(shifts, quarters)
            .Sample(
                (all, quarter) =>
                {
                    var monday = new LocalDate(2026, 1, 5);
                    Shift[] made =
                    [
                        .. all.Select(
                            (s, i) =>
                            {
                                var begin = monday.PlusDays(s.Item3).At(new LocalTime(s.Item1, 0));
                                return ShiftText.Make(
                                    "desk",
                                    new($"p{i}", "P", "p@a.example"),
                                    begin,
                                    begin.PlusHours(s.Item2),
                                    s.Item4 ? [(IsoDayOfWeek)(s.Item3 + 1)] : [],
                                    Lisbon,
                                    null,
                                    Noon
                                );
                            }
                        ),
                    ];
                    var at = I("2026-01-04T00:00:00Z") + Duration.FromMinutes(15 * quarter);
                    var local = at.InZone(Lisbon).LocalDateTime;
                    var on = new Rota(made, Lisbon).OnDuty("desk", at).Select(d => d.Person).ToHashSet();
                    for (var i = 0; i < all.Length; i++)
                    {
                        // The plain reading of the wall clock: some begin, this week's or last week's, up to its end.
                        bool InShift(LocalDateTime begin) =>
                            Lisbon.AtLeniently(begin).ToInstant() <= at && at < Lisbon.AtLeniently(begin.PlusHours(all[i].Item2)).ToInstant();
                        var first = monday.PlusDays(all[i].Item3).At(new LocalTime(all[i].Item1, 0));
                        var expected = all[i].Item4 ? Enumerable.Range(0, 60).Select(w => first.PlusWeeks(w)).Any(InShift) : InShift(first);
                        Assert.True(expected == on.Contains($"p{i}"), $"{local}: p{i} {all[i]}");
                    }
                },
                iter: 400
            );
    }

    [Fact]
    public void Resolution_never_tells_one_person_twice_by_one_channel()
    {
        var ids = Gen.Int[0, 3].Select(i => new[] { "ann", "ben", "cleo", "dan" }[i]);
        var recipients = Gen.OneOf<Recipient>(
            ids.Select(i => (Recipient)new PersonRecipient(i)),
            Gen.Const((Recipient)new TeamRecipient("desk")),
            Gen.Const((Recipient)new DutyRecipient("desk")),
            Gen.Const((Recipient)new RoleRecipient(OrderRole.Salesperson))
        ).Array[1, 6];
        var away = Gen.Select(ids, ids, Gen.Int[0, 10], Gen.Int[1, 10]).Array[0, 5];
        Gen.Select(recipients, away, Gen.Int[0, 20])
            .Sample(
                (tell, leaves, day) =>
                {
                    var people = new[] { "ann", "ben", "cleo", "dan" }
                        .Select(id => new Person
                        {
                            Id = id,
                            Name = id,
                            Teams = ["desk"],
                            Contacts =
                            {
                                new ContactPoint { Channel = Core.Deliveries.Channel.Mail, Address = id + "@a.example" },
                            },
                            Away =
                            [
                                .. leaves
                                    .Where(l => l.Item1 == id)
                                    .Select(l =>
                                        Leave.Of(
                                            new LocalDate(2026, 1, 1).PlusDays(l.Item3),
                                            new LocalDate(2026, 1, 1).PlusDays(l.Item3 + l.Item4),
                                            l.Item2,
                                            Lisbon
                                        )
                                    ),
                            ],
                        })
                        .ToArray();
                    var shift = ShiftText.Make(
                        "desk",
                        new("ann", "Ann", "ann@a.example"),
                        new LocalDate(2026, 1, 1).At(LocalTime.Midnight),
                        new LocalDate(2026, 1, 8).At(LocalTime.Midnight),
                        [],
                        Lisbon,
                        null,
                        Noon
                    );
                    var staff = new StaffDirectory(people, [new Team { Id = "desk", Name = "Desk" }], [], new Rota([shift], Lisbon));
                    var who = new WhoIsTold(staff, new Business(), Facts("""{"salesperson":"dan"}""")).Resolve(
                        new TellQuestion(
                            tell,
                            null,
                            Urgency.Prompt,
                            "order.held",
                            null,
                            true,
                            Lisbon.AtStartOfDay(new LocalDate(2026, 1, 1).PlusDays(day)).ToInstant()
                        )
                    );
                    Assert.Equal(who.Told.Count, who.Told.Select(t => t.Reader).Distinct().Count());
                    Assert.All(who.Told, t =>
                        Assert.DoesNotContain(people.Single(p => p.Id == t.Person).Away, a =>
                            a.Holds(Lisbon.AtStartOfDay(new LocalDate(2026, 1, 1).PlusDays(day)).ToInstant())
                        )
                    );
                },
                iter: 2000
            );
    }
}
