using System.Text;
using Microsoft.AspNetCore.Html;
using NodaTime;
using Sirena.Core.Sources;
using Sirena.Engine.Sources;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.Sources;

/// <summary>
/// A source's day: what came, hour by hour, inside the stepped line of what is usual; refused calls on top; a silence hatched as high as what was due.
/// </summary>
public static class DayDrawing
{
    /// <summary>The width of an hour.</summary>
    public const int Hour = 8;

    private const int Height = 48;

    /// <summary>The axis over all days.</summary>
    public static HtmlString Axis(double now)
    {
        var text = new StringBuilder($"<svg width=\"{24 * Hour}\" height=\"22\" aria-hidden=\"true\">");
        foreach (var hour in new[] { 0, 6, 12, 18, 24 })
        {
            text.Append(
                $"<text x=\"{hour * Hour}\" y=\"10\" text-anchor=\"{hour switch { 0 => "start", 24 => "end", _ => "middle" }}\" font-size=\"12\" "
                    + $"fill=\"var(--muted)\">{hour:00}</text>"
            );
        }

        text.Append($"<rect x=\".5\" y=\"15.5\" width=\"{(24 * Hour) - 1}\" height=\"5\" fill=\"var(--card)\" stroke=\"var(--ink)\"/>");
        foreach (var hour in new[] { 0, 12 })
        {
            text.Append($"<rect x=\"{hour * Hour}\" y=\"15\" width=\"{6 * Hour}\" height=\"6\" fill=\"var(--ink)\"/>");
        }

        return new HtmlString(text.Append($"<path d=\"M{Draw.N((now * Hour) - 4)} 9h8l-4 6z\" fill=\"var(--ink)\"/></svg>").ToString());
    }

    /// <summary>One source's day.</summary>
    /// <param name="day">The day.</param>
    /// <param name="clock">The moment.</param>
    public static HtmlString Of(SourceDay day, DeskTime clock)
    {
        var now = HourOf(clock.Now, clock);
        var most = Math.Max(3, day.Today.Select((n, h) => (double)n + day.RefusedBy[h]).Concat(day.Usual).Max());
        string Y(double value) => Draw.N(Height - (value / most * (Height - 4)));
        var text = new StringBuilder($"<svg width=\"{24 * Hour}\" height=\"{Height + 2}\" role=\"img\" aria-label=\"{Draw.E(Spoken(day))}\">");
        for (var hour = 0; hour < 24; hour++)
        {
            Bar(text, hour, 0, day.Today[hour], "var(--bar)", Y);
            Bar(text, hour, day.Today[hour], day.Today[hour] + day.RefusedBy[hour], "var(--flare)", Y);
        }

        if (day.Usual.Length > 0)
        {
            text.Append(
                $"<path d=\"M0 {Y(day.Usual[0])}{string.Concat(day.Usual.Select((u, h) => $"V{Y(u)}H{(h + 1) * Hour}"))}\" fill=\"none\" "
                    + "stroke=\"var(--ink)\"/>"
            );
            if (day.Source.SilentSince is { } since)
            {
                Silence(text, since < clock.Midnight ? 0 : HourOf(since, clock), now, day.Usual, Y);
            }
        }

        var dashes = day.Today.All(n => n == 0) && day.Usual.Length == 0 ? " stroke-dasharray=\"2 3\"" : "";
        return new HtmlString(
            text.Append(
                    $"<path d=\"M0 {Height}.5H{24 * Hour}\" stroke=\"var(--control)\"{dashes}/><path d=\"M{Draw.N(now * Hour)} -2V{Height + 1}\" "
                        + "stroke=\"var(--ink)\"/></svg>"
                )
                .ToString()
        );
    }

    /// <summary>The hour of the business's day, with its part.</summary>
    public static double HourOf(Instant at, DeskTime clock) => at.InZone(clock.Zone).TimeOfDay is var time ? time.Hour + (time.Minute / 60.0) : 0;

    private static void Bar(StringBuilder text, int hour, double from, double to, string fill, Func<double, string> y)
    {
        if (to > from)
        {
            text.Append($"<path d=\"M{(hour * Hour) + 1} {y(from)}V{y(to)}h{Draw.N(Hour - 1.5)}V{y(from)}z\" fill=\"{fill}\"/>");
        }
    }

    private static void Silence(StringBuilder text, double from, double to, double[] usual, Func<double, string> y)
    {
        var path = new StringBuilder($"M{Draw.N(from * Hour)} {Height}");
        for (var hour = (int)from; hour < to && hour < 24; hour++)
        {
            path.Append($"V{y(usual[hour])}H{Draw.N(Math.Min(hour + 1, to) * Hour)}");
        }

        text.Append($"<path d=\"{path}V{Height}z\" fill=\"url(#quiet)\" stroke=\"var(--brass)\"/>");
    }

    private static string Spoken(SourceDay day) =>
        $"{day.Today.Sum()} came today{(day.Refused > 0 ? $", {day.Refused} were refused" : "")}"
        + $"{(day.Rhythm.IsKnown ? $", usually {Math.Round(day.Usual.Sum())} by the end of such a day" : "")}";
}
