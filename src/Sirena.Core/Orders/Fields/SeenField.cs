using System.Text.Json;
using NodaTime;

namespace Sirena.Core.Orders.Fields;

/// <summary>A field as events carried it: what it held last.</summary>
public sealed class SeenField
{
    /// <summary>How many last values are kept.</summary>
    public const int Kept = 12;

    /// <summary>Its path: <c>order.extra.berth</c>.</summary>
    public required string Path { get; init; }

    /// <summary>What its values are, by the last of them.</summary>
    public FieldType Type { get; set; }

    /// <summary>Its last distinct values, the newest first, as text; none where they are not kept.</summary>
    public string[] Values { get; set; } = [];

    /// <summary>When an event carried it last.</summary>
    public Instant At { get; set; }
}

/// <summary>Finds the fields that an event carries, members of its own among them.</summary>
public static class Sightings
{
    // Who a customer is, and what somebody wrote, is no list to choose from.
    private static readonly HashSet<string> Unlisted =
    [
        "order.number",
        "order.customer.name",
        "order.customer.email",
        "order.customer.phone",
        "order.placedAt",
        "order.dueAt",
        "note.text",
        "order.lines.any.title",
    ];

    /// <summary>Every field with a path that a rule can name, its type and its value as text (<see langword="null"/> where values are not kept).</summary>
    public static IEnumerable<(string Path, FieldType Type, string? Value)> In(OrderEvent happened)
    {
        foreach (var member in Members(happened.After))
        {
            var known = FieldCatalogue.IsOrderMember(member.Name);
            if (member.Name == "lines")
            {
                foreach (var line in member.Value.ValueKind == JsonValueKind.Array ? member.Value.EnumerateArray().SelectMany(Members) : [])
                {
                    foreach (var one in Walk("order.lines.any." + line.Name, line.Value).Where(l => FieldCatalogue.Find(l.Path) is not null))
                    {
                        yield return one;
                    }
                }

                continue;
            }

            foreach (var one in Walk(known || member.Name == "extra" ? "order." + member.Name : FieldCatalogue.OrderExtra + member.Name, member.Value))
            {
                yield return one;
            }
        }

        foreach (var member in Members(happened.DataJson).Where(m => m.Name is not ("order" or "change")))
        {
            var known = FieldCatalogue.Find(member.Name) is not null;
            foreach (
                var one in Walk(
                    known ? member.Name
                        : member.Name == "extra" ? "event.extra"
                        : "event.extra." + member.Name,
                    member.Value
                )
            )
            {
                yield return one;
            }
        }
    }

    private static IEnumerable<(string Path, FieldType Type, string? Value)> Walk(string path, JsonElement value)
    {
        switch (value.ValueKind)
        {
            case JsonValueKind.Object:
                foreach (var inner in Members(value).SelectMany(m => Walk($"{path}.{m.Name}", m.Value)))
                {
                    yield return inner;
                }

                break;
            case JsonValueKind.Array:
                foreach (var item in value.EnumerateArray().Where(i => i.ValueKind is JsonValueKind.String or JsonValueKind.Number))
                {
                    yield return (path, FieldType.List, Text(path, item));
                }

                break;
            case JsonValueKind.String:
                yield return (path, Facts.Time(value.GetString()) is null ? FieldType.Text : FieldType.Time, Text(path, value));
                break;
            case JsonValueKind.Number:
                yield return (path, FieldType.Number, Text(path, value));
                break;
            case JsonValueKind.True or JsonValueKind.False:
                yield return (path, FieldType.YesNo, Text(path, value));
                break;
        }
    }

    private static string? Text(string path, JsonElement value) =>
        !Unlisted.Contains(path)
        && (value.ValueKind is JsonValueKind.True or JsonValueKind.False ? value.GetRawText() : Facts.InWords(value)) is { Length: > 0 and <= 60 } text
            ? text
            : null;

    // A name with a dot or a space cannot be a part of a path.
    private static IEnumerable<JsonProperty> Members(JsonElement value) =>
        value.ValueKind == JsonValueKind.Object
            ? value.EnumerateObject().Where(m => m.Name.Length is > 0 and <= 60 && !m.Name.AsSpan().ContainsAny('.', ' '))
            : [];
}
