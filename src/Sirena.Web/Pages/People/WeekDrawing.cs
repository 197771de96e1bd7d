using System.Globalization;
using System.Text;
using Microsoft.AspNetCore.Html;
using NodaTime;
using Sirena.Core.People;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.People;

/// <summary>
/// A week as strips, drawn in hundredths of the width so that it fits any: the chart's border as axis, a row a person, the now line through all.
/// </summary>
public sealed class WeekDrawing(LocalDate monday, DeskTime clock)
{
    private const double RowHeight = 27;
    private readonly Instant begin = clock.Zone.AtStartOfDay(monday).ToInstant();
    private readonly Instant end = clock.Zone.AtStartOfDay(monday.PlusDays(7)).ToInstant();

    /// <summary>The begin of the week.</summary>
    public Instant Begin => begin;

    /// <summary>Its end.</summary>
    public Instant End => end;

    /// <summary>The day names over the scale bar; the bar alternates every six hours.</summary>
    public HtmlString Axis()
    {
        var svg = new StringBuilder("<svg width=\"100%\" height=\"34\" role=\"img\" aria-label=\"")
            .Append(Draw.E($"Monday {monday.ToString("d MMM", CultureInfo.InvariantCulture)} to Sunday"))
            .Append("\">");
        for (var day = 0; day < 7; day++)
        {
            var date = monday.PlusDays(day);
            svg.Append(
                $"<text x=\"{P(day * 100 / 7.0)}\" dx=\"7\" y=\"19\" font-size=\"12\" "
                    + $"fill=\"{(date == clock.Today ? "var(--ink)" : "var(--muted)")}\"{(date == clock.Today ? " font-weight=\"660\"" : "")}>"
                    + $"{date.ToString("ddd d", CultureInfo.InvariantCulture)}</text>"
            );
            for (var part = 0; part < 4; part++)
            {
                var fill = part % 2 == 0 ? "var(--duty)" : "var(--card)";
                svg.Append(
                    $"<rect x=\"{P((day + (part / 4.0)) * 100 / 7)}\" y=\"26.5\" width=\"{P(100 / 28.0)}\" height=\"6\" fill=\"{fill}\" "
                        + "stroke=\"var(--duty)\"/>"
                );
            }
        }

        if (begin <= clock.Now && clock.Now < end)
        {
            svg.Append($"<svg x=\"{P(X(clock.Now))}\" overflow=\"visible\"><path d=\"M-4.5 19h9L0 25.5z\" fill=\"var(--ink)\"/></svg>");
        }

        return new HtmlString(svg.Append("</svg>").ToString());
    }

    /// <summary>A person's row.</summary>
    /// <param name="duties">Their time on duty, each with what a click on it opens, or no address.</param>
    /// <param name="leaves">Their leave.</param>
    /// <param name="covers">Times in which they stand in, with whom for.</param>
    /// <param name="quiet">When they want quiet, or <see langword="null"/> at an instant.</param>
    /// <param name="label">The row in words, for those who do not see it.</param>
    public HtmlString Row(
        IEnumerable<(Duty Duty, string? Href)> duties,
        IEnumerable<Leave> leaves,
        IEnumerable<(Instant From, Instant To, string For)> covers,
        IReadOnlyList<WeeklySpan> quiet,
        string label
    )
    {
        var svg = new StringBuilder($"<svg class=\"wk\" width=\"100%\" height=\"{RowHeight}\" role=\"group\" aria-label=\"")
            .Append(Draw.E(label))
            .Append("\">");
        Grid(svg);
        foreach (var (duty, href) in duties)
        {
            var now = duty.From <= clock.Now && clock.Now < duty.To;
            var words = $"{clock.Short(duty.From)} to {clock.Short(duty.To)}{(duty.Place is { } place ? $", {place}" : "")}";
            var bar = Bar(duty.From, duty.To, now ? "var(--duty)" : "var(--bar-soft)", "") + QuietMarks(duty, quiet);
            svg.Append(
                href is null
                    ? $"<g><title>{Draw.E(words)}</title>{bar}</g>"
                    : $"<a href=\"{Draw.E(href)}\" aria-label=\"{Draw.E($"Shift {words}")}\" data-shift data-from=\"{Wall(duty.From)}\" "
                        + $"data-to=\"{Wall(duty.To)}\" draggable=\"false\"><title>{Draw.E(words)}</title>{bar}</a>"
            );
        }

        foreach (var (from, to, whom) in covers)
        {
            svg.Append(
                $"<g><title>{Draw.E($"covers {whom}, {clock.Short(from)} to {clock.Short(to)}")}</title>"
                    + $"{Bar(from, to, "var(--card)", " stroke=\"var(--dusk)\" stroke-width=\"1.5\"")}</g>"
            );
        }

        foreach (var leave in leaves.Where(l => l.From < end && l.To > begin))
        {
            Leave(svg, leave);
        }

        return new HtmlString(svg.Append(NowLine()).Append("</svg>").ToString());
    }

    /// <summary>The gaps of a team, beneath its people: the times in which nobody is on duty.</summary>
    public HtmlString Gaps(IReadOnlyList<(Instant From, Instant To)> gaps, string label)
    {
        var svg = new StringBuilder($"<svg class=\"wk\" width=\"100%\" height=\"18\" role=\"img\" aria-label=\"").Append(Draw.E(label)).Append("\">");
        foreach (var (from, to) in gaps)
        {
            var (x, w) = (X(from), X(to) - X(from));
            svg.Append(
                $"<g><title>{Draw.E($"nobody from {clock.Short(from)} to {clock.Short(to)}")}</title><rect x=\"{P(x)}\" y=\"2\" width=\"{P(w)}\" "
                    + $"height=\"13\" fill=\"var(--flare-wash)\"/><line x1=\"{P(x)}\" x2=\"{P(x + w)}\" y1=\"8.5\" y2=\"8.5\" stroke=\"var(--flare)\" "
                    + "stroke-width=\"1.5\"/></g>"
            );
        }

        return new HtmlString(svg.Append(NowLine()).Append("</svg>").ToString());
    }

    /// <summary>The times of the week that no duty covers.</summary>
    public IReadOnlyList<(Instant From, Instant To)> GapsOf(IEnumerable<Duty> duties)
    {
        var gaps = new List<(Instant, Instant)>();
        var at = begin;
        foreach (var duty in duties.Where(d => d.To > begin && d.From < end).OrderBy(d => d.From))
        {
            if (duty.From > at)
            {
                gaps.Add((at, duty.From));
            }

            at = Instant.Max(at, duty.To);
        }

        if (at < end)
        {
            gaps.Add((at, end));
        }

        return gaps;
    }

    private void Leave(StringBuilder svg, Leave leave)
    {
        var (from, to) = (Math.Max(0, X(leave.From)), Math.Min(100, X(leave.To)));
        var (tone, ink) = leave.Cover is null ? ("var(--flare)", "var(--flare-ink)") : ("var(--control)", "var(--muted)");
        var words = leave.Cover is null ? "no cover" : "leave";
        svg.Append(
            $"<g><title>{Draw.E($"away {clock.Short(leave.From)} to {clock.Short(leave.To)}, {(leave.Cover is null ? "nobody covers" : "covered")}")}</title>"
        );
        svg.Append($"<rect x=\"{P(from)}\" y=\"5\" width=\"{P(to - from)}\" height=\"17\" fill=\"var(--card)\"/>");
        svg.Append($"<rect x=\"{P(from)}\" y=\"5\" width=\"{P(to - from)}\" height=\"17\" fill=\"url(#hatch-{(leave.Cover is null ? "flare" : "grey")})\"/>");
        svg.Append(
            $"<line x1=\"{P(from)}\" x2=\"{P(from)}\" y1=\"8\" y2=\"19\" stroke=\"{tone}\" stroke-width=\"2\"/><line x1=\"{P(to)}\" x2=\"{P(to)}\" "
                + $"y1=\"8\" y2=\"19\" stroke=\"{tone}\" stroke-width=\"2\"/>"
        );
        svg.Append(
            $"<text x=\"{P((from + to) / 2)}\" y=\"18\" text-anchor=\"middle\" font-size=\"12\" fill=\"{ink}\" stroke=\"var(--card)\" "
                + $"stroke-width=\"4\" paint-order=\"stroke\"{(leave.Cover is null ? " font-weight=\"640\"" : "")}>{words}</text></g>"
        );
    }

    private string QuietMarks(Duty duty, IReadOnlyList<WeeklySpan> quiet)
    {
        var marks = new StringBuilder();
        for (var at = duty.From; quiet.Count > 0 && at < duty.To; at += Duration.FromMinutes(30))
        {
            if (WeeklySpan.Until(quiet, at, clock.Zone) is { } until)
            {
                var to = Instant.Min(until, duty.To);
                marks.Append($"<rect x=\"{P(X(at))}\" y=\"11\" width=\"{P(Math.Max(.3, X(to) - X(at)))}\" height=\"5\" fill=\"var(--card)\"/>");
                at = Instant.Max(at, until - Duration.FromMinutes(30));
            }
        }

        return marks.ToString();
    }

    private static void Grid(StringBuilder svg)
    {
        for (var day = 0; day <= 7; day++)
        {
            svg.Append($"<line x1=\"{P(day * 100 / 7.0)}\" x2=\"{P(day * 100 / 7.0)}\" y1=\"0\" y2=\"{RowHeight}\" stroke=\"var(--hair-soft)\"/>");
        }
    }

    private string Bar(Instant from, Instant to, string fill, string more)
    {
        var (x, stop) = (Math.Max(0, X(from)), Math.Min(100, X(to)));
        return stop <= x ? "" : $"<rect x=\"{P(x)}\" y=\"8\" width=\"{P(stop - x)}\" height=\"11\" rx=\"2\" fill=\"{fill}\"{more}/>";
    }

    private string NowLine() =>
        begin <= clock.Now && clock.Now < end ? $"<line x1=\"{P(X(clock.Now))}\" x2=\"{P(X(clock.Now))}\" y1=\"0\" y2=\"100%\" stroke=\"var(--ink)\"/>" : "";

    // By the wall clock: a day is a seventh, also on the two days that are longer or shorter.
    private double X(Instant at)
    {
        var local = at.InZone(clock.Zone).LocalDateTime;
        return (Period.DaysBetween(monday, local.Date) + (local.TimeOfDay.NanosecondOfDay / (double)NodaConstants.NanosecondsPerDay)) * 100 / 7;
    }

    private string Wall(Instant at) => DeskTime.Field.Format(at.InZone(clock.Zone).LocalDateTime);

    private static string P(double value) => Draw.N(value) + "%";
}
