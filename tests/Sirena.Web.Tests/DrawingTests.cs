using System.Collections.Immutable;
using System.Xml.Linq;
using NodaTime;
using Sirena.Core.Insight;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Sources;
using Sirena.Engine.Orders;
using Sirena.Engine.Sources;
using Sirena.Web.Pages.Orders;
using Sirena.Web.Pages.People;
using Sirena.Web.Pages.Shared;
using Sirena.Web.Pages.Sources;
using Sirena.Web.Pages.Statuses;
using static Sirena.Web.Tests.Svg;

namespace Sirena.Web.Tests;

/// <summary>What pages draw: well formed, at the place that stands for the number, and said in words for those who do not see it.</summary>
public sealed class DrawingTests
{
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 14, 30);
    private static readonly DeskTime Clock = new(Now, DateTimeZone.Utc);

    private static Instant At(int hour, int minute = 0) => Instant.FromUtc(2026, 11, 24, hour, minute);

    private static Status Named(string id, StatusKind kind = StatusKind.Open) =>
        new()
        {
            Id = id,
            Name = char.ToUpperInvariant(id[0]) + id[1..],
            Mark = "received",
            Kind = kind,
        };

    [Fact]
    public void An_orders_way_shows_what_is_passed_where_it_is_held_and_what_is_ahead()
    {
        Status[] path = [Named("received"), Named("credit <&> check"), Named("picking")];
        var reached = new Dictionary<string, Instant> { ["received"] = At(10, 57), ["credit <&> check"] = At(11, 12) };
        var svg = XElement.Parse(StatusTrack.Draw(path, 1, reached, held: true, Clock));
        Assert.Equal(["Received 10:57", "Credit <&> check, held 11:12", "Picking"], Texts(svg));
        Assert.Equal("Status: Credit <&> check, held", svg.Attribute("aria-label")!.Value);
        Assert.Equal([62, 212, 362], svg.Elements("text").Select(t => Number(t, "x")));

        // The dark line ends where the order is.
        Assert.Contains(svg.Elements("path"), p => p.Attribute("d")!.Value == "M62 12H212" && p.Attribute("stroke")!.Value == "var(--ink)");
        Assert.Contains(svg.Elements("path"), p => p.Attribute("d")!.Value == "M62 12H362" && p.Attribute("stroke-dasharray") is not null);
        Assert.Equal("var(--flare-ink)", svg.Elements("text").ElementAt(1).Attribute("fill")!.Value);
        Assert.Equal("var(--muted)", svg.Elements("text").ElementAt(2).Attribute("fill")!.Value);

        var free = XElement.Parse(StatusTrack.Draw(path, 1, reached, held: false, Clock));
        Assert.Equal("Status: Credit <&> check", free.Attribute("aria-label")!.Value);
        Assert.DoesNotContain(", held", string.Join("", Texts(free)));
    }

    [Fact]
    public void An_order_in_a_status_of_no_path_is_said_to_be_unknown_and_one_status_needs_no_line()
    {
        var svg = XElement.Parse(StatusTrack.Draw([Named("received"), Named("picking")], -1, new Dictionary<string, Instant>(), held: false, Clock));
        Assert.Equal("Status: unknown", svg.Attribute("aria-label")!.Value);
        Assert.DoesNotContain(svg.Elements("path"), p => p.Attribute("stroke")!.Value == "var(--ink)");
        Assert.Empty(XElement.Parse(StatusTrack.Draw([Named("received")], 0, new Dictionary<string, Instant>(), held: false, Clock)).Elements("path"));
    }

    [Fact]
    public void A_status_that_was_left_out_on_the_way_is_hollow()
    {
        Status[] path = [Named("received"), Named("picking"), Named("loaded")];
        var svg = XElement.Parse(StatusTrack.Draw(path, 2, new Dictionary<string, Instant> { ["received"] = At(9), ["loaded"] = At(12) }, held: false, Clock));
        Assert.Equal(1, svg.Elements("rect").Count(r => r.Attribute("stroke")?.Value == "var(--control)"));
        Assert.Equal(["Received 09:00", "Picking", "Loaded 12:00"], Texts(svg));
    }

    [Fact]
    public void The_path_of_statuses_says_what_moved_onward_leapt_and_went_back()
    {
        Status[] all = [Named("received"), Named("picking"), Named("loaded"), Named("signed", StatusKind.Final), Named("cancelled", StatusKind.Void)];
        var moves = new Dictionary<(string, string), int>
        {
            [("received", "picking")] = 1_234,
            [("picking", "loaded")] = 40,
            [("received", "loaded")] = 7,
            [("loaded", "picking")] = 3,
            [("picking", "cancelled")] = 11,
            [("loaded", "signed")] = 38,
            [("", "received")] = 1_300,
        };
        var flow = new StatusFlow(1_300, moves, new Dictionary<string, (double, double)>());
        var svg = XElement.Parse(StatusPath.Draw(all, flow, new Dictionary<string, int> { ["received"] = 5, ["picking"] = 9 }, "picking"));
        Assert.All(new[] { "1,234", "40", "7", "3 went back", "11", "38" }, w => Assert.Contains(w, Texts(svg)));

        // Where orders stand now stands below open statuses; below closed ones, how many came to them.
        Assert.All(new[] { "Received 5", "Picking 9", "Loaded 0" }, w => Assert.Contains(w, Texts(svg)));
        Assert.Equal(
            ["received", "picking", "loaded", "signed", "cancelled"],
            svg.Elements("a").Select(a => a.Attribute("href")!.Value.Split('=')[1]).OrderBy(id => Array.FindIndex(all, s => s.Id == id))
        );
        Assert.Single(svg.Descendants("rect"), r => r.Attribute("stroke")?.Value == "var(--dusk)");

        // A line is as wide as what it carried, up to ten.
        double Wide(string from) =>
            svg.Elements("path")
                .Where(p => p.Attribute("stroke")?.Value == "var(--way)" && p.Attribute("d")!.Value.StartsWith(from, StringComparison.Ordinal))
                .Select(p => Number(p, "stroke-width"))
                .First();
        Assert.True(Wide("M73 ") > Wide("M424.33 "));
        Assert.All(svg.Elements("path").Where(p => p.Attribute("stroke")?.Value == "var(--way)"), p => Assert.InRange(Number(p, "stroke-width"), 1, 10));
    }

    [Fact]
    public void Leaps_that_overlap_stand_above_one_another()
    {
        Status[] all = [Named("a1"), Named("b1"), Named("c1"), Named("d1"), Named("e1")];
        var moves = new Dictionary<(string, string), int>
        {
            [("a1", "c1")] = 5,
            [("b1", "d1")] = 5,
            [("c1", "e1")] = 5,
        };
        var svg = XElement.Parse(
            StatusPath.Draw(all, new StatusFlow(9, moves, new Dictionary<string, (double, double)>()), new Dictionary<string, int>(), null)
        );
        double[] heights = [.. svg.Elements("text").Where(t => t.Value == "5").Select(t => Number(t, "y"))];

        // a to c and c to e meet in c alone; b to d lies over both.
        Assert.Equal(3, heights.Length);
        Assert.Equal(2, heights.Distinct().Count());
    }

    private static SourceDay Day(int[] today, double[] usual, int[]? refused = null, Instant? silent = null) =>
        new(
            new Source
            {
                Id = "ledger",
                Name = "Quay ledger",
                SilentSince = silent,
            },
            Rhythm.Of([], Now, Now, DateTimeZone.Utc, []),
            today,
            usual,
            refused ?? new int[24],
            null
        );

    [Fact]
    public void A_sources_day_has_a_bar_an_hour_as_high_as_what_came_and_refused_calls_on_top()
    {
        int[] today = new int[24],
            refused = new int[24];
        (today[8], today[9], refused[9]) = (10, 5, 5);
        var svg = XElement.Parse(DayDrawing.Of(Day(today, [], refused), Clock).Value!);
        string[] Bars(string fill) => [.. svg.Elements("path").Where(p => p.Attribute("fill")?.Value == fill).Select(p => p.Attribute("d")!.Value)];
        Assert.Equal(["M65 48V4h6.5V48z", "M73 48V26h6.5V48z"], Bars("var(--bar)"));
        Assert.Equal(["M73 26V4h6.5V26z"], Bars("var(--flare)"));
        Assert.Equal("15 came today, 5 were refused", svg.Attribute("aria-label")!.Value);
        Assert.Contains(svg.Elements("path"), p => p.Attribute("d")!.Value == "M116 -2V49");
    }

    [Fact]
    public void A_silence_is_hatched_from_its_begin_to_now_and_an_empty_day_is_a_dashed_line()
    {
        var svg = XElement.Parse(DayDrawing.Of(Day(new int[24], [.. Enumerable.Repeat(6.0, 24)], silent: At(12)), Clock).Value!);
        var hatched = Assert.Single(svg.Elements("path"), p => p.Attribute("fill")?.Value == "url(#quiet)").Attribute("d")!.Value;
        Assert.StartsWith("M96 48V", hatched);
        Assert.Contains("H116V48z", hatched);
        var yesterday = XElement.Parse(DayDrawing.Of(Day(new int[24], [.. Enumerable.Repeat(6.0, 24)], silent: At(12) - Duration.FromDays(1)), Clock).Value!);
        Assert.StartsWith("M0 48V", Assert.Single(yesterday.Elements("path"), p => p.Attribute("fill")?.Value == "url(#quiet)").Attribute("d")!.Value);
        Assert.Contains(XElement.Parse(DayDrawing.Of(Day(new int[24], []), Clock).Value!).Elements("path"), p => p.Attribute("stroke-dasharray") is not null);
        Assert.Equal(14.5, DayDrawing.HourOf(Now, Clock));
        Assert.Equal(["00", "06", "12", "18", "24"], Texts(XElement.Parse(DayDrawing.Axis(14.5).Value!)));
    }

    [Fact]
    public void What_was_not_heard_is_filled_inside_a_silence_and_stands_with_its_number_outside_one()
    {
        var counts = new int[MissedDay.Parts];
        (counts[8 * 12], counts[(9 * 12) + 3]) = (4, 2);
        var silence = new SilentSpan(At(10), At(12), Lasts: false, Expected: 24);
        var day = new MissedDay(Day([], []).Source, counts, [], [silence]);
        (MissedOrder, Instant)[] missed = [(Missed("AQ-1"), At(11)), (Missed("AQ-2"), At(13)), (Missed("AQ-3"), At(13, 1))];
        var svg = XElement.Parse(MissedDrawing.Of(day, missed, Clock).Value!);
        Assert.Equal(
            "6 events of Quay ledger came today. Silent from 10:00 to 12:00. 1 of 3 differences fall into a silence.",
            svg.Attribute("aria-label")!.Value
        );
        Assert.Equal(["#m-AQ-1", "#m-AQ-2", "#m-AQ-3"], svg.Elements("a").Select(a => a.Attribute("href")!.Value));
        Assert.Equal("var(--flare)", svg.Elements("a").First().Element("rect")!.Attribute("fill")!.Value);

        // The number of the third would lie over the second.
        Assert.Equal(["AQ-2"], svg.Elements("a").SelectMany(a => a.Elements("text")).Select(t => t.Value));
        Assert.Contains("silent for 2 h", Texts(svg));
        Assert.Contains("about 24 expected", Texts(svg));
        Assert.Equal(["08:00", "09:00", "10:00", "11:00", "12:00", "13:00", "14:00", "15:00"], Texts(svg)[..8]);
        Assert.Equal(2, svg.Elements("path").Count(p => p.Attribute("fill")?.Value == "var(--bar)"));
    }

    private static MissedOrder Missed(string order) => new() { Source = "list", Order = order };

    private static readonly WeekDrawing Week = new(new LocalDate(2026, 11, 23), Clock);

    private static Duty Shift(Instant from, Instant to, string? place = null) => new("ines.calder", from, to, Guid.Empty, place, false);

    [Fact]
    public void A_shift_lies_where_its_hours_are_in_the_week_and_says_them()
    {
        var svg = XElement.Parse(
            Week.Row(
                    [(Shift(At(12), At(18), "galley"), "/x?a=1&b=2"), (Shift(At(12) - Duration.FromDays(4), At(0) - Duration.FromHours(12)), null)],
                    [],
                    [],
                    [],
                    "Ines"
                )
                .Value!.Replace("data-shift ", "", StringComparison.Ordinal)
        );
        var link = svg.Element("a")!;
        Assert.Equal(("/x?a=1&b=2", "Shift 12:00 to 18:00, galley"), (link.Attribute("href")!.Value, link.Attribute("aria-label")!.Value));
        Assert.Equal(("2026-11-24T12:00", "2026-11-24T18:00"), (link.Attribute("data-from")!.Value, link.Attribute("data-to")!.Value));
        var bar = link.Element("rect")!;
        Assert.Equal((21.43, 3.57), (Number(bar, "x"), Number(bar, "width")));
        Assert.Equal("var(--duty)", bar.Attribute("fill")!.Value);

        // One that began in the week before is cut at its begin.
        var before = svg.Elements("g").Single().Element("rect")!;
        Assert.Equal((0, 7.14), (Number(before, "x"), Number(before, "width")));
        Assert.Equal("var(--bar-soft)", before.Attribute("fill")!.Value);
        Assert.Equal(22.92, Number(svg.Elements("line").Last(), "x1"), 2);
    }

    [Fact]
    public void Quiet_hours_are_left_out_of_a_shift_and_leave_without_cover_is_loud()
    {
        WeeklySpan quiet = new(ImmutableArray<IsoDayOfWeek>.Empty, new LocalTime(22, 0), new LocalTime(6, 0));
        Leave[] leaves = [new(At(0), At(0) + Duration.FromDays(1), null, true), new(At(0) + Duration.FromDays(20), At(0) + Duration.FromDays(21), "x", true)];
        var svg = XElement.Parse(
            Week.Row([(Shift(At(20), At(20) + Duration.FromHours(12)), null)], leaves, [(At(8), At(9), "Bram Osei")], [quiet], "Ines").Value!
        );
        var shift = svg.Elements("g").First();
        var mark = shift.Elements("rect").Last();
        Assert.Equal(("11", "5"), (mark.Attribute("y")!.Value, mark.Attribute("height")!.Value));
        Assert.Equal((27.38, 4.76), (Number(mark, "x"), Number(mark, "width")));
        Assert.Contains("covers Bram Osei, 08:00 to 09:00", svg.Descendants("title").Select(t => t.Value));
        Assert.Equal(["no cover"], Texts(svg));
        Assert.Contains(svg.Descendants("title"), t => t.Value.EndsWith("nobody covers", StringComparison.Ordinal));
    }

    [Fact]
    public void Gaps_of_a_week_are_what_no_duty_covers()
    {
        Instant monday = Week.Begin,
            sunday = Week.End;
        Assert.Equal([(monday, sunday)], Week.GapsOf([]));
        Assert.Empty(Week.GapsOf([Shift(monday - Duration.FromHours(1), sunday + Duration.FromHours(1))]));
        Assert.Equal(
            [(monday, At(8)), (At(18), sunday)],
            Week.GapsOf([Shift(At(12), At(18)), Shift(At(8), At(16)), Shift(At(9), At(10)), Shift(sunday, sunday + Duration.FromHours(8))])
        );
        var svg = XElement.Parse(Week.Gaps([(At(18), At(19))], "Galley").Value!);
        Assert.Equal("nobody from 18:00 to 19:00", svg.Descendants("title").Single().Value);
    }

    [Fact]
    public void A_day_that_the_clocks_make_longer_is_a_seventh_all_the_same()
    {
        var lisbon = DateTimeZoneProviders.Tzdb["Europe/Lisbon"];
        var clock = new DeskTime(Instant.FromUtc(2026, 10, 20, 12, 0), lisbon);
        var week = new WeekDrawing(new LocalDate(2026, 10, 19), clock);
        var midday = lisbon.AtStrictly(new LocalDateTime(2026, 10, 25, 12, 0)).ToInstant();
        var svg = XElement.Parse(week.Row([(Shift(midday, midday + Duration.FromHours(6)), null)], [], [], [], "x").Value!);
        Assert.Equal((92.86, 3.57), (Number(svg.Element("g")!.Element("rect")!, "x"), Number(svg.Element("g")!.Element("rect")!, "width")));
        Assert.Equal(Duration.FromHours(169), week.End - week.Begin);
    }

    [Theory]
    [InlineData("2026-11-24T23:00", "2026-11-25T07:00", "Tue 23:00 to Wed 07:00")]
    [InlineData("2026-11-24T08:15", "2026-11-24T09:30", "Tue 08:15 to 09:30")]
    [InlineData("2026-11-24T08:00", "2026-11-25T00:00", "Tue 08:00 to 24:00")]
    [InlineData("2026-11-24T08:00", "2026-11-26T00:00", "Tue 08:00 to Thu 00:00")]
    public void A_dark_time_is_said_by_the_day_and_the_clock(string from, string to, string words) =>
        Assert.Equal(words, CoverageView.Words(new DarkTime(Local(from), Local(to), "nobody is on duty", null)));

    private static LocalDateTime Local(string text) => DeskTime.Field.Parse(text).Value;

    [Theory]
    [InlineData(0, "0")]
    [InlineData(1.5, "1.5")]
    [InlineData(12.25, "12.25")]
    [InlineData(168, "168")]
    public void Hours_have_the_digits_of_a_quarter(double hours, string words) => Assert.Equal(words, CoverageView.Hours((decimal)hours));

    [Theory]
    [InlineData(0.4, "under 1")]
    [InlineData(1.04, "1")]
    [InlineData(3.26, "3.3")]
    [InlineData(9.5, "10")]
    [InlineData(1_234.4, "1,234")]
    public void What_is_expected_is_rounded_as_people_say_it(double value, string words) => Assert.Equal(words, SourceWords.Round(value));
}
