using System.Globalization;
using System.Text;
using NodaTime;
using static Sirena.Web.Pages.Shared.Draw;

namespace Sirena.Web.Pages.Access;

/// <summary>The border of the sign-in sheet: as on a chart, but its scale is the day. Drawn in parts of the window, so that it fits any.</summary>
public static class DayFrame
{
    private const double Left = 3.2,
        Right = 96.8,
        Top = 5,
        Bottom = 95;

    /// <summary>The border with the hours at the foot and now marked.</summary>
    public static string Draw(ZonedDateTime local, string zone)
    {
        var now = (local.Hour + (local.Minute / 60.0)) / 24;
        var svg = new StringBuilder();
        svg.Append($"<rect x=\"{Left}%\" y=\"{Top}%\" width=\"{N(Right - Left)}%\" height=\"{N(Bottom - Top)}%\" fill=\"none\" stroke=\"var(--ink)\"/>");
        for (var hour = 0; hour < 24; hour += 2)
        {
            var (x, width) = (At(hour / 24.0), (Right - Left) / 24);
            svg.Append($"<rect x=\"{N(x)}%\" y=\"{Top}%\" width=\"{N(width)}%\" height=\"8\" fill=\"var(--ink)\"/>");
            svg.Append($"<rect x=\"{N(x)}%\" y=\"{Bottom}%\" width=\"{N(width)}%\" height=\"8\" fill=\"var(--ink)\"/>");
        }

        for (var i = 0; i < 16; i += 2)
        {
            var (y, height) = (Top + ((Bottom - Top) * i / 16), (Bottom - Top) / 16);
            svg.Append($"<rect x=\"{Left}%\" y=\"{N(y)}%\" width=\"8\" height=\"{N(height)}%\" fill=\"var(--ink)\"/>");
            svg.Append($"<rect x=\"{Right}%\" y=\"{N(y + height)}%\" width=\"8\" height=\"{N(height)}%\" transform=\"translate(-8 0)\" fill=\"var(--ink)\"/>");
        }

        for (var hour = 0; hour <= 24; hour += 3)
        {
            if (Math.Abs((hour / 24.0) - now) > 0.045)
            {
                svg.Append(
                    $"<text x=\"{N(At(hour / 24.0))}%\" y=\"{Bottom}%\" dy=\"25\" text-anchor=\"middle\" font-size=\"12\" "
                        + $"fill=\"var(--muted)\">{hour:00}</text>"
                );
            }
        }

        svg.Append(
                $"<svg x=\"{N(At(now))}%\" y=\"{Bottom}%\" overflow=\"visible\"><path d=\"M-6 11h12l-6-8z\" fill=\"var(--ink)\"/><rect x=\"-24\" "
                    + "y=\"11\" width=\"48\" height=\"18\" rx=\"3\" fill=\"var(--ink)\"/>"
            )
            .Append(
                "<text y=\"24.5\" text-anchor=\"middle\" font-size=\"13\" font-weight=\"660\" "
                    + $"fill=\"var(--card)\">{local.ToString("HH:mm", CultureInfo.InvariantCulture)}</text></svg>"
            );
        var place = zone[(zone.LastIndexOf('/') + 1)..].Replace('_', ' ');
        return svg.Append(
                $"<text x=\"{N(Left + 2)}%\" y=\"{N(Bottom - 3)}%\" font-size=\"13\" "
                    + $"fill=\"var(--muted)\">{local.ToString("ddd d MMM", CultureInfo.InvariantCulture)}, {place} time</text>"
            )
            .ToString();
    }

    private static double At(double part) => Left + ((Right - Left) * part);
}
