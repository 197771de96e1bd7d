using System.Globalization;
using System.Text;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Web.Pages.Shared;
using static Sirena.Web.Pages.Shared.Draw;

namespace Sirena.Web.Pages.Watch;

/// <summary>Draws fuses on a shared time axis, as SVG.</summary>
/// <param name="now">The moment.</param>
/// <param name="back">How far the axis goes back.</param>
/// <param name="ahead">How far it goes ahead.</param>
/// <param name="clock">For times.</param>
public sealed class FuseDrawing(Instant now, Duration back, Duration ahead, DeskTime clock)
{
    /// <summary>The drawing's width in pixels.</summary>
    public const double Width = 622;

    private const string Ink = "var(--ink)";
    private const string Muted = "var(--muted)";

    /// <summary>Where an instant lies, clamped to the axis.</summary>
    public double X(Instant at) => Math.Clamp((at - (now - back)).TotalSeconds / (back + ahead).TotalSeconds, 0, 1) * (Width - 28) + 12;

    /// <summary>The axis with its hours and minutes, black and white by turns like a chart's border.</summary>
    public string Axis()
    {
        var step = (back + ahead).TotalMinutes switch
        {
            <= 45 => 5,
            <= 90 => 10,
            _ => 30,
        };
        var svg = new StringBuilder();
        var first = now.InZone(clock.Zone);
        var minute = first.LocalDateTime.Date.At(new LocalTime(first.Hour, 0)).PlusHours(-(int)Math.Ceiling(back.TotalHours));
        for (var i = 0; i < 300; i++, minute = minute.PlusMinutes(step))
        {
            var at = minute.InZoneLeniently(clock.Zone).ToInstant();
            if (at + Duration.FromMinutes(step) < now - back)
            {
                continue;
            }

            if (at > now + ahead)
            {
                break;
            }

            var (x, to) = (X(at), X(at + Duration.FromMinutes(step)));
            svg.Append(
                $"<rect x=\"{N(x)}\" y=\"28\" width=\"{N(to - x)}\" height=\"5\" fill=\"{(minute.Minute / step % 2 == 0 ? Ink : "var(--card)")}\" "
                    + $"stroke=\"{Ink}\" stroke-width=\".8\"/>"
            );
            if (at >= now - back && x > 20 && x < Width - 20 && Math.Abs(x - X(now)) > 40)
            {
                svg.Append(
                    $"<text x=\"{N(x)}\" y=\"23\" font-size=\"12\" text-anchor=\"middle\" "
                        + $"fill=\"{Muted}\">{minute.ToString("HH:mm", CultureInfo.InvariantCulture)}</text>"
                );
            }
        }

        var here = X(now);
        return $"<svg width=\"{Width}\" height=\"34\" aria-hidden=\"true\">{svg}<rect x=\"{N(here - 24)}\" y=\"6\" width=\"48\" height=\"19\" rx=\"3\" "
            + $"fill=\"{Ink}\"/><path d=\"M{N(here - 5)} 24.500h10l-5 6z\" fill=\"{Ink}\"/><text x=\"{N(here)}\" y=\"20\" font-size=\"13\" "
            + "font-weight=\"620\" text-anchor=\"middle\" "
            + $"fill=\"var(--card)\">{now.InZone(clock.Zone).ToString("HH:mm", CultureInfo.InvariantCulture)}</text></svg>";
    }

    /// <summary>One fuse.</summary>
    /// <param name="fuse">The fuse.</param>
    /// <param name="label">What a screen reader says.</param>
    /// <param name="holder">The name of who has it, or <see langword="null"/>.</param>
    public string Draw(Fuse fuse, string label, string? holder)
    {
        var svg = new StringBuilder(
            $"<svg class=\"fz\" width=\"{Width}\" height=\"62\" viewBox=\"0 0 {Width} 62\" role=\"img\" aria-label=\"{E(label)}\"><path "
                + $"d=\"M{N(X(now))} 0v62\" stroke=\"{Ink}\" stroke-width=\"1\"/>"
        );
        var (begin, end) = (X(fuse.Begin), X(fuse.CutAt ?? fuse.BurntAt ?? now));
        if (fuse.Next is not null)
        {
            var last = fuse.Knots[^1].At;
            svg.Append($"<rect x=\"{N(end)}\" y=\"28.500\" width=\"{N(Math.Max(0, X(last) - end))}\" height=\"5\" rx=\"1\" fill=\"url(#cord)\"/>");
        }

        var heat = fuse.Heat(now);
        if (end <= X(now - back) + 6)
        {
            // All of it lies before what is shown.
            svg.Append($"<path d=\"M{N(end + 4)} 26l-6 5 6 5\" fill=\"none\" stroke=\"{Muted}\" stroke-width=\"1.5\"/>");
        }

        svg.Append(
            $"<rect x=\"{N(begin)}\" y=\"27.500\" width=\"{N(Math.Max(2, end - begin))}\" height=\"7\" rx=\"1.500\" "
                + $"fill=\"{(fuse.CutAt is not null ? "var(--glass-soft)" : $"url(#b-{heat.ToString().ToLowerInvariant()})")}\"/>"
        );
        Head(svg, fuse, heat, end, holder);
        if (end > X(now - back) + 6)
        {
            Knots(svg, fuse);
        }

        if (fuse.DueAt is { } due && due > now && due < now + ahead)
        {
            svg.Append(
                $"<path d=\"M{N(X(due))} 4v54\" stroke=\"{Ink}\" stroke-width=\"1.2\" stroke-dasharray=\"2 3\"/><text x=\"{N(X(due) - 4)}\" y=\"57\" "
                    + $"font-size=\"12\" text-anchor=\"end\" fill=\"{Ink}\">due</text>"
            );
        }

        return svg.Append("</svg>").ToString();
    }

    private void Head(StringBuilder svg, Fuse fuse, FuseHeat heat, double x, string? holder)
    {
        if (fuse.CutAt is { } cut)
        {
            svg.Append($"<path d=\"M{N(x - 1)} 40l5-18M{N(x + 5)} 40l5-18\" stroke=\"{Ink}\" stroke-width=\"1.7\" stroke-linecap=\"round\"/>");
            var words = $"{holder} has it, {clock.Short(cut)}";
            var left = x + 24 + (words.Length * 7) > Width;
            svg.Append(
                $"<text x=\"{N(left ? Width - 4 : x + 18)}\" y=\"{(left ? 18 : 35.5)}\" font-size=\"13\" font-weight=\"620\" "
                    + $"fill=\"var(--glass-ink)\"{(left ? " text-anchor=\"end\"" : "")}>{E(words)}</text>"
            );
            return;
        }

        svg.Append(Tip(x, 31, heat));
        if (fuse.BurntAt is { } burnt)
        {
            // In one line with the tip: the names stand above it, the marks below, and both may reach this far.
            svg.Append(
                $"<text x=\"{N(x + 14)}\" y=\"35.500\" font-size=\"13\" font-weight=\"620\" fill=\"var(--flare-ink)\">Burnt out "
                    + $"{E(clock.Short(burnt))}<tspan font-size=\"12\" font-weight=\"400\" fill=\"{Muted}\">, nobody answered</tspan></text>"
            );
        }
    }

    private void Knots(StringBuilder svg, Fuse fuse)
    {
        var free = double.NegativeInfinity;
        FuseKnot[] knots = [.. fuse.Knots.Where(k => k.Fired || fuse.Next is not null)];
        for (var i = 0; i < knots.Length; i++)
        {
            var (knot, x) = (knots[i], X(knots[i].At));
            svg.Append(
                knot.Fired
                    ? $"<rect x=\"{N(x - 4.4)}\" y=\"24.600\" width=\"8.800\" height=\"12.800\" rx=\"3\" fill=\"var(--card)\" stroke=\"{Ink}\" "
                        + $"stroke-width=\"1.7\"/><path d=\"M{N(x - 2.6)} 33.600l5.200-5.200\" stroke=\"{Ink}\" stroke-width=\"1.3\"/>"
                    : $"<rect x=\"{N(x - 4.4)}\" y=\"24.600\" width=\"8.800\" height=\"12.800\" rx=\"3\" fill=\"var(--card)\" "
                        + $"stroke=\"{(knot == fuse.Next ? Ink : "var(--control)")}\" "
                        + $"stroke-width=\"1.7\"{(knot == fuse.Next ? " stroke-dasharray=\"3 1.500\"" : "")}/>"
            );
            // A name has the room up to the next knot; the last one may reach back over what is left of it.
            var last = i + 1 == knots.Length;
            var letters = last ? 22 : (int)((X(knots[i + 1].At) - x - 4) / 6.6);
            var words =
                knot.Names.Length <= letters ? knot.Names
                : letters >= 4 ? knot.Names[..Math.Min(letters - 1, knot.Names.Length)] + "…"
                : "";
            var at = last ? Math.Min(x - 4, Width - (words.Length * 6.6)) : x - 4;
            if (words.Length > 0 && at >= free)
            {
                free = at + (words.Length * 6.2);
                svg.Append(
                    $"<text x=\"{N(at)}\" y=\"18\" font-size=\"12\" "
                        + $"fill=\"{(knot.Fired || knot == fuse.Next ? Ink : Muted)}\"{(knot == fuse.Next ? " font-weight=\"620\"" : "")}>{E(words)}</text>"
                );
            }

            if (knot == fuse.Next && knot.At > now)
            {
                svg.Append(
                    $"<text x=\"{N(Math.Min(x - 4, Width - 60))}\" y=\"53\" font-size=\"12.500\" font-weight=\"620\" fill=\"{Tone(fuse.Heat(now))}\" "
                        + $"data-until=\"{knot.At.ToUnixTimeMilliseconds()}\">in {E((knot.At - now).InWords())}</text>"
                );
            }

            var mark = x - 4;
            var room = i + 1 < knots.Length ? (int)((X(knots[i + 1].At) - x) / 25) : 6;
            foreach (var m in knot.Marks.Take(Math.Clamp(room, 1, 6)))
            {
                svg.Append(
                    $"<use href=\"/img/marks.svg#{m.Channel.Traits().Glyph}\" x=\"{N(mark)}\" y=\"43\" width=\"11.500\" height=\"11.500\" "
                        + $"color=\"{Muted}\"/><use href=\"/img/marks.svg#m-{MarkOf(m.State, m.Answered).Id}\" class=\"mk "
                        + $"m-{MarkOf(m.State, m.Answered).Id}\" x=\"{N(mark + 12)}\" y=\"43.500\" width=\"10.500\" height=\"10.500\"/>"
                );
                mark += 25;
            }
        }
    }

    /// <summary>The burning tip, which says how soon the next step comes.</summary>
    internal static string Tip(double x, double y, FuseHeat heat) =>
        heat switch
        {
            FuseHeat.Far => $"<circle cx=\"{N(x)}\" cy=\"{N(y)}\" r=\"4.6\" fill=\"var(--card)\" stroke=\"var(--glass)\" stroke-width=\"2.4\"/>",
            FuseHeat.Near => $"<path transform=\"translate({N(x)} {N(y)})\" d=\"M0-8 2.100-2.100 8 0 2.100 2.100 0 8-2.100 2.100-8 0-2.100-2.100z\" "
                + "fill=\"var(--brass)\" stroke=\"var(--card)\" stroke-width=\"1.4\" paint-order=\"stroke\"/>",
            _ => $"<path transform=\"translate({N(x)} {N(y)})\" d=\"M0-9.500 1.600-3.900 6.700-6.700 3.900-1.600 9.500 0 3.900 1.600 6.700 6.700 1.600 "
                + "3.900 0 9.500-1.600 3.900-6.700 6.700-3.900 1.600-9.500 0-3.900-1.600-6.700-6.700-1.600-3.900z\" fill=\"var(--flare)\" "
                + "stroke=\"var(--card)\" stroke-width=\"1.4\" paint-order=\"stroke\"/>",
        };

    /// <summary>The colour of words about the next step.</summary>
    internal static string Tone(FuseHeat heat) =>
        heat switch
        {
            FuseHeat.Hot => "var(--flare-ink)",
            FuseHeat.Near => "var(--brass-ink)",
            _ => "var(--glass-ink)",
        };
}
