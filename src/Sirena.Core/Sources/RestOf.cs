using System.Text.Json;
using System.Text.Json.Nodes;

namespace Sirena.Core.Sources;

/// <summary>
/// What no line of a reading reads, kept by its own names in <c>order.extra</c>. The object in which the order's number stands is opened: what lies beside the
/// number is kept under its own name, not under that
/// object's.
/// </summary>
internal sealed class RestOf
{
    private readonly Read read = new();

    /// <summary>Notes what a reading reads.</summary>
    public RestOf(Reading reading)
    {
        foreach (var value in new[] { reading.Id, reading.Event, reading.Time }.OfType<ValueReading>().Concat(reading.Fields.Select(f => f.Value)))
        {
            Note(value);
        }

        if (reading.Lines is { } lines)
        {
            read.Add(lines.Each.Steps.AsSpan());
        }

        if (reading.Of("order.number")?.Path is { } number)
        {
            read.Open(number.Steps.AsSpan());
        }
    }

    /// <summary>Puts what was not read of an item into an event's data; nothing where the data has no order.</summary>
    public void Keep(JsonElement item, JsonObject data)
    {
        if (item.ValueKind != JsonValueKind.Object || data["order"] is not JsonObject order)
        {
            return;
        }

        var extra = order["extra"] as JsonObject ?? [];
        Collect(item, read, extra);
        if (extra.Count > 0)
        {
            order["extra"] = extra;
        }
    }

    private void Note(ValueReading value)
    {
        if (value.Path is { } path)
        {
            read.Add(path.Steps.AsSpan());
        }

        foreach (var part in value.Join)
        {
            Note(part);
        }
    }

    private static void Collect(JsonElement from, Read known, JsonObject into)
    {
        foreach (var member in from.EnumerateObject())
        {
            var inner = known.Members.GetValueOrDefault(member.Name);
            if (inner is null || (!inner.Whole && member.Value.ValueKind is not (JsonValueKind.Object or JsonValueKind.Null)))
            {
                // Nothing of it was read: something is read within it at most, and this once it has nothing within.
                Put(into, member.Name, BodyReader.Whole(member.Value));
            }
            else if (!inner.Whole && member.Value.ValueKind == JsonValueKind.Object)
            {
                if (inner.Opened)
                {
                    Collect(member.Value, inner, into);
                    continue;
                }

                var kept = new JsonObject();
                Collect(member.Value, inner, kept);
                if (kept.Count > 0)
                {
                    Put(into, member.Name, kept);
                }
            }
        }
    }

    // What a line of the reading put there stays.
    private static void Put(JsonObject into, string name, JsonNode? value)
    {
        if (!into.ContainsKey(name))
        {
            into[name] = value;
        }
    }

    /// <summary>What is read below a place.</summary>
    private sealed class Read
    {
        public Dictionary<string, Read> Members { get; } = [];

        /// <summary>It is read itself, with all that is in it.</summary>
        public bool Whole { get; private set; }

        /// <summary>The order's number stands in it.</summary>
        public bool Opened { get; private set; }

        public void Add(ReadOnlySpan<PathStep> steps)
        {
            if (steps.IsEmpty || steps[0].Name is not { } name)
            {
                Whole = true;
                return;
            }

            if (!Members.TryGetValue(name, out var inner))
            {
                Members[name] = inner = new Read();
            }

            inner.Add(steps[1..]);
        }

        public void Open(ReadOnlySpan<PathStep> steps)
        {
            Opened = true;
            if (steps.Length > 1 && steps[0].Name is { } name && Members.TryGetValue(name, out var inner))
            {
                inner.Open(steps[1..]);
            }
        }
    }
}
