using System.Text.Json;
using System.Text.Json.Nodes;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Formats.Documents;

namespace Sirena.Formats.Events;

/// <summary>One event of a request: taken, or refused with one sentence.</summary>
public sealed record ReadEvent(int Index, string? Id, IncomingEvent? Event, string? Problem);

/// <summary>
/// Reads CloudEvents 1.0 in the JSON format (structured and batched) and in the binary mode of its HTTP binding. A general reader refuses a batch
/// as a whole; here good events are taken and bad ones refused one by one.
/// </summary>
public static class CloudEvents
{
    private const int DeepestBatch = 1_000;
    private static readonly JsonDocumentOptions Options = new() { MaxDepth = 32 };

    /// <summary>Reads one event or a batch.</summary>
    /// <returns>The events in their order, or one sentence when the body is no JSON of the right shape.</returns>
    public static (IReadOnlyList<ReadEvent> Events, string? Problem) Json(ReadOnlyMemory<byte> body, bool batch)
    {
        if (Parse(body, "The body", out var problem) is not { } root)
        {
            return batch && Each(body) is { } events ? (events, null) : ([], problem ?? "The body is empty; an event in JSON is expected.");
        }

        return (batch, root) switch
        {
            (true, JsonArray many) => ([.. many.Select((e, i) => One(e, i))], null),
            (true, _) => ([], "The body is not a JSON array; application/cloudevents-batch+json is a list of events."),
            (false, JsonObject) => ([One(root, 0)], null),
            _ => ([], "The body is not a JSON object; application/cloudevents+json is one event."),
        };
    }

    /// <summary>Reads the binary mode: attributes in <c>ce-</c> headers, percent-encoded; the data as the body.</summary>
    public static (IReadOnlyList<ReadEvent> Events, string? Problem) Binary(ReadOnlyMemory<byte> body, Func<string, string?> header)
    {
        string? Attribute(string name) => header("ce-" + name) is { } value ? Uri.UnescapeDataString(value.Trim('"')).Replace('\0', '\uFFFD') : null;
        JsonNode? data = null;
        if (body.Length > 0 && (data = Parse(body, "The body", out var problem)) is null && problem is not null)
        {
            return ([], problem);
        }

        var (made, wrong) = IncomingEvent.Check(Attribute, data);
        return ([new ReadEvent(0, Attribute("id"), made, wrong)], null);
    }

    // A batch that cannot be read as it stands, one event after the other: what is too deep in one or stands twice is that one's mistake alone.
    private static IReadOnlyList<ReadEvent>? Each(ReadOnlyMemory<byte> body)
    {
        try
        {
            using var whole = JsonDocument.Parse(BrokenCharacters.Mend(WithoutMark(body)), new JsonDocumentOptions { MaxDepth = DeepestBatch });
            return whole.RootElement.ValueKind == JsonValueKind.Array ? [.. whole.RootElement.EnumerateArray().Select(Read)] : null;
        }
        catch (JsonException)
        {
            return null;
        }

        static ReadEvent Read(JsonElement element, int index)
        {
            var node = Parse(System.Text.Encoding.UTF8.GetBytes(element.GetRawText()), "The event", out var problem);
            return problem is null
                ? One(node, index)
                : new ReadEvent(index, Facts.Member(element, "id") is { ValueKind: JsonValueKind.String } id ? id.GetString() : null, null, problem);
        }
    }

    private static ReadEvent One(JsonNode? node, int index)
    {
        if (node is not JsonObject map)
        {
            return new ReadEvent(index, null, null, "This is not an object; an event is one.");
        }

        string? Attribute(string name) =>
            map[name] is JsonValue v
                ? v.GetValueKind() == JsonValueKind.String
                    ? v.GetValue<string>()
                    : v.ToJsonString()
                : null;
        string? wrong = null;
        if (Attribute("datacontenttype") is { } type && !IsJson(type))
        {
            wrong = $"datacontenttype is '{type}'; Sirena takes application/json.";
        }

        IncomingEvent? made = null;
        if (wrong is null)
        {
            var data = map["data"];
            map.Remove("data");
            if (map["data_base64"] is { } packed)
            {
                (data, wrong) = data is null ? Unpacked(packed) : (null, "'data' and 'data_base64' exclude each other (CloudEvents JSON format, 3.1).");
            }

            (made, wrong) = wrong is null ? IncomingEvent.Check(Attribute, data) : (null, wrong);
        }

        return new ReadEvent(index, Attribute("id"), made, wrong);
    }

    // Some libraries always send bytes (CloudEvents JSON format, 3.1.1); what they hold is JSON all the same.
    private static (JsonNode? Data, string? Problem) Unpacked(JsonNode packed)
    {
        var bytes = new byte[packed is JsonValue v && v.TryGetValue<string>(out var text) ? text.Length : 0];
        return bytes.Length == 0 || !Convert.TryFromBase64String(packed.GetValue<string>(), bytes, out var length) ? (null, "data_base64 is no Base64 text.")
            : Parse(bytes.AsMemory(0, length), "What data_base64 holds", out var problem) is { } data ? (data, null)
            : (null, problem ?? "data_base64 holds nothing.");
    }

    private static bool IsJson(string type)
    {
        var media = type.Split(';')[0].Trim();
        return media.Equals("application/json", StringComparison.OrdinalIgnoreCase)
            || media.EndsWith("+json", StringComparison.OrdinalIgnoreCase)
            || media.Equals("text/json", StringComparison.OrdinalIgnoreCase);
    }

    // Some programs begin with the byte order mark, which whoever reads may pass over (RFC 8259, 8.1).
    private static ReadOnlyMemory<byte> WithoutMark(ReadOnlyMemory<byte> body) => body.Span.StartsWith("\uFEFF"u8) ? body[3..] : body;

    private static JsonNode? Parse(ReadOnlyMemory<byte> body, string what, out string? problem)
    {
        problem = null;
        if (!System.Text.Unicode.Utf8.IsValid(body.Span))
        {
            problem = $"{what} is not JSON: it holds bytes that are no UTF-8 (RFC 8259, 8.1).";
            return null;
        }

        try
        {
            // An order with half a character in a name is an order still: it is taken with the replacement character in its place.
            // Parsing is lazy about members that stand twice; looking at each finds them now instead of later.
            var node = JsonNode.Parse(BrokenCharacters.Mend(WithoutMark(body)).Span, documentOptions: Options with { AllowDuplicateProperties = false });
            return node;
        }
        catch (JsonException e)
        {
            problem = $"{what} is not JSON: {JsonMistake.InWords(e)}.";
            return null;
        }
    }
}
