using System.Diagnostics;
using System.Text;
using NodaTime;
using Sirena.Core.People;
using Sirena.Core.Tests.People;
using Sirena.Formats.Calendars;
using static Sirena.Core.Tests.People.Calendars;

namespace Sirena.Core.Tests.Formats;

/// <summary>
/// Calendars as programs elsewhere write them, and as nobody should: each is read whole or refused with its place, within a bound of work, and what is taken
/// can be worked out.
/// </summary>
public sealed class CalendarCorpusTests
{
    private const string Shift =
        "BEGIN:VEVENT\r\nUID:s1\r\nDTSTART;TZID=Europe/Lisbon:20260601T080000\r\nDTEND;TZID=Europe/Lisbon:20260601T160000\r\nATTENDEE:mailto:finn@a.example\r\nEND:VEVENT\r\n";

    // The clocks of Berlin under a name of its own, as some programs for offices write it.
    private const string Customized =
        "BEGIN:VTIMEZONE\r\nTZID:Customized Time Zone\r\nBEGIN:STANDARD\r\nDTSTART:16010101T030000\r\nTZOFFSETFROM:+0200\r\nTZOFFSETTO:+0100\r\nRRULE:FREQ=YEARLY;BYDAY=-1SU;BYMONTH=10\r\nEND:STANDARD\r\n"
        + "BEGIN:DAYLIGHT\r\nDTSTART:16010101T020000\r\nTZOFFSETFROM:+0100\r\nTZOFFSETTO:+0200\r\nRRULE:FREQ=YEARLY;BYDAY=-1SU;BYMONTH=3\r\nEND:DAYLIGHT\r\nEND:VTIMEZONE\r\n";

    private static string With(string lines, string uid = "s1") =>
        $"BEGIN:VEVENT\r\nUID:{uid}\r\n{lines.ReplaceLineEndings("\r\n")}\r\nATTENDEE:mailto:finn@a.example\r\nEND:VEVENT\r\n";

    public static TheoryData<string, string> Refused =>
        new()
        {
            { "BEGIN:VCALENDAR\r\nnonsense\r\nmore of it\r\n", "'nonsense' stands here" },
            { Of(Shift)[..120], "no END:V" },
            { "BEGIN:VCALENDAR\r\nVERSION:2.0\r\n", "no END:VCALENDAR" },
            { Of(Shift + Shift.Replace("s1", "s2")).Replace("END:VCALENDAR\r\n", ""), "no END:VCALENDAR" },
            { "<!DOCTYPE html>\r\n<html><body>BEGIN:VCALENDAR\r\nEND:VCALENDAR</body></html>", "This is no calendar" },
            { Of("BEGIN:VTODO\r\nUID:x\r\nEND:VTODO\r\n"), "holds no shift (VEVENT), only VTODO" },
            { Of("BEGIN:VFREEBUSY\r\nEND:VFREEBUSY\r\n"), "only VFREEBUSY" },
            { Of(""), "holds no shift" },
            { "", "BEGIN:VCALENDAR is expected" },
            { Of("BEGIN:VEVENT\r\nUID:x\r\nEND:VTODO\r\nEND:VEVENT\r\n"), "END:VTODO stands where END:VEVENT is expected" },
            { Of(With("DTSTART:20260601T080000\nDURATION:PT8H\nRDATE:soon")), "RDATE: 'soon' is no time" },
            { Of(With("DTSTART:20260601T080000\nDURATION:PT8H\nRDATE:99991231T235959Z")), "1970 to 2199" },
            { Of(With("DTSTART:20260601T080000\nDTEND:99991231T235959Z")), "1970 to 2199" },
            { Of(With("DTSTART:20260601T080000\nDTEND:tomorrow")), "DTEND: 'tomorrow' is no time" },
            { Of(With("DTSTART:20260601T080000\nDURATION:-PT8H")), "no length of time" },
            { Of(With("DTSTART:20260601T080000\nDURATION:PT0S")), "longer than nothing" },
            { Of(With("DTSTART:20260601T080000\nDURATION:P99999999D")), "no length of time" },
            { Of(With("DTSTART:20260601T080000\nDURATION:P8D")), "at most 7 days" },
            { Of(With("DTSTART:20260601T080000\nDTEND:20260701T080000")), "at most 7 days" },
            { Of(With("DTSTART:20260601T080000")), "lasts nothing" },
            { Of(With("DTSTART:19000101T080000\nDURATION:PT1H\nRRULE:FREQ=HOURLY")), "1970 to 2199" },
            {
                Of(With("DTSTART:20260601T080000\nDURATION:PT1M\nRRULE:FREQ=HOURLY;BYMINUTE=0,1,2,3,4,5,6,7,8,9;BYSECOND=0,10,20,30,40,50")),
                "more than 2,000 shifts in 28 days"
            },
            {
                Of(
                    With(
                        $"DTSTART:20260601T080000\nDURATION:PT1H\nRDATE:{string.Join(',', Enumerable.Range(0, 20_000).Select(i => $"2027{1 + (i % 12):00}{1 + (i % 28):00}T{i % 24:00}{i % 60:00}00"))}"
                    )
                ),
                "may have 2000"
            },
            { Of(With("DTSTART:20260601T080000\nDURATION:PT1H\nRRULE:FREQ=DAILY;INTERVAL=0")), "INTERVAL=0 is not from 1" },
            { Of(With("DTSTART:20260601T080000\nDURATION:PT1H\nRRULE:FREQ=DAILY;COUNT=3;UNTIL=20270101")), "exclude each other" },
            { Of(With("DTSTART:20260601T080000\nDURATION:PT1H\nRRULE:FREQ=WEEKLY;BYDAY=2MO")), "numbered day" },
            { Of(With("DTSTART:20260601T080000\nDURATION:PT1H\nRRULE:daily")), "no part of a repetition" },
            { Of(With("DTSTART:20260601T080000\nDURATION:PT1H\nEXRULE:FREQ=DAILY")), "EXRULE" },
            { Of(With("DTSTART:20260601T080000\nDURATION:PT1H\nDTEND:20260601T090000")), "DTEND and DURATION" },
            { Of(With("DTSTART:20260601T080000\nDTSTART:20260602T080000\nDURATION:PT1H")), "stands more than once" },
            { Of(With("DTSTART:20261301T080000\nDURATION:PT1H")), "DTSTART: '20261301T080000' is no time" },
            { Of(Shift + Shift), "stands twice" },
            { "BEGIN:VCALENDAR\r\nSUMMARY:a\0b\r\nEND:VCALENDAR\r\n", "zero character" },
            { string.Concat(Enumerable.Repeat("BEGIN:X\r\n", 50)).Replace("BEGIN:X\r\nBEGIN:X", "BEGIN:VCALENDAR\r\nBEGIN:X"), "more than 32 deep" },
        };

    [Theory]
    [MemberData(nameof(Refused))]
    public void What_cannot_be_a_rota_is_refused_with_its_place(string text, string sentence)
    {
        var watch = Stopwatch.StartNew();
        var read = Calendars.Read(text);
        Assert.Empty(read.Shifts);
        Assert.Contains(read.Errors, e => e.Problem.Contains(sentence, StringComparison.Ordinal));
        Assert.True(watch.Elapsed < TimeSpan.FromSeconds(20), $"{watch.Elapsed}");
    }

    // The ends of what RFC 5545, 3.3.10, lets each number be (a leap second is no time of a shift), and one beyond: read, or refused with a sentence.
    [Theory]
    [InlineData("BYSECOND", 0, 59, false)]
    [InlineData("BYMINUTE", 0, 59, false)]
    [InlineData("BYHOUR", 0, 23, false)]
    [InlineData("BYMONTHDAY", 1, 31, true)]
    [InlineData("BYYEARDAY", 1, 366, true)]
    [InlineData("BYWEEKNO", 1, 53, true)]
    [InlineData("BYMONTH", 1, 12, false)]
    [InlineData("BYSETPOS", 1, 366, true)]
    public void Every_number_of_a_repetition_is_read_up_to_its_ends_and_no_further(string part, int least, int most, bool fromEnd)
    {
        foreach (var n in new long[] { least - 1, least, most, most + 1, -least, -most, -most - 1, int.MinValue, int.MaxValue, long.MinValue }.Distinct())
        {
            var read = Calendars.Read(
                Of(With($"DTSTART:20260601T080000\nDURATION:PT1H\nRRULE:FREQ=YEARLY;{part}={n}{(part == "BYSETPOS" ? ";BYMONTH=6" : "")}"))
            );
            var fits = (n >= least && n <= most) || (fromEnd && n <= -least && n >= -most);
            Assert.True(fits == (read.Errors.Count == 0), $"{part}={n}: {string.Join(' ', read.Errors.Select(e => e.Problem))}");
            Assert.True(fits || read.Errors[0].Problem.Contains(part, StringComparison.Ordinal));
        }
    }

    [Theory]
    [InlineData("\n")]
    [InlineData("\r")]
    [InlineData("\r\n")]
    public void Lines_end_as_they_like(string end) => Assert.Equal("finn", Assert.Single(Calendars.Read(Of(Shift).ReplaceLineEndings(end)).Duties()).Person);

    [Fact]
    public void A_space_behind_a_begin_hides_nothing_and_a_fold_may_split_a_character()
    {
        Assert.Single(Calendars.Read(Of(Shift).Replace("BEGIN:VEVENT", "BEGIN:VEVENT ")).Duties());
        var bytes = Encoding.UTF8.GetBytes(Of(Shift.Replace("ATTENDEE", "LOCATION:Öst\r\nATTENDEE")));
        var umlaut = Array.IndexOf(bytes, (byte)0xC3);
        byte[] folded = [.. bytes[..(umlaut + 1)], .. "\r\n "u8, .. bytes[(umlaut + 1)..]];
        Assert.Equal("Öst", Assert.Single(Calendars.Read(folded).Duties()).Place);
        var latin = Encoding.Latin1.GetBytes(Of(Shift.Replace("ATTENDEE", "LOCATION:Öst\r\nATTENDEE")));
        Assert.Contains("Line 8 holds bytes that are no UTF-8 (D6)", Calendars.Read(latin).Errors[0].Problem);
        Assert.Equal("Öst", Assert.Single(Calendars.Read(latin, "iso-8859-1").Duties()).Place);
        Assert.Single(Calendars.Read(Encoding.Unicode.GetPreamble().Concat(Encoding.Unicode.GetBytes(Of(Shift))).ToArray()).Duties());
    }

    [Theory]
    [InlineData("W. Europe Standard Time", "")]
    [InlineData("/example.org/2026/Europe/Berlin", "")]
    [InlineData("\"Europe/Berlin\"", "")]
    [InlineData("Customized Time Zone", Customized)]
    public void A_zone_of_another_program_is_the_zone_that_it_means(string zone, string definition)
    {
        var duties = Calendars.Read(Of(definition + With($"DTSTART;TZID={zone}:20260701T080000\nDURATION:PT1H\nRRULE:FREQ=MONTHLY;COUNT=7"))).Duties(days: 400);
        Assert.Equal(7, duties.Count);
        Assert.Equal((6, 7), (duties[0].From.InUtc().Hour, duties[6].From.InUtc().Hour));
    }

    [Fact]
    public void A_zone_without_summer_time_is_its_offset_and_an_unknown_one_is_refused()
    {
        const string fixedZone =
            "BEGIN:VTIMEZONE\r\nTZID:Ship\r\nBEGIN:STANDARD\r\nDTSTART:20000101T000000\r\nTZOFFSETFROM:+0545\r\nTZOFFSETTO:+0545\r\nEND:STANDARD\r\nEND:VTIMEZONE\r\n";
        var read = Calendars.Read(Of(fixedZone + With("DTSTART;TZID=Ship:20260701T080000\nDURATION:PT1H")));
        Assert.Equal(Instant.FromUtc(2026, 7, 1, 2, 15), Assert.Single(read.Duties()).From);
        Assert.Contains("20260701T080000", RotaCalendar.Write("Desk", read.Shifts, Calendars.Lisbon, Calendars.Now + Duration.FromDays(400)));
        Assert.Contains("The time zone 'Mars' is not known", Calendars.Read(Of(With("DTSTART;TZID=Mars:20260701T080000\nDURATION:PT1H"))).Errors[0].Problem);
    }

    [Fact]
    public void This_and_all_that_follow_are_moved_once()
    {
        var duties = Calendars
            .Read(
                Of(
                    With("DTSTART;TZID=Europe/Lisbon:20260601T080000\nDURATION:PT8H\nRRULE:FREQ=DAILY;COUNT=10")
                        + With(
                                "RECURRENCE-ID;TZID=Europe/Lisbon;RANGE=THISANDFUTURE:20260605T080000\nDTSTART;TZID=Europe/Lisbon:20260605T100000\nDURATION:PT4H"
                            )
                            .Replace("finn", "greta")
                )
            )
            .Duties();
        Assert.Equal(10, duties.Count);
        Assert.All(duties.Take(4), d => Assert.Equal(("finn", 7, 8), (d.Person, d.From.InUtc().Hour, (int)(d.To - d.From).TotalHours)));
        Assert.All(duties.Skip(4), d => Assert.Equal(("greta", 9, 4), (d.Person, d.From.InUtc().Hour, (int)(d.To - d.From).TotalHours)));
    }

    [Fact]
    public void Who_has_declined_and_what_is_cancelled_is_on_no_rota_and_is_named()
    {
        var read = Calendars.Read(
            Of(
                Shift.Replace(
                    "ATTENDEE:",
                    "ATTENDEE;PARTSTAT=DECLINED:mailto:greta@a.example\r\nATTENDEE;CUTYPE=ROOM:mailto:bridge@a.example\r\nATTENDEE;CN=\"A: guest\":mailto:who@b.example\r\nATTENDEE:"
                )
                    + Shift.Replace("s1", "s2").Replace("UID", "STATUS:CANCELLED\r\nUID")
                    + With("ORGANIZER:mailto:finn@a.example\nSUMMARY:Lunch\nDTSTART:20260601T120000\nDURATION:PT1H", "s3")
                        .Replace("ATTENDEE:mailto:finn@a.example\r\n", "")
            )
        );
        Assert.Equal("finn", Assert.Single(read.Duties()).Person);
        Assert.Equal(
            [
                "declined",
                "it is a room or a thing, not a person",
                "nobody has this mail address; add it to a person first",
                "it is cancelled",
                "it names nobody on duty: ATTENDEE:mailto:… is missing",
            ],
            read.LeftOut.Select(l => l.Because)
        );
        Assert.Equal("Lunch", read.LeftOut[^1].What);
        var cancelling = Calendars.Read(Of("METHOD:CANCEL\r\n" + Shift));
        Assert.Empty(cancelling.Shifts);
        Assert.Contains("METHOD:CANCEL", Assert.Single(cancelling.LeftOut).Because);
        var night = Calendars.Read(
            Of(
                With("DTSTART;TZID=Europe/Lisbon:20260601T080000\nDURATION:PT8H\nRRULE:FREQ=DAILY;COUNT=3")
                    + With("RECURRENCE-ID;TZID=Europe/Lisbon:20260602T080000\nDTSTART;TZID=Europe/Lisbon:20260602T080000\nDURATION:PT8H")
                        .Replace("ATTENDEE:", "ATTENDEE;PARTSTAT=DECLINED:")
            )
        );
        Assert.Equal([1, 3], night.Duties().Select(d => d.From.InUtc().Day));
    }

    [Fact]
    public void For_ever_is_no_bound_and_hours_since_1970_cost_what_a_month_has()
    {
        var read = Calendars.Read(Of(With("DTSTART:19700101T000000Z\nDURATION:PT1H\nRRULE:FREQ=HOURLY;UNTIL=99991231T235959Z")));
        Assert.Equal(24, read.Duties("2026-03-01", 1).Count);
        var never = Calendars.Read(Of(With("DTSTART:20260601T000000Z\nDURATION:PT1H\nRRULE:FREQ=HOURLY;BYMONTH=2;BYMONTHDAY=30")));
        Assert.Empty(never.Duties());
    }

    [Fact]
    public void What_is_stored_and_cannot_be_worked_out_is_one_team_s_alone()
    {
        Shift bad = new()
        {
            Id = Guid.NewGuid(),
            Team = "broken",
            Uid = "b",
            People = ["finn"],
            Component = "BEGIN:VEVENT\r\nUID:b\r\nDTSTART:20260601T080000\r\nDURATION:-PT8H\r\nEND:VEVENT",
        };
        Shift junk = new()
        {
            Id = Guid.NewGuid(),
            Team = "junk",
            Uid = "j",
            People = ["finn"],
            Component = "nothing",
        };
        var rota = new Rota([bad, junk, .. Calendars.Read(Of(Shift)).Shifts], Calendars.Lisbon);
        foreach (var team in new[] { "broken", "junk" })
        {
            Assert.Empty(rota.OnDuty(team, Calendars.Now));
            Assert.Null(rota.Next(team, Calendars.Now));
            Assert.NotNull(rota.Fault(team));
        }

        Assert.Null(rota.Fault("desk"));
        Assert.Single(rota.OnDuty("desk", Calendars.Now));
        Assert.Empty(rota.OnDuty("desk", Instant.MaxValue));
        Assert.Empty(rota.OnDuty("desk", Instant.MinValue));
    }

    public static TheoryData<string> Valid =>
        [
            Of(Shift),
            Of(
                With(
                    "DTSTART;TZID=Europe/Lisbon:20260601T220000\nDTEND;TZID=Europe/Lisbon:20260602T060000\nRRULE:FREQ=WEEKLY;BYDAY=MO,TU,WE;UNTIL=20261231T235959Z\nEXDATE;TZID=Europe/Lisbon:20260608T220000\nRDATE;TZID=Europe/Lisbon:20260613T220000,20260614T220000"
                ) + With("RECURRENCE-ID;TZID=Europe/Lisbon:20260609T220000\nDTSTART;TZID=Europe/Lisbon:20260609T230000\nDURATION:PT7H")
            ),
            Of(
                Customized
                    + With("DTSTART;TZID=Customized Time Zone:20260701T080000\nDURATION:PT8H\nRRULE:FREQ=MONTHLY;BYDAY=-1FR;COUNT=12")
                    + With("DTSTART;VALUE=DATE:20260801\nSUMMARY:All day\\, one folded\n  line", "s2")
            ),
        ];

    [Theory]
    [MemberData(nameof(Valid))]
    public void A_file_that_is_cut_or_flipped_is_refused_or_read_and_never_breaks_what_reads_it(string text)
    {
        Assert.NotEmpty(Calendars.Read(text).Duties());
        var lines = text.Split("\r\n");
        var cuts = Enumerable.Range(1, lines.Length - 2).Select(i => string.Join("\r\n", lines[..i]) + "\r\n").Select(Encoding.UTF8.GetBytes);
        var chance = new Random(lines.Length);
        var flips = Enumerable
            .Range(0, 400)
            .Select(_ =>
            {
                var bytes = Encoding.UTF8.GetBytes(text);
                bytes[chance.Next(bytes.Length)] = (byte)chance.Next(256);
                return bytes;
            });
        string[] extremes =
        [
            "",
            "99991231T235959Z",
            "00000000",
            "-1",
            "2147483648",
            new string('9', 5000),
            "P9999W",
            "FREQ=HOURLY;INTERVAL=1",
            "\uFEFF",
            "mailto:",
            "..",
            "FREQ=YEARLY;BYSETPOS=-366;BYDAY=MO",
        ];
        var replaced = lines
            .SelectMany(
                (line, i) =>
                    extremes.Select(e =>
                        string.Join(
                            "\r\n",
                            lines.Select(
                                (l, j) => j == i && l.Contains(':', StringComparison.Ordinal) ? l[..(l.IndexOf(':', StringComparison.Ordinal) + 1)] + e : l
                            )
                        )
                    )
            )
            .Select(Encoding.UTF8.GetBytes);
        foreach (var bytes in cuts.Concat(flips).Concat(replaced))
        {
            var read = Calendars.Read(bytes);
            Assert.True(read.Errors.Count > 0 ? read.Shifts.Count == 0 : read.Shifts.Count > 0 || read.LeftOut.Count > 0, Encoding.UTF8.GetString(bytes));
            if (read.Errors.Count == 0)
            {
                _ = read.Duties();
                _ = RotaCalendar.Write("Desk", read.Shifts, Calendars.Lisbon, Calendars.Now + Duration.FromDays(400));
                var again = Calendars.Read(RotaCalendar.Write("Desk", read.Shifts, Calendars.Lisbon, Calendars.Now));
                Assert.Equal(read.Shifts.Count, again.Shifts.Count);
            }
        }

        Assert.All(Enumerable.Range(1, lines.Length - 2), i => Assert.NotEmpty(Calendars.Read(string.Join("\r\n", lines[..i]) + "\r\n").Errors));
    }
}
