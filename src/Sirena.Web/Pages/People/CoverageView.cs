using System.Globalization;
using System.Text;
using Microsoft.AspNetCore.Html;
using NodaTime;
using Sirena.Core.Insight;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Engine;
using Sirena.Engine.People;
using Sirena.Web.Pages.Shared;

namespace Sirena.Web.Pages.People;

/// <summary>A week's coverage of a rule or a team, worked out and drawn as a grid of hours.</summary>
public sealed record CoverageView(string Name, string? Team, Coverage Coverage, Surroundings Around, DeskTime Clock, bool ForOrder)
{
    /// <summary>Works it out for a rule: each case's first telling, without an order.</summary>
    public static CoverageView Of(Rule rule, Surroundings around, LocalDate monday, DeskTime clock)
    {
        var one = rule.Cases.FirstOrDefault(c => c.Tell.Length > 0) ?? rule.Cases[0];
        var view = Of(
            rule.Name,
            one.Tell.OfType<DutyRecipient>().FirstOrDefault()?.Team,
            one.Tell,
            one.By,
            rule.Urgency,
            rule.When[0],
            rule.Id,
            rule.MayOptOut,
            around,
            monday,
            clock
        );
        return view with { ForOrder = one.Tell.Any(t => t is RoleRecipient) };
    }

    /// <summary>Works it out for whoever of a team is on duty, by mail.</summary>
    public static CoverageView Of(Team team, Surroundings around, LocalDate monday, DeskTime clock) =>
        Of(team.Name, team.Id, [new DutyRecipient(team.Id)], null, Urgency.Urgent, "order.placed", null, false, around, monday, clock);

    private static CoverageView Of(
        string name,
        string? team,
        IReadOnlyList<Recipient> tell,
        Ways? by,
        Urgency urgency,
        string type,
        string? rule,
        bool mayOptOut,
        Surroundings around,
        LocalDate monday,
        DeskTime clock
    )
    {
        var who = new WhoIsTold(around.Staff, around.Business, WhoDesk.FactsOf(around, type, "{}", clock.Now));
        var question = new TellQuestion(tell, by, urgency, type, rule, mayOptOut, clock.Now);
        return new CoverageView(name, team, Coverage.Of(monday, clock.Zone, at => who.Resolve(question with { At = at })), around, clock, false);
    }

    /// <summary>A time in words: <c>Sun 23:00 to Mon 07:00</c>.</summary>
    public static string Words(DarkTime time)
    {
        var atMidnight = time.To.TimeOfDay == LocalTime.Midnight && time.To.Date == time.From.Date.PlusDays(1);
        var to =
            atMidnight ? "24:00"
            : time.To.Date == time.From.Date ? time.To.ToString("HH:mm", CultureInfo.InvariantCulture)
            : time.To.ToString("ddd HH:mm", CultureInfo.InvariantCulture);
        return $"{time.From.ToString("ddd HH:mm", CultureInfo.InvariantCulture)} to {to}";
    }

    /// <summary>The grid: a row a day, a column an hour; the number of people who would be reached, or a stroke in the dark.</summary>
    public HtmlString Grid()
    {
        const double left = 46,
            cell = 26,
            row = 20,
            top = 20;
        var svg = new StringBuilder($"<svg class=\"cov\" viewBox=\"0 0 {Draw.N(left + (24 * cell) + 4)} {Draw.N(top + (7 * row))}\" role=\"img\" aria-label=\"")
            .Append(Draw.E(Label()))
            .Append(
                "\"><defs><pattern id=\"cov-h\" width=\"5\" height=\"5\" patternUnits=\"userSpaceOnUse\" patternTransform=\"rotate(45)\"><path d=\"M0 "
                    + "0V5\" stroke=\"var(--brass)\" stroke-width=\"1.4\"/></pattern></defs>"
            );
        for (var hour = 0; hour <= 24; hour += 3)
        {
            svg.Append($"<text x=\"{Draw.N(left + (hour * cell))}\" y=\"12\" font-size=\"12\" text-anchor=\"middle\" fill=\"var(--muted)\">{hour:00}</text>");
        }

        for (var day = 0; day < 7; day++)
        {
            var date = Coverage.Quarters[day * 96].Day;
            var y = top + (day * row);
            svg.Append(
                $"<text x=\"0\" y=\"{Draw.N(y + 14)}\" font-size=\"12\" "
                    + $"fill=\"var(--ink)\"{(date == Clock.Today ? " font-weight=\"660\"" : "")}>{date.ToString("ddd", CultureInfo.InvariantCulture)}</text>"
            );
            Row(svg, day, y, left, cell, row);
        }

        var local = Clock.Now.InZone(Clock.Zone).LocalDateTime;
        if (Period.DaysBetween(Coverage.Quarters[0].Day, local.Date) is >= 0 and < 7 and var today)
        {
            svg.Append(
                $"<rect x=\"{Draw.N(left + (local.Hour * cell) + .5)}\" y=\"{Draw.N(top + (today * row) + .5)}\" width=\"{Draw.N(cell - 1)}\" "
                    + $"height=\"{Draw.N(row - 1)}\" fill=\"none\" stroke=\"var(--ink)\" stroke-width=\"1.6\"/>"
            );
        }

        return new HtmlString(svg.Append("</svg>").ToString());
    }

    private string Label() =>
        Coverage.DarkHours == 0
            ? $"{Name}: somebody would be reached in every hour of the week"
            : $"{Name}: nobody would be reached in {Hours(Coverage.DarkHours)} of {Hours(Coverage.Hours)} hours of the week";

    /// <summary>Hours with at most one quarter's digits.</summary>
    public static string Hours(decimal hours) => hours.ToString("0.##", CultureInfo.InvariantCulture);

    private void Row(StringBuilder svg, int day, double y, double left, double cell, double row)
    {
        // Quarters of one kind stand together; whole dark hours in a row are one run with its length between strokes.
        var quarters = Coverage.Quarters.Skip(day * 96).Take(96).ToArray();
        for (var i = 0; i < 96;)
        {
            var kind = Kind(quarters[i]);
            var j = i + 1;
            while (j < 96 && Kind(quarters[j]) == kind && (kind is 'd' or 'u' || j % 4 != 0))
            {
                j++;
            }

            var (x, w) = (left + (i * cell / 4), (j - i) * cell / 4);
            switch (kind)
            {
                case 's':
                    svg.Append($"<path d=\"M{Draw.N(x + (w / 2))} {Draw.N(y + 2)}v{Draw.N(row - 4)}\" stroke=\"var(--control)\" stroke-dasharray=\"2 3\"/>");
                    break;
                case 'd':
                    Dark(svg, x, y, w, row, (j - i) / 4.0);
                    break;
                case 'u':
                case 'h':
                    svg.Append(
                        $"<rect x=\"{Draw.N(x + .5)}\" y=\"{Draw.N(y + .5)}\" width=\"{Draw.N(w - 1)}\" height=\"{Draw.N(row - 1)}\" "
                            + $"fill=\"var(--brass-wash)\"/><rect x=\"{Draw.N(x + .5)}\" y=\"{Draw.N(y + .5)}\" width=\"{Draw.N(w - 1)}\" "
                            + $"height=\"{Draw.N(row - 1)}\" fill=\"url(#cov-h)\" stroke=\"var(--brass)\" opacity=\".75\"/>"
                    );
                    break;
                default:
                    var count = quarters[i..j].Min(q => q.Reached + q.Doubtful);
                    svg.Append(
                        $"<rect x=\"{Draw.N(x)}\" y=\"{Draw.N(y)}\" width=\"{Draw.N(w - 1)}\" height=\"{Draw.N(row - 1)}\" "
                            + $"fill=\"{(count == 1 ? "var(--cover1)" : count == 2 ? "var(--cover2)" : "var(--cover3)")}\"/>"
                    );
                    if (w >= cell - .1)
                    {
                        svg.Append(
                            $"<text x=\"{Draw.N(x + (w / 2))}\" y=\"{Draw.N(y + 14)}\" font-size=\"12\" font-weight=\"560\" text-anchor=\"middle\" "
                                + $"fill=\"var(--on-cover)\">{count}</text>"
                        );
                    }

                    break;
            }

            i = j;
        }
    }

    private static void Dark(StringBuilder svg, double x, double y, double w, double row, double hours)
    {
        svg.Append($"<rect x=\"{Draw.N(x)}\" y=\"{Draw.N(y)}\" width=\"{Draw.N(w)}\" height=\"{Draw.N(row - 1)}\" fill=\"var(--flare-wash)\"/>");
        var words =
            hours >= 4 ? $"{Draw.N(hours)} h"
            : hours >= 2 ? Draw.N(hours)
            : "";
        var half = words.Length * 3.6;
        var middle = x + (w / 2);
        var strokes =
            words.Length == 0
                ? $"M{Draw.N(x + 5)} {Draw.N(y + 9.5)}H{Draw.N(x + w - 5)}"
                : $"M{Draw.N(x + 5)} {Draw.N(y + 9.5)}H{Draw.N(middle - half - 4)}M{Draw.N(middle + half + 4)} {Draw.N(y + 9.5)}H{Draw.N(x + w - 5)}";
        svg.Append($"<path d=\"{strokes}\" stroke=\"var(--flare)\" stroke-width=\"1.6\"/>");
        if (words.Length > 0)
        {
            svg.Append(
                $"<text x=\"{Draw.N(middle)}\" y=\"{Draw.N(y + 14)}\" font-size=\"12\" font-weight=\"640\" text-anchor=\"middle\" "
                    + $"fill=\"var(--flare-ink)\">{words}</text>"
            );
        }
    }

    private static char Kind(CoverageQuarter q) =>
        q.Skipped ? 's'
        : q.Dark
            ? q.OnDuty ? 'u'
                : 'd'
        : q.Reached == 0 ? 'h'
        : (char)('0' + Math.Min(9, q.Reached));
}
