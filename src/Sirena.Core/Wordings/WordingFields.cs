using System.Collections.Frozen;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Wordings;

/// <summary>A field that a text can name.</summary>
/// <param name="Path">Its path: <c>order.total</c>.</param>
/// <param name="Name">In plain words: <c>total</c>.</param>
/// <param name="Internal">It may not go to a customer.</param>
/// <param name="Section">It is a list that a section runs over.</param>
public sealed record TextFieldInfo(string Path, string Name, bool Internal = false, bool Section = false);

/// <summary>The fields of texts: those of the event and its order, their other forms, and those of the message itself.</summary>
public static class WordingFields
{
    // What is about how the business sees an order, what it costs it, or what its people say to each other.
    private static readonly FrozenSet<string> InternalWords = new[] { "hold", "risk", "cost", "costs", "margin", "internal" }.ToFrozenSet();
    private static readonly FrozenSet<string> InternalFields = new[]
    {
        "note",
        "note.text",
        "note.by",
        "note.visibleToCustomer",
        "change",
        "change.field",
        "change.before",
        "change.after",
        "alert.rule",
        "alert.because",
        "alert.also",
        "alert.case",
        "next.who",
        "next.at",
        "order.via",
        "event.source",
        "event.id",
        "answer.link",
        "answer.code",
        "links.why",
        "links.settings",
        "links.order",
        "order.customer.group",
        "order.customer.tags",
    }.ToFrozenSet();

    // How the house works and where its messages go: somebody outside may be told by permission, a customer never.
    private static readonly FrozenSet<string> HouseWords = new[]
    {
        "backlog",
        "delivery",
        "gateway",
        "instruction",
        "rule",
        "source",
        "undecided",
    }.ToFrozenSet();

    private static readonly (string Path, string Name)[] OfMessage =
    [
        ("business.name", "our name"),
        ("business.footer", "our footer"),
        ("recipient.name", "reader's name"),
        ("event.name", "what happened"),
        ("event.what", "what happened, with its detail"),
        ("alert.rule", "rule"),
        ("alert.because", "why the reader is told"),
        ("alert.also", "other rules that told"),
        ("alert.case", "case"),
        ("alert.urgency", "urgency"),
        ("answer.link", "answer link"),
        ("answer.code", "reply code"),
        ("next.who", "who is told next"),
        ("next.at", "told next at"),
        ("links.order", "link to the order"),
        ("links.why", "link: why was I told"),
        ("links.settings", "link: change what I am told"),
        ("note.public", "note for the customer"),
        ("note.from", "the note's author, by name"),
        ("notice.headline", "notice's subject"),
        ("notice.text", "notice's text"),
        ("notice.from", "who sends the notice"),
        ("order.salesperson.email", "salesperson's mail address"),
        ("order.salesperson.phone", "salesperson's phone"),
        (Orders.OwnField.All, "fields of our own"),
        ("order.shipped-now", "shipped with this event"),
        ("source.name", "source"),
        ("source.minutes", "minutes of silence"),
        ("source.problem", "what is wrong with the source"),
        ("source.reason", "why a list is doubtful"),
        ("source.missed", "orders not heard of"),
        ("contact.name", "who writes"),
        ("contact.email", "writer's mail"),
        ("contact.phone", "writer's phone"),
        ("contact.subject", "subject of the message"),
        ("contact.text", "the message"),
        ("gateway.name", "gateway"),
        ("gateway.error", "gateway's error"),
        ("gateway.channel", "gateway's channel"),
        ("overdue.by", "overdue by what"),
        ("overdue.since", "overdue since"),
        ("overdue.status", "status it stands in"),
        ("backlog.statusName", "status with a backlog"),
        ("backlog.count", "orders in the backlog"),
        ("backlog.limit", "the backlog's limit"),
        ("rule.name", "rule with too many alerts"),
        ("rule.alerts", "the storm guard's number"),
        ("instruction.clause", "what the order system was asked"),
        ("instruction.by", "who asked it"),
        ("instruction.words", "what the order system said"),
        ("instruction.kind", "kind of instruction"),
        ("instruction.because", "why it was asked"),
        ("instruction.source", "source that was asked"),
        ("undecided.type", "event that was not decided"),
        ("undecided.problem", "why it was not decided"),
        ("alert.ruleName", "rule of the alert"),
        ("alert.personName", "who took the alert"),
        ("delivery.to", "failed delivery to"),
        ("delivery.channel", "failed delivery's channel"),
        ("delivery.reason", "why it failed"),
    ];

    private static readonly (string Name, string Words)[] LineFields =
    [
        ("quantity", "quantity"),
        ("title", "article"),
        ("sku", "article number"),
        ("unitPrice", "unit price"),
        ("shipped", "shipped so far"),
        ("now", "in this shipment"),
        ("later", "follows later"),
        ("site", "site"),
        ("value", "value"),
        ("tags", "tags"),
    ];

    private static readonly Dictionary<FieldType, string[]> Forms = new()
    {
        [FieldType.Money] = ["plain"],
        [FieldType.Number] = ["plain"],
        [FieldType.Time] = ["date", "time", "until", "plain"],
        [FieldType.Duration] = ["plain"],
        [FieldType.Choice] = ["plain"],
    };

    /// <summary>Every field with a fixed path.</summary>
    public static IReadOnlyList<TextFieldInfo> All { get; } = Make();

    private static readonly FrozenDictionary<string, TextFieldInfo> ByPath = All.ToFrozenDictionary(f => f.Path);

    /// <summary>What can be said of a line, inside <c>order.lines</c>.</summary>
    public static IReadOnlyList<TextFieldInfo> OfLine { get; } =
    [
        .. LineFields.Select(f => new TextFieldInfo(f.Name, f.Words)),
        new TextFieldInfo("unitPrice.plain", "unit price, bare"),
        new TextFieldInfo("value.plain", "value, bare"),
    ];

    /// <summary>A field by its path; extras of orders and events are never unknown. <see langword="null"/> for one that there is not.</summary>
    /// <param name="path">The path.</param>
    /// <param name="seen">Further paths that events were seen to carry.</param>
    public static TextFieldInfo? Find(string path, IReadOnlySet<string>? seen = null)
    {
        if (ByPath.TryGetValue(path, out var known))
        {
            return known;
        }

        var parts = path.Split('.');
        if (parts is ["order" or "event", "extra", _, ..] && parts.All(p => p.Length > 0))
        {
            return new TextFieldInfo(path, string.Join(' ', parts[2..]), parts.Any(InternalWords.Contains));
        }

        // What events of the business's own carry, and the forms of such values.
        return
            seen is not null
            && (
                seen.Contains(path) || (parts.Length > 2 && parts[^1] is "plain" or "date" or "time" or "until" && seen.Contains(string.Join('.', parts[..^1])))
            )
            ? new TextFieldInfo(path, string.Join(' ', parts[^1]), parts.Any(InternalWords.Contains))
            : null;
    }

    /// <summary>Whether a field is of the house alone: somebody outside may read it by permission, a customer may not.</summary>
    /// <remarks>Only those that Sirena gives: what events of the business's own call so is for the business to say.</remarks>
    public static bool IsOfHouse(string path) =>
        ByPath.ContainsKey(path) && (HouseWords.Contains(path.Split('.')[0]) || path is "alert.ruleName" or "alert.personName");

    /// <summary>Whether a customer may not read a field, nor somebody outside.</summary>
    public static bool IsInternal(string path) => InternalFields.Contains(path) || path.Split('.').Any(InternalWords.Contains);

    private static List<TextFieldInfo> Make()
    {
        var all = new List<TextFieldInfo>();
        foreach (
            var field in FieldCatalogue.All.Where(f =>
                f.Type != FieldType.Thing || f.Path is "order.customer" or "order.payment" or "order.risk" or "order.hold" or "note"
            )
        )
        {
            var name = field.Name.StartsWith("the ", StringComparison.Ordinal) ? field.Name[4..] : field.Name;
            all.Add(new TextFieldInfo(field.Path, name, IsInternal(field.Path), field.Type == FieldType.List));
            foreach (var form in Forms.GetValueOrDefault(field.Type, field.Path is "order.status" or "order.salesperson" or "order.site" ? ["plain"] : []))
            {
                all.Add(
                    new TextFieldInfo(
                        $"{field.Path}.{form}",
                        $"{name}, {form switch { "plain" => "bare", "date" => "day", "time" => "time of day", _ => "how far off" }}",
                        IsInternal(field.Path)
                    )
                );
            }
        }

        all.AddRange([
            new TextFieldInfo("order.lines.table", "lines, as a table"),
            new TextFieldInfo("order.lines.count", "number of lines"),
            new TextFieldInfo("order.lines.now", "lines of this shipment", Section: true),
            new TextFieldInfo("order.lines.later", "lines that follow later", Section: true),
            new TextFieldInfo("order.lines.now.table", "this shipment, as a table"),
            new TextFieldInfo("order.lines.later.table", "what follows later, as a table"),
            .. new[] { ("now", "in this shipment"), ("later", "that follow later") }.SelectMany(x =>
                new[]
                {
                    new TextFieldInfo($"order.lines.{x.Item1}.count", $"number of lines {x.Item2}"),
                    new TextFieldInfo($"order.lines.{x.Item1}.sum.quantity", $"quantity {x.Item2}"),
                    new TextFieldInfo($"order.lines.{x.Item1}.sum.value", $"value {x.Item2}"),
                }
            ),
            new TextFieldInfo("order.lines.sum.quantity", "quantity of all lines"),
            new TextFieldInfo("order.lines.sum.value", "value of all lines"),
        ]);
        all.AddRange(
            OfMessage
                .Where(m => all.TrueForAll(f => f.Path != m.Path))
                .Select(m => new TextFieldInfo(m.Path, m.Name, IsInternal(m.Path), m.Path == "alert.also"))
        );
        all.Add(new TextFieldInfo("next.at.time", "told next at, time of day", true));
        return all;
    }
}
