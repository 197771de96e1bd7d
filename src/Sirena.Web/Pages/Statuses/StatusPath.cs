using System.Globalization;
using System.Text;
using Sirena.Core.Orders;
using Sirena.Engine.Orders;
using Sirena.Web.Pages.Shared;
using static Sirena.Web.Pages.Shared.Draw;

namespace Sirena.Web.Pages.Statuses;

/// <summary>
/// The path of orders through the statuses, drawn: onward lines as wide as what they carried, leaps above, ways back below, the cancelled along the foot.
/// </summary>
public static class StatusPath
{
    private const double Left = 58,
        Right = 1112,
        Box = 30;

    /// <summary>Draws it.</summary>
    /// <param name="statuses">All, in their usual order.</param>
    /// <param name="flow">What moved.</param>
    /// <param name="standing">How many orders stand in each now.</param>
    /// <param name="edited">The status in edit, or <see langword="null"/>.</param>
    public static string Draw(IReadOnlyList<Status> statuses, StatusFlow flow, IReadOnlyDictionary<string, int> standing, string? edited)
    {
        Status[] way = [.. statuses.Where(s => !s.Void)];
        Status[] off = [.. statuses.Where(s => s.Void)];
        var place = way.Select((s, i) => (s.Id, i)).ToDictionary(x => x.Id, x => x.i);
        double X(int i) => way.Length < 2 ? Left : Left + (i * (Right - Left) / (way.Length - 1));
        int Count(string from, string to) => flow.Moves.GetValueOrDefault((from, to));
        var moves = flow
            .Moves.Where(m => place.ContainsKey(m.Key.From) && place.ContainsKey(m.Key.To))
            .Select(m => (From: place[m.Key.From], To: place[m.Key.To], m.Value))
            .ToArray();
        var leaps = moves.Where(m => m.To > m.From + 1).OrderByDescending(m => m.Value).Take(6).OrderBy(m => m.To - m.From).ThenBy(m => m.From).ToArray();
        var backs = moves.Where(m => m.To < m.From).OrderByDescending(m => m.Value).Take(3).ToArray();
        var levels = Levels(leaps.Select(l => (l.From, l.To)));
        var y = 40 + (levels.DefaultIfEmpty(-1).Max() + 1) * 22.0;
        var below = y + 38 + (backs.Length * 18);
        var foot = below + 32;
        var svg = new StringBuilder();

        for (var i = 0; i + 1 < way.Length; i++)
        {
            var n = Count(way[i].Id, way[i + 1].Id);
            var (a, b) = (X(i) + (Box / 2), X(i + 1) - (Box / 2));
            svg.Append(
                n == 0
                    ? $"<path d=\"M{N(a)} {N(y)}H{N(b)}\" stroke=\"var(--hair-strong)\" stroke-width=\"1.3\" stroke-dasharray=\"1.5 4.5\"/>"
                    : $"<path d=\"M{N(a)} {N(y)}H{N(b)}\" stroke=\"var(--way)\" stroke-width=\"{Width(n)}\"/>"
            );
            if (n > 0)
            {
                svg.Append(Gap((a + b) / 2, y, n, "var(--ink)"));
            }
        }

        for (var i = 0; i < leaps.Length; i++)
        {
            var (from, to, n) = leaps[i];
            var (a, b, top) = (X(from), X(to), y - 45 - (levels[i] * 22) + 15);
            svg.Append(
                    $"<path d=\"M{N(a)} {N(y - 15)}C{N(a)} {N(top)} {N(a + 14)} {N(top)} {N(a + 34)} {N(top)}H{N(b - 34)}C{N(b - 14)} {N(top)} {N(b)} "
                        + $"{N(top)} {N(b)} {N(y - 15)}\" fill=\"none\" stroke=\"var(--way)\" stroke-width=\"{Width(n)}\"/>"
                )
                .Append(Gap((a + b) / 2, top, n, "var(--ink)"));
        }

        foreach (var end in off)
        {
            svg.Append($"<path d=\"M{N(Left)} {N(foot)}H{N(Right - 15)}\" stroke=\"var(--control)\" stroke-width=\"1.3\"/>");
            for (var i = 0; i < way.Length; i++)
            {
                if (Count(way[i].Id, end.Id) is > 0 and var n)
                {
                    svg.Append(
                            $"<path d=\"M{N(X(i))} {N(y + 44)}V{N(foot - 6)}Q{N(X(i))} {N(foot)} {N(X(i) + 6)} {N(foot)}\" fill=\"none\" "
                                + "stroke=\"var(--control)\" stroke-width=\"1.3\"/>"
                        )
                        .Append(Gap(X(i), foot - 20, n, "var(--muted)"));
                }
            }

            svg.Append(Station(end, Right, foot, standing, edited, aside: true, flow));
            foot += 40;
        }

        for (var i = 0; i < backs.Length; i++)
        {
            var (from, to, n) = backs[i];
            var (a, b, low) = (X(from) - 15, X(to) + 24, y + 56 + (i * 18));
            svg.Append(
                    $"<path d=\"M{N(a)} {N(y + 11)}H{N(a - 20)}Q{N(a - 30)} {N(y + 11)} {N(a - 30)} {N(y + 21)}V{N(low - 10)}Q{N(a - 30)} {N(low)} "
                        + $"{N(a - 40)} {N(low)}H{N(b + 36)}Q{N(b + 26)} {N(low)} {N(b + 26)} {N(low - 10)}V{N(y + 21)}Q{N(b + 26)} {N(y + 11)} "
                        + $"{N(b + 16)} {N(y + 11)}H{N(b)}\" fill=\"none\" stroke=\"var(--brass)\" stroke-width=\"1.8\" stroke-dasharray=\"5 "
                        + $"3\"/><path d=\"M{N(b)} {N(y + 6)}L{N(b - 9)} {N(y + 11)}L{N(b)} {N(y + 16)}z\" fill=\"var(--brass)\"/>"
                )
                .Append(
                    $"<rect x=\"{N(((a + b) / 2) - 42)}\" y=\"{N(low - 8)}\" width=\"84\" height=\"16\" fill=\"var(--card)\"/><text "
                        + $"x=\"{N((a + b) / 2)}\" y=\"{N(low + 4.5)}\" text-anchor=\"middle\" font-size=\"12.5\" fill=\"var(--brass-ink)\"><tspan "
                        + $"font-weight=\"660\">{n.ToString("#,##0", CultureInfo.InvariantCulture)}</tspan> went back</text>"
                );
        }

        for (var i = 0; i < way.Length; i++)
        {
            svg.Append(Station(way[i], X(i), y, standing, edited, aside: way[i].Closed && i == way.Length - 1, flow));
        }

        return $"<svg width=\"1216\" height=\"{N((off.Length > 0 ? foot - 40 : below) + 22)}\" role=\"group\" aria-label=\"How orders moved between "
            + $"statuses in 30 days\">{svg}</svg>";
    }

    private static string Station(Status s, double x, double y, IReadOnlyDictionary<string, int> standing, string? edited, bool aside, StatusFlow flow)
    {
        var n = s.Closed ? flow.Moves.Where(m => m.Key.To == s.Id).Sum(m => m.Value) : standing.GetValueOrDefault(s.Id);
        var words = n.ToString("#,##0", CultureInfo.InvariantCulture);
        var frame =
            s.Id == edited
                ? $"<rect x=\"{N(x - 19)}\" y=\"{N(y - 19)}\" width=\"38\" height=\"38\" rx=\"4\" fill=\"none\" stroke=\"var(--dusk)\" stroke-width=\"2\"/>"
                : "";
        var name = s.Name.Length > 18 ? s.Name[..17] + "…" : s.Name;
        var label = aside
            ? $"<text x=\"{N(x + 23)}\" y=\"{N(y - 1)}\" font-size=\"12.5\" fill=\"var(--ink)\">{E(name)}</text><text x=\"{N(x + 23)}\" "
                + $"y=\"{N(y + 14)}\" font-size=\"12.5\" font-weight=\"680\" fill=\"var(--ink)\">{words}</text>"
            : $"<rect x=\"{N(x - (name.Length + words.Length + 1) * 3.6)}\" y=\"{N(y + 20)}\" width=\"{N((name.Length + words.Length + 1) * 7.2)}\" "
                + $"height=\"17\" fill=\"var(--card)\"/><text x=\"{N(x)}\" y=\"{N(y + 33)}\" text-anchor=\"middle\" font-size=\"12.5\" "
                + $"fill=\"var(--ink)\">{E(name)} <tspan font-weight=\"680\">{words}</tspan></text>";
        return $"<a href=\"/orders/statuses?id={Uri.EscapeDataString(s.Id)}\"><title>{E(s.Name)}</title>{frame}<rect x=\"{N(x - 15)}\" "
            + $"y=\"{N(y - 15)}\" width=\"30\" height=\"30\" rx=\"3\" fill=\"var(--card)\" stroke=\"var(--ink)\" stroke-width=\"1.5\"/><use "
            + $"href=\"/img/marks.svg#s-{E(s.Mark)}\" x=\"{N(x - 9)}\" y=\"{N(y - 9)}\" width=\"18\" height=\"18\" class=\"st "
            + $"{Shared.Draw.ToneOf(s)}\"/>{label}</a>";
    }

    // Arches that overlap stand above one another.
    private static int[] Levels(IEnumerable<(int From, int To)> leaps)
    {
        var placed = new List<(int From, int To, int Level)>();
        foreach (var (from, to) in leaps)
        {
            var taken = placed.Where(p => p.From < to && from < p.To).Select(p => p.Level).ToHashSet();
            placed.Add((from, to, Enumerable.Range(0, 10).First(l => !taken.Contains(l))));
        }

        return [.. placed.Select(p => p.Level)];
    }

    private static string Gap(double x, double y, int n, string tone)
    {
        var words = n.ToString("#,##0", CultureInfo.InvariantCulture);
        var width = (words.Length * 7.6) + 8;
        return $"<rect x=\"{N(x - (width / 2))}\" y=\"{N(y - 8)}\" width=\"{N(width)}\" height=\"16\" fill=\"var(--card)\"/><text x=\"{N(x)}\" "
            + $"y=\"{N(y + 4.5)}\" text-anchor=\"middle\" font-size=\"12.5\" font-weight=\"600\" fill=\"{tone}\">{words}</text>";
    }

    private static string Width(int n) => N(Math.Min(10, 1 + (Math.Sqrt(n) / 4)));
}
