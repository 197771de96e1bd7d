using System.Globalization;
using System.Text.Json;
using NodaTime;
using NodaTime.Text;

namespace Sirena.Core.Orders.Fields;

/// <summary>
/// An event as conditions read it: every field by its path, before and after. Nothing here depends on the clock. What was read once is kept, so one thread at a
/// time may ask.
/// </summary>
/// <param name="happened">The event.</param>
/// <param name="zone">The business's time zone; decides <c>event.local-hour</c> and <c>event.weekday</c>.</param>
/// <param name="currency">The business's currency; holds for an order that names none.</param>
public sealed class Facts(OrderEvent happened, DateTimeZone zone, string currency)
{
    private readonly Dictionary<string, JsonElement> read = [];
    private readonly Dictionary<string, object?> values = [];
    private readonly Dictionary<string, string> folded = [];

    /// <summary>The event.</summary>
    public OrderEvent Event => happened;

    /// <summary>The business's time zone.</summary>
    public DateTimeZone Zone => zone;

    /// <summary>The business's currency.</summary>
    public string Currency => currency;

    /// <summary>The currency of the order's amounts.</summary>
    public string OrderCurrency => Member(Event.After, "currency") is { ValueKind: JsonValueKind.String } c ? c.GetString()! : Currency;

    /// <summary>The field's value after the event as JSON; undefined when it is missing.</summary>
    public JsonElement Read(Field field)
    {
        ref var kept = ref System.Runtime.InteropServices.CollectionsMarshal.GetValueRefOrAddDefault(read, field.Path, out var known);
        return known ? kept : kept = Read(field, Event.After);
    }

    /// <summary>The field's single value as its type, kept between the rules that ask; <see langword="null"/> when it is none.</summary>
    internal object? Value(Field field, Func<JsonElement, Field, string, object?> convert)
    {
        ref var kept = ref System.Runtime.InteropServices.CollectionsMarshal.GetValueRefOrAddDefault(values, field.Path, out var known);
        return known ? kept : kept = convert(Read(field), field, OrderCurrency);
    }

    /// <summary>A found text without case and accents, folded once an event.</summary>
    internal string Folded(string text)
    {
        ref var kept = ref System.Runtime.InteropServices.CollectionsMarshal.GetValueRefOrAddDefault(folded, text, out var known);
        return known ? kept! : kept = Rules.TextFolding.Fold(text);
    }

    /// <summary>The field's value before the event; undefined when it is missing. Only fields of the order have one.</summary>
    public JsonElement ReadBefore(Field field) => field.Path.StartsWith("order.", StringComparison.Ordinal) ? Read(field, Event.Before) : default;

    /// <summary>The lines of the order after the event, none when it has none.</summary>
    public IReadOnlyList<JsonElement> Lines => LinesOf(Event.After);

    /// <summary>The code of the customer's language, <see langword="null"/> when the order does not say it.</summary>
    public string? CustomerLanguage =>
        Member(Member(Event.After, "customer"), "language") is { ValueKind: JsonValueKind.String } language ? language.GetString() : null;

    private JsonElement Read(Field field, JsonElement order)
    {
        if (field.Lines is { } lines)
        {
            return Aggregate(field, lines, LinesOf(order));
        }

        switch (field.Path)
        {
            case "event.id":
                return Json(Event.EventId);
            case "event.type":
                return Json(Event.Type);
            case "event.source":
                return Json(Event.Source);
            case "event.subject":
                return Event.Subject is { } subject ? Json(subject) : default;
            case "event.time":
                return Json(InstantPattern.ExtendedIso.Format(Event.Time));
            case "event.local-hour":
                return JsonSerializer.SerializeToElement(Event.Time.InZone(Zone).Hour);
            case "event.weekday":
                return Json(Event.Time.InZone(Zone).DayOfWeek.ToString()[..3].ToLowerInvariant());
            case "order.age":
                return Span(Member(order, "placedAt"), at => Event.Time - at);
            case "order.until-due":
                return Span(Member(order, "dueAt"), at => at - Event.Time);
        }

        var (root, from) = field.Members[0] == "order" ? (order, 1) : (Event.DataJson, 0);
        return field.Members is ["event", "extra", ..] or ["order", "extra", ..] ? Extra(root, field) : Walk(root, field, from);
    }

    /// <summary>
    /// A field that the contract does not know, <c>order.extra.berth</c>: what the source sent beside the known members counts as extra too. Undefined where
    /// there is none.
    /// </summary>
    /// <param name="root">The order, or an event's data.</param>
    /// <param name="field">The field.</param>
    public static JsonElement Extra(JsonElement root, Field field)
    {
        var own = Walk(Member(root, "extra"), field, 2);
        return own.ValueKind != JsonValueKind.Undefined || (field.Members[0] == "order" && FieldCatalogue.IsOrderMember(field.Members[2]))
            ? own
            : Walk(root, field, 2);
    }

    private static JsonElement Aggregate(Field field, LineQuantifier lines, IReadOnlyList<JsonElement> all) =>
        lines switch
        {
            LineQuantifier.Count => JsonSerializer.SerializeToElement(all.Count),
            LineQuantifier.Sum => JsonSerializer.SerializeToElement(
                all.Sum(l => Number(l, "quantity") * (field.Members[0] == "value" ? Number(l, "unitPrice") : 1))
            ),
            _ when all.Count == 0 => default,
            _ => JsonSerializer.SerializeToElement(
                all.Select(l => Member(l, field.Members[0])).Select(v => v.ValueKind == JsonValueKind.Undefined ? null : (JsonElement?)v)
            ),
        };

    /// <summary>The text at a path of an order; <see langword="null"/> where there is none, or an empty one.</summary>
    public static string? Text(JsonElement at, params ReadOnlySpan<string> path)
    {
        foreach (var name in path)
        {
            at = Member(at, name);
        }

        return at.ValueKind == JsonValueKind.String && at.GetString() is { Length: > 0 } text ? text : null;
    }

    /// <summary>One member of an object, undefined when it is absent, null, or the parent is no object.</summary>
    public static JsonElement Member(JsonElement parent, string name) =>
        parent.ValueKind == JsonValueKind.Object && parent.TryGetProperty(name, out var value) && value.ValueKind != JsonValueKind.Null ? value : default;

    /// <summary>An instant as RFC 3339 with an offset writes it, from 1970 to 2199; else <see langword="null"/>.</summary>
    public static Instant? Time(string? text) => AnyTime(text) is { } at && KnownTime.Holds(at) ? at : null;

    /// <summary>A time in RFC 3339 with an offset, however far away.</summary>
    internal static Instant? AnyTime(string? text) =>
        OffsetDateTimePattern.Rfc3339.Parse(text?.Trim().ToUpperInvariant() ?? "") is { Success: true } parsed ? KnownTime.Of(parsed.Value) : null;

    private static IReadOnlyList<JsonElement> LinesOf(JsonElement order) =>
        Member(order, "lines") is { ValueKind: JsonValueKind.Array } lines ? [.. lines.EnumerateArray()] : [];

    private static JsonElement Walk(JsonElement at, Field field, int from)
    {
        for (var i = from; i < field.Members.Length && at.ValueKind != JsonValueKind.Undefined; i++)
        {
            at = Member(at, field.Members[i]);
        }

        return at;
    }

    private static JsonElement Span(JsonElement time, Func<Instant, Duration> span) =>
        time.ValueKind == JsonValueKind.String && Time(time.GetString()) is { } at ? Json(span(at).Iso()) : default;

    /// <summary>
    /// What a number of a line stays below, either way: quantities times prices, and what is shipped beside what was, of as many lines as an event can hold,
    /// are within a decimal's 28 digits then.
    /// </summary>
    public const decimal MostOfLine = 100_000_000_000;

    /// <summary>A number of a line; 0 where it has none, or one that cannot be computed with.</summary>
    public static decimal Number(JsonElement line, string name) => Decimal(Member(line, name)) is { } d and > -MostOfLine and < MostOfLine ? d : 0;

    /// <summary>A number; <see langword="null"/> for what is none, or is too large to be computed with (28 digits).</summary>
    public static decimal? Decimal(JsonElement value) => value.ValueKind == JsonValueKind.Number && value.TryGetDecimal(out var number) ? number : null;

    private static JsonElement Json(string text) => JsonSerializer.SerializeToElement(text);

    /// <summary>A value in words for people: lists joined, numbers without trailing zeros, nothing for what is missing.</summary>
    public static string InWords(JsonElement value) =>
        value.ValueKind switch
        {
            JsonValueKind.Undefined or JsonValueKind.Null => "nothing",
            JsonValueKind.String => value.GetString()!,
            JsonValueKind.Array => string.Join(", ", value.EnumerateArray().Select(InWords)),
            JsonValueKind.Number => value.TryGetDecimal(out var d) ? d.ToString("0.############", CultureInfo.InvariantCulture) : value.GetRawText(),
            JsonValueKind.True => "yes",
            JsonValueKind.False => "no",
            JsonValueKind.Object when value.TryGetProperty("field", out var other) && other.ValueKind == JsonValueKind.String => FieldCatalogue
                .Find(other.GetString()!)
                ?.Name
                ?? other.GetString()!,
            _ => value.GetRawText(),
        };
}
