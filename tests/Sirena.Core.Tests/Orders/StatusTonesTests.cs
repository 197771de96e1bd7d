using Sirena.Core.Orders;

namespace Sirena.Core.Tests.Orders;

/// <summary>The tones of statuses.</summary>
public sealed class StatusTonesTests
{
    [Theory]
    [InlineData(ColourSight.Most)]
    [InlineData(ColourSight.RedWeak)]
    [InlineData(ColourSight.GreenWeak)]
    [InlineData(ColourSight.BlueWeak)]
    public void Any_two_stay_apart_for_every_sight_by_day_and_by_night(ColourSight sight)
    {
        foreach (var (one, other) in StatusTones.All.SelectMany((a, i) => StatusTones.All.Skip(i + 1).Select(b => (a, b))))
        {
            Assert.True(StatusTones.Apart(StatusTones.Seen(one.Day, sight), StatusTones.Seen(other.Day, sight)) > 12, $"{one.Id} and {other.Id} by day");
            Assert.True(StatusTones.Apart(StatusTones.Seen(one.Night, sight), StatusTones.Seen(other.Night, sight)) > 12, $"{one.Id} and {other.Id} by night");
        }
    }

    [Theory]
    [InlineData("#2A7F74", ColourSight.Most, "#2A7F74")]
    [InlineData("#2A7F74", ColourSight.RedWeak, "#797874")]
    [InlineData("#2A7F74", ColourSight.GreenWeak, "#6C6F75")]
    [InlineData("#2A7F74", ColourSight.BlueWeak, "#00827C")]
    [InlineData("#FFFFFF", ColourSight.RedWeak, "#FFFFFF")]
    [InlineData("#000000", ColourSight.BlueWeak, "#000000")]
    public void A_colour_is_seen_as_the_model_says(string colour, ColourSight sight, string seen) => Assert.Equal(seen, StatusTones.Seen(colour, sight));

    [Fact]
    public void The_style_sheet_has_the_same_colours()
    {
        var sheet = File.ReadAllText(Sheet());
        Assert.All(StatusTones.All, t => Assert.Contains($".st-{t.Id}{{color:light-dark({t.Day},{t.Night})}}", sheet, StringComparison.Ordinal));
    }

    private static string Sheet([System.Runtime.CompilerServices.CallerFilePath] string here = "") =>
        Path.Combine(Path.GetDirectoryName(here)!, "../../../src/Sirena.Web/wwwroot/css/controls.css");

    [Fact]
    public void The_difference_is_the_one_of_1976()
    {
        Assert.Equal(0, StatusTones.Apart("#123456", "#123456"));
        Assert.Equal(100, StatusTones.Apart("#000000", "#FFFFFF"), 0.1);
    }

    // By the components of sRGB, each alone and with the others, through both parts of its curve.
    [Fact]
    public void How_far_colours_lie_apart_is_kept()
    {
        string[] some = ["#000000", "#0A0000", "#000A00", "#00000A", "#0B0B0B", "#FF0000", "#00FF00", "#0000FF", "#2A7F74", "#808080", "#FFFFFF"];
        var told =
            from a in some
            from b in some
            where string.CompareOrdinal(a, b) < 0
            select string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{a} {b}: {StatusTones.Apart(a, b):0.000}");
        var seen = from colour in some from sight in Enum.GetValues<ColourSight>() select $"{colour} {sight}: {StatusTones.Seen(colour, sight)}";
        Kept.Same("colours", [.. told, .. seen]);
    }
}
