using System.Collections.Frozen;

namespace Sirena.Core.Wordings;

/// <summary>
/// What ships for customers: a friendly line for each event, then how the order stands. Never why it is held, how risky it is, or which rule matched.
/// </summary>
internal static class CustomerWords
{
    private const string Goes =
        "{{order.shipped-now}} on the way{{#order.lines.later.count}}, {{order.lines.later.sum.quantity}} to follow{{/order.lines.later.count}}";
    private const string GoesPt =
        "{{order.shipped-now}} a caminho{{#order.lines.later.count}}, {{order.lines.later.sum.quantity}} a seguir{{/order.lines.later.count}}";

    // By event: the subject, and the line after the greeting. SMS repeats the subject, so Portuguese ones keep to letters of the 7-bit alphabet (GSM 03.38)
    // where they can.
    private static readonly FrozenDictionary<string, (string Subject, string Line, string SubjectPt, string LinePt)> ByEvent = new Dictionary<
        string,
        (string, string, string, string)
    >
    {
        ["order.placed"] = (
            "We have your order {{order.number}}",
            "thank you: we have your order and are at work on it.",
            "Recebemos a sua encomenda {{order.number}}",
            "obrigado: recebemos a sua encomenda e já estamos a tratar dela."
        ),
        ["order.changed"] = (
            "Your order {{order.number}} was changed",
            "your order was changed. This is how it stands now.",
            "A sua encomenda {{order.number}} foi alterada",
            "a sua encomenda foi alterada. Está agora assim."
        ),
        ["order.status-changed"] = (
            "Your order {{order.number}}{{#order.status}}: {{order.status}}{{/order.status}}",
            "there is news of your order.",
            "A sua encomenda {{order.number}}{{#order.status}}: {{order.status}}{{/order.status}}",
            "há notícias da sua encomenda."
        ),
        ["order.held"] = (
            "Your order {{order.number}} waits for a word with us",
            "before we go on with your order we need a word with you. Please call us{{#order.salesperson}} and ask for {{order.salesperson}}{{/order.salesperson}}.",
            "A sua encomenda {{order.number}} espera por si",
            "antes de continuarmos precisamos de falar consigo. Ligue-nos, por favor{{#order.salesperson}}, e pergunte por {{order.salesperson}}{{/order.salesperson}}."
        ),
        ["order.released"] = (
            "Your order {{order.number}} goes on",
            "all is settled and your order goes on as planned.",
            "A sua encomenda {{order.number}} segue em frente",
            "está tudo resolvido e a sua encomenda segue como previsto."
        ),
        ["order.payment-failed"] = (
            "The payment for your order {{order.number}} did not go through",
            "we could not take the payment for your order. Please call us, or pay another way, so that it leaves in time.",
            "O pagamento da encomenda {{order.number}} falhou",
            "não conseguimos receber o pagamento da sua encomenda. Ligue-nos ou pague de outra forma, para que siga a tempo."
        ),
        ["order.paid"] = (
            "Your payment for order {{order.number}} has arrived",
            "thank you: your payment has arrived.",
            "Recebemos o pagamento da encomenda {{order.number}}",
            "obrigado: recebemos o seu pagamento."
        ),
        ["order.shipped"] = (
            "Your order {{order.number}}: " + Goes,
            "goods of your order are on their way to you.",
            "A sua encomenda {{order.number}}: " + GoesPt,
            "artigos da sua encomenda vão a caminho."
        ),
        ["order.cancelled"] = (
            "Your order {{order.number}} is cancelled",
            "your order is cancelled. If this is news to you, please call us.",
            "A sua encomenda {{order.number}} foi cancelada",
            "a sua encomenda foi cancelada. Se não contava com isto, ligue-nos, por favor."
        ),
        ["order.refunded"] = (
            "Your refund for order {{order.number}}",
            "we have sent your money back. It can take a few days to reach you.",
            "O reembolso da encomenda {{order.number}}",
            "devolvemos-lhe o dinheiro. Pode demorar alguns dias a chegar."
        ),
        ["order.note-added"] = (
            "A note on your order {{order.number}}",
            "there is a note on your order{{#note.public}}: {{note.public}}{{/note.public}}{{^note.public}}.{{/note.public}}",
            "Uma nota sobre a encomenda {{order.number}}",
            "há uma nota sobre a sua encomenda{{#note.public}}: {{note.public}}{{/note.public}}{{^note.public}}.{{/note.public}}"
        ),
        ["order.overdue"] = (
            "Your order {{order.number}} takes longer than planned",
            "your order takes longer than we planned. We are on it, and tell you as soon as it leaves.",
            "A sua encomenda {{order.number}} chega mais tarde",
            "a sua encomenda demora mais do que prevíamos. Estamos a tratar dela e avisamos assim que sair."
        ),
    }.ToFrozenDictionary();

    private static readonly (string Subject, string Line, string SubjectPt, string LinePt) Otherwise = (
        "Your order {{order.number}} at {{business.name}}",
        "this is how your order stands.",
        "A sua encomenda {{order.number}} na {{business.name}}",
        "é assim que está a sua encomenda."
    );

    /// <summary>The texts for customers.</summary>
    /// <param name="type">The event's type; for one without words of its own the texts tell how the order stands.</param>
    /// <param name="pt">In Portuguese.</param>
    public static WordingParts Parts(string type, bool pt)
    {
        var words = ByEvent.GetValueOrDefault(type, Otherwise);
        var (subject, line) = pt ? (words.SubjectPt, words.LinePt) : (words.Subject, words.Line);
        var facts = ShippedWordings.FactsOf(pt, "order.extra.vessel", "order.extra.berth", "order.dueAt", "order.status", "order.total");
        var greeting = pt
            ? "Olá{{#order.customer.name}} {{order.customer.name}}{{/order.customer.name}},\n\n"
            : "Dear {{order.customer.name}}{{^order.customer.name}}customer{{/order.customer.name}},\n\n";
        return new WordingParts
        {
            Subject = subject,
            Facts = facts,
            Text = $"{greeting}{line}\n\n{{{{facts}}}}\n{(type == "order.shipped" ? Shipped(pt) : ShippedWordings.Lines)}",
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

    private static string Shipped(bool pt) =>
        pt
            ? "\n{{#order.lines.now.count}}\nNesta remessa:\n{{order.lines.now.table}}\n{{/order.lines.now.count}}\n{{#order.lines.later}}\n{{title}}: {{now}} agora, {{later}} a seguir.\n{{/order.lines.later}}\n"
            : "\n{{#order.lines.now.count}}\nIn this shipment:\n{{order.lines.now.table}}\n{{/order.lines.now.count}}\n{{#order.lines.later}}\n{{title}}: {{now}} now, {{later}} to follow.\n{{/order.lines.later}}\n";
}
