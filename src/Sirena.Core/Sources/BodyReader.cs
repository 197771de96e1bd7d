using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;
using Sirena.Core.Orders;

namespace Sirena.Core.Sources;

/// <summary>
/// Reads bodies by a reading. A value that is absent or empty is absent, <c>null</c> clears; a value that cannot be read is a problem with its place, and then
/// the body makes nothing. Deterministic: the same body
/// and reading always give the same.
/// </summary>
/// <param name="reading">The reading.</param>
/// <param name="zone">The business's zone, for wall times where the reading names none.</param>
public sealed partial class BodyReader(Reading reading, DateTimeZone zone)
{
    private const int MostEvents = 1_000;
    private readonly RestOf rest = new(reading);

    private Reading Reading { get; } = reading;

    private DateTimeZone Zone { get; } = zone;

    /// <summary>Reads a body.</summary>
    public BodyResult Read(Body body)
    {
        var problems = new List<BodyProblem>();
        var events = new List<BodyEvent>();
        IReadOnlyList<(JsonElement Value, BodyPath At)> items = Reading.Each is { } each ? each.In(body.Root) : [(body.Root, BodyPath.Root)];
        if (items.Count == 0)
        {
            problems.Add(new BodyProblem(Reading.Each!.Text, null, "a list with at least one item"));
        }
        else if (items.Count > MostEvents)
        {
            problems.Add(new BodyProblem(Reading.Each!.Text, $"{items.Count} items", $"a list of at most {MostEvents}"));
        }
        else
        {
            foreach (var (item, at) in items)
            {
                var one = new OneItem(this, body, item, at, problems);
                if (one.Event() is { } made)
                {
                    events.Add(made);
                }
            }
        }

        return problems.Count > 0 ? new BodyResult([], problems) : new BodyResult(Told(events), []);
    }

    /// <summary>Reads the order's members of a row; in a listing the difference says which event it is.</summary>
    /// <returns>The data, or <see langword="null"/> with at least one problem.</returns>
    public (JsonObject? Data, IReadOnlyList<BodyProblem> Problems) Row(JsonElement row)
    {
        var problems = new List<BodyProblem>();
        var data = new OneItem(this, new Body(row, _ => null), row, BodyPath.Root, problems).Data();
        return problems.Count == 0 ? (data, problems) : (null, problems);
    }

    /// <summary>The time that a row says of itself, where the reading names one and it can be read.</summary>
    public Instant? TimeOf(JsonElement row) => new OneItem(this, new Body(row, _ => null), row, BodyPath.Root, []).When();

    // Several events of one body need ids of their own.
    private static List<BodyEvent> Told(List<BodyEvent> events) =>
        events.Count < 2 ? events : [.. events.Select((e, i) => e.Id is null || i == 0 ? e : e with { Id = $"{e.Id}#{i}" })];

    /// <summary>One item of a body: what is read of it, and what went wrong.</summary>
    private sealed partial class OneItem(BodyReader reader, Body body, JsonElement item, BodyPath at, List<BodyProblem> problems)
    {
        private readonly Reading reading = reader.Reading;

        public BodyEvent? Event()
        {
            var before = problems.Count;
            var type = Type();
            if (type is null)
            {
                return null;
            }

            var id = reading.Id is null ? null : Words(Anywhere(reading.Id), reading.Id, "an id");
            var time = When();
            var data = Data();
            if (EventTypes.NeedsOrder(type) && data["order"]?["number"] is not JsonValue)
            {
                var number = reading.Of("order.number");
                Wrong(number is null ? (Spot)"$" : Place(number), null, $"the order's number: {type} needs it");
            }

            return problems.Count > before ? null : Checked(new BodyEvent(id, type, time, data));
        }

        public Instant? When() =>
            reading.Time is not null && Anywhere(reading.Time) is var (found, place) && found.ValueKind != JsonValueKind.Undefined
                ? Time(found, place, reading.Time)
                : null;

        public JsonObject Data()
        {
            var data = new JsonObject();
            foreach (var (field, value) in reading.Fields)
            {
                var (found, place) = Find(value, item, at);
                if (Node(found, place, value, field.As) is (var node, true))
                {
                    // A hold without its reason is none.
                    Put(data, node is null && field.Path == "order.hold.reason" ? field.Members[..^1] : field.Members, node);
                }
            }

            // Lines that are not in the body stay as they are; an empty list of them is one.
            if (
                reading.Lines is { } lines
                && lines.Each.First(lines.Each.Steps.Length - (lines.Each.Steps[^1].IsAll ? 1 : 0)).FirstIn(item).ValueKind
                    is not JsonValueKind.Undefined
                        and var kind
            )
            {
                Put(data, ["order", "lines"], kind == JsonValueKind.Null ? null : Lines(lines));
            }

            if (reading.KeepRest && reading.Fields.Count > 0)
            {
                reader.rest.Keep(item, data);
            }

            return data;
        }

        // What is checked of every event that comes in is checked here too, so that nothing is refused later.
        private BodyEvent? Checked(BodyEvent made)
        {
            var (_, problem) = IncomingEvent.Check(
                name =>
                    name switch
                    {
                        "specversion" => "1.0",
                        "id" => made.Id ?? "body",
                        "source" => "/sources",
                        "type" => made.Type,
                        _ => null,
                    },
                made.Data
            );
            if (problem is not null)
            {
                Wrong("$", null, $"an event that can be taken: {problem.TrimEnd('.')}");
            }

            return problem is null ? made : null;
        }

        private string? Type()
        {
            if (reading.Event is not { } said)
            {
                return Meaning(reading.Otherwise, "$", null);
            }

            var (found, place) = Anywhere(said);
            var word = Scalar(found)?.Trim();
            var type =
                word is null ? null
                : said.Words is { } words ? Mapped(words, word)
                : EventTypes.OfKnown(word.ToLowerInvariant()) ?? (EventTypes.IsType(word) ? word : null);
            return Meaning(type ?? reading.Otherwise, place, word);
        }

        private string? Meaning(string type, Spot place, string? word)
        {
            if (type == Reading.NotUnderstood)
            {
                Wrong(
                    place,
                    word,
                    reading.Event?.Words is { Count: > 0 } words
                        ? $"one of the words {string.Join(", ", words.Keys.Order(StringComparer.Ordinal).Take(12))}"
                        : "the type of an event"
                );
            }

            return type is Reading.NotUnderstood or Reading.Ignore ? null : type;
        }

        private JsonArray Lines(LinesReading lines)
        {
            var made = new JsonArray();
            foreach (var (line, place) in lines.Each.In(item))
            {
                var (one, whole) = (new JsonObject(), Joined(at, place));
                foreach (var (field, value) in lines.Fields)
                {
                    var (found, where) = Find(value, line, whole);
                    if (Node(found, where, value, field.As) is (var node, true))
                    {
                        one[field.Path] = node;
                    }
                }

                made.Add(one);
            }

            return made;
        }

        private (JsonElement Found, Spot Place) Anywhere(ValueReading value) =>
            reading.Each is null || Find(value, item, at) is not { Found.ValueKind: not JsonValueKind.Undefined } inItem
                ? Find(value, body.Root, BodyPath.Root)
                : inItem;

        private (JsonElement Found, Spot Place) Find(ValueReading value, JsonElement from, BodyPath where)
        {
            if (value.Join.Count > 0)
            {
                var parts = value.Join.Select(j => Scalar(Find(j, from, where).Found)?.Trim()).Where(t => !string.IsNullOrEmpty(t)).ToArray();
                return (parts.Length == 0 ? default : JsonSerializer.SerializeToElement(string.Join(value.Between, parts)), value.From);
            }

            if (value.Header is { } header)
            {
                return (body.Header(header) is { Length: > 0 } said ? JsonSerializer.SerializeToElement(said) : default, value.From);
            }

            return value.Path is not { } path
                ? (value.Always, value.From)
                : (path.IsMany ? Many(path, from) : path.FirstIn(from), value.Column is null ? new Spot(where, path) : value.Column);
        }

        private static JsonElement Many(BodyPath path, JsonElement from) =>
            path.In(from) is { Count: > 0 } found
                ? found.Count == 1
                    ? found[0].Value
                    : JsonSerializer.SerializeToElement(found.Select(f => f.Value))
                : default;

        private Spot Place(ValueReading value) => Find(value, item, at).Place;
    }

    /// <summary>Where a value was looked for; written out only when it must be named.</summary>
    private readonly record struct Spot(BodyPath? Begin, BodyPath? Path, string? Named = null)
    {
        public string Text => Named ?? Joined(Begin!, Path!).Text;

        public static implicit operator Spot(string named) => new(null, null, named);
    }

    private static BodyPath Joined(BodyPath begin, BodyPath rest)
    {
        if (begin.Steps.IsEmpty)
        {
            return rest;
        }

        foreach (var step in rest.Steps)
        {
            begin = begin.Then(step);
        }

        return begin;
    }

    internal static JsonNode? Whole(JsonElement value) =>
        value.ValueKind switch
        {
            JsonValueKind.Object => JsonObject.Create(value.Clone()),
            JsonValueKind.Array => JsonArray.Create(value.Clone()),
            _ => JsonValue.Create(value.Clone()),
        };

    private static void Put(JsonObject data, string[] members, JsonNode? node)
    {
        var at = data;
        foreach (var member in members[..^1])
        {
            at = at[member] as JsonObject ?? (JsonObject)(at[member] = new JsonObject());
        }

        at[members[^1]] = node;
    }
}
