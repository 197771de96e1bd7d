using System.Text;
using System.Text.Json;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.People;

namespace Sirena.Core.Wordings;

/// <summary>What texts can name people, places and statuses by.</summary>
/// <param name="Name">Names a person, team, site or status by its id.</param>
/// <param name="CustomerSees">What a customer reads for a status; empty for an internal one.</param>
/// <param name="Person">A person by the order system's code or their id.</param>
public sealed record TextNames(Func<string, string> Name, Func<string, string> CustomerSees, Func<string, Person?> Person)
{
    /// <summary>Fields of the business's own.</summary>
    public IReadOnlyList<OwnField> Own { get; init; } = [];

    /// <summary>Those that a reader's messages show among their facts.</summary>
    public IEnumerable<OwnField> OwnFor(Audience audience) => Own.Where(f => audience == Audience.Customer ? f.ForCustomers : f.InMessages);
}

/// <summary>A line of an order, with how much of it is in this shipment and how much follows.</summary>
/// <param name="Line">The line as JSON.</param>
/// <param name="Quantity">How many were ordered.</param>
/// <param name="Shipped">How many were shipped so far.</param>
/// <param name="Now">How many with this event.</param>
public sealed record ShippedLine(JsonElement Line, decimal Quantity, decimal Shipped, decimal Now)
{
    /// <summary>How many follow later.</summary>
    public decimal Later => Math.Max(0, Quantity - Shipped);

    /// <summary>The lines of an event's order. A line is the same as one before when its article is, and its place among those of that article.</summary>
    public static IReadOnlyList<ShippedLine> Of(OrderEvent happened)
    {
        var before = Lines(happened.Before).Select(l => (Key: Key(l), Shipped: Facts.Number(l, "shipped"))).ToList();
        var lines = new List<ShippedLine>();
        foreach (var line in Lines(happened.After))
        {
            var at = before.FindIndex(b => b.Key == Key(line));
            var was = at >= 0 ? before[at].Shipped : 0;
            if (at >= 0)
            {
                before.RemoveAt(at);
            }

            var shipped = Facts.Number(line, "shipped");
            lines.Add(new ShippedLine(line, Facts.Number(line, "quantity"), shipped, Math.Max(0, shipped - was)));
        }

        return lines;
    }

    private static string Key(JsonElement line) =>
        Facts.Member(line, "sku") is { ValueKind: JsonValueKind.String } sku ? sku.GetString()! : Facts.InWords(Facts.Member(line, "title"));

    private static IEnumerable<JsonElement> Lines(JsonElement order) =>
        Facts.Member(order, "lines") is { ValueKind: JsonValueKind.Array } lines ? lines.EnumerateArray() : [];
}

/// <summary>The values of an event and its order, for one reader: in a language, for an audience, fitted to a channel.</summary>
public sealed class OrderValues(Facts facts, TextLanguage language, Audience audience, TextNames names, Instant now, bool html)
{
    private readonly Dictionary<string, Field> fields = [];
    private IReadOnlyList<ShippedLine>? lines;
    private TextMap? order;

    /// <summary>The value at the first name of a path; <see langword="null"/> where the event has none.</summary>
    public TextValue? Root(string name) =>
        name switch
        {
            "order" => order ??= new TextMap(part => Order(part, "order." + part, facts.Event.After), kept: true),
            "event" => new TextMap(Event),
            _ when Facts.Member(facts.Event.DataJson, name) is { ValueKind: not JsonValueKind.Undefined } own => Of(own, name),
            _ => null,
        };

    private TextValue? Event(string part)
    {
        if (part == "extra")
        {
            var extra = Facts.Member(Facts.Member(facts.Event.DataJson, "event"), "extra");
            return new TextMap(name =>
                Facts.Member(extra, name) is { ValueKind: not JsonValueKind.Undefined } own ? Of(own, "event.extra." + name) : Read("event.extra." + name)
            );
        }

        return Read("event." + part);
    }

    // What a condition would read at a path.
    private TextValue? Read(string path) =>
        FieldCatalogue.Find(path) is { } field && facts.Read(field) is { ValueKind: not JsonValueKind.Undefined } found ? Of(found, path) : null;

    private TextValue? Order(string name, string path, JsonElement order)
    {
        var value = Facts.Member(order, name);
        switch (name)
        {
            case "lines":
                return Lines(l => l.Quantity, _ => true, ["now", "later"]);
            case "shipped-now":
                return new PlainValue(language.Number(AllLines.Sum(l => l.Now)));
            case "extra":
                return new TextMap(part => Read(FieldCatalogue.OrderExtra + part));
            case "own":
                return new PlainValue(OwnLine());
            case "status" when value.ValueKind == JsonValueKind.String:
                return Named(value.GetString()!, audience == Audience.Staff ? names.Name : names.CustomerSees);
            case "site" when value.ValueKind == JsonValueKind.String:
                return Named(value.GetString()!, names.Name);
            case "salesperson" when value.ValueKind == JsonValueKind.String:
                return Salesperson(value.GetString()!);
            case "age" or "until-due":
                return Read(path);
            default:
                return value.ValueKind == JsonValueKind.Undefined ? null : Of(value, path);
        }
    }

    // The fields of the business's own that short texts say, each behind its name: "berth N3".
    private string OwnLine() =>
        string.Join(
            ", ",
            names
                .Own.Where(f => f.InShort && (audience != Audience.Customer || f.ForCustomers))
                .Select(f => (f, Value: Read(f.Path)?.Show() ?? ""))
                .Where(f => f.Value.Length > 0)
                .Select(f => $"{OwnField.Inside(f.f.NameIn(language))} {f.Value}")
        );

    private static TextMap Named(string id, Func<string, string> name) =>
        new(part => part == "plain" ? new PlainValue(FieldValue.Clean(id)) : null, () => FieldValue.Clean(name(id)));

    private TextMap Salesperson(string code)
    {
        var person = names.Person(code);
        string Contact(Deliveries.Channel channel) => person?.Contacts.FirstOrDefault(c => c.Channel == channel && c.Usable)?.Address ?? "";
        return new TextMap(
            part =>
                part switch
                {
                    "plain" => new PlainValue(FieldValue.Clean(code)),
                    "email" => new PlainValue(Contact(Deliveries.Channel.Mail)),
                    "phone" => new PlainValue(Contact(Deliveries.Channel.Sms)),
                    _ => null,
                },
            () => FieldValue.Clean(person?.Name ?? code)
        );
    }

    private IReadOnlyList<ShippedLine> AllLines => lines ??= ShippedLine.Of(facts.Event);

    private TextValue Lines(Func<ShippedLine, decimal> count, Func<ShippedLine, bool> which, string[] parts)
    {
        ShippedLine[] chosen = [.. AllLines.Where(which)];
        var list = new TextList([.. chosen.Select(Line)], () => Table(chosen, count));
        return new LineList(list, part => part switch
            {
                "now" when parts.Contains(part) => Lines(l => l.Now, l => l.Now > 0, []),
                "later" when parts.Contains(part) => Lines(l => l.Later, l => l.Later > 0, []),
                "sum" => new TextMap(what =>
                    what switch
                    {
                        "quantity" => new PlainValue(language.Number(chosen.Sum(count))),
                        "value" => new PlainValue(language.Money(chosen.Sum(l => count(l) * Facts.Number(l.Line, "unitPrice")), facts.OrderCurrency)),
                        _ => null,
                    }
                ),
                _ => list.Part(part),
            });
    }

    private TextMap Line(ShippedLine line) =>
        new(part =>
            part switch
            {
                "now" => new PlainValue(language.Number(line.Now)),
                "later" => new PlainValue(language.Number(line.Later)),
                "value" => Amount(line.Quantity * Facts.Number(line.Line, "unitPrice")),
                "unitPrice" when Facts.Member(line.Line, part) is { ValueKind: JsonValueKind.Number } => Amount(Facts.Number(line.Line, "unitPrice")),
                "site" when Facts.Member(line.Line, part) is { ValueKind: JsonValueKind.String } site => Named(site.GetString()!, names.Name),
                _ => Facts.Member(line.Line, part) is { ValueKind: not JsonValueKind.Undefined } value ? Of(value, "order.lines.any." + part) : null,
            }
        );

    private FieldValue Amount(decimal amount) =>
        new(JsonSerializer.SerializeToElement(amount), FieldType.Money, language, facts.Zone, now, facts.OrderCurrency);

    // Fitted to what carries it: a table for a mail, lines of text elsewhere.
    private string Table(IReadOnlyList<ShippedLine> rows, Func<ShippedLine, decimal> count)
    {
        static string Title(ShippedLine l) =>
            FieldValue.CleanLine(
                Facts.Member(l.Line, "title") is { ValueKind: JsonValueKind.String } t ? t.GetString()! : Facts.InWords(Facts.Member(l.Line, "sku"))
            );
        if (!html)
        {
            return MessageWriter.Raw(string.Join("\n", rows.Take(500).Select(l => $"{language.Number(count(l)),4} x {Title(l)}")));
        }

        var table = new StringBuilder(
            "<table cellpadding=\"4\" cellspacing=\"0\"><tr><td "
                + $"align=\"right\"><b>{language.Word("Quantity")}</b></td><td><b>{language.Word("Article")}</b></td></tr>"
        );
        foreach (var l in rows.Take(500))
        {
            table
                .Append("<tr><td align=\"right\">")
                .Append(language.Number(count(l)))
                .Append("</td><td>")
                .Append(MessageWriter.Escape(Title(l)))
                .Append("</td></tr>");
        }

        return MessageWriter.Raw(table.Append("</table>").ToString());
    }

    private TextValue Of(JsonElement value, string path)
    {
        if (value.ValueKind == JsonValueKind.Object)
        {
            return new TextMap(part =>
                path == "note" && part is "public" or "from" ? Note(value, part)
                : Facts.Member(value, part) is { ValueKind: not JsonValueKind.Undefined } inner ? Of(inner, $"{path}.{part}")
                : null
            );
        }

        if (value.ValueKind == JsonValueKind.Array)
        {
            return new TextList([.. value.EnumerateArray().Select(v => Of(v, path + ".item"))]);
        }

        var type = TypeOf(path, value);
        return path is "change.before" or "change.after" && value.ValueKind == JsonValueKind.String
            ? Named(value.GetString()!, names.Name)
            : new FieldValue(value, type, language, facts.Zone, now, facts.OrderCurrency, lines: HasLines(path));
    }

    // A note, and what a business sends beside the contract's members, may be a text of several lines; names, places and reasons are none.
    private static bool HasLines(string path) => path == "note.text" || path.Contains(".extra.", StringComparison.Ordinal);

    private TextValue? Note(JsonElement note, string part) =>
        part == "from"
            ? Facts.Member(note, "by") is { ValueKind: JsonValueKind.String } by
                ? new PlainValue(FieldValue.Clean(names.Name(by.GetString()!)))
                : null
            : Facts.Member(note, "visibleToCustomer").ValueKind == JsonValueKind.True && Facts.Member(note, "text") is { ValueKind: JsonValueKind.String } text
                ? new PlainValue(FieldValue.Clean(text.GetString()!))
                : null;

    private FieldType TypeOf(string path, JsonElement value)
    {
        if (!fields.TryGetValue(path, out var field))
        {
            fields[path] = field = FieldCatalogue.Find(path) ?? new Field(path, FieldType.Any, path, []);
        }

        return field.Type is FieldType.Any or FieldType.Thing or FieldType.List
            ? value.ValueKind == JsonValueKind.Number && path.EndsWith("otal", StringComparison.Ordinal)
                ? FieldType.Money
                : FieldType.Any
            : field.Type;
    }

    /// <summary>The lines, with what is shipped now and later as parts.</summary>
    private sealed class LineList(TextList list, Func<string, TextValue?> part) : TextValue
    {
        public override IReadOnlyList<TextValue> Items => list.Items;

        public override string Show() => string.Join(", ", list.Items.Select(i => $"{i.Part("quantity")?.Show()} {i.Part("title")?.Show()}".Trim()));

        public override TextValue? Part(string name) => part(name);
    }
}
