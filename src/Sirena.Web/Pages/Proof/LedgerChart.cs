using System.Globalization;
using System.Text;
using NodaTime;
using Sirena.Web.Pages.Shared;
using static Sirena.Web.Pages.Shared.Draw;

namespace Sirena.Web.Pages.Proof;

/// <summary>Deliveries over the period as bars; those that did not arrive stand above as diamonds.</summary>
public static class LedgerChart
{
    /// <summary>Draws it.</summary>
    public static string Draw(IReadOnlyList<(int All, int Bad)> slots, Instant from, Duration slot, DeskTime clock)
    {
        const double width = 520,
            height = 46,
            top = 24;
        var most = Math.Max(4, slots.Max(s => s.All));
        var step = width / slots.Count;
        var svg = new StringBuilder();
        svg.Append(
            "<text x=\"0\" y=\"11\" font-size=\"12\" fill=\"var(--muted)\">Deliveries "
                + $"{(slot < Duration.FromHours(1) ? "per half hour" : slot < Duration.FromDays(1) ? "per 6 hours" : "per day")}</text>"
        );
        svg.Append(
            "<path d=\"M190 7l4.5-4.5L199 7l-4.5 4.5z\" fill=\"var(--flare)\"/><text x=\"204\" y=\"11\" font-size=\"12\" fill=\"var(--muted)\">did not "
                + "arrive</text>"
        );
        svg.Append(
            $"<path d=\"M0 {N(top + height + .5)}H{width}\" stroke=\"var(--ink)\"/><text x=\"{width + 6}\" y=\"{N(top + 5)}\" font-size=\"12\" "
                + $"fill=\"var(--muted)\">{most}</text>"
        );
        for (var i = 0; i < slots.Count; i++)
        {
            var (all, bad) = slots[i];
            if (all > 0)
            {
                var h = Math.Max(1.5, height * all / most);
                svg.Append($"<rect x=\"{N((i * step) + 1)}\" y=\"{N(top + height - h)}\" width=\"{N(step - 2)}\" height=\"{N(h)}\" fill=\"var(--cover3)\"/>");
                if (bad > 0)
                {
                    svg.Append($"<path d=\"M{N(((i + .5) * step) - 4)} {N(top + height - h - 6)}l4-4 4 4-4 4z\" fill=\"var(--flare)\"/>");
                }
            }

            if (i % Math.Max(1, slots.Count / 6) == 0)
            {
                var at = (from + (slot * i)).InZone(clock.Zone);
                svg.Append(
                    $"<text x=\"{N(i * step)}\" y=\"{N(top + height + 15)}\" font-size=\"12\" "
                        + $"fill=\"var(--muted)\">{at.ToString(slot < Duration.FromHours(1) ? "HH:mm" : "d MMM", CultureInfo.InvariantCulture)}</text>"
                );
            }
        }

        return "<svg width=\"100%\" height=\"90\" viewBox=\"0 0 560 90\" preserveAspectRatio=\"xMinYMin meet\" role=\"img\" "
            + $"aria-label=\"{slots.Sum(s => s.All)} deliveries over the period, {slots.Sum(s => s.Bad)} did not arrive\">{svg}</svg>";
    }
}
