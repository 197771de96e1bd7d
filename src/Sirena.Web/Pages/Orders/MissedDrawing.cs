using System.Text;
using Microsoft.AspNetCore.Html;
using NodaTime;
using Sirena.Core;
using Sirena.Core.Sources;
using Sirena.Engine.Sources;
using Sirena.Web.Pages.Shared;
using Sirena.Web.Pages.Sources;

namespace Sirena.Web.Pages.Orders;

/// <summary>
/// The day beside what was not heard: what came every five minutes, the usual as a line, silences hatched with what was due, and beneath each difference at the
/// order system's own time.
/// </summary>
public static class MissedDrawing
{
    private const int Width = 1216;
    private const int Top = 26;
    private const int Height = 74;
    private const int Foot = Top + Height;

    /// <summary>Draws it.</summary>
    /// <param name="day">The day.</param>
    /// <param name="missed">The differences, with the order system's own time where its list says it.</param>
    /// <param name="clock">The moment.</param>
    public static HtmlString Of(MissedDay day, IReadOnlyList<(MissedOrder Order, Instant At)> missed, DeskTime clock)
    {
        var (begin, end) = Span(day, clock);
        double X(double hour) => (hour - begin) / (end - begin) * Width;
        double At(Instant at) => X(at < clock.Midnight ? begin : Math.Max(begin, DayDrawing.HourOf(at, clock)));
        var most = Math.Max(4, Math.Max(day.Counts.Max(), day.Usual.Length == 0 ? 0 : day.Usual.Max() / 12));
        string Y(double value) => Draw.N(Foot - (value / most * (Height - 8)));
        var text = new StringBuilder(
            $"<svg class=\"missd\" viewBox=\"0 0 {Width} {Foot + 42}\" role=\"img\" aria-label=\"{Draw.E(Spoken(day, missed, clock))}\">"
        );
        text.Append(
            "<defs><pattern id=\"due\" width=\"6\" height=\"6\" patternUnits=\"userSpaceOnUse\"><path d=\"M-1.5 7.5 7.5-1.5M-1.5 1.5 1.5-1.5M4.5 7.5 "
                + "7.5 4.5\" stroke=\"var(--flare)\" stroke-width=\"1.3\"/></pattern></defs>"
        );
        for (var hour = begin; hour <= end; hour++)
        {
            text.Append(
                $"<path d=\"M{Draw.N(X(hour))} {Top}V{Foot + 30}\" stroke=\"var(--hair-soft)\"/><text x=\"{Draw.N(X(hour))}\" y=\"14\" "
                    + $"text-anchor=\"{(hour == begin ? "start" : hour == end ? "end" : "middle")}\" font-size=\"12\" "
                    + $"fill=\"var(--muted)\">{hour % 24:00}:00</text>"
            );
        }

        foreach (var (silence, i) in day.Silences.Select((s, i) => (s, i)))
        {
            Silence(
                text,
                silence,
                At(silence.From),
                At(silence.To),
                Y(Math.Min(most, Math.Max(.6, silence.Expected / Math.Max(1, (silence.To - silence.From).TotalMinutes / 5)))),
                i
            );
        }

        var part = X(begin + (1 / 12.0)) - 1.5;
        for (var i = 0; i < day.Counts.Length; i++)
        {
            if (day.Counts[i] > 0 && i / 12.0 >= begin)
            {
                text.Append($"<path d=\"M{Draw.N(X(i / 12.0))} {Foot}V{Y(day.Counts[i])}h{Draw.N(part)}V{Foot}z\" fill=\"var(--bar)\"/>");
            }
        }

        if (day.Usual.Length > 0)
        {
            var points = Enumerable.Range(begin, end - begin).Select(h => $"{Draw.N(X(h + .5))} {Y(day.Usual[h] / 12)}");
            text.Append($"<path d=\"M0 {Y(day.Usual[begin] / 12)}L{string.Join('L', points)}\" fill=\"none\" stroke=\"var(--ink)\" stroke-width=\"1.3\"/>");
        }

        text.Append($"<path d=\"M0 {Foot}.5H{Width}\" stroke=\"var(--control)\"/>");
        Marks(text, day, missed, At);
        var now = At(clock.Now);
        text.Append($"<path d=\"M{Draw.N(now)} 20V{Foot + 30}\" stroke=\"var(--ink)\"/><path d=\"M{Draw.N(now - 4)} 16h8l-4 6z\" fill=\"var(--ink)\"/>");
        return new HtmlString(text.Append("</svg>").ToString());
    }

    // From the hour before the first event on to the hour after now, at least six hours.
    private static (int Begin, int End) Span(MissedDay day, DeskTime clock)
    {
        var now = DayDrawing.HourOf(clock.Now, clock);
        var end = Math.Min(24, (int)now + 1);
        var first = Array.FindIndex(day.Counts, c => c > 0) is var at and >= 0 ? at / 12 : end;
        return (Math.Max(0, Math.Min(first, end - 6)), Math.Max(end, 6));
    }

    private static void Silence(StringBuilder text, SilentSpan silence, double from, double to, string top, int number)
    {
        text.Append($"<rect x=\"{Draw.N(from)}\" y=\"{Top}\" width=\"{Draw.N(Math.Max(3, to - from))}\" height=\"{Height + 30}\" fill=\"var(--flare-wash)\"/>");
        text.Append($"<path d=\"M{Draw.N(from)} {Foot}V{top}H{Draw.N(Math.Max(from + 3, to))}V{Foot}z\" fill=\"url(#due)\"/>");
        if (to - from > 60 || number == 0)
        {
            var (x, anchor) =
                to - from > 120 ? ((from + to) / 2, "middle")
                : to > Width - 130 ? (from - 6, "end")
                : (to + 6, "start");
            text.Append(
                $"<text x=\"{Draw.N(x)}\" y=\"{Top + 14}\" text-anchor=\"{anchor}\" font-size=\"12\" font-weight=\"640\" "
                    + $"fill=\"var(--flare-ink)\">silent for {Draw.E((silence.To - silence.From).InWords())}</text>"
            );
            if (silence.Expected >= 1)
            {
                text.Append(
                    $"<text x=\"{Draw.N(x)}\" y=\"{Top + 29}\" text-anchor=\"{anchor}\" font-size=\"12\" fill=\"var(--flare-ink)\">about "
                        + $"{SourceWords.Round(silence.Expected)} expected</text>"
                );
            }
        }
    }

    // Filled inside a silence; hollow with its number outside one, as long as the number has room.
    private static void Marks(StringBuilder text, MissedDay day, IReadOnlyList<(MissedOrder Order, Instant At)> missed, Func<Instant, double> x)
    {
        var free = 0.0;
        foreach (var (order, at) in missed.OrderBy(m => m.At))
        {
            var left = x(at);
            var inside = day.SilenceAt(at) is not null;
            var name = !inside && left - (order.Order.Length * 7.3) - 12 > free;
            text.Append($"<a href=\"#m-{Draw.E(order.Order)}\" aria-hidden=\"true\" tabindex=\"-1\"><title>{Draw.E(order.Order)}</title>");
            text.Append(
                inside
                    ? $"<rect x=\"{Draw.N(left - 3)}\" y=\"{Foot + 12}\" width=\"6\" height=\"8\" fill=\"var(--flare)\"/>"
                    : $"<rect x=\"{Draw.N(left - 3.5)}\" y=\"{Foot + 11.5}\" width=\"7\" height=\"9\" fill=\"var(--card)\" stroke=\"var(--brass)\" "
                        + "stroke-width=\"1.5\"/>"
            );
            text.Append(
                name
                    ? $"<text x=\"{Draw.N(left - 9)}\" y=\"{Foot + 20}\" text-anchor=\"end\" font-size=\"12\" font-weight=\"600\" class=\"m\" "
                        + $"fill=\"var(--brass-ink)\">{Draw.E(order.Order)}</text></a>"
                    : "</a>"
            );
            free = left + 8;
        }
    }

    private static string Spoken(MissedDay day, IReadOnlyList<(MissedOrder Order, Instant At)> missed, DeskTime clock) =>
        $"{day.Counts.Sum()} events of {day.Source.Name} came "
        + $"today.{string.Concat(day.Silences.Select(s => $" Silent from {clock.Short(s.From)} {(s.Lasts ? "on" : $"to {clock.Short(s.To)}")}."))}"
        + $"{(missed.Count > 0 ? $" {missed.Count(m => day.SilenceAt(m.At) is not null)} of {missed.Count} differences fall into a silence." : "")}";
}
