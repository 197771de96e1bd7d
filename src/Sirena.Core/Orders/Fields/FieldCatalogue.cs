using System.Collections.Frozen;
using System.Collections.Immutable;

namespace Sirena.Core.Orders.Fields;

/// <summary>The fields that rules and wordings can name.</summary>
public static class FieldCatalogue
{
    private static readonly ImmutableArray<string> Risk = ["low", "medium", "high"];
    private static readonly ImmutableArray<string> Weekdays = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];

    private static readonly FrozenDictionary<string, Field> Lines = new[]
    {
        F("sku", FieldType.Text, "article number"),
        F("title", FieldType.Text, "title"),
        F("quantity", FieldType.Number, "quantity"),
        F("shipped", FieldType.Number, "shipped quantity"),
        F("unitPrice", FieldType.Money, "unit price"),
        F("site", FieldType.Text, "site"),
        F("tags", FieldType.List, "tags"),
    }.ToFrozenDictionary(f => f.Path);

    private static readonly FrozenDictionary<string, Field> Known = new[]
    {
        F("order.number", FieldType.Text, "the order number"),
        F("order.placedAt", FieldType.Time, "the time it was placed"),
        F("order.status", FieldType.Text, "the status"),
        F("order.dueAt", FieldType.Time, "the due time"),
        F("order.via", FieldType.Text, "the way it came in"),
        F("order.currency", FieldType.Text, "the currency"),
        F("order.total", FieldType.Money, "the total"),
        F("order.customer", FieldType.Thing, "the customer"),
        F("order.customer.code", FieldType.Text, "the customer's code"),
        F("order.customer.name", FieldType.Text, "the customer's name"),
        F("order.customer.group", FieldType.Text, "the customer's group"),
        F("order.customer.email", FieldType.Text, "the customer's mail address"),
        F("order.customer.phone", FieldType.Text, "the customer's phone"),
        F("order.customer.language", FieldType.Text, "the customer's language"),
        F("order.customer.tags", FieldType.List, "the customer's tags"),
        F("order.salesperson", FieldType.Text, "the salesperson"),
        F("order.site", FieldType.Text, "the site"),
        F("order.payment", FieldType.Thing, "the payment"),
        F("order.payment.method", FieldType.Text, "the payment method"),
        F("order.payment.state", FieldType.Text, "the payment state"),
        F("order.risk", FieldType.Thing, "the risk"),
        F("order.risk.level", FieldType.Choice, "the risk", Risk),
        F("order.risk.score", FieldType.Number, "the risk score"),
        F("order.risk.reasons", FieldType.List, "the risk's reasons"),
        F("order.hold", FieldType.Thing, "the hold"),
        F("order.hold.reason", FieldType.Text, "the reason for the hold"),
        F("order.lines", FieldType.List, "the lines"),
        F("order.tags", FieldType.List, "the tags"),
        F("order.age", FieldType.Duration, "the order's age"),
        F("order.until-due", FieldType.Duration, "the time until due"),
        F("change.field", FieldType.Text, "the changed field"),
        F("change.before", FieldType.Any, "the value before"),
        F("change.after", FieldType.Any, "the value after"),
        F("event.id", FieldType.Text, "the event's id"),
        F("event.type", FieldType.Text, "the event"),
        F("event.source", FieldType.Text, "the source"),
        F("event.subject", FieldType.Text, "the subject"),
        F("event.time", FieldType.Time, "the time of the event"),
        F("event.local-hour", FieldType.Number, "the hour of the day"),
        F("event.weekday", FieldType.Choice, "the weekday", Weekdays),
        F("stock", FieldType.Thing, "the stock"),
        F("stock.sku", FieldType.Text, "the article number"),
        F("stock.title", FieldType.Text, "the article"),
        F("stock.site", FieldType.Text, "the stock's site"),
        F("stock.onHand", FieldType.Number, "the quantity on hand"),
        F("stock.threshold", FieldType.Number, "the threshold"),
        F("stock.adjustment", FieldType.Number, "the adjustment"),
        F("contact", FieldType.Thing, "the message that somebody writes"),
        F("contact.name", FieldType.Text, "who writes"),
        F("contact.email", FieldType.Text, "the writer's mail address"),
        F("contact.phone", FieldType.Text, "the writer's phone"),
        F("contact.subject", FieldType.Text, "the message's subject"),
        F("contact.text", FieldType.Text, "the message"),
        F("contact.to", FieldType.Text, "whom the message is for"),
        F("instruction.kind", FieldType.Text, "the kind of instruction"),
        F("instruction.by", FieldType.Text, "who asked for the instruction"),
        F("instruction.rule", FieldType.Text, "the rule that asked for it"),
        F("instruction.words", FieldType.Text, "what the order system said"),
        F("source.id", FieldType.Text, "the source's id"),
        F("source.name", FieldType.Text, "the source's name"),
        F("source.minutes", FieldType.Number, "the minutes of silence"),
        F("source.missed", FieldType.Number, "the number of orders missed"),
        F("note", FieldType.Thing, "the note"),
        F("note.by", FieldType.Text, "the note's author"),
        F("note.text", FieldType.Text, "the note"),
        F("note.visibleToCustomer", FieldType.YesNo, "whether the customer sees the note"),
    }
        .Select(f => f with { Members = [.. f.Path.Split('.')] })
        .ToFrozenDictionary(f => f.Path);

    /// <summary>The members of an order's line, as <c>order.lines.any.X</c> names them.</summary>
    public static IReadOnlyCollection<string> LineMembers => Lines.Keys;

    /// <summary>Every field that has a fixed path, by path.</summary>
    public static IReadOnlyList<Field> All { get; } = [.. Known.Values.OrderBy(f => f.Path, StringComparer.Ordinal)];

    /// <summary>What a field's value is counted in, or <see langword="null"/> where it is counted in nothing.</summary>
    public static string? Unit(Field field) =>
        field.Type switch
        {
            FieldType.Money => "the order's currency",
            FieldType.Duration => "ISO 8601, such as PT2H",
            FieldType.Time => "RFC 3339, with an offset",
            FieldType.Choice => string.Join(" < ", field.Choices),
            _ when field.Path == "order.risk.score" => "0 to 100",
            _ when field.Path == "event.local-hour" => "0 to 23, the business's time",
            _ when field.Lines == LineQuantifier.Count => "lines",
            _ when field.Path == "source.minutes" => "minutes",
            _ when field.Path == "source.missed" => "orders",
            FieldType.Number => "pieces",
            _ => null,
        };

    /// <summary>A value as a rule writes it, for a field that no event has shown yet.</summary>
    public static string Example(Field field) =>
        (field.Path, field.Type) switch
        {
            ("order.number", _) => "AQ-20418",
            ("order.via", _) => "web",
            ("order.currency", _) => "EUR",
            ("order.customer.language", _) => "en",
            ("order.payment.state", _) => "authorised",
            ("event.type", _) => "order.held",
            (_, FieldType.Money) => "500",
            (_, FieldType.Number) => "12",
            (_, FieldType.Duration) => "PT2H",
            (_, FieldType.Time) => "2026-11-24T15:30:00Z",
            (_, FieldType.YesNo) => "true",
            (_, FieldType.Choice) => field.Choices[^1],
            _ => "text",
        };

    /// <summary>The fields that lines have, each way in which they can be asked, and those that count or sum them.</summary>
    public static IEnumerable<Field> OfLines { get; } =
    [
        .. new[] { "any", "all", "none" }.SelectMany(q => Lines.Keys.Order(StringComparer.Ordinal).Select(m => Find($"order.lines.{q}.{m}")!)),
        Find("order.lines.count")!,
        Find("order.lines.sum.quantity")!,
        Find("order.lines.sum.value")!,
    ];

    /// <summary>How the path of a field begins that orders have and the contract does not know.</summary>
    public const string OrderExtra = "order.extra.";

    /// <summary>Whether a path is that of a field that orders have and the contract does not know.</summary>
    public static bool IsOrderExtra(string path) => path.StartsWith(OrderExtra, StringComparison.Ordinal);

    /// <summary>Whether an order has a member of its own with that name; any other is an extra.</summary>
    public static bool IsOrderMember(string name) => Known.ContainsKey("order." + name);

    /// <summary>The field at a path, or <see langword="null"/> when there is none. <c>order.extra.*</c> and <c>event.extra.*</c> are never unknown.</summary>
    public static Field? Find(string path)
    {
        if (Known.TryGetValue(path, out var known))
        {
            return known;
        }

        var parts = path.Split('.');
        return parts switch
        {
            ["order" or "event", "extra", _, ..] when parts.All(p => p.Length > 0) => F(path, FieldType.Any, string.Join(' ', parts[2..])) with
            {
                Members = [.. parts],
            },
            ["order", "lines", "count"] => F(path, FieldType.Number, "the number of lines") with { Lines = LineQuantifier.Count },
            ["order", "lines", "sum", "quantity"] => F(path, FieldType.Number, "the quantity of all lines") with
            {
                Lines = LineQuantifier.Sum,
                Members = ["quantity"],
            },
            ["order", "lines", "sum", "value"] => F(path, FieldType.Money, "the value of all lines") with { Lines = LineQuantifier.Sum, Members = ["value"] },
            ["order", "lines", "any", var member] => Line(path, LineQuantifier.Any, member, "any line's"),
            ["order", "lines", "all", var member] => Line(path, LineQuantifier.All, member, "every line's"),
            ["order", "lines", "none", var member] => Line(path, LineQuantifier.None, member, "no line's"),
            _ => null,
        };
    }

    private static Field? Line(string path, LineQuantifier quantifier, string member, string whose) =>
        Lines.TryGetValue(member, out var line) ? line with { Path = path, Name = $"{whose} {line.Name}", Lines = quantifier, Members = [member] } : null;

    private static Field F(string path, FieldType type, string name, ImmutableArray<string> choices = default) =>
        new(path, type, name, choices.IsDefault ? [] : choices);
}
