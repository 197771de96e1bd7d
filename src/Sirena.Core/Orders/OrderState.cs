using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;

namespace Sirena.Core.Orders;

/// <summary>
/// What is known of one order, and since when each of its members holds: the newest event's time wins member by member, a tie goes
/// to the order of intake. An absent member means unchanged, <c>null</c> means cleared, a list replaces the list.
/// </summary>
/// <param name="Document">The order, a JSON object; members that were cleared are absent.</param>
/// <param name="Base">The time that holds for every member present without an entry in <paramref name="Times"/>.</param>
/// <param name="Times">Members that were set at another time, or cleared; by path (<c>customer.phone</c>).</param>
public sealed record OrderState(JsonObject Document, Instant Base, IReadOnlyDictionary<string, Instant> Times)
{
    /// <summary>The newest time at which anything was set or cleared.</summary>
    public Instant Newest { get; } = Times.Count == 0 ? Base : Instant.Max(Base, Times.Values.Max());

    /// <summary>The state that a first event of an order leaves.</summary>
    public static OrderState First(JsonObject order, Instant time) =>
        ClearsNothing(order) ? new OrderState((JsonObject)order.DeepClone(), time, Untimed) : new OrderState([], time, Untimed).Merge(order, time);

    private static readonly Dictionary<string, Instant> Untimed = [];

    // A null clears a member, which is remembered; a list is taken as it is.
    private static bool ClearsNothing(JsonObject order) => order.All(m => m.Value is not null && (m.Value is not JsonObject inner || ClearsNothing(inner)));

    /// <summary>The state after an event that carries <paramref name="order"/> and happened at <paramref name="time"/>. This state is not touched.</summary>
    public OrderState Merge(JsonObject order, Instant time)
    {
        var document = (JsonObject)Document.DeepClone();
        var times = new Dictionary<string, Instant>(Times);
        MergeObject(document, order, time, times, "", Instant.MinValue);
        return new OrderState(document, Base, times);
    }

    private void MergeObject(JsonObject target, JsonObject patch, Instant time, Dictionary<string, Instant> times, string prefix, Instant floor)
    {
        foreach (var (name, value) in patch)
        {
            var path = prefix + name;
            var since = Instant.Max(floor, Since(target, name, path, times));
            if (value is JsonObject inner)
            {
                if (target[name] is JsonObject known)
                {
                    MergeObject(known, inner, time, times, path + ".", TimeOf(path, times, floor));
                }
                else if (time >= since)
                {
                    var made = new JsonObject();
                    target[name] = made;
                    MergeObject(made, inner, time, times, path + ".", TimeOf(path, times, floor));
                }
            }
            else if (target[name] is JsonObject old)
            {
                Clear(old, path + ".", time, times);
                Note(path, time, times);
                if (old.Count == 0)
                {
                    Put(target, name, value);
                }
            }
            else if (time >= since)
            {
                Put(target, name, value);
                Note(path, time, times);
                if (value is not null && time == Base)
                {
                    times.Remove(path);
                }
            }
        }
    }

    // An object gives way to a newer value only in the members that are not newer still.
    private void Clear(JsonObject target, string prefix, Instant time, Dictionary<string, Instant> times)
    {
        foreach (var name in target.Select(m => m.Key).ToArray())
        {
            var path = prefix + name;
            if (target[name] is JsonObject inner)
            {
                Clear(inner, path + ".", time, times);
                if (inner.Count == 0)
                {
                    target.Remove(name);
                }
            }
            else if (time >= Since(target, name, path, times))
            {
                target.Remove(name);
                times.Remove(path);
            }
        }
    }

    private Instant Since(JsonObject target, string name, string path, Dictionary<string, Instant> times) =>
        times.TryGetValue(path, out var at) ? at
        : target.ContainsKey(name) && target[name] is not JsonObject ? Base
        : Instant.MinValue;

    private static Instant TimeOf(string path, Dictionary<string, Instant> times, Instant floor) =>
        times.TryGetValue(path, out var at) ? Instant.Max(at, floor) : floor;

    private static void Note(string path, Instant time, Dictionary<string, Instant> times) =>
        times[path] = times.TryGetValue(path, out var known) ? Instant.Max(known, time) : time;

    private static void Put(JsonObject target, string name, JsonNode? value)
    {
        if (value is null)
        {
            target.Remove(name);
        }
        else
        {
            target[name] = value.DeepClone();
        }
    }

    /// <summary>The times as JSON, microseconds since 1970 by path; the base under the empty path.</summary>
    public string TimesJson()
    {
        if (Times.Count == 0)
        {
            return $"{{\"\":{Ticks(Base)}}}";
        }

        var all = new JsonObject { [""] = Ticks(Base) };
        foreach (var (path, at) in Times)
        {
            all[path] = Ticks(at);
        }

        return all.ToJsonString();
    }

    /// <summary>A state from what <see cref="TimesJson"/> and the document's JSON hold.</summary>
    /// <exception cref="JsonException">The texts are not JSON objects.</exception>
    public static OrderState Read(string document, string times)
    {
        var all = Object(times).ToDictionary(m => m.Key, m => Instant.FromUnixTimeTicks(m.Value!.GetValue<long>()));
        all.Remove("", out var since);
        return new OrderState(Object(document), since, all);
    }

    private static long Ticks(Instant at) => at.ToUnixTimeTicks();

    private static JsonObject Object(string json) => JsonNode.Parse(json) as JsonObject ?? throw new JsonException("An object was expected.");
}
