using System.Xml.Linq;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Web.Pages.Shared;
using Sirena.Web.Pages.Watch;
using static Sirena.Web.Tests.Svg;

namespace Sirena.Web.Tests;

/// <summary>A fuse on the Watch's axis: where it burns, what it says, what has no room.</summary>
public sealed class FuseDrawingTests
{
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 12, 0);
    private static readonly FuseDrawing Pen = new(Now, Duration.FromMinutes(30), Duration.FromMinutes(30), new DeskTime(Now, DateTimeZone.Utc));

    private static Instant At(double minute) => Now + Duration.FromMinutes(minute);

    private static Fuse Of((double At, bool Fired, string Names)[] knots, double begin = -10, double? cut = null, double? burnt = null, double? due = null) =>
        new(
            At(begin),
            [.. knots.Select(k => new FuseKnot(At(k.At), k.Fired, k.Names, []))],
            cut is { } c ? At(c) : null,
            burnt is { } b ? At(b) : null,
            due is { } d ? At(d) : null
        );

    private static XElement Draw(Fuse fuse, string? holder = null) => XElement.Parse(Pen.Draw(fuse, "AQ-1 <held>", holder));

    // What has burnt: the bar from the begin.
    private static XElement Burnt(XElement svg) => svg.Elements("rect").Single(r => r.Attribute("height")!.Value == "7");

    [Theory]
    [InlineData(-30, 12)]
    [InlineData(0, 309)]
    [InlineData(30, 606)]
    [InlineData(-600, 12)]
    [InlineData(600, 606)]
    public void An_instant_has_its_place_and_what_lies_outside_stands_at_the_edge(double minute, double x) => Assert.Equal(x, Pen.X(At(minute)), 3);

    [Fact]
    public void It_burns_from_its_begin_to_now_and_the_cord_reaches_to_its_last_step()
    {
        var svg = Draw(Of([(-10, true, "Reyle"), (6, false, "Varga"), (20, false, "Holt")]));
        Assert.Equal("AQ-1 <held>", svg.Attribute("aria-label")!.Value);
        Assert.Equal((210, 99), (Number(Burnt(svg), "x"), Number(Burnt(svg), "width")));
        var cord = svg.Elements("rect").Single(r => r.Attribute("fill")!.Value == "url(#cord)");
        Assert.Equal((309, 198), (Number(cord, "x"), Number(cord, "width")));
        Assert.Equal(["Reyle", "Varga", "in 6 min", "Holt"], Texts(svg));
        var counts = svg.Elements("text").Single(t => t.Attribute("data-until") is not null);
        Assert.Equal($"{At(6).ToUnixTimeMilliseconds()}", counts.Attribute("data-until")!.Value);
        Assert.Equal("var(--glass-ink)", counts.Attribute("fill")!.Value);
    }

    [Theory]
    [InlineData(6, "far", "var(--glass-ink)")]
    [InlineData(5, "near", "var(--brass-ink)")]
    [InlineData(1.6, "near", "var(--brass-ink)")]
    [InlineData(1.5, "hot", "var(--flare-ink)")]
    public void Its_colour_says_how_near_the_next_step_is(double minutes, string heat, string tone)
    {
        var svg = Draw(Of([(-10, true, "Reyle"), (minutes, false, "Varga")]));
        Assert.Equal($"url(#b-{heat})", Burnt(svg).Attribute("fill")!.Value);
        Assert.Equal(tone, svg.Elements("text").Single(t => t.Attribute("data-until") is not null).Attribute("fill")!.Value);
    }

    [Fact]
    public void One_that_somebody_has_is_cut_and_says_who_also_where_there_is_little_room()
    {
        var svg = Draw(Of([(-10, true, "Reyle"), (20, false, "Varga")], cut: -4), "Reyle");
        Assert.Equal(["Reyle has it, 11:56", "Reyle"], Texts(svg));
        Assert.Equal("var(--glass-soft)", Burnt(svg).Attribute("fill")!.Value);
        Assert.DoesNotContain(svg.Elements("rect"), r => r.Attribute("fill")!.Value == "url(#cord)");
        var late = new FuseDrawing(Now, Duration.FromMinutes(60), Duration.FromMinutes(2), new DeskTime(Now, DateTimeZone.Utc));
        var words = XElement.Parse(late.Draw(Of([(-10, true, "R")], cut: -1), "x", "Bartholomew Featherstonehaugh")).Elements("text").First();
        Assert.Equal(("end", "618"), (words.Attribute("text-anchor")!.Value, words.Attribute("x")!.Value));
    }

    [Fact]
    public void One_that_burnt_out_says_so_and_asks_nobody_next()
    {
        var svg = Draw(Of([(-25, true, "Reyle"), (-15, true, "Varga"), (20, false, "Holt")], begin: -25, burnt: -5));
        Assert.Equal(["Burnt out 11:55, nobody answered", "Reyle", "Varga"], Texts(svg));
        Assert.Equal("url(#b-hot)", Burnt(svg).Attribute("fill")!.Value);
        Assert.DoesNotContain(svg.Elements("text"), t => t.Attribute("data-until") is not null);
    }

    [Fact]
    public void What_lies_before_the_axis_as_a_whole_is_an_arrow_without_names()
    {
        var svg = Draw(Of([(-90, true, "Reyle")], begin: -90, cut: -60), "Reyle");
        Assert.Contains(svg.Elements("path"), p => p.Attribute("d")!.Value == "M16 26l-6 5 6 5");
        Assert.Equal(["Reyle has it, 11:00"], Texts(svg));
    }

    [Fact]
    public void A_name_has_the_room_up_to_the_next_knot_and_none_lies_over_another()
    {
        var svg = Draw(Of([(-10, true, "Vasconcelos, Calder and Ashby"), (-3, true, "Haddad"), (-2.5, true, "Mensah"), (20, false, "Petrov")]));
        var names = svg.Elements("text").Where(t => t.Attribute("y")!.Value == "18").ToArray();
        Assert.EndsWith("…", names[0].Value);
        Assert.DoesNotContain(names, n => n.Value.StartsWith("Haddad", StringComparison.Ordinal));
        Assert.All(names.Zip(names.Skip(1)), p =>
            Assert.True(Number(p.First, "x") + (p.First.Value.Length * 6.2) <= Number(p.Second, "x"), $"{p.First.Value} lies over {p.Second.Value}")
        );
        Assert.Equal(4, svg.Elements("rect").Count(r => r.Attribute("height")!.Value == "12.800"));
    }

    [Fact]
    public void The_due_time_stands_where_it_is_ahead_on_the_axis()
    {
        Assert.Contains("due", Texts(Draw(Of([(-10, true, "Reyle")], due: 12))));
        Assert.DoesNotContain("due", Texts(Draw(Of([(-10, true, "Reyle")], due: -2))));
        Assert.DoesNotContain("due", Texts(Draw(Of([(-10, true, "Reyle")], due: 31))));
    }

    [Fact]
    public void What_became_of_messages_stands_below_their_knot_as_many_as_have_room()
    {
        FuseMark Mark(DeliveryState state, bool answered = false) => new(Channel.Mail, state, answered);
        var many = Enumerable.Repeat(Mark(DeliveryState.Landed), 9).ToArray();
        var fuse = new Fuse(
            At(-20),
            [
                new FuseKnot(At(-20), true, "Reyle", many),
                new FuseKnot(At(-14), true, "Varga", [Mark(DeliveryState.Failed), Mark(DeliveryState.HandedOver, true)]),
            ],
            null,
            null,
            null
        );
        string[] marks = [.. Draw(fuse).Elements("use").Select(u => u.Attribute("href")!.Value.Split('#')[1])];
        Assert.Equal(2, marks.Count(m => m == "m-landed"));
        Assert.Equal(["m-failed", "m-answered"], marks.Where(m => m is "m-failed" or "m-answered"));
    }

    [Theory]
    [InlineData(15, 15, new[] { "11:50", "11:55", "12:05", "12:10" })]
    [InlineData(60, 180, new[] { "11:30", "12:30", "13:00", "13:30", "14:00", "14:30" })]
    public void The_axis_has_as_many_times_as_have_room_and_now_in_the_middle_of_them(int back, int ahead, string[] times)
    {
        var pen = new FuseDrawing(Now, Duration.FromMinutes(back), Duration.FromMinutes(ahead), new DeskTime(Now, DateTimeZone.Utc));
        var svg = XElement.Parse(pen.Axis());
        Assert.Equal(times, Texts(svg)[..^1]);
        Assert.Equal("12:00", Texts(svg)[^1]);
        var bars = svg.Elements("rect").Where(r => r.Attribute("height")!.Value == "5").ToArray();
        Assert.All(bars.Zip(bars.Skip(1)), p => Assert.NotEqual(p.First.Attribute("fill")!.Value, p.Second.Attribute("fill")!.Value));
    }
}
