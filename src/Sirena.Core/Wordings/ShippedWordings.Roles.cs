using Sirena.Core.Orders;
using Sirena.Core.People;

namespace Sirena.Core.Wordings;

public static partial class ShippedWordings
{
    // Each role reads what it needs first: the kitchen what and by when, finance the amount and the risk, drivers where to.
    private static IEnumerable<Wording> Roles()
    {
        const string facts = "{{facts}}\n",
            ok = ". OK {{answer.code}}";
        const string made = "{{#order.lines}}{{quantity}} {{title}}, {{/order.lines}}" + Customer;
        const string phone = "{{#order.customer.phone}}, {{order.customer.phone}}{{/order.customer.phone}}";
        yield return Role(
            "kitchen",
            "Kitchen: what and by when",
            "{{order.number}}: {{order.lines.sum.quantity}} to make by {{order.dueAt.time}}",
            l => l.Text("{{#order.dueAt}}Ready by {{order.dueAt}}.{{/order.dueAt}}") + "\n" + Lines + "\n" + facts,
            l => l.Text("{{order.number}} for {{order.dueAt.time}}: ") + made + ok,
            "note.text"
        );
        yield return Role(
            "warehouse",
            "Warehouse: what to pick",
            "Pick {{order.number}} for {{order.dueAt.time}}",
            _ => Lines + "\n" + facts,
            l => l.Text("Pick {{order.number}}, {{order.lines.count}} lines") + l.Text(Due) + ok,
            "order.customer.name",
            OwnField.All,
            "order.dueAt"
        );
        yield return Role(
            "finance",
            "Finance: the amount, and why it is risky",
            "{{order.number}}: {{order.total}}, {{event.what}}",
            _ => facts,
            l => "{{order.number}} {{event.what}}: {{order.total}}, {{order.customer.name}}" + l.Text(Due) + ok + l.Text(" or {{answer.link}}"),
            "order.total",
            "order.customer.name",
            "order.payment.method",
            "order.payment.state",
            "order.risk.level",
            "order.risk.reasons",
            "order.hold.reason",
            "order.dueAt"
        );
        yield return Role(
            "sales",
            "Salesperson: the customer, and what to tell them",
            "{{order.customer.name}}: {{order.number}} {{event.what}}",
            _ => facts + Lines,
            l => $"{{{{order.number}}}} {{{{event.what}}}}: {Customer}{phone}{l.Text(Due)}" + ok,
            "order.customer.name",
            "order.customer.phone",
            "order.customer.email",
            "order.dueAt",
            "order.status",
            "order.hold.reason",
            "order.total"
        );
        yield return Role(
            "desk",
            "Desk: where the order stands, and whose it is",
            "{{order.number}} {{event.what}}, {{order.customer.name}}",
            _ => facts + Lines,
            l => $"{{{{order.number}}}} {{{{event.what}}}}, {Customer}{l.Text(Due)}" + ok,
            "order.customer.name",
            "order.salesperson",
            "order.status",
            "order.dueAt",
            "order.hold.reason",
            "order.risk.level"
        );
        yield return Role(
            "drivers",
            "Drivers: where and when",
            "{{order.number}}" + Own + "{{#order.dueAt}}, {{order.dueAt.time}}{{/order.dueAt}}",
            _ => facts + Lines,
            l => l.Text("{{order.number}} to ") + Customer + Own + l.Text("{{#order.dueAt}}, due {{order.dueAt.time}}{{/order.dueAt}}") + ok,
            "order.customer.name",
            OwnField.All,
            "order.dueAt"
        );
    }

    private static Wording Role(
        string id,
        string name,
        string subject,
        Func<TextLanguage, string> text,
        Func<TextLanguage, string> sms,
        params string[] facts
    ) => new(id, name, [.. In(Audience.Staff, l => new()
                    {
                        Subject = l.Text(subject),
                        Text = $"{text(l)}\n{l.Text(Why)}\n",
                        Facts = FactsOf(l, facts),
                        Sms = sms(l),
                        Chat = sms(l).Split(". OK", StringSplitOptions.None)[0],
                        Ticket = $"{l.Text(subject)}\n\n{text(l)}",
                    }), .. ToOthers("", "")]);
}
