using System.Globalization;
using System.Net;
using Microsoft.AspNetCore.Html;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;

namespace Sirena.Web.Pages.Shared;

/// <summary>The marks of the visual language, as SVG that uses the shapes of <c>img/marks.svg</c>.</summary>
public static class Draw
{
    /// <summary>A shape without a meaning of its own; it is hidden from screen readers.</summary>
    public static HtmlString Shape(string id, string classes = "") =>
        new($"<svg class=\"mk {id} {classes}\" aria-hidden=\"true\"><use href=\"/img/marks.svg#{id}\"/></svg>");

    /// <summary>A delivery's mark.</summary>
    public static HtmlString Mark(DeliveryState state, bool answered, string classes = "")
    {
        var (id, word) = MarkOf(state, answered);
        return Named($"m-{id}", word, $"m-{id} {classes}");
    }

    /// <summary>The shape and the word of a delivery's mark: sending is drawn as waiting, expired as failed.</summary>
    public static (string Id, string Word) MarkOf(DeliveryState state, bool answered) =>
        (state, answered) switch
        {
            (DeliveryState.Landed or DeliveryState.HandedOver, true) => ("answered", "answered"),
            (DeliveryState.Landed, _) => ("landed", "landed"),
            (DeliveryState.HandedOver, _) => ("handed", "handed over"),
            (DeliveryState.Failed, _) => ("failed", "failed"),
            (DeliveryState.Expired, _) => ("failed", "expired"),
            (DeliveryState.Skipped, _) => ("skipped", "skipped"),
            (DeliveryState.Sending, _) => ("waiting", "sending"),
            _ => ("waiting", "waiting"),
        };

    /// <summary>A channel's glyph.</summary>
    public static HtmlString Glyph(Channel channel, string classes = "") => Named(channel.Traits().Glyph, channel.Traits().Word, "gl " + classes);

    /// <summary>A status's mark with its name beside it.</summary>
    public static HtmlString Status(Status? status, string? id, string classes = "") =>
        status is null
            ? new HtmlString($"<span class=\"muted\">{E(id ?? "no status")}</span>")
            : new HtmlString($"<span class=\"stw\">{Shape("s-" + status.Mark, $"st {ToneOf(status)} {classes}")}{E(status.Name)}</span>");

    /// <summary>
    /// The colour class of a status's mark: the tone that a supervisor gave it, or ink while open, glass when it ended well, muted when it came to nothing.
    /// </summary>
    public static string ToneOf(Status status) =>
        status.Tone is { } tone ? "st-" + tone
        : status.Void ? "st-cancelled"
        : status.Closed ? "st-signed"
        : "";

    /// <summary>An urgency: strokes of the horn and the word.</summary>
    public static HtmlString Urgency(Urgency urgency, TextLanguage? language = null)
    {
        var word = (language ?? TextLanguage.En).Word(urgency.Name());
        return new(
            $"<span class=\"stw\">{Shape($"u-{(int)urgency + 1}", "urg s12")}<span>{(urgency == Core.Rules.Urgency.Urgent ? $"<b>{word}</b>" : word)}"
                + "</span></span>"
        );
    }

    /// <summary>Whether a condition holds: a pennant.</summary>
    public static HtmlString Pennant(bool holds) => Named(holds ? "p-holds" : "p-not", holds ? "holds" : "does not hold", holds ? "p-holds" : "p-not");

    /// <summary>One column a day; the part that nobody answered is flare and sits on top.</summary>
    public static HtmlString Bars(IReadOnlyList<int> all, IReadOnlyList<int> unanswered, string label)
    {
        const double height = 28,
            width = 4;
        var unit = (height - 2) / Math.Max(6, all.DefaultIfEmpty(0).Max());
        var bars = string.Concat(
            all.Select(
                (n, i) =>
                {
                    var bad = Math.Min(n, unanswered[i]);
                    return Bar(i * width, height - ((n - bad) * unit), (n - bad) * unit, "var(--bar)")
                        + Bar(i * width, height - (n * unit), bad * unit, "var(--flare)");
                }
            )
        );
        var dashes = all.All(n => n == 0) ? " stroke-dasharray=\"2 3\"" : "";
        return new HtmlString(
            $"<svg width=\"{N(all.Count * width)}\" height=\"30\" role=\"img\" aria-label=\"{E(label)}\"><path d=\"M0 28.5H{N(all.Count * width)}\" "
                + $"stroke=\"var(--control)\"{dashes}/>{bars}</svg>"
        );
        string Bar(double x, double y, double h, string fill) =>
            h <= 0 ? "" : $"<rect x=\"{N(x)}\" y=\"{N(y)}\" width=\"3\" height=\"{N(h)}\" fill=\"{fill}\"/>";
    }

    /// <summary>A number as SVG writes it.</summary>
    public static string N(double value) => value.ToString("0.##", CultureInfo.InvariantCulture);

    /// <summary>Escaped for HTML.</summary>
    public static string E(string text) => WebUtility.HtmlEncode(text);

    private static HtmlString Named(string id, string word, string classes) =>
        new($"<svg class=\"mk {classes}\" role=\"img\" aria-label=\"{word}\"><title>{word}</title><use href=\"/img/marks.svg#{id}\"/></svg>");
}
