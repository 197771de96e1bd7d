using System.Text;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Ladders;
using Sirena.Web.Pages.Shared;
using static Sirena.Web.Pages.Shared.Draw;
using static Sirena.Web.Pages.Watch.FuseDrawing;

namespace Sirena.Web.Pages.Watch;

/// <summary>Draws one fuse over the full width of a phone, without an axis: from the raising to its last step, names above, times below.</summary>
/// <param name="clock">The moment, and times in the business's zone.</param>
public sealed class PhoneFuse(DeskTime clock)
{
    private const double Width = 350;
    private const double Left = 8;
    private const double Right = 342;
    private const string Ink = "var(--ink)";
    private const string Muted = "var(--muted)";

    /// <summary>The drawing.</summary>
    /// <param name="fuse">The fuse.</param>
    /// <param name="label">What a screen reader says.</param>
    public string Draw(Fuse fuse, string label)
    {
        var now = clock.Now;
        var (head, burns) = (fuse.CutAt ?? fuse.BurntAt ?? now, fuse.Next is not null);
        FuseKnot[] knots = [.. fuse.Knots.Where(k => k.Fired || burns || fuse.CutAt is not null)];
        var end = Instant.Max(head, knots.Length > 0 ? knots[^1].At : head);
        var whole = Math.Max(60, (end - fuse.Begin).TotalSeconds);
        double X(Instant at) => Left + (Math.Clamp((at - fuse.Begin).TotalSeconds / whole, 0, 1) * (Right - Left));

        var (x, heat) = (X(head), fuse.Heat(now));
        var svg = new StringBuilder($"<svg class=\"pfz\" viewBox=\"0 0 {Width} 56\" role=\"img\" aria-label=\"{E(label)}\">");
        svg.Append(
            $"<rect x=\"{N(x)}\" y=\"25.500\" width=\"{N(Math.Max(0, Right - x))}\" height=\"5\" rx=\"1\" "
                + $"fill=\"url(#cord)\"{(fuse.CutAt is null ? "" : " opacity=\".5\"")}/>"
        );
        svg.Append(
            $"<rect x=\"{Left}\" y=\"24.500\" width=\"{N(Math.Max(2, x - Left))}\" height=\"7\" rx=\"1.500\" "
                + $"fill=\"{(fuse.CutAt is not null ? "var(--glass-soft)" : $"url(#b-{heat.ToString().ToLowerInvariant()})")}\"/>"
        );
        Knots(svg, fuse, knots, X);
        if (fuse.CutAt is { } cut)
        {
            svg.Append($"<path d=\"M{N(x - 2)} 37l5-18M{N(x + 4)} 37l5-18\" stroke=\"{Ink}\" stroke-width=\"1.7\" stroke-linecap=\"round\"/>");
            Words(svg, x - 4, 50, $"{clock.Language.Word("taken")} {clock.Short(cut)}", "var(--glass-ink)", bold: true);
        }
        else if (fuse.BurntAt is { } burnt)
        {
            svg.Append(Tip(x, 28, FuseHeat.Hot));
            Words(svg, x, 50, $"{clock.Language.Word("burnt out")} {clock.Short(burnt)}", "var(--flare-ink)", bold: true);
        }
        else
        {
            svg.Append(Tip(x, 28, heat));
        }

        return svg.Append("</svg>").ToString();
    }

    private void Knots(StringBuilder svg, Fuse fuse, FuseKnot[] knots, Func<Instant, double> place)
    {
        var (names, times) = (double.NegativeInfinity, double.NegativeInfinity);
        for (var i = 0; i < knots.Length; i++)
        {
            var (knot, x) = (knots[i], place(knots[i].At));
            var (next, last) = (knot == fuse.Next, i > 0 && i + 1 == knots.Length);
            svg.Append(
                knot.Fired
                    ? $"<rect x=\"{N(x - 5)}\" y=\"21\" width=\"10\" height=\"14\" rx=\"3\" fill=\"var(--card)\" stroke=\"{Ink}\" "
                        + $"stroke-width=\"1.8\"/><path d=\"M{N(x - 2.8)} 30.800l5.600-5.600\" stroke=\"{Ink}\" stroke-width=\"1.4\"/>"
                    : $"<rect x=\"{N(x - 5)}\" y=\"21\" width=\"10\" height=\"14\" rx=\"3\" fill=\"var(--card)\" "
                        + $"stroke=\"{(next ? Ink : "var(--control)")}\" stroke-width=\"1.7\"{(next ? " stroke-dasharray=\"3 1.500\"" : "")}/>"
            );

            // A name has the room up to the next knot's; what does not fit is left to the sentence below.
            var room = last ? 20 : Math.Max(0, (int)(((i + 1 < knots.Length ? place(knots[i + 1].At) : Right) - x - 6) / 6.6));
            var words =
                knot.Names.Length <= room ? knot.Names
                : room >= 5 ? knot.Names[..(room - 1)] + "…"
                : "";
            var at = last ? Math.Max(names, Right + 4 - (words.Length * 6.4)) : x - 5;
            if (words.Length > 0 && at >= names)
            {
                names = at + (words.Length * 6.4) + 4;
                Words(svg, last ? Right + 4 : at, 13, words, knot.Fired || next ? Ink : Muted, next || words == clock.Language.Word("you"), last);
            }

            var time = next ? clock.Until(knot.At) : clock.Short(knot.At);
            var below = last ? Right + 4 - (time.Length * 6.6) : x - 5;
            if (
                below >= times
                && (fuse.CutAt is null || Math.Abs(place(fuse.CutAt.Value) - x) > (last ? 130 : 90))
                && (fuse.BurntAt is null || Math.Abs(place(fuse.BurntAt.Value) - x) > 110)
            )
            {
                times = below + (time.Length * 6.6) + 4;
                var colour = !next ? Muted : Tone(fuse.Heat(clock.Now));
                Words(svg, last ? Right + 4 : below, 50, time, colour, next, last, next ? knot.At : null);
            }
        }
    }

    private void Words(StringBuilder svg, double x, double y, string words, string colour, bool bold = false, bool end = false, Instant? until = null) =>
        svg.Append(
            $"<text x=\"{N(Math.Clamp(x, 2, Width - 2))}\" y=\"{y}\" font-size=\"12.500\" "
                + $"fill=\"{colour}\"{(bold ? " font-weight=\"620\"" : "")}{(end || x > Width - 60 ? " text-anchor=\"end\"" : "")}"
                + $"{(until is { } at ? $" data-until=\"{at.ToUnixTimeMilliseconds()}\" data-in=\"{clock.Language.Word("in {0}")}\"" : "")}>{E(words)}</text>"
        );
}
