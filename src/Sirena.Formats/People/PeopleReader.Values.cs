using NodaTime;
using NodaTime.Text;
using Sirena.Core;
using Sirena.Core.Deliveries;
using Sirena.Core.People;
using Sirena.Core.Rules;
using Sirena.Formats.Documents;

namespace Sirena.Formats.People;

public sealed partial class PeopleReader
{
    private IEnumerable<ContactPoint> Contacts(MapNode map, string path)
    {
        foreach (var (node, at) in Items(map, "contacts", path))
        {
            if (
                Map(node, at, "A contact point", ["channel", "address", "verified", "pending", "brokenAt", "brokenBecause"]) is not { } contact
                || OneOf<Channel>(contact, "channel", at) is not { } channel
            )
            {
                if (node is MapNode m && m["channel"] is null)
                {
                    Wrong(At(at, "channel"), node, "'channel' is missing.");
                }

                continue;
            }

            var (good, problems) = Addresses.Read(channel, Text(contact, "address", at, required: true));
            foreach (var problem in problems)
            {
                Wrong(At(at, "address"), contact["address"]!, problem);
            }

            foreach (var address in good)
            {
                yield return new ContactPoint
                {
                    Channel = channel,
                    Address = address,
                    Verified = Bool(contact, "verified", at) ?? false,
                    Pending = Bool(contact, "pending", at) ?? false,
                    BrokenAt = Moment(contact, "brokenAt", at, "a time"),
                    BrokenBecause = Text(contact, "brokenBecause", at),
                };
            }
        }
    }

    private OptOut? ReadOptOut(MapNode map, string path)
    {
        Map(map, path, "An opt-out", ["event", "rule", "channel"]);
        var (happening, rule) = (Text(map, "event", path), Text(map, "rule", path));
        if (happening is null == rule is null)
        {
            Wrong(path, map, "An opt-out names either an 'event' or a 'rule'.");
        }

        return new OptOut(happening, rule, OneOf<Channel>(map, "channel", path));
    }

    private Leave? ReadLeave(MapNode map, string path)
    {
        Map(map, path, "A leave", ["from", "to", "cover"]);
        var cover = Text(map, "cover", path);
        var (from, to) = (Text(map, "from", path, required: true), Text(map, "to", path, required: true));
        if (from is null || to is null)
        {
            return null;
        }

        var (first, last) = (LocalDatePattern.Iso.Parse(from), LocalDatePattern.Iso.Parse(to));
        foreach (var (name, day) in new[] { ("from", first), ("to", last) })
        {
            if (day.Success && !KnownTime.Holds(day.Value))
            {
                Wrong(At(path, name), map[name]!, $"'{name}' must lie in the years 1970 to 2199.");
                return null;
            }
        }

        var days = first.Success && last.Success;
        var begin = first.Success ? zone.AtStartOfDay(first.Value).ToInstant() : Moment(map, "from", path, "a date or a time");
        var end = last.Success ? zone.AtStartOfDay(last.Value.PlusDays(1)).ToInstant() : Moment(map, "to", path, "a date or a time");
        if (begin is null || end is null)
        {
            return null;
        }

        if (end <= begin)
        {
            Wrong(At(path, "to"), map["to"]!, $"The leave ends ({to}) before it begins ({from}).");
        }

        return new Leave(begin.Value, end.Value, cover, days);
    }

    private Instant? Moment(MapNode map, string name, string path, string what)
    {
        if (map[name] is null or ScalarNode { IsNull: true })
        {
            return null;
        }

        if (Text(map, name, path) is { } text && Core.Orders.Fields.Facts.Time(text) is { } at)
        {
            return at;
        }

        Wrong(At(path, name), map[name]!, $"'{name}' must be {what}: 2026-12-24, or 2026-12-24T18:00:00Z.");
        return null;
    }

    private Dictionary<Urgency, Channel> ReadFirst(MapNode map, string path)
    {
        if (map["first"] is not { } node || Map(node, At(path, "first"), "'first'", [.. Names.All<Urgency>()]) is not { } first)
        {
            return [];
        }

        return Enum.GetValues<Urgency>()
            .Select(u => (u, OneOf<Channel>(first, u.Name(), At(path, "first"))))
            .Where(x => x.Item2 is not null)
            .ToDictionary(x => x.u, x => x.Item2!.Value);
    }

    private IEnumerable<(Node Node, string Path)> Items(MapNode map, string name, string path) =>
        List(map, name, path) is { } list ? list.Items.Select((n, i) => (n, $"{At(path, name)}[{i}]")) : [];

    private IEnumerable<T> Objects<T>(MapNode map, string name, string path, Func<MapNode, string, T?> read)
        where T : class
    {
        foreach (var (node, at) in Items(map, name, path))
        {
            if (node is not MapNode item)
            {
                Wrong(at, node, "An object is expected here.");
            }
            else if (read(item, at) is { } made)
            {
                yield return made;
            }
        }
    }
}
