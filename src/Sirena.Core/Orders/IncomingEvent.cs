using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using Sirena.Core.Orders.Fields;

namespace Sirena.Core.Orders;

/// <summary>An event as a source sent it, checked: its attributes are there, its data have the types of the contract.</summary>
public sealed record IncomingEvent(string EventId, string Source, string Type, string? Subject, Instant? Time, JsonObject Data)
{
    private static readonly (string Path, string[] Names, FieldType Type)[] Typed =
    [
        .. FieldCatalogue
            .All.Where(f =>
                f.Path.StartsWith("order.", StringComparison.Ordinal) && f.Path is not ("order.age" or "order.until-due") && f.Type != FieldType.List
            )
            .Select(f => (f.Path["order.".Length..], f.Path["order.".Length..].Split('.'), f.Type)),
    ];

    /// <summary>The order that it carries, or <see langword="null"/>.</summary>
    public JsonObject? Order => Data["order"] as JsonObject;

    /// <summary>The order's number, or <see langword="null"/>.</summary>
    public string? OrderNumber => (Order?["number"] as JsonValue)?.GetValue<string>();

    /// <summary>
    /// Checks the attributes and the data.
    /// </summary>
    /// <param name="attribute">An attribute of CloudEvents 1.0 by its name, <see langword="null"/> when it is absent.</param>
    /// <param name="data">The data: an object, <see langword="null"/> when it is absent.</param>
    /// <returns>The event, or one sentence on what is wrong with it.</returns>
    public static (IncomingEvent? Event, string? Problem) Check(Func<string, string?> attribute, JsonNode? data)
    {
        var (id, source, type, subject) = (attribute("id"), attribute("source"), attribute("type"), attribute("subject"));
        if ((Missing("id", id) ?? Missing("source", source) ?? Missing("type", type)) is { } missing)
        {
            return (null, missing);
        }

        if (attribute("specversion") is var version and not "1.0")
        {
            return (null, $"specversion is '{version}'; Sirena takes 1.0.");
        }

        if (type!.Any(char.IsControl))
        {
            return (null, "The attribute 'type' holds a control character.");
        }

        // A type of another manner of writing is kept as it came; one that differs only in its capitals is the one that is known.
        type = EventTypes.OfKnown(type!.ToLowerInvariant()) ?? type;

        Instant? time = null;
        if (attribute("time") is { } text)
        {
            if (Facts.AnyTime(text) is not { } said)
            {
                return (null, $"The time '{text}' is not RFC 3339 with an offset, such as 2026-11-24T06:12:09Z.");
            }

            time = KnownTime.Nearest(said);
        }

        if (data is not (null or JsonObject))
        {
            return (null, "The data is not a JSON object.");
        }

        var made = new IncomingEvent(id!, source!, type!, subject, time, (JsonObject?)data ?? []);
        return made.Problem() is { } problem ? (null, problem) : (made, null);
    }

    private static string? Missing(string name, string? value) =>
        string.IsNullOrWhiteSpace(value) ? $"The attribute '{name}' is missing: CloudEvents needs specversion, id, source and type."
        : value.Length > 500 ? $"The attribute '{name}' is longer than 500 characters."
        : null;

    private string? Problem()
    {
        var order = Data["order"];
        if (order is not (null or JsonObject))
        {
            return "data.order is not an object.";
        }

        if (order is null)
        {
            return EventTypes.NeedsOrder(Type) ? $"data.order is missing: {Type} needs the order with its number." : null;
        }

        var number = order["number"];
        if (number is null && EventTypes.NeedsOrder(Type))
        {
            return $"data.order.number is missing: {Type} needs it.";
        }

        if (
            number is not null
            && (number.GetValueKind() != JsonValueKind.String || number.GetValue<string>() is not { Length: > 0 and <= 100 } text || text.Any(char.IsControl))
        )
        {
            return "data.order.number must be text of 1 to 100 characters.";
        }

        if (EventTypes.NeedsOrder(Type) && Subject is not null && Subject != OrderNumber)
        {
            return $"The subject '{Subject}' and data.order.number '{OrderNumber}' do not agree.";
        }

        return Mistyped((JsonObject)order) ?? Lines(order["lines"]);
    }

    private static string? Mistyped(JsonObject order)
    {
        foreach (var (path, names, type) in Typed)
        {
            JsonNode? at = order;
            foreach (var name in names)
            {
                at = (at as JsonObject)?[name];
            }

            if (at is not null && Shape(at, type) is { } shape)
            {
                return $"data.order.{path} must be {shape}.";
            }
        }

        return order["currency"] is { } currency && !Money.IsCurrency(currency.GetValue<string>())
            ? $"data.order.currency '{currency}' is not a code of ISO 4217, such as EUR."
            : null;
    }

    private static string? Shape(JsonNode at, FieldType type) =>
        (type, at.GetValueKind()) switch
        {
            (FieldType.Text, JsonValueKind.String) => null,
            (FieldType.Text, _) => "text",
            (FieldType.Number or FieldType.Money, JsonValueKind.Number) => Decimal(at) ? null : "a decimal number of at most 28 digits",
            (FieldType.Number or FieldType.Money, _) => "a number",
            (FieldType.Time, JsonValueKind.String) => Facts.Time(at.GetValue<string>()) is null
                ? "a time in RFC 3339 with an offset from 1970 to 2199, such as 2026-11-24T15:30:00Z"
                : null,
            (FieldType.Time, _) => "a time in RFC 3339",
            (FieldType.Choice, JsonValueKind.String) => null,
            (FieldType.Choice, _) => "text",
            (FieldType.Thing, JsonValueKind.Object) => null,
            (FieldType.Thing, _) => "an object",
            _ => null,
        };

    private static string? Lines(JsonNode? lines)
    {
        if (lines is null)
        {
            return null;
        }

        if (lines is not JsonArray list)
        {
            return "data.order.lines must be a list.";
        }

        for (var i = 0; i < list.Count; i++)
        {
            if (list[i] is not JsonObject line)
            {
                return $"data.order.lines[{i}] must be an object.";
            }

            foreach (var name in new[] { "quantity", "shipped", "unitPrice" })
            {
                if (line[name] is { } value && Shape(value, FieldType.Number) is { } shape)
                {
                    return $"data.order.lines[{i}].{name} must be {shape}.";
                }

                if (line[name]?.GetValue<decimal>() is <= -Facts.MostOfLine or >= Facts.MostOfLine)
                {
                    return $"data.order.lines[{i}].{name} must be a number below 100,000,000,000: more cannot be multiplied and summed up.";
                }
            }
        }

        return null;
    }

    private static bool Decimal(JsonNode at) => at.AsValue().TryGetValue<decimal>(out _);
}
