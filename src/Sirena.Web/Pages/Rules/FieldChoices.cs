using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Engine;

namespace Sirena.Web.Pages.Rules;

/// <summary>What a supervisor chooses from: fields by where they come from, the operators that work on each, and the values that are known.</summary>
/// <param name="around">For names.</param>
/// <param name="carried">What events carried, by path.</param>
public sealed class FieldChoices(Surroundings around, IReadOnlyDictionary<string, SeenField> carried)
{
    /// <summary>The fields, in groups; those that only events of this business carry come first.</summary>
    public IReadOnlyList<(string Group, IReadOnlyList<Field> Fields)> Groups { get; } =
    [
        .. FieldCatalogue
            .All.Concat(carried.Keys.Where(p => p.Contains(".extra.", StringComparison.Ordinal)).Select(FieldCatalogue.Find).OfType<Field>())
            .Concat(FieldCatalogue.OfLines)
            .DistinctBy(f => f.Path)
            .Where(f => !Told.Contains(f.Path))
            .GroupBy(f => GroupOf(f.Path))
            .OrderBy(g => Array.IndexOf(Order, g.Key))
            .Select(g => (g.Key, (IReadOnlyList<Field>)[.. g])),
    ];

    // What is a whole with one member that says it ('the risk', its level) is offered once, as the member.
    private static readonly HashSet<string> Told =
    [
        .. FieldCatalogue
            .All.Where(f => FieldCatalogue.All.Any(o => o.Name == f.Name && o.Path.StartsWith(f.Path + ".", StringComparison.Ordinal)))
            .Select(f => f.Path),
    ];

    private static readonly string[] Order =
    [
        "Your own fields",
        "Order",
        "Customer",
        "Risk, hold and payment",
        "Lines",
        "What changed",
        "Event",
        "Stock",
        "Note",
        "Contact",
        "Source",
    ];

    /// <summary>The members of orders' own that events were seen to carry.</summary>
    public IEnumerable<string> Extras => carried.Keys.Where(FieldCatalogue.IsOrderExtra).Order(StringComparer.Ordinal);

    /// <summary>The operators that work on a field; all of them where it is not known.</summary>
    public static IReadOnlyList<Operator> Operators(string path) =>
        FieldCatalogue.Find(path) is { } field ? Core.Rules.Operators.For(field.Type) : Enum.GetValues<Operator>();

    /// <summary>All the values that a field can have, each with its name; <see langword="null"/> where others may come.</summary>
    public IReadOnlyList<(string Value, string Name)>? Closed(string path) =>
        (path, FieldCatalogue.Find(path)?.Type) switch
        {
            ("order.status", _) => [.. around.Statuses.Select(s => (s.Id, s.Name))],
            ("order.site" or "stock.site", _) or (_, FieldType.Text) when path.EndsWith(".site", StringComparison.Ordinal) =>
            [
                .. around.Staff.Sites.OrderBy(s => s.Name, StringComparer.Ordinal).Select(s => (s.Id, s.Name)),
            ],
            ("order.salesperson", _) =>
            [
                .. around.Staff.People.Where(p => p.ArchivedAt is null && !p.Outside).OrderBy(p => p.Name, StringComparer.Ordinal).Select(p => (p.Id, p.Name)),
            ],
            ("event.type", _) => [.. around.EventTypesKnown.Select(t => (t, around.EventName(t)))],
            (_, FieldType.Choice) => [.. FieldCatalogue.Find(path)!.Choices.Select(c => (c, c))],
            (_, FieldType.YesNo) => [("true", "yes"), ("false", "no")],
            _ => null,
        };

    /// <summary>The last values that events carried, each with its name; empty where none are known.</summary>
    public IReadOnlyList<(string Value, string Name)> Seen(string path) =>
        path is "change.before" or "change.after"
            ? [.. around.Statuses.Select(s => (s.Id, s.Name))]
            : [.. (carried.GetValueOrDefault(Regular(path))?.Values ?? []).Select(v => (v, around.NameOf(v) is var name && name != v ? name : ""))];

    /// <summary>What to write where no value is known.</summary>
    public static string Hint(string path) =>
        FieldCatalogue.Find(path) switch
        {
            { Type: FieldType.Money } => "500, or 500 USD",
            { Type: FieldType.Duration } => "24 h, 90 min",
            { Type: FieldType.Time } => "2026-11-24T15:30:00Z",
            { Type: FieldType.Number } => "12",
            _ => "value",
        };

    // All ways in which lines are asked share what was seen of the member.
    private static string Regular(string path) =>
        path.StartsWith("order.lines.", StringComparison.Ordinal) && path.Split('.') is [_, _, _, var member] ? "order.lines.any." + member : path;

    private static string GroupOf(string path) =>
        path.Split('.') switch
        {
            [_, "extra", ..] => "Your own fields",
            ["order", "customer", ..] => "Customer",
            ["order", "risk" or "hold" or "payment", ..] => "Risk, hold and payment",
            ["order", "lines", ..] => "Lines",
            ["order", ..] => "Order",
            ["change", ..] => "What changed",
            ["stock", ..] => "Stock",
            ["note", ..] => "Note",
            ["contact", ..] => "Contact",
            ["source", ..] => "Source",
            _ => "Event",
        };
}
