using System.Collections.Frozen;
using System.Collections.Immutable;
using Sirena.Core.Orders;
using Sirena.Core.People;

namespace Sirena.Core.Wordings;

/// <summary>
/// The wordings that ship: one for every event, those of single roles, a note's and a notice's. They stand here in English; each other language has the same
/// texts in its own file (<see cref="TextLanguage.Text"/>).
/// </summary>
public static partial class ShippedWordings
{
    private const string Customer = "{{order.customer.name}}";
    private const string Own = "{{#order.own}}, {{order.own}}{{/order.own}}";
    private const string Due = "{{#order.dueAt}}, due {{order.dueAt}}{{/order.dueAt}}";
    internal const string Lines = "{{#order.lines.count}}\n\n{{order.lines.table}}\n{{/order.lines.count}}\n";
    private const string Why = "You get this because {{alert.because}} and rule '{{alert.rule}}' matched.";
    private const string Reply = ". Reply OK {{answer.code}} or {{answer.link}}";
    private const string Total = "{{#order.total}}, {{order.total}}{{/order.total}}";

    /// <summary>What is used where nothing else fits.</summary>
    public const string General = "general";

    // The events about an order: the wording's id and name, and what its reader is to do.
    private static readonly (string Event, string Id, string Name, string Do)[] Orders =
    [
        ("order.placed", "order-placed", "Order placed", "Start in time."),
        ("order.changed", "order-changed", "Order changed", "Look at what is different before you go on."),
        ("order.status-changed", "status-changed", "Status changed", ""),
        ("order.held", "order-held", "Order held", "Clear the hold, or tell the customer that it waits."),
        ("order.released", "order-released", "Order released", "Go on where you stopped."),
        ("order.risk-flagged", "risky-order", "Risky order", "Check the payment before anything is packed."),
        ("order.payment-failed", "payment-failed", "Payment failed", "Ask the customer for another way to pay."),
        ("order.paid", "order-paid", "Order paid", ""),
        ("order.shipped", "order-shipped", "Order shipped", "{{#order.lines.later}}Still to follow: {{later}} x {{title}}. {{/order.lines.later}}"),
        ("order.cancelled", "order-cancelled", "Order cancelled", "Stop work on it and put the goods back."),
        ("order.refunded", "order-refunded", "Order refunded", ""),
        ("order.approval-requested", "approval-requested", "Approval requested", "Say yes or no in the order system."),
        ("order.note-added", "note-added", "Note added", ""),
        ("order.overdue", "order-overdue", "Order overdue", "Find out what holds it up and tell the customer."),
    ];

    // The events about something else: their detail and what its reader is to do.
    private static readonly (string Event, string Id, string Name, string Detail, string Do)[] Others =
    [
        ("stock.low", "stock-low", "Stock low", "{{stock.sku}} {{stock.title}}: {{stock.onHand}} left", "Order more before it runs out."),
        ("stock.negative", "stock-negative", "Stock negative", "{{stock.sku}} {{stock.title}}: {{stock.onHand}} on hand", "Count it and correct the number."),
        ("stock.adjusted", "stock-adjusted", "Stock adjusted", "{{stock.sku}} {{stock.title}}: {{stock.adjustment}}", ""),
        ("stock.changed", "stock-changed", "Stock changed", "{{stock.sku}} {{stock.title}}: {{stock.onHand}} on hand", ""),
        ("contact.received", "contact-received", "Somebody writes", "{{contact.name}} {{contact.email}}: {{contact.subject}} {{contact.text}}", "Answer them."),
        ("batch.closed", "batch-closed", "Payment batch closed", "{{event.subject}}", ""),
        ("payment-card.expiring", "card-expiring", "Card expiring", "{{event.subject}}", "Ask the customer for the new card."),
        (
            "order.backlog",
            "order-backlog",
            "Backlog",
            "{{backlog.count}} orders wait in {{backlog.statusName}}, the limit is {{backlog.limit}}",
            "Send somebody there."
        ),
        (
            "recipient.unreachable",
            "recipient-unreachable",
            "Recipient unreachable",
            "{{event.subject}}, rule '{{alert.ruleName}}'",
            "Give them an address, or put somebody on duty."
        ),
        ("gateway.failing", "gateway-failing", "Gateway failing", "{{gateway.name}}: {{gateway.error}}", "Messages go by the next gateway, or wait."),
        ("gateway.restored", "gateway-restored", "Gateway restored", "{{gateway.name}} works again", ""),
        ("gateway.budget-low", "budget-low", "Budget low", "{{gateway.name}} has spent four fifths of this month's budget", ""),
        ("delivery.failed", "delivery-failed", "Delivery failed", "{{event.subject}}: {{delivery.to}}, {{delivery.reason}}", ""),
        ("alert.taken", "alert-taken", "Alert taken", "{{event.subject}}, rule '{{alert.ruleName}}': {{alert.personName}} has it", ""),
        ("alert.done", "alert-done", "Alert done", "{{event.subject}}, rule '{{alert.ruleName}}': done by {{alert.personName}}", ""),
        ("alert.lapsed", "alert-lapsed", "Alert lapsed", "{{event.subject}}, rule '{{alert.ruleName}}': nobody answered", "Take it yourself, or pass it on."),
        (
            "event.undecided",
            "event-undecided",
            "Event undecided",
            "{{event.subject}}: {{undecided.problem}}",
            "Nobody was told of it. Mend the cause, then decide it anew in Proof."
        ),
        (
            "source.silent",
            "source-silent",
            "Source silent",
            "{{source.name}} has sent nothing for {{source.minutes}} minutes",
            "Look whether the order system works, and take orders by hand meanwhile."
        ),
        ("source.back", "source-back", "Source back", "{{source.name}} sends again", "Compare with its own list: what it did not tell is missing."),
        ("source.failing", "source-failing", "List cannot be fetched", "{{source.name}}: {{source.problem}}", ""),
        ("source.restored", "source-restored", "List can be fetched again", "{{source.name}}", ""),
        ("source.doubtful", "source-doubtful", "List looks broken", "{{source.name}}: {{source.reason}}", "It waits: take it or refuse it under Sources."),
        ("orders.missed", "orders-missed", "Orders not heard of", "{{source.name}}: {{source.missed}} orders differ", "Take them over, or set them aside."),
        (
            "instruction.waits",
            "instruction-waits",
            "Instruction waits for a yes",
            "{{event.subject}}: {{instruction.by}} wants to {{instruction.clause}}",
            "Say yes or stop it; without an answer it is dropped after half an hour."
        ),
        (
            "instruction.refused",
            "instruction-refused",
            "Instruction refused",
            "{{event.subject}}: {{instruction.clause}}, asked by {{instruction.by}}. It says: {{instruction.words}}",
            "Nothing was done to the order. Do it in the order system, or ask for something else."
        ),
        (
            "instruction.unseen",
            "instruction-unseen",
            "Instruction not seen",
            "{{event.subject}}: {{instruction.clause}}, asked by {{instruction.by}}, was taken and nothing shows it",
            "Look in the order system whether it was done."
        ),
        (
            "instruction.failed",
            "instruction-failed",
            "Instruction not handed over",
            "{{event.subject}}: {{instruction.clause}}, asked by {{instruction.by}}: {{instruction.words}}",
            "Do it in the order system by hand, and find out why it cannot be reached."
        ),
        (
            "instruction.dropped",
            "instruction-dropped",
            "Instruction dropped",
            "{{event.subject}}: {{instruction.clause}}, asked by {{instruction.by}}: {{instruction.words}}",
            ""
        ),
        ("intake.closed", "intake-closed", "Intake closed", "{{event.subject}} takes no orders for now", ""),
        ("intake.opened", "intake-opened", "Intake opened", "{{event.subject}} takes orders again", ""),
        (
            "rule.storm",
            "rule-storm",
            "Too many alerts",
            "rule '{{rule.name}}', more than {{rule.alerts}}",
            "They are gathered into one message each. Look whether the rule is too wide."
        ),
    ];

    private static readonly FrozenDictionary<string, string> Labels = new Dictionary<string, string>
    {
        ["order.customer.name"] = "Customer",
        ["order.customer.phone"] = "Phone",
        ["order.customer.email"] = "Mail",
        ["order.salesperson"] = "Salesperson",
        [OwnField.All] = "Fields of our own",
        ["order.dueAt"] = "Due",
        ["order.status"] = "Status",
        ["order.total"] = "Total",
        ["order.hold.reason"] = "On hold",
        ["order.risk.level"] = "Risk",
        ["order.risk.reasons"] = "Because of",
        ["order.payment.method"] = "Payment",
        ["order.payment.state"] = "Payment state",
        ["note.text"] = "Note",
    }.ToFrozenDictionary();

    private static readonly ImmutableArray<Wording> Wordings = [.. Make()];
    private static readonly FrozenDictionary<string, Wording> ById = Wordings.ToFrozenDictionary(w => w.Id);
    private static readonly FrozenDictionary<string, string> ByEvent = Orders
        .Select(o => (o.Event, o.Id))
        .Concat(Others.Select(o => (o.Event, o.Id)))
        .Append(("notice.sent", "sirena.notice"))
        .ToFrozenDictionary(x => x.Item1, x => x.Item2);

    /// <summary>All of them.</summary>
    public static IReadOnlyList<Wording> All => Wordings;

    /// <summary>One by its id, or <see langword="null"/>.</summary>
    public static Wording? Find(string id) => ById.GetValueOrDefault(id);

    /// <summary>The id of the one for an event.</summary>
    public static string IdFor(string type) => ByEvent.GetValueOrDefault(type, General);

    /// <summary>The event that a wording is for, or <see langword="null"/>.</summary>
    public static string? EventOf(string id) => ByEvent.FirstOrDefault(e => e.Value == id).Key;

    private static IEnumerable<Wording> Make()
    {
        yield return Order(General, "Whatever happened", "", "");
        foreach (var (type, id, name, todo) in Orders)
        {
            yield return Order(id, name, type, todo);
        }

        foreach (var (_, id, name, detail, todo) in Others)
        {
            yield return new Wording(id, name, [.. In(Audience.Staff, l => Other(detail, todo, l)), .. In(Audience.Outside, l => Other(detail, todo, l))]);
        }

        foreach (var role in Roles())
        {
            yield return role;
        }

        yield return new Wording(
            "sirena.note",
            "Note that names somebody",
            [
                .. In(Audience.Staff, l => Note(l.Text("{{order.number}}: note by {{note.from}}"), "{{note.text}}")),
                .. In(Audience.Customer, l => Note(l.Text("About your order {{order.number}}"), "{{note.public}}")),
            ]
        );
        yield return new Wording("sirena.notice", "Notice", [.. In(Audience.Staff, NoticeParts), .. In(Audience.Outside, NoticeParts)]);
    }

    private static IEnumerable<WordingText> In(Audience audience, Func<TextLanguage, WordingParts> parts) =>
        TextLanguage.All.Select(l => new WordingText(audience, l.Code, parts(l)));

    private static Wording Order(string id, string name, string type, string todo) =>
        new(id, name, [.. In(Audience.Staff, l => Staff(id, l.Text(todo), l)), .. ToOthers(id, type)]);

    private static IEnumerable<WordingText> ToOthers(string id, string type) =>
        [.. In(Audience.Customer, l => CustomerWords.Parts(type, l)), .. In(Audience.Outside, l => Outside(id, l))];

    /// <summary>Facts with the labels that ship.</summary>
    internal static ImmutableArray<Fact> FactsOf(TextLanguage language, params ReadOnlySpan<string> paths)
    {
        var facts = ImmutableArray.CreateBuilder<Fact>(paths.Length);
        foreach (var path in paths)
        {
            facts.Add(new Fact(language.Text(Labels[path]), path));
        }

        return facts.ToImmutable();
    }

    // What it is about: the general one may be about something else than an order.
    private static string About(string id) => id == General ? "{{order.number}}{{^order.number}}{{event.subject}}{{/order.number}}" : "{{order.number}}";

    private static WordingParts Staff(string id, string todo, TextLanguage l)
    {
        var what = About(id);
        var facts = FactsOf(
            l,
            "order.customer.name",
            OwnField.All,
            "order.dueAt",
            "order.status",
            "order.total",
            "order.hold.reason",
            "order.risk.level",
            "order.risk.reasons"
        );
        var doing = todo.Length == 0 ? "" : todo + "\n\n";
        var also = l.Text("Rule '{{.}}' matched too; this message stands for both.");
        var brief = $"{what} {{{{event.what}}}}. {Customer}{Own}{l.Text(Due)}{Total}";
        return new WordingParts
        {
            Subject = what + ": {{event.what}}",
            Facts = facts,
            Text = doing + "{{facts}}\n" + Lines + $"\n{l.Text(Why)}\n{{{{#alert.also}}}}\n{also}\n{{{{/alert.also}}}}\n",
            Sms = brief + l.Text(Reply),
            Chat = brief + (todo.Length == 0 ? "" : "\n" + todo) + "\n{{alert.rule}}",
            Push = brief,
            Screen = brief + (todo.Length == 0 ? "" : "\n" + todo),
            Ticket = $"{what} {{{{event.what}}}}\n\n{{{{facts}}}}\n\n{{{{order.lines.table}}}}\n\n{l.Text("Rule")}: {{{{alert.rule}}}}",
        };
    }

    private static WordingParts Outside(string id, TextLanguage l)
    {
        var brief = $"{About(id)} {{{{event.what}}}}. {Customer}{Own}{l.Text(Due)}";
        return new WordingParts
        {
            Subject = About(id) + ": {{event.what}}",
            Facts = FactsOf(l, "order.customer.name", OwnField.All, "order.dueAt"),
            Text = "{{facts}}\n" + Lines + $"\n{l.Text(Why)}\n",
            Sms = brief + l.Text(Reply),
            Chat = brief,
        };
    }

    private static WordingParts Other(string detail, string todo, TextLanguage l)
    {
        var headline = "{{event.name}}: " + l.Text(detail);
        var more = todo.Length > 0 ? "\n" + l.Text(todo) : "";
        return new()
        {
            Subject = headline,
            Text = $"{headline}{more}\n\n{l.Text(Why)}\n",
            Sms = headline + l.Text(Reply),
            Chat = headline + more,
            Push = headline,
            Screen = headline + more,
            Ticket = headline,
        };
    }
}
