using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using Sirena.Core;
using Sirena.Core.People;

namespace Sirena.Formats.People;

/// <summary>Writes people as the document that <see cref="PeopleReader"/> reads: nothing is lost on the way there and back.</summary>
public static class PeopleWriter
{
    /// <summary>A person as a JSON object; members that say nothing are left out, but for the lists that everybody looks for.</summary>
    public static JsonObject Write(Person person, IEnumerable<Site> manages, DateTimeZone zone)
    {
        var map = new JsonObject { ["id"] = person.Id, ["name"] = person.Name };
        Put(map, "email", person.Email);
        map["language"] = person.Language;
        Put(map, "post", person.Post);
        Put(map, "outside", person.Outside ? JsonValue.Create(true) : null);
        Put(map, "archived", person.ArchivedAt is not null ? JsonValue.Create(true) : null);
        map["teams"] = Texts(person.Teams);
        map["manages"] = Texts(manages.Select(s => s.Id));
        Put(map, "codes", person.Codes.Count > 0 ? Texts(person.Codes) : null);
        map["contacts"] = new JsonArray([.. person.Contacts.Select(Write)]);
        map["optOuts"] = new JsonArray([.. person.OptOuts.Select(Write)]);
        map["quiet"] = new JsonArray([.. person.Quiet.Select(Write)]);
        map["away"] = new JsonArray([.. person.Away.Select(a => Write(a, zone))]);
        Put(
            map,
            "first",
            person.First.Count > 0
                ? new JsonObject(person.First.OrderBy(f => f.Key).Select(f => KeyValuePair.Create(f.Key.Name(), (JsonNode?)f.Value.Name())))
                : null
        );
        return map;
    }

    /// <summary>A quiet span.</summary>
    public static JsonObject Write(WeeklySpan span)
    {
        var map = new JsonObject();
        Put(map, "days", span.Days.IsEmpty ? null : Texts(span.Days.Select(d => d.ToString()[..3].ToLowerInvariant())));
        map["from"] = span.From.ToString("HH:mm", null);
        map["to"] = span.To.ToString("HH:mm", null);
        return map;
    }

    private static JsonObject Write(ContactPoint point)
    {
        var map = new JsonObject
        {
            ["channel"] = point.Channel.Name(),
            ["address"] = point.Address,
            ["verified"] = point.Verified,
        };
        Put(map, "pending", point.Pending ? JsonValue.Create(true) : null);
        Put(map, "brokenAt", point.BrokenAt is { } at ? InstantPattern.ExtendedIso.Format(at) : null);
        Put(map, "brokenBecause", point.BrokenBecause);
        return map;
    }

    private static JsonObject Write(OptOut wish)
    {
        var map = new JsonObject();
        Put(map, "event", wish.Event);
        Put(map, "rule", wish.Rule);
        Put(map, "channel", wish.Channel?.Name());
        return map;
    }

    private static JsonObject Write(Leave leave, DateTimeZone zone)
    {
        var map = leave.Days
            ? new JsonObject
            {
                ["from"] = LocalDatePattern.Iso.Format(leave.From.InZone(zone).Date),
                ["to"] = LocalDatePattern.Iso.Format(leave.To.InZone(zone).Date.PlusDays(-1)),
            }
            : new JsonObject { ["from"] = InstantPattern.ExtendedIso.Format(leave.From), ["to"] = InstantPattern.ExtendedIso.Format(leave.To) };
        Put(map, "cover", leave.Cover);
        return map;
    }

    private static JsonArray Texts(IEnumerable<string> texts) => new([.. texts.Select(t => (JsonNode)t)]);

    private static void Put(JsonObject map, string name, JsonNode? value)
    {
        if (value is not null)
        {
            map[name] = value;
        }
    }
}
