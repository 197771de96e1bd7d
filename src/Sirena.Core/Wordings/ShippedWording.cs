using System.Globalization;
using System.Net;
using System.Text;
using System.Text.Json;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;
using Sirena.Core.Rules;

namespace Sirena.Core.Wordings;

/// <summary>A finished message.</summary>
public sealed record FinishedText(string Subject, string Text, string? Html);

/// <summary>How the reader of a message answers the alert.</summary>
/// <param name="Link">The page with the button.</param>
/// <param name="Code">Four digits for a reply.</param>
public sealed record AnswerWays(string Link, string Code);

/// <summary>What an alert's message says, in the shipped words: what happened, the order's facts, why its reader got it, the link to the order.</summary>
/// <param name="facts">The event and its order.</param>
/// <param name="directory">For names.</param>
/// <param name="baseAddress">The address under which Sirena is reached, without a slash at the end.</param>
/// <param name="business">The business's name.</param>
/// <param name="nameOf">Names a status by its id; the directory where it is <see langword="null"/>.</param>
public sealed class ShippedWording(Facts facts, StaffDirectory directory, string baseAddress, string business, Func<string, string>? nameOf = null)
{
    private readonly OrderEvent happened = facts.Event;

    /// <summary>The message for one reader.</summary>
    /// <param name="rule">The rule that matched.</param>
    /// <param name="told">The reader and their reason.</param>
    /// <param name="others">The names of other rules that name the same reader for this event.</param>
    /// <param name="answer">How they answer, or <see langword="null"/> where they cannot.</param>
    public FinishedText For(Rule rule, Told told, IReadOnlyList<string> others, AnswerWays? answer = null)
    {
        if (told.Customer)
        {
            return told.Channel == Channel.Sms ? new FinishedText("", $"Your order {happened.OrderNumber} at {business}: {Named(Words(happened.After, "status"))}.", null) : ForCustomer();
        }

        if (told.Channel is Channel.Sms or Channel.Chat or Channel.Push or Channel.Screen or Channel.Ticket)
        {
            return Brief(rule, told, answer);
        }

        var what = EventTypes.Name(happened.Type);
        var headline = happened.OrderNumber is { } number ? $"{number}: {Lower(what)}{Detail()}" : $"{what}{(happened.Subject is { } s ? " " + s : "")}{Detail()}";
        var why = $"You get this because {told.Because} and rule '{rule.Name}' matched.";
        (string Label, string Value)[] rows = [.. Rows().Where(r => r.Value.Length > 0)];
        string[] reply = answer is null ? [] : [$"I have it: {answer.Link}"];
        string[] more = [.. others.Select(o => $"Rule '{o}' matched too; this message stands for both.")];
        var link = happened.OrderNumber is { } order ? $"{baseAddress}/orders/{Uri.EscapeDataString(order)}" : $"{baseAddress}/orders";
        return new FinishedText(headline, Plain(headline, rows, [.. reply, why, .. more], link), Html(headline, rows, [why, .. more], link, answer?.Link));
    }

    // What fits a phone, a chat line or a ticket: what happened, what one needs to act on it, how to answer.
    private FinishedText Brief(Rule rule, Told told, AnswerWays? answer)
    {
        var what = happened.OrderNumber is { } number ? $"{number} {Lower(EventTypes.Name(happened.Type))}{Detail()}" : $"{EventTypes.Name(happened.Type)} {happened.Subject}{Detail()}";
        (string Label, string Value)[] rows = [.. Rows().Where(r => r.Value.Length > 0)];
        string Of(string label) => rows.FirstOrDefault(r => r.Label == label).Value ?? "";
        if (told.Channel == Channel.Ticket)
        {
            var lines = facts.Lines.Take(60).Select(l => $"{Words(l, "quantity"),4} x {Words(l, "title")}");
            return new FinishedText(what, string.Join("\n", [.. new[] { what, "" }, .. rows.Select(r => $"{r.Label}: {r.Value}"), "", .. lines, "", $"Rule: {rule.Name}"]), null);
        }

        string[] parts = [Of("Vessel") is { Length: > 0 } vessel ? vessel : Of("Customer"), Of("Berth") is { Length: > 0 } berth ? $"berth {berth}" : "", Of("Due") is { Length: > 0 } due ? $"due {due}" : "", Of("Total")];
        var text = $"{what}. {string.Join(", ", parts.Where(p => p.Length > 0))}".TrimEnd(' ', ',');
        return new FinishedText(what, (told.Channel, answer) switch
        {
            (Channel.Sms, { } a) => $"{text}. Reply OK {a.Code} or {a.Link}",
            (_, { } a) => $"{text}\nI have it: {a.Link}\n{rule.Name}",
            _ => text,
        }, null);
    }

    // What the customer may read: where the order stands, never why it is held, how risky it is, or which rule matched.
    private FinishedText ForCustomer()
    {
        string[] open = ["Vessel", "Berth", "Due", "Status", "Total"];
        (string Label, string Value)[] rows = [.. Rows().Where(r => r.Value.Length > 0 && open.Contains(r.Label))];
        var headline = $"Your order {happened.OrderNumber} at {business}";
        return new FinishedText(headline, Plain(headline, rows, [], null), Html(headline, rows, [], null));
    }

    private string Detail()
    {
        var order = happened.After;
        return happened.Type switch
        {
            EventTypes.StatusChanged => $" to {Named(Words(order, "status"))}",
            "order.held" when Words(order, "hold", "reason") is { Length: > 0 } reason => $", {reason}",
            "order.risk-flagged" when Words(order, "risk", "level") is { Length: > 0 } level => $", {level}",
            "order.note-added" when Words(happened.DataJson, "note", "text") is { Length: > 0 } note => $", “{note}”",
            _ => "",
        };
    }

    private IEnumerable<(string Label, string Value)> Rows()
    {
        var order = happened.After;
        yield return ("Customer", Words(order, "customer", "name"));
        yield return ("Vessel", Words(order, "extra", "vessel"));
        yield return ("Berth", Words(order, "extra", "berth"));
        yield return ("Due", Facts.Time(Words(order, "dueAt")) is { } due ? Moment(due) : "");
        yield return ("Status", Named(Words(order, "status")));
        yield return ("Total", Facts.Member(order, "total") is { ValueKind: JsonValueKind.Number } total && total.TryGetDecimal(out var d) ? new Money(d, facts.OrderCurrency).ToString() : "");
        yield return ("On hold", Words(order, "hold", "reason"));
        yield return ("Risk", string.Join(": ", new[] { Words(order, "risk", "level"), Words(order, "risk", "reasons") }.Where(w => w.Length > 0)));
        yield return ("Article", string.Join(" ", new[] { Words(happened.DataJson, "stock", "sku"), Words(happened.DataJson, "stock", "title") }.Where(w => w.Length > 0)));
        yield return ("On hand", Words(happened.DataJson, "stock", "onHand"));
        yield return ("Happened", Moment(happened.Time));
    }

    private string Named(string id) => nameOf is null ? directory.NameOf(id) : nameOf(id);

    private string Moment(Instant at)
    {
        var local = at.InZone(facts.Zone);
        return local.ToString("ddd d MMM, HH:mm", CultureInfo.InvariantCulture);
    }

    private string Plain(string headline, (string Label, string Value)[] rows, string[] why, string? link)
    {
        var text = new StringBuilder(headline).Append("\r\n\r\n");
        foreach (var (label, value) in rows)
        {
            text.Append(label).Append(": ").Append(value).Append("\r\n");
        }

        foreach (var line in facts.Lines.Take(40))
        {
            text.Append("  ").Append(Words(line, "quantity")).Append(" × ").Append(Words(line, "title")).Append("\r\n");
        }

        return text.Append(link is null ? "" : $"\r\nThe order and its trail: {link}\r\n").Append("\r\n").Append(string.Concat(why.Select(w => w + "\r\n"))).Append(business).Append(", by Sirena\r\n").ToString();
    }

    private string Html(string headline, (string Label, string Value)[] rows, string[] why, string? link, string? answer = null)
    {
        var text = new StringBuilder("<!doctype html><html lang=\"en\"><body style=\"font-family:sans-serif;font-size:15px;color:#1B2B34\"><h1 style=\"font-size:20px\">")
            .Append(E(headline)).Append("</h1><table cellpadding=\"4\">");
        foreach (var (label, value) in rows)
        {
            text.Append("<tr><td style=\"color:#5C6B73\">").Append(E(label)).Append("</td><td><b>").Append(E(value)).Append("</b></td></tr>");
        }

        text.Append("</table>");
        if (facts.Lines.Count > 0)
        {
            text.Append("<ul>");
            foreach (var line in facts.Lines.Take(40))
            {
                text.Append("<li>").Append(E(Words(line, "quantity"))).Append(" × ").Append(E(Words(line, "title"))).Append("</li>");
            }

            text.Append("</ul>");
        }

        return text.Append(answer is null ? "" : $"<p><a href=\"{E(answer)}\" style=\"display:inline-block;padding:10px 18px;background:#12343B;color:#fff;text-decoration:none;border-radius:4px\">I have it</a></p>").Append(link is null ? "" : $"<p><a href=\"{E(link)}\">The order and its trail</a></p>").Append("<p style=\"color:#5C6B73\">").Append(string.Concat(why.Select(w => E(w) + "<br>")))
            .Append(E(business)).Append(", by Sirena</p></body></html>").ToString();
    }

    private static string E(string text) => WebUtility.HtmlEncode(text);

    private static string Lower(string text) => text.Length > 0 ? char.ToLowerInvariant(text[0]) + text[1..] : text;

    private static string Words(JsonElement at, params string[] path)
    {
        foreach (var name in path)
        {
            at = Facts.Member(at, name);
        }

        // Control characters have no business in a message: printers obey them and headers break on them.
        return at.ValueKind == JsonValueKind.Undefined ? "" : string.Concat(Facts.InWords(at).Select(c => char.IsControl(c) ? ' ' : c));
    }
}
