using System.Collections.Frozen;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Sources;

/// <summary>How a value is read.</summary>
public enum ReadAs
{
    /// <summary>Words; a number or a yes is written out.</summary>
    Text,

    /// <summary>A time.</summary>
    Time,

    /// <summary>A decimal number.</summary>
    Number,

    /// <summary>A code of ISO 4217.</summary>
    Currency,

    /// <summary>Several texts.</summary>
    List,

    /// <summary>Yes or no.</summary>
    YesNo,

    /// <summary>As it stands, unless it is said how.</summary>
    Any,
}

/// <summary>A member of an event's data that a reading may fill.</summary>
/// <param name="Path">Its path in the data: <c>order.customer.name</c>.</param>
/// <param name="As">How it is read.</param>
/// <param name="Name">What a person calls it.</param>
public sealed record ReadingField(string Path, ReadAs As, string Name)
{
    /// <summary>The names on the way.</summary>
    public string[] Members { get; } = Path.Split('.');

    /// <summary>What can be filled, in the order in which it is shown. What an order has beside these goes to <c>order.extra</c>.</summary>
    public static IReadOnlyList<ReadingField> All { get; } =
    [
        new("order.number", ReadAs.Text, "order number"),
        new("order.status", ReadAs.Text, "status"),
        new("order.placedAt", ReadAs.Time, "placed at"),
        new("order.dueAt", ReadAs.Time, "due at"),
        new("order.total", ReadAs.Number, "total"),
        new("order.currency", ReadAs.Currency, "currency"),
        new("order.via", ReadAs.Text, "way it came in"),
        new("order.customer.code", ReadAs.Text, "customer's code"),
        new("order.customer.name", ReadAs.Text, "customer's name"),
        new("order.customer.group", ReadAs.Text, "customer's group"),
        new("order.customer.email", ReadAs.Text, "customer's mail"),
        new("order.customer.phone", ReadAs.Text, "customer's phone"),
        new("order.customer.language", ReadAs.Text, "customer's language"),
        new("order.customer.tags", ReadAs.List, "customer's tags"),
        new("order.salesperson", ReadAs.Text, "salesperson"),
        new("order.site", ReadAs.Text, "site"),
        new("order.payment.method", ReadAs.Text, "payment method"),
        new("order.payment.state", ReadAs.Text, "payment state"),
        new("order.risk.level", ReadAs.Text, "risk"),
        new("order.risk.score", ReadAs.Number, "risk score"),
        new("order.risk.reasons", ReadAs.List, "risk's reasons"),
        new("order.hold.reason", ReadAs.Text, "reason for the hold"),
        new("order.tags", ReadAs.List, "tags"),
        new("stock.sku", ReadAs.Text, "article number"),
        new("stock.title", ReadAs.Text, "article"),
        new("stock.site", ReadAs.Text, "stock's site"),
        new("stock.onHand", ReadAs.Number, "on hand"),
        new("stock.threshold", ReadAs.Number, "threshold"),
        new("stock.adjustment", ReadAs.Number, "adjustment"),
        new("note.by", ReadAs.Text, "note's author"),
        new("note.text", ReadAs.Text, "note"),
        new("note.visibleToCustomer", ReadAs.YesNo, "the customer sees the note"),
        new("contact.name", ReadAs.Text, "who writes"),
        new("contact.email", ReadAs.Text, "writer's mail"),
        new("contact.phone", ReadAs.Text, "writer's phone"),
        new("contact.subject", ReadAs.Text, "subject of the message"),
        new("contact.text", ReadAs.Text, "message"),
        new("contact.to", ReadAs.Text, "whom it is for"),
    ];

    /// <summary>The members of a line.</summary>
    public static IReadOnlyList<ReadingField> Line { get; } =
    [
        new("sku", ReadAs.Text, "article number"),
        new("title", ReadAs.Text, "title"),
        new("quantity", ReadAs.Number, "quantity"),
        new("shipped", ReadAs.Number, "shipped"),
        new("unitPrice", ReadAs.Number, "unit price"),
        new("site", ReadAs.Text, "site"),
        new("tags", ReadAs.List, "tags"),
    ];

    private static readonly FrozenDictionary<string, ReadingField> ByPath = All.ToFrozenDictionary(f => f.Path);

    /// <summary>The field of a path, or <see langword="null"/>; <c>order.extra.X</c> always is one.</summary>
    public static ReadingField? Find(string path) =>
        ByPath.GetValueOrDefault(path)
        ?? (
            FieldCatalogue.IsOrderExtra(path) && path.Length is > 12 and <= 112 && !path[12..].Contains('.', StringComparison.Ordinal)
                ? new ReadingField(path, ReadAs.Any, path[12..])
                : null
        );
}
