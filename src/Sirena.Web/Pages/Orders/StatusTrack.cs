using System.Text;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Web.Pages.Shared;
using static Sirena.Web.Pages.Shared.Draw;

namespace Sirena.Web.Pages.Orders;

/// <summary>The order's way through the statuses: passed, here, ahead.</summary>
public static class StatusTrack
{
    /// <summary>Draws it.</summary>
    /// <param name="path">The statuses in their usual order.</param>
    /// <param name="here">The place of the current one, or below 0.</param>
    /// <param name="reached">When each was first reached.</param>
    /// <param name="held">The order is on hold.</param>
    /// <param name="clock">For times.</param>
    public static string Draw(IReadOnlyList<Status> path, int here, IReadOnlyDictionary<string, Instant> reached, bool held, DeskTime clock)
    {
        const double step = 150,
            y = 12;
        double X(int i) => 62 + (i * step);
        var svg = new StringBuilder();
        if (path.Count > 1)
        {
            svg.Append($"<path d=\"M{N(X(0))} {y}H{N(X(path.Count - 1))}\" stroke=\"var(--hair-strong)\" stroke-width=\"3\" stroke-dasharray=\"1.5 4.5\"/>");
        }

        if (here > 0)
        {
            svg.Append($"<path d=\"M{N(X(0))} {y}H{N(X(here))}\" stroke=\"var(--ink)\" stroke-width=\"3\"/>");
        }

        for (var i = 0; i < path.Count; i++)
        {
            var known = reached.TryGetValue(path[i].Id, out var at);
            svg.Append(
                i == here
                    ? $"<rect x=\"{N(X(i) - 7)}\" y=\"{y - 7}\" width=\"14\" height=\"14\" fill=\"var(--card)\" stroke=\"var(--ink)\" stroke-width=\"2\"/>"
                        + (
                            held
                                ? $"<path d=\"M{N(X(i) - 2.3)} {y - 3}v6M{N(X(i) + 2.3)} {y - 3}v6\" stroke=\"var(--flare-ink)\" stroke-width=\"2\"/>"
                                : $"<rect x=\"{N(X(i) - 3)}\" y=\"{y - 3}\" width=\"6\" height=\"6\" fill=\"var(--ink)\"/>"
                        )
                : known && i < here ? $"<rect x=\"{N(X(i) - 5)}\" y=\"{y - 5}\" width=\"10\" height=\"10\" fill=\"var(--ink)\"/>"
                : $"<rect x=\"{N(X(i) - 4)}\" y=\"{y - 4}\" width=\"8\" height=\"8\" fill=\"var(--card)\" stroke=\"var(--control)\" stroke-width=\"1.4\"/>"
            );
            var tone =
                i == here && held ? "var(--flare-ink)"
                : i <= here && known ? "var(--ink)"
                : "var(--muted)";
            svg.Append(
                $"<text x=\"{N(X(i))}\" y=\"{y + 22}\" text-anchor=\"middle\" font-size=\"12.5\" font-weight=\"{(i == here ? 660 : 400)}\" "
                    + $"fill=\"{tone}\">{E(path[i].Name)}{(i == here && held ? ", held" : "")}"
                    + $"{(known ? $" <tspan fill=\"var(--muted)\" font-weight=\"400\">{clock.Short(at)}</tspan>" : "")}</text>"
            );
        }

        var now = here >= 0 ? path[here].Name : "unknown";
        return $"<svg width=\"{N(X(path.Count - 1) + 70)}\" height=\"40\" role=\"img\" aria-label=\"Status: {E(now)}{(held ? ", held" : "")}\">{svg}</svg>";
    }
}
