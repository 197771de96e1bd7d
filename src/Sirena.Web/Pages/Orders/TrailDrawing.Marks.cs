using System.Text;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Ladders;
using Sirena.Core.Rules;
using Sirena.Engine.Trail;
using static Sirena.Web.Pages.Shared.Draw;

namespace Sirena.Web.Pages.Orders;

public sealed partial class TrailDrawing
{
    private void Delivery(DeliveryTrail one, double y)
    {
        var d = one.Delivery;
        var mark = MarkOf(d.State, d.Answered).Id;
        var (at, came) = TrailWords.Of(one);
        Node(
            $"delivery-{d.Id}",
            DeliveryX - 4,
            y - 13,
            (d.Answered ? AnswerX : Width) - DeliveryX - 6,
            26,
            text,
            Evidence(y, d.Channel.Traits().Glyph, mark, clock.Exact(at), came, d.Answered ? 29 : 51)
        );
    }

    // How far something came: by what way, its mark, when, and in words, of which so many characters find room beside a time of today.
    private static string Evidence(double y, string glyph, string mark, string at, string words, int room)
    {
        var color =
            mark is "waiting" or "handed" ? "var(--brass)"
            : mark == "failed" ? "var(--flare)"
            : mark == "skipped" ? Muted
            : "var(--glass)";
        var (tone, weight) =
            mark == "failed" ? ("var(--flare-ink)", 600)
            : mark == "waiting" ? ("var(--brass-ink)", 560)
            : (Muted, 400);
        // Letters of one width: the words begin behind the last of them.
        var (dated, behind) = (at.Length > 8, (at.Length * 7.7) + 10);
        return $"<use href=\"/img/marks.svg#{glyph}\" x=\"{DeliveryX}\" y=\"{N(y - 7)}\" width=\"14\" height=\"14\" color=\"{Ink}\"/>"
            + $"<use href=\"/img/marks.svg#m-{mark}\" x=\"{DeliveryX + 20}\" y=\"{N(y - 7)}\" width=\"14\" height=\"14\" color=\"{color}\"/>"
            + T(DeliveryX + 42, y + 4.5, at, size: 12.5, mono: true)
            + T(DeliveryX + 42 + behind, y + 4.5, Cut(words, dated ? room - 8 : room), size: 12.5, color: tone, weight: weight, title: words);
    }

    private void Answer(Answer answer, AlertTrail alert, double y)
    {
        solid.Append($"<path d=\"M{AnswerX - 16} {N(y)}H{AnswerX - 4}\" stroke=\"var(--glass)\" stroke-width=\"2.2\"/>");
        var after = (answer.At - alert.Alert.RaisedAt).InWords();
        text.Append($"<use href=\"/img/marks.svg#m-answered\" x=\"{AnswerX}\" y=\"{N(y - 8)}\" width=\"16\" height=\"16\" color=\"var(--glass)\"/>")
            .Append(T(AnswerX + 22, y + 5, answer.Kind.Traits().Said, size: 15, weight: 680, color: "var(--glass-ink)"))
            .Append(T(AnswerX + 22, y + 22, Cut($"{clock.Exact(answer.At)}", 22), size: 12.5))
            .Append(T(AnswerX + 22, y + 38, Cut($"{after} after, {answer.Via}", 24), size: 12.5, color: Muted));
    }

    private void Name(double y, RuleTrail rule, string line, string more)
    {
        var fits = rule.Outcome is Outcome.Matched or Outcome.Joined;
        var pennant = rule.Decision.Outcome == Outcome.Matched;
        Node(
            $"rule-{rule.Decision.Rule.Id}",
            RuleX - 4,
            y - 13,
            296,
            more.Length > 0 ? 52 : 38,
            text,
            $"<use href=\"/img/marks.svg#{(pennant ? "p-holds" : "p-not")}\" x=\"{RuleX - 2}\" y=\"{N(y - 8)}\" width=\"15\" height=\"15\" "
                + $"color=\"{(pennant ? "var(--glass)" : "var(--flare-ink)")}\"/>"
                + T(RuleX + 18, y + 4.5, Cut(rule.Decision.Rule.Name, 36), weight: fits ? 660 : 500, color: fits ? Ink : Muted, title: rule.Decision.Rule.Name)
                + T(RuleX + 18, y + 20, Cut(line, 44), size: 12, color: Muted, title: line)
        );
    }

    private void Link(double x1, double y1, double x2, double y2, bool happened)
    {
        var bend = x2 - 16;
        (happened ? solid : dashed).Append(
            $"<path d=\"M{N(Math.Min(x1, bend - 12))} {N(y1)}H{N(bend - 10)}C{N(bend)} {N(y1)} {N(bend - 6)} {N(y2)} {N(bend + 6)} {N(y2)}H{N(x2)}\" "
                + $"fill=\"none\" stroke=\"{(happened ? Ink : Faint)}\" "
                + $"stroke-width=\"{(happened ? "1.5" : "1.2")}\"{(happened ? "" : " stroke-dasharray=\"3 3\"")}/>"
        );
    }

    private void Node(string id, double x, double y, double width, double height, StringBuilder into, string content)
    {
        var link = $"{address}&amp;node={Uri.EscapeDataString(id)}";
        into.Append(
                $"<a href=\"{link}#node\" hx-get=\"{link}\" hx-target=\"#node\" hx-select=\"#node\" hx-swap=\"outerHTML\" "
                    + $"data-node=\"{E(id)}\"{(id == picked ? " class=\"picked\" aria-current=\"true\"" : "")}>"
            )
            .Append(
                $"<rect class=\"hit\" x=\"{N(x)}\" y=\"{N(y)}\" width=\"{N(width)}\" height=\"{N(height)}\" rx=\"3\" "
                    + $"fill=\"{(id == picked ? "var(--dusk-wash)" : "var(--card)")}\" fill-opacity=\"{(id == picked ? "1" : "0")}\"/>{content}</a>"
            );
    }

    private static string T(
        double x,
        double y,
        string words,
        double size = 13,
        int weight = 400,
        string color = Ink,
        bool mono = false,
        bool italic = false,
        string? title = null
    ) =>
        words.Length == 0
            ? ""
            : $"<text x=\"{N(x)}\" y=\"{N(y)}\" font-size=\"{N(size)}\" font-weight=\"{weight}\" "
                + $"fill=\"{color}\"{(mono ? " class=\"m\"" : "")}{(italic ? " font-style=\"italic\"" : "")}>"
                + $"{(title is null ? "" : $"<title>{E(title)}</title>")}{E(words)}</text>";

    private static string Cut(string words, int most) => words.Length <= most ? words : words[..(most - 1)].TrimEnd() + "…";

    private static double Measure(string words) => words.Length * 7.1;
}
