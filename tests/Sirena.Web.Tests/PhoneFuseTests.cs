using System.Globalization;
using System.Text.RegularExpressions;
using System.Xml.Linq;
using NodaTime;
using Sirena.Core.Ladders;
using Sirena.Web.Pages.Shared;
using Sirena.Web.Pages.Watch;
using static Sirena.Web.Tests.Svg;

namespace Sirena.Web.Tests;

public class PhoneFuseTests
{
    private static readonly Instant Noon = Instant.FromUtc(2026, 11, 24, 12, 0);

    private static XElement Draw(int now, (int At, bool Fired, string Names)[] knots, int? cut = null, int? burnt = null)
    {
        Instant At(int minute) => Noon + Duration.FromMinutes(minute);
        var fuse = new Fuse(
            Noon,
            [.. knots.Select(k => new FuseKnot(At(k.At), k.Fired, k.Names, []))],
            cut is { } c ? At(c) : null,
            burnt is { } b ? At(b) : null,
            null
        );
        return XElement.Parse(new PhoneFuse(new DeskTime(At(now), DateTimeZone.Utc)).Draw(fuse, "what \"it\" says <b>"));
    }

    [Fact]
    public void Names_stand_above_and_times_below_and_the_next_step_counts_down()
    {
        var svg = Draw(6, [(0, true, "Reyle"), (5, true, "you"), (20, false, "Odile Varga"), (30, false, "Maren Holt")]);
        Assert.Equal(["Reyle", "12:00", "you", "12:05", "Odile Varga", "in 14 min", "Maren Holt", "12:30"], Texts(svg));
        Assert.Equal("what \"it\" says <b>", svg.Attribute("aria-label")!.Value);
        Assert.Equal(
            (Noon + Duration.FromMinutes(20)).ToUnixTimeMilliseconds().ToString(CultureInfo.InvariantCulture),
            svg.Elements("text").Single(t => t.Attribute("data-until") is not null).Attribute("data-until")!.Value
        );
    }

    [Theory]
    [InlineData(1, "circle")]
    [InlineData(16, "M0-8")]
    [InlineData(19, "M0-9.5")]
    public void Its_tip_says_how_near_the_next_step_is(int now, string tip) =>
        Assert.Contains(tip, Draw(now, [(0, true, "Reyle"), (20, false, "Odile Varga")]).ToString());

    [Fact]
    public void One_that_somebody_took_is_cut_and_one_that_burnt_out_says_so()
    {
        Assert.Contains("taken 12:03", Texts(Draw(6, [(0, true, "you"), (20, false, "Odile Varga")], cut: 3)));
        var burnt = Texts(Draw(60, [(0, true, "you"), (20, true, "Odile Varga")], burnt: 40));
        Assert.Contains("burnt out 12:40", burnt);
        Assert.DoesNotContain(burnt, w => w.StartsWith("in ", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(7)]
    public void Any_number_of_steps_however_close_or_long_named_stays_within_the_drawing(int steps)
    {
        foreach (var spread in new[] { 0, 1, 30, 5_000 })
        {
            var svg = Draw(
                3,
                [.. Enumerable.Range(0, steps).Select(i => (i * spread, i < 2, "Maria-Constança d’Albuquerque e Sousa, Professor Ólafur Þórarinsson"))]
            );
            foreach (
                var number in svg.DescendantsAndSelf()
                    .SelectMany(e => new[] { e.Attribute("x"), e.Attribute("width"), e.Attribute("cx") })
                    .Where(a => a is not null)
                    .Select(a => double.Parse(a!.Value, CultureInfo.InvariantCulture))
            )
            {
                Assert.InRange(number, 0, 350);
            }

            Assert.DoesNotMatch(new Regex("NaN|Infinity"), svg.ToString());
        }
    }
}
