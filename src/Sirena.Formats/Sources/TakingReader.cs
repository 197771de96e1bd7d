using NodaTime;
using NodaTime.Text;
using Sirena.Core;
using Sirena.Core.Instructions;
using Sirena.Core.Sources;
using Sirena.Formats.Documents;
using Sirena.Formats.Rules;

namespace Sirena.Formats.Sources;

/// <summary>Reads what a source's document says of instructions: which it takes, where they go, when it takes orders at all.</summary>
internal sealed class TakingReader : DocumentReader
{
    private static readonly string[] OwnMembers = ["name", "button", "members", "shows", "final"];

    /// <summary>Reads the members; those that are left out stay as they are.</summary>
    /// <param name="map">The source's document.</param>
    /// <param name="there">The source as it is, or <see langword="null"/> for a new one.</param>
    /// <param name="errors">Where mistakes are put.</param>
    public static TakingPlan Read(MapNode map, Source? there, List<DocumentError> errors)
    {
        var reader = new TakingReader();
        var (takes, own) = reader.Takes(map, there);
        var secret = reader.Text(map, "instructionsSecret", "");
        if (secret is { Length: < 8 or > 500 })
        {
            reader.Wrong("instructionsSecret", map["instructionsSecret"]!, "A secret has 8 to 500 characters.");
        }

        var plan = new TakingPlan(
            reader.To(map, there),
            secret,
            takes,
            own,
            reader.Seconds(map, "seenWithin", 86_400) ?? there?.SightSeconds,
            reader.Seconds(map, "tryFor", 604_800) ?? there?.TrySeconds,
            reader.Hours(map, there)
        );
        errors.AddRange(reader.Errors);
        return plan;
    }

    private string? To(MapNode map, Source? there)
    {
        var address = Text(map, "instructionsTo", "") ?? there?.InstructionsTo;
        if (address is { Length: > 0 } && !(Uri.TryCreate(address, UriKind.Absolute, out var at) && at.Scheme is "http" or "https" && at.UserInfo.Length == 0))
        {
            Wrong("instructionsTo", map["instructionsTo"]!, "The address for instructions begins with https://, and holds no password: the calls are signed.");
        }

        return address is { Length: > 0 } ? address : null;
    }

    private int? Seconds(MapNode map, string name, int most)
    {
        if (Span(map, name, "") is not { } span)
        {
            return null;
        }

        if (span < Duration.FromSeconds(1) || span > Duration.FromSeconds(most))
        {
            Wrong(name, map[name]!, $"'{name}' is a span from PT1S to {Duration.FromSeconds(most).Iso()}, such as PT5M.");
        }

        return (int)Math.Min(most, span.TotalSeconds);
    }

    private (string[] Takes, List<OwnInstruction> Own) Takes(MapNode map, Source? there)
    {
        if (List(map, "takes", "") is not { } list)
        {
            return (there?.Takes ?? [], there?.OwnInstructions ?? []);
        }

        var (takes, own) = (new List<string>(), new List<OwnInstruction>());
        for (var i = 0; i < list.Items.Count; i++)
        {
            var at = $"takes[{i}]";
            switch (list.Items[i])
            {
                case ScalarNode { Text: { } name } known:
                    takes.Add(Known(known, at, name, InstructionKinds.Names, "instruction"));
                    break;
                case MapNode made when Own(made, at) is { } one:
                    takes.Add(one.Name);
                    own.Add(one);
                    break;
                case MapNode:
                    break;
                case var other:
                    Wrong(at, other, "An instruction is a name, such as hold, or one of your own: { name, button, members, shows }.");
                    break;
            }
        }

        if (takes.GroupBy(t => t).FirstOrDefault(g => g.Count() > 1 && own.Exists(o => o.Name == g.Key)) is { } twice)
        {
            Wrong("takes", list, $"Two instructions are called '{twice.Key}'. Give each a name of its own.");
        }

        return ([.. takes.Distinct()], own);
    }

    private OwnInstruction? Own(MapNode map, string path)
    {
        Map(map, path, "An instruction of your own", OwnMembers);
        var name = Text(map, "name", path, required: true);
        if (name is null || !Source.IsId(name) || InstructionKinds.Names.Contains(name))
        {
            Wrong(
                At(path, "name"),
                map["name"] ?? map,
                "Its name is made of small letters, digits and hyphens, and is none that Sirena knows, such as gift-wrap."
            );
        }

        string[] members = [.. Texts(map, "members", path).Select(m => m.Text)];
        if (
            members.Length > 20
            || members.Any(m => m.Length > 40 || !m.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_') || m is "order" or "kind" or "tell" or "because")
        )
        {
            Wrong(
                At(path, "members"),
                map["members"]!,
                "Members are at most 20 names of letters, digits and hyphens; order, kind, tell and because are taken."
            );
        }

        if (map["shows"] is not { } shows)
        {
            Wrong(
                At(path, "shows"),
                map,
                "'shows' is missing: the condition by which an event shows that it was done, such as { field: order.extra.wrapped, is: equal, value: true }."
            );
            return null;
        }

        var errors = ConditionReader.ReadCondition(shows, At(path, "shows")).Errors;
        Errors.AddRange(errors);
        return name is null || errors.Count > 0
            ? null
            : new OwnInstruction
            {
                Name = name,
                Button = Text(map, "button", path) ?? Sentences.Capital(name.Replace('-', ' ')),
                Members = members,
                Shows = shows.ToJson().GetRawText(),
                Final = Bool(map, "final", path) ?? false,
            };
    }

    private IntakeHours? Hours(MapNode map, Source? there)
    {
        if (map["intake"] is not { } node)
        {
            return there?.IntakeHours;
        }

        if (node is ScalarNode { Text: "always" })
        {
            return null;
        }

        if (Map(node, "intake", "'intake' (or always)", ["open", "exceptions", "holidays"]) is not { } said)
        {
            return null;
        }

        var open = List(said, "open", "intake") is { } spans
            ? spans
                .Items.Select(
                    (s, i) => Map(s, $"intake.open[{i}]", "A span", ["days", "from", "to"]) is { } span ? WeekSpan(span, $"intake.open[{i}]", "A span") : null
                )
                .OfType<Core.People.WeeklySpan>()
                .ToList()
            : [];
        var exceptions = List(said, "exceptions", "intake") is { } days
            ? days.Items.Select((d, i) => Exception(d, $"intake.exceptions[{i}]")).OfType<IntakeException>().ToList()
            : [];
        if (exceptions.GroupBy(e => e.Date).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            Wrong("intake.exceptions", said["exceptions"]!, $"{LocalDatePattern.Iso.Format(twice.Key)} stands here twice. Keep one of the two.");
        }

        return new IntakeHours
        {
            Open = open,
            Exceptions = exceptions,
            Holidays = Bool(said, "holidays", "intake") ?? true,
        };
    }

    private IntakeException? Exception(Node node, string path)
    {
        if (Map(node, path, "An exception", ["date", "from", "to", "name"]) is not { } map || Text(map, "date", path, required: true) is not { } text)
        {
            return null;
        }

        var date = LocalDatePattern.Iso.Parse(text);
        if (!date.Success || !KnownTime.Holds(date.Value))
        {
            Wrong(At(path, "date"), map["date"]!, $"'{text}' is no day, such as 2026-12-24.");
            return null;
        }

        if (map["from"] is null != map["to"] is null)
        {
            Wrong(path, map, "An exception has both 'from' and 'to', or neither: then it is closed all day.");
            return null;
        }

        return new IntakeException(
            date.Value,
            map["from"] is null ? null : Clock(map, "from", path),
            map["to"] is null ? null : Clock(map, "to", path),
            Line(map, "name", path)
        );
    }
}
