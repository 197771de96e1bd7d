using System.Collections.Frozen;
using System.Collections.Immutable;
using Sirena.Core.People;

namespace Sirena.Core.Wordings;

/// <summary>The wordings that ship: one for every event, those of single roles, a note's and a notice's; in English and Portuguese.</summary>
public static class ShippedWordings
{
    private const string Vessel = "{{order.customer.name}}";
    private const string Place = "{{#order.extra.berth}}, berth {{order.extra.berth}}{{/order.extra.berth}}";
    private const string PlacePt = "{{#order.extra.berth}}, cais {{order.extra.berth}}{{/order.extra.berth}}";
    private const string Due = "{{#order.dueAt}}, due {{order.dueAt}}{{/order.dueAt}}";
    private const string DuePt = "{{#order.dueAt}}, para {{order.dueAt}}{{/order.dueAt}}";
    internal const string Lines = "{{#order.lines.count}}\n\n{{order.lines.table}}\n{{/order.lines.count}}\n";
    private const string Total = "{{#order.total}}, {{order.total}}{{/order.total}}";

    /// <summary>What is used where nothing else fits.</summary>
    public const string General = "general";

    // The events about an order: the wording's id and name, and what its reader is to do.
    private static readonly (string Event, string Id, string Name, string Do, string DoPt)[] Orders =
    [
        ("order.placed", "order-placed", "Order placed", "Start in time.", "Comece a tempo."),
        ("order.changed", "order-changed", "Order changed", "Look at what is different before you go on.", "Veja o que mudou antes de continuar."),
        ("order.status-changed", "status-changed", "Status changed", "", ""),
        ("order.held", "order-held", "Order held", "Clear the hold, or tell the customer that it waits.", "Resolva a retenção ou avise o cliente."),
        ("order.released", "order-released", "Order released", "Go on where you stopped.", "Continue onde parou."),
        ("order.risk-flagged", "risky-order", "Risky order", "Check the payment before anything is packed.", "Verifique o pagamento antes de embalar."),
        ("order.payment-failed", "payment-failed", "Payment failed", "Ask the customer for another way to pay.", "Peça ao cliente outra forma de pagamento."),
        ("order.paid", "order-paid", "Order paid", "", ""),
        (
            "order.shipped",
            "order-shipped",
            "Order shipped",
            "{{#order.lines.later}}Still to follow: {{later}} x {{title}}. {{/order.lines.later}}",
            "{{#order.lines.later}}Falta enviar: {{later}} x {{title}}. {{/order.lines.later}}"
        ),
        ("order.cancelled", "order-cancelled", "Order cancelled", "Stop work on it and put the goods back.", "Pare o trabalho e reponha os artigos."),
        ("order.refunded", "order-refunded", "Order refunded", "", ""),
        (
            "order.approval-requested",
            "approval-requested",
            "Approval requested",
            "Say yes or no in the order system.",
            "Aprove ou recuse no sistema de encomendas."
        ),
        ("order.note-added", "note-added", "Note added", "", ""),
        ("order.overdue", "order-overdue", "Order overdue", "Find out what holds it up and tell the customer.", "Descubra o que a atrasa e avise o cliente."),
    ];

    // The events about something else: their detail and what its reader is to do.
    private static readonly (string Event, string Id, string Name, string Detail, string DetailPt, string Do, string DoPt)[] Others =
    [
        (
            "stock.low",
            "stock-low",
            "Stock low",
            "{{stock.sku}} {{stock.title}}: {{stock.onHand}} left",
            "{{stock.sku}} {{stock.title}}: restam {{stock.onHand}}",
            "Order more before it runs out.",
            "Encomende antes que acabe."
        ),
        (
            "stock.negative",
            "stock-negative",
            "Stock negative",
            "{{stock.sku}} {{stock.title}}: {{stock.onHand}} on hand",
            "{{stock.sku}} {{stock.title}}: {{stock.onHand}} em stock",
            "Count it and correct the number.",
            "Conte e corrija o número."
        ),
        (
            "stock.adjusted",
            "stock-adjusted",
            "Stock adjusted",
            "{{stock.sku}} {{stock.title}}: {{stock.adjustment}}",
            "{{stock.sku}} {{stock.title}}: {{stock.adjustment}}",
            "",
            ""
        ),
        (
            "stock.changed",
            "stock-changed",
            "Stock changed",
            "{{stock.sku}} {{stock.title}}: {{stock.onHand}} on hand",
            "{{stock.sku}} {{stock.title}}: {{stock.onHand}} em stock",
            "",
            ""
        ),
        (
            "contact.received",
            "contact-received",
            "Somebody writes",
            "{{contact.name}} {{contact.email}}: {{contact.subject}} {{contact.text}}",
            "{{contact.name}} {{contact.email}}: {{contact.subject}} {{contact.text}}",
            "Answer them.",
            "Responda."
        ),
        ("batch.closed", "batch-closed", "Payment batch closed", "{{event.subject}}", "{{event.subject}}", "", ""),
        (
            "payment-card.expiring",
            "card-expiring",
            "Card expiring",
            "{{event.subject}}",
            "{{event.subject}}",
            "Ask the customer for the new card.",
            "Peça o novo cartão ao cliente."
        ),
        (
            "order.backlog",
            "order-backlog",
            "Backlog",
            "{{backlog.count}} orders wait in {{backlog.statusName}}, the limit is {{backlog.limit}}",
            "{{backlog.count}} encomendas esperam em {{backlog.statusName}}, o limite é {{backlog.limit}}",
            "Send somebody there.",
            "Envie alguém."
        ),
        (
            "recipient.unreachable",
            "recipient-unreachable",
            "Recipient unreachable",
            "{{event.subject}}, rule '{{alert.ruleName}}'",
            "{{event.subject}}, regra '{{alert.ruleName}}'",
            "Give them an address, or put somebody on duty.",
            "Dê-lhes um contacto ou ponha alguém de serviço."
        ),
        (
            "gateway.failing",
            "gateway-failing",
            "Gateway failing",
            "{{gateway.name}}: {{gateway.error}}",
            "{{gateway.name}}: {{gateway.error}}",
            "Messages go by the next gateway, or wait.",
            "As mensagens seguem pelo canal seguinte, ou esperam."
        ),
        ("gateway.restored", "gateway-restored", "Gateway restored", "{{gateway.name}} works again", "{{gateway.name}} funciona de novo", "", ""),
        (
            "gateway.budget-low",
            "budget-low",
            "Budget low",
            "{{gateway.name}} has spent four fifths of this month's budget",
            "{{gateway.name}} gastou quatro quintos do orçamento deste mês",
            "",
            ""
        ),
        (
            "delivery.failed",
            "delivery-failed",
            "Delivery failed",
            "{{event.subject}}: {{delivery.to}}, {{delivery.reason}}",
            "{{event.subject}}: {{delivery.to}}, {{delivery.reason}}",
            "",
            ""
        ),
        (
            "alert.taken",
            "alert-taken",
            "Alert taken",
            "{{event.subject}}, rule '{{alert.ruleName}}': {{alert.personName}} has it",
            "{{event.subject}}, regra '{{alert.ruleName}}': {{alert.personName}} fica com ele",
            "",
            ""
        ),
        (
            "alert.done",
            "alert-done",
            "Alert done",
            "{{event.subject}}, rule '{{alert.ruleName}}': done by {{alert.personName}}",
            "{{event.subject}}, regra '{{alert.ruleName}}': concluído por {{alert.personName}}",
            "",
            ""
        ),
        (
            "alert.lapsed",
            "alert-lapsed",
            "Alert lapsed",
            "{{event.subject}}, rule '{{alert.ruleName}}': nobody answered",
            "{{event.subject}}, regra '{{alert.ruleName}}': ninguém respondeu",
            "Take it yourself, or pass it on.",
            "Fique com ele ou passe-o a alguém."
        ),
        (
            "event.undecided",
            "event-undecided",
            "Event undecided",
            "{{event.subject}}: {{undecided.problem}}",
            "{{event.subject}}: {{undecided.problem}}",
            "Nobody was told of it. Mend the cause, then decide it anew in Proof.",
            "Ninguém foi avisado. Corrija a causa e decida de novo na página de provas."
        ),
        (
            "source.silent",
            "source-silent",
            "Source silent",
            "{{source.name}} has sent nothing for {{source.minutes}} minutes",
            "{{source.name}} não envia nada há {{source.minutes}} minutos",
            "Look whether the order system works, and take orders by hand meanwhile.",
            "Veja se o sistema de encomendas funciona e receba as encomendas à mão entretanto."
        ),
        (
            "source.back",
            "source-back",
            "Source back",
            "{{source.name}} sends again",
            "{{source.name}} volta a enviar",
            "Compare with its own list: what it did not tell is missing.",
            "Compare com a lista do sistema: falta o que não foi comunicado."
        ),
        ("source.failing", "source-failing", "List cannot be fetched", "{{source.name}}: {{source.problem}}", "{{source.name}}: {{source.problem}}", "", ""),
        ("source.restored", "source-restored", "List can be fetched again", "{{source.name}}", "{{source.name}}", "", ""),
        (
            "source.doubtful",
            "source-doubtful",
            "List looks broken",
            "{{source.name}}: {{source.reason}}",
            "{{source.name}}: {{source.reason}}",
            "It waits: take it or refuse it under Sources.",
            "Está à espera: aceite-a ou recuse-a em Sources."
        ),
        (
            "orders.missed",
            "orders-missed",
            "Orders not heard of",
            "{{source.name}}: {{source.missed}} orders differ",
            "{{source.name}}: {{source.missed}} encomendas diferem",
            "Take them over, or set them aside.",
            "Assuma-as ou ponha-as de lado."
        ),
        (
            "instruction.waits",
            "instruction-waits",
            "Instruction waits for a yes",
            "{{event.subject}}: {{instruction.by}} wants to {{instruction.clause}}",
            "{{event.subject}}: {{instruction.by}} pede: {{instruction.clause}}",
            "Say yes or stop it; without an answer it is dropped after half an hour.",
            "Aprove ou pare; sem resposta é cancelado ao fim de meia hora."
        ),
        (
            "instruction.refused",
            "instruction-refused",
            "Instruction refused",
            "{{event.subject}}: {{instruction.clause}}, asked by {{instruction.by}}. It says: {{instruction.words}}",
            "{{event.subject}}: {{instruction.clause}}, pedido por {{instruction.by}}. Resposta: {{instruction.words}}",
            "Nothing was done to the order. Do it in the order system, or ask for something else.",
            "Nada foi feito à encomenda. Faça-o no sistema de encomendas ou peça outra coisa."
        ),
        (
            "instruction.unseen",
            "instruction-unseen",
            "Instruction not seen",
            "{{event.subject}}: {{instruction.clause}}, asked by {{instruction.by}}, was taken and nothing shows it",
            "{{event.subject}}: {{instruction.clause}}, pedido por {{instruction.by}}, foi aceite e nada o mostra",
            "Look in the order system whether it was done.",
            "Veja no sistema de encomendas se foi feito."
        ),
        (
            "instruction.failed",
            "instruction-failed",
            "Instruction not handed over",
            "{{event.subject}}: {{instruction.clause}}, asked by {{instruction.by}}: {{instruction.words}}",
            "{{event.subject}}: {{instruction.clause}}, pedido por {{instruction.by}}: {{instruction.words}}",
            "Do it in the order system by hand, and find out why it cannot be reached.",
            "Faça-o à mão no sistema de encomendas e descubra porque não responde."
        ),
        (
            "instruction.dropped",
            "instruction-dropped",
            "Instruction dropped",
            "{{event.subject}}: {{instruction.clause}}, asked by {{instruction.by}}: {{instruction.words}}",
            "{{event.subject}}: {{instruction.clause}}, pedido por {{instruction.by}}: {{instruction.words}}",
            "",
            ""
        ),
        (
            "intake.closed",
            "intake-closed",
            "Intake closed",
            "{{event.subject}} takes no orders for now",
            "{{event.subject}} não recebe encomendas por agora",
            "",
            ""
        ),
        ("intake.opened", "intake-opened", "Intake opened", "{{event.subject}} takes orders again", "{{event.subject}} volta a receber encomendas", "", ""),
        (
            "rule.storm",
            "rule-storm",
            "Too many alerts",
            "rule '{{rule.name}}', more than {{rule.alerts}}",
            "regra '{{rule.name}}', mais de {{rule.alerts}}",
            "They are gathered into one message each. Look whether the rule is too wide.",
            "São reunidos numa só mensagem. Veja se a regra é demasiado ampla."
        ),
    ];

    private static readonly FrozenDictionary<string, (string En, string Pt)> Labels = new Dictionary<string, (string, string)>
    {
        ["order.customer.name"] = ("Customer", "Cliente"),
        ["order.customer.phone"] = ("Phone", "Telefone"),
        ["order.customer.email"] = ("Mail", "Correio"),
        ["order.salesperson"] = ("Salesperson", "Vendedor"),
        ["order.extra.vessel"] = ("Vessel", "Navio"),
        ["order.extra.berth"] = ("Berth", "Cais"),
        ["order.dueAt"] = ("Due", "Para"),
        ["order.status"] = ("Status", "Estado"),
        ["order.total"] = ("Total", "Total"),
        ["order.hold.reason"] = ("On hold", "Retida"),
        ["order.risk.level"] = ("Risk", "Risco"),
        ["order.risk.reasons"] = ("Because of", "Porquê"),
        ["order.payment.method"] = ("Payment", "Pagamento"),
        ["order.payment.state"] = ("Payment state", "Estado do pagamento"),
        ["note.text"] = ("Note", "Nota"),
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
        yield return Order(General, "Whatever happened", "", "", "");
        foreach (var (type, id, name, todo, todoPt) in Orders)
        {
            yield return Order(id, name, type, todo, todoPt);
        }

        foreach (var (_, id, name, detail, detailPt, todo, todoPt) in Others)
        {
            yield return new Wording(
                id,
                name,
                [
                    new WordingText(Audience.Staff, "en", Other("{{event.name}}: " + detail, todo, false)),
                    new WordingText(Audience.Staff, "pt", Other("{{event.name}}: " + detailPt, todoPt, true)),
                    new WordingText(Audience.Outside, "en", Other("{{event.name}}: " + detail, todo, false)),
                    new WordingText(Audience.Outside, "pt", Other("{{event.name}}: " + detailPt, todoPt, true)),
                ]
            );
        }

        foreach (var role in Roles())
        {
            yield return role;
        }

        yield return new Wording(
            "sirena.note",
            "Note that names somebody",
            [
                new WordingText(Audience.Staff, "en", Note("{{order.number}}: note by {{note.from}}", "{{note.text}}")),
                new WordingText(Audience.Staff, "pt", Note("{{order.number}}: nota de {{note.from}}", "{{note.text}}")),
                new WordingText(Audience.Customer, "en", Note("About your order {{order.number}}", "{{note.public}}")),
                new WordingText(Audience.Customer, "pt", Note("Sobre a sua encomenda {{order.number}}", "{{note.public}}")),
            ]
        );
        yield return new Wording(
            "sirena.notice",
            "Notice",
            [
                new WordingText(Audience.Staff, "en", NoticeParts("Sent by {{notice.from}}")),
                new WordingText(Audience.Staff, "pt", NoticeParts("Enviado por {{notice.from}}")),
                new WordingText(Audience.Outside, "en", NoticeParts("Sent by {{notice.from}}")),
            ]
        );
    }

    private static Wording Order(string id, string name, string type, string todo, string todoPt) =>
        new(
            id,
            name,
            [
                new WordingText(Audience.Staff, "en", Staff(id, todo, false)),
                new WordingText(Audience.Staff, "pt", Staff(id, todoPt, true)),
                new WordingText(Audience.Customer, "en", CustomerWords.Parts(type, false)),
                new WordingText(Audience.Customer, "pt", CustomerWords.Parts(type, true)),
                new WordingText(Audience.Outside, "en", Outside(id, false)),
                new WordingText(Audience.Outside, "pt", Outside(id, true)),
            ]
        );

    /// <summary>Facts with the labels that ship.</summary>
    internal static ImmutableArray<Fact> FactsOf(bool pt, params ReadOnlySpan<string> paths)
    {
        var facts = ImmutableArray.CreateBuilder<Fact>(paths.Length);
        foreach (var path in paths)
        {
            facts.Add(new Fact(pt ? Labels[path].Pt : Labels[path].En, path));
        }

        return facts.ToImmutable();
    }

    // What it is about: the general one may be about something else than an order.
    private static string About(string id) => id == General ? "{{order.number}}{{^order.number}}{{event.subject}}{{/order.number}}" : "{{order.number}}";

    private static WordingParts Staff(string id, string todo, bool pt)
    {
        var what = About(id);
        var (place, due) = pt ? (PlacePt, DuePt) : (Place, Due);
        var facts = FactsOf(
            pt,
            "order.customer.name",
            "order.extra.vessel",
            "order.extra.berth",
            "order.dueAt",
            "order.status",
            "order.total",
            "order.hold.reason",
            "order.risk.level",
            "order.risk.reasons"
        );
        var doing = todo.Length == 0 ? "" : todo + "\n\n";
        var why = pt
            ? "\nRecebe isto porque {{alert.because}} e a regra '{{alert.rule}}' se aplicou.\n{{#alert.also}}\nA regra '{{.}}' também se aplicou; esta mensagem vale por ambas.\n{{/alert.also}}\n"
            : "\nYou get this because {{alert.because}} and rule '{{alert.rule}}' matched.\n{{#alert.also}}\nRule '{{.}}' matched too; this message stands for both.\n{{/alert.also}}\n";
        var brief = $"{what} {{{{event.what}}}}. {Vessel}{place}{due}{Total}";
        return new WordingParts
        {
            Subject = what + ": {{event.what}}",
            Facts = facts,
            Text = doing + "{{facts}}\n" + Lines + why,
            Sms = brief + (pt ? ". Responda OK {{answer.code}} ou {{answer.link}}" : ". Reply OK {{answer.code}} or {{answer.link}}"),
            Chat = brief + (todo.Length == 0 ? "" : "\n" + todo) + "\n{{alert.rule}}",
            Push = brief,
            Screen = brief + (todo.Length == 0 ? "" : "\n" + todo),
            Ticket = $"{what} {{{{event.what}}}}\n\n{{{{facts}}}}\n\n{{{{order.lines.table}}}}\n\n{(pt ? "Regra" : "Rule")}: {{{{alert.rule}}}}",
        };
    }

    private static WordingParts Outside(string id, bool pt)
    {
        var brief = $"{About(id)} {{{{event.what}}}}. {Vessel}{(pt ? PlacePt : Place)}{(pt ? DuePt : Due)}";
        return new WordingParts
        {
            Subject = About(id) + ": {{event.what}}",
            Facts = FactsOf(pt, "order.customer.name", "order.extra.vessel", "order.extra.berth", "order.dueAt"),
            Text =
                "{{facts}}\n"
                + Lines
                + (
                    pt
                        ? "\nRecebe isto porque {{alert.because}} e a regra '{{alert.rule}}' se aplicou.\n"
                        : "\nYou get this because {{alert.because}} and rule '{{alert.rule}}' matched.\n"
                ),
            Sms = brief + (pt ? ". Responda OK {{answer.code}} ou {{answer.link}}" : ". Reply OK {{answer.code}} or {{answer.link}}"),
            Chat = brief,
        };
    }

    private static WordingParts Other(string headline, string todo, bool pt) =>
        new()
        {
            Subject = headline,
            Text =
                headline
                + (todo.Length > 0 ? "\n" + todo : "")
                + (
                    pt
                        ? "\n\nRecebe isto porque {{alert.because}} e a regra '{{alert.rule}}' se aplicou.\n"
                        : "\n\nYou get this because {{alert.because}} and rule '{{alert.rule}}' matched.\n"
                ),
            Sms = headline + (pt ? ". Responda OK {{answer.code}} ou {{answer.link}}" : ". Reply OK {{answer.code}} or {{answer.link}}"),
            Chat = headline + (todo.Length > 0 ? "\n" + todo : ""),
            Push = headline,
            Screen = headline + (todo.Length > 0 ? "\n" + todo : ""),
            Ticket = headline,
        };

    // Each role reads what it needs first: the kitchen what and by when, finance the amount and the risk, drivers the berth.
    private static IEnumerable<Wording> Roles()
    {
        const string facts = "{{facts}}\n",
            ok = ". OK {{answer.code}}";
        const string made = "{{#order.lines}}{{quantity}} {{title}}, {{/order.lines}}" + Vessel;
        const string phone = "{{#order.customer.phone}}, {{order.customer.phone}}{{/order.customer.phone}}";
        yield return Role(
            "kitchen",
            "Kitchen: what and by when",
            (
                "{{order.number}}: {{order.lines.sum.quantity}} to make by {{order.dueAt.time}}",
                "{{#order.dueAt}}Ready by {{order.dueAt}}.{{/order.dueAt}}\n" + Lines + "\n" + facts,
                "{{order.number}} for {{order.dueAt.time}}: " + made + ok
            ),
            (
                "{{order.number}}: {{order.lines.sum.quantity}} a preparar para as {{order.dueAt.time}}",
                "{{#order.dueAt}}Pronto até {{order.dueAt}}.{{/order.dueAt}}\n" + Lines + "\n" + facts,
                "{{order.number}} para as {{order.dueAt.time}}: " + made + ok
            ),
            "note.text"
        );
        yield return Role(
            "warehouse",
            "Warehouse: what to pick",
            (
                "Pick {{order.number}} for {{order.dueAt.time}}",
                Lines + "\n" + facts,
                "Pick {{order.number}}, {{order.lines.count}} lines, due {{order.dueAt}}" + ok
            ),
            (
                "Recolher {{order.number}} para as {{order.dueAt.time}}",
                Lines + "\n" + facts,
                "Recolher {{order.number}}, {{order.lines.count}} linhas, para {{order.dueAt}}" + ok
            ),
            "order.customer.name",
            "order.extra.berth",
            "order.dueAt"
        );
        yield return Role(
            "finance",
            "Finance: the amount, and why it is risky",
            (
                "{{order.number}}: {{order.total}}, {{event.what}}",
                facts,
                "{{order.number}} {{event.what}}: {{order.total}}, {{order.customer.name}}, due {{order.dueAt}}" + ok + " or {{answer.link}}"
            ),
            (
                "{{order.number}}: {{order.total}}, {{event.what}}",
                facts,
                "{{order.number}} {{event.what}}: {{order.total}}, {{order.customer.name}}" + ok + " ou {{answer.link}}"
            ),
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
            (
                "{{order.customer.name}}: {{order.number}} {{event.what}}",
                facts + Lines,
                $"{{{{order.number}}}} {{{{event.what}}}}: {Vessel}{phone}, due {{{{order.dueAt}}}}" + ok
            ),
            ("{{order.customer.name}}: {{order.number}} {{event.what}}", facts + Lines, $"{{{{order.number}}}} {{{{event.what}}}}: {Vessel}{phone}" + ok),
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
            (
                "{{order.number}} {{event.what}}, {{order.customer.name}}",
                facts + Lines,
                $"{{{{order.number}}}} {{{{event.what}}}}, {Vessel}, due {{{{order.dueAt}}}}" + ok
            ),
            ("{{order.number}} {{event.what}}, {{order.customer.name}}", facts + Lines, $"{{{{order.number}}}} {{{{event.what}}}}, {Vessel}" + ok),
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
            (
                "{{order.number}} to {{order.extra.berth}}, {{order.dueAt.time}}",
                facts + Lines,
                $"{{{{order.number}}}} to {Vessel}{Place}, due {{{{order.dueAt.time}}}}" + ok
            ),
            (
                "{{order.number}} para {{order.extra.berth}}, {{order.dueAt.time}}",
                facts + Lines,
                $"{{{{order.number}}}} para {Vessel}{PlacePt}, para as {{{{order.dueAt.time}}}}" + ok
            ),
            "order.customer.name",
            "order.extra.berth",
            "order.dueAt"
        );
    }

    private static Wording Role(
        string id,
        string name,
        (string Subject, string Text, string Sms) en,
        (string Subject, string Text, string Sms) pt,
        params ReadOnlySpan<string> facts
    )
    {
        const string why = "\nYou get this because {{alert.because}} and rule '{{alert.rule}}' matched.\n",
            whyPt = "\nRecebe isto porque {{alert.because}} e a regra '{{alert.rule}}' se aplicou.\n";
        static WordingParts Parts((string Subject, string Text, string Sms) text, string why, ImmutableArray<Fact> facts) =>
            new()
            {
                Subject = text.Subject,
                Text = text.Text + why,
                Facts = facts,
                Sms = text.Sms,
                Chat = text.Sms.Split(". OK", StringSplitOptions.None)[0],
                Ticket = $"{text.Subject}\n\n{text.Text}",
            };
        return new Wording(
            id,
            name,
            [
                new WordingText(Audience.Staff, "en", Parts(en, why, FactsOf(false, facts))),
                new WordingText(Audience.Staff, "pt", Parts(pt, whyPt, FactsOf(true, facts))),
                .. Order("", "", "", "", "").Texts.Where(t => t.Audience != Audience.Staff),
            ]
        );
    }

    private static WordingParts Note(string subject, string text) =>
        new()
        {
            Subject = subject,
            Text = text + "\n",
            Sms = $"{subject}: {text}",
            Chat = $"{subject}: {text}",
            Push = $"{subject}: {text}",
            Screen = $"{subject}\n{text}",
        };

    private static WordingParts NoticeParts(string by) =>
        new()
        {
            Subject = "{{notice.headline}}",
            Text = "{{notice.text}}\n\n" + by + "\n",
            Sms = "{{notice.headline}}{{#notice.text}}. {{notice.text}}{{/notice.text}}{{#answer.code}} OK {{answer.code}}{{/answer.code}}",
            Chat = "{{notice.headline}}\n{{notice.text}}",
            Push = "{{notice.headline}}. {{notice.text}}",
            Screen = "{{notice.headline}}\n{{notice.text}}",
        };
}
