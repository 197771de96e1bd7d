using System.Collections.Frozen;

namespace Sirena.Core.Wordings;

/// <summary>
/// What ships for customers: a friendly line for each event, then how the order stands. Never why it is held, how risky it is, or which rule matched.
/// </summary>
internal static class CustomerWords
{
    private const string Goes =
        "{{order.shipped-now}} on the way{{#order.lines.later.count}}, {{order.lines.later.sum.quantity}} to follow{{/order.lines.later.count}}";

    // By event: the subject, and the line after the greeting. SMS repeats the subject, so those of other languages keep to letters of the 7-bit alphabet
    // (GSM 03.38) where they can.
    private static readonly FrozenDictionary<string, (string Subject, string Line)> ByEvent = new Dictionary<string, (string, string)>
    {
        ["order.placed"] = ("We have your order {{order.number}}", "thank you: we have your order and are at work on it."),
        ["order.changed"] = ("Your order {{order.number}} was changed", "your order was changed. This is how it stands now."),
        ["order.status-changed"] = ("Your order {{order.number}}{{#order.status}}: {{order.status}}{{/order.status}}", "there is news of your order."),
        ["order.held"] = (
            "Your order {{order.number}} waits for a word with us",
            "before we go on with your order we need a word with you. Please call us{{#order.salesperson}} and ask for "
                + "{{order.salesperson}}{{/order.salesperson}}."
        ),
        ["order.released"] = ("Your order {{order.number}} goes on", "all is settled and your order goes on as planned."),
        ["order.payment-failed"] = (
            "The payment for your order {{order.number}} did not go through",
            "we could not take the payment for your order. Please call us, or pay another way, so that it leaves in time."
        ),
        ["order.paid"] = ("Your payment for order {{order.number}} has arrived", "thank you: your payment has arrived."),
        ["order.shipped"] = ("Your order {{order.number}}: " + Goes, "goods of your order are on their way to you."),
        ["order.cancelled"] = ("Your order {{order.number}} is cancelled", "your order is cancelled. If this is news to you, please call us."),
        ["order.refunded"] = ("Your refund for order {{order.number}}", "we have sent your money back. It can take a few days to reach you."),
        ["order.note-added"] = (
            "A note on your order {{order.number}}",
            "there is a note on your order{{#note.public}}: {{note.public}}{{/note.public}}{{^note.public}}.{{/note.public}}"
        ),
        ["order.overdue"] = (
            "Your order {{order.number}} takes longer than planned",
            "your order takes longer than we planned. We are on it, and tell you as soon as it leaves."
        ),
    }.ToFrozenDictionary();

    private static readonly (string Subject, string Line) Otherwise = ("Your order {{order.number}} at {{business.name}}", "this is how your order stands.");

    /// <summary>The texts for customers.</summary>
    /// <param name="type">The event's type; for one without words of its own the texts tell how the order stands.</param>
    /// <param name="l">Their language.</param>
    public static WordingParts Parts(string type, TextLanguage l)
    {
        var words = ByEvent.GetValueOrDefault(type, Otherwise);
        var subject = l.Text(words.Subject);
        var greeting = l.Text("Dear {{order.customer.name}}{{^order.customer.name}}customer{{/order.customer.name}},");
        return new WordingParts
        {
            Subject = subject,
            Facts = ShippedWordings.FactsOf(l, Orders.OwnField.All, "order.dueAt", "order.status", "order.total"),
            Text = $"{greeting}\n\n{l.Text(words.Line)}\n\n{{{{facts}}}}\n{(type == "order.shipped" ? Shipped(l) : ShippedWordings.Lines)}",
            Sms = Sms(type, subject),
        };
    }

    private static string Sms(string type, string subject) =>
        type switch
        {
            "order.placed" => $"{{{{business.name}}}}: {subject}{{{{#order.dueAt}}}}, {{{{order.dueAt}}}}{{{{/order.dueAt}}}}.",
            _ when subject.Contains("{{business.name}}", StringComparison.Ordinal) =>
                $"{subject}{{{{#order.status}}}}: {{{{order.status}}}}{{{{/order.status}}}}.",
            _ => $"{{{{business.name}}}}: {subject}.",
        };

    private static string Shipped(TextLanguage l) =>
        $"\n{{{{#order.lines.now.count}}}}\n{l.Text("In this shipment:")}\n{{{{order.lines.now.table}}}}\n{{{{/order.lines.now.count}}}}\n"
        + $"{{{{#order.lines.later}}}}\n{l.Text("{{title}}: {{now}} now, {{later}} to follow.")}\n{{{{/order.lines.later}}}}\n";
}
