using System.Collections.Frozen;

namespace Sirena.Core.Orders;

/// <summary>The events that Sirena knows by name, with the words a sentence uses for them. A supervisor may add others.</summary>
public static class EventTypes
{
    /// <summary>Status moved from one to another.</summary>
    public const string StatusChanged = "order.status-changed";

    /// <summary>Sirena's own: a recipient of an alert resolves to nobody.</summary>
    public const string Unreachable = "recipient.unreachable";

    /// <summary>Sirena's own: an event could not be decided.</summary>
    public const string Undecided = "event.undecided";

    /// <summary>Sirena's own: a notice goes out.</summary>
    public const string NoticeSent = "notice.sent";

    /// <summary>Sirena's own: a rule raises more alerts than its storm guard lets through.</summary>
    public const string RuleStorm = "rule.storm";

    /// <summary>A source takes no orders for now.</summary>
    public const string IntakeClosed = "intake.closed";

    /// <summary>It takes orders again.</summary>
    public const string IntakeOpened = "intake.opened";

    /// <summary>Sirena's own: an instruction waits for somebody's yes.</summary>
    public const string InstructionWaits = "instruction.waits";

    // What the order system tells of.
    private static readonly (string Type, string Name, string Phrase)[] Told =
    [
        ("order.placed", "Placed", "an order is placed"),
        ("order.changed", "Changed", "an order is changed"),
        (StatusChanged, "Status changed", "an order changes its status"),
        ("order.held", "Held", "an order is held"),
        ("order.released", "Released", "a held order is released"),
        ("order.risk-flagged", "Flagged risky", "an order is flagged risky"),
        ("order.payment-failed", "Payment failed", "an order's payment fails"),
        ("order.paid", "Paid", "an order is paid"),
        ("order.shipped", "Shipped", "an order is shipped, whole or in part"),
        ("order.cancelled", "Cancelled", "an order is cancelled"),
        ("order.refunded", "Refunded", "an order is refunded"),
        ("order.approval-requested", "Approval requested", "an order asks for approval"),
        ("order.note-added", "Note added", "a note is added to an order"),
        ("stock.low", "Stock low", "stock runs low"),
        ("stock.negative", "Stock negative", "stock falls below zero"),
        ("stock.adjusted", "Stock adjusted", "stock is adjusted"),
        ("stock.changed", "Stock changed", "stock changes"),
        ("contact.received", "Contact received", "somebody writes to the business"),
        (IntakeClosed, "Intake closed", "a source closes its intake"),
        (IntakeOpened, "Intake opened", "a source opens its intake"),
        ("batch.closed", "Batch closed", "a payment batch is closed"),
        ("payment-card.expiring", "Card expiring", "a payment card is about to expire"),
    ];

    // What Sirena itself finds.
    private static readonly (string Type, string Name, string Phrase)[] Found =
    [
        ("order.overdue", "Overdue", "an order is overdue"),
        ("order.backlog", "Backlog", "too many orders wait in a status"),
        (Unreachable, "Recipient unreachable", "a recipient cannot be reached"),
        ("gateway.failing", "Gateway failing", "a gateway fails"),
        ("gateway.restored", "Gateway restored", "a gateway works again"),
        ("gateway.budget-low", "Budget low", "a gateway has spent four fifths of its month's budget"),
        ("delivery.failed", "Delivery failed", "a delivery fails"),
        ("alert.taken", "Alert taken", "somebody takes an alert"),
        ("alert.done", "Alert done", "an alert is done"),
        ("alert.lapsed", "Alert lapsed", "an alert lapses with no answer"),
        (Undecided, "Event undecided", "an event cannot be decided"),
        (RuleStorm, "Rule storm", "a rule raises too many alerts"),
        ("source.silent", "Source silent", "a source is silent longer than it usually is"),
        ("source.back", "Source back", "a silent source sends again"),
        ("source.failing", "Source failing", "a list cannot be fetched"),
        ("source.restored", "Source restored", "a list can be fetched again"),
        ("source.doubtful", "List doubtful", "a list looks broken and waits for somebody"),
        (InstructionWaits, "Instruction waits", "an instruction waits for somebody's yes"),
        ("instruction.refused", "Instruction refused", "the order system refuses an instruction"),
        ("instruction.unseen", "Instruction not seen", "an instruction was taken and nothing shows it"),
        ("instruction.failed", "Instruction failed", "an instruction cannot be handed over"),
        ("instruction.dropped", "Instruction dropped", "an instruction is stopped before it goes"),
        ("orders.missed", "Orders missed", "the order system knows what Sirena has not heard"),
    ];

    private static readonly (string Type, string Name, string Phrase)[] Known = [.. Told, .. Found, (NoticeSent, "Notice", "a notice is sent")];

    private static readonly FrozenSet<string> Own = Found.Select(f => f.Type).ToFrozenSet();

    private static readonly FrozenDictionary<string, (string Name, string Phrase)> ByType = Known.ToFrozenDictionary(k => k.Type, k => (k.Name, k.Phrase));

    /// <summary>The known types in the order of the contract.</summary>
    public static IReadOnlyList<string> All { get; } = [.. Known.Select(k => k.Type)];

    /// <summary>Whether the type is about an order and needs one in its data.</summary>
    public static bool NeedsOrder(string type) => type.StartsWith("order.", StringComparison.Ordinal);

    /// <summary>Whether Sirena itself makes such events; an alert that was raised by one raises none.</summary>
    public static bool IsOwn(string type) => Own.Contains(type);

    /// <summary>A short heading: <c>Held</c>. An unknown type is shown as it is written.</summary>
    public static string Name(string type) => ByType.TryGetValue(type, out var known) ? known.Name : type;

    /// <summary>The clause after 'When': <c>an order is held</c>.</summary>
    public static string Phrase(string type) => ByType.TryGetValue(type, out var known) ? known.Phrase : $"the event {type} comes in";

    /// <summary>The type itself where it is one that Sirena knows, else <see langword="null"/>.</summary>
    public static string? OfKnown(string type) => ByType.ContainsKey(type) ? type : null;

    /// <summary>Whether the text can be a type: words of letters, digits and hyphens, joined by dots.</summary>
    public static bool IsType(string? text) =>
        text is { Length: > 0 and <= 100 } && text.Split('.').All(w => w.Length > 0 && w.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_'));
}
