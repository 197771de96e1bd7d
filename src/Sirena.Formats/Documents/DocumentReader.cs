using System.Collections.Immutable;
using System.Text.Json;
using NodaTime;
using NodaTime.Text;
using Sirena.Core;
using Sirena.Core.People;

namespace Sirena.Formats.Documents;

/// <summary>Reads typed members out of nodes and collects every mistake with its place.</summary>
public abstract class DocumentReader
{
    private static readonly string[] DayNames = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];

    /// <summary>The mistakes found so far.</summary>
    protected List<DocumentError> Errors { get; } = [];

    /// <summary>An object with none but the given members; each other one is a mistake.</summary>
    protected MapNode? Map(Node node, string path, string what, string[] members)
    {
        if (node is not MapNode map)
        {
            Wrong(path, node, $"{what} is an object with the members {string.Join(", ", members)}.");
            return null;
        }

        foreach (var (name, line, column, _) in map.Members)
        {
            if (!members.Contains(name) && name != "$schema")
            {
                Errors.Add(new DocumentError(At(path, name), line, column, $"{what} has no member '{name}'.{Closest.Hint(name, members)}"));
            }
        }

        foreach (var twice in map.Members.GroupBy(m => m.Name).Where(g => g.Count() > 1).Select(g => g.Last()))
        {
            Errors.Add(new DocumentError(At(path, twice.Name), twice.Line, twice.Column, $"'{twice.Name}' stands twice."));
        }

        return map;
    }

    /// <summary>A member's text without surrounding space, or <see langword="null"/>.</summary>
    protected string? Text(MapNode map, string name, string path, bool required = false)
    {
        switch (map[name])
        {
            case ScalarNode { Text: { } text } when text.Trim().Length > 0 || !required:
                return text.Trim();
            case null when !required:
                return null;
            case null:
                Wrong(At(path, name), map, $"'{name}' is missing.");
                return null;
            case var other:
                Wrong(At(path, name), other, $"'{name}' must be text.");
                return null;
        }
    }

    /// <summary>A member's text that is one line: a name.</summary>
    protected string? Line(MapNode map, string name, string path, bool required = false)
    {
        var text = Text(map, name, path, required);
        if (text is not null && !NameText.IsLine(text))
        {
            Wrong(At(path, name), map[name]!, $"'{name}' is one line: a line break or another control character stands in it.");
        }

        return text;
    }

    /// <summary>A member's yes or no.</summary>
    protected bool? Bool(MapNode map, string name, string path)
    {
        switch (map[name])
        {
            case null:
                return null;
            case ScalarNode { Value.ValueKind: JsonValueKind.True or JsonValueKind.False } yes:
                return yes.Value.GetBoolean();
            case var other:
                Wrong(At(path, name), other, $"'{name}' must be true or false.");
                return null;
        }
    }

    /// <summary>A member that is a whole number.</summary>
    protected int? Number(MapNode map, string name, string path)
    {
        switch (map[name])
        {
            case null:
                return null;
            case ScalarNode { Value.ValueKind: JsonValueKind.Number } number when number.Value.TryGetInt32(out var whole):
                return whole;
            case var other:
                Wrong(At(path, name), other, $"'{name}' must be a whole number.");
                return null;
        }
    }

    /// <summary>A member that is one of an enum's names.</summary>
    protected T? OneOf<T>(MapNode map, string name, string path)
        where T : struct, Enum
    {
        if (map[name] is not { } node)
        {
            return null;
        }

        var text = (node as ScalarNode)?.Text;
        if (Names.Parse<T>(text) is { } value)
        {
            return value;
        }

        Wrong(At(path, name), node, $"'{name}' must be one of {string.Join(", ", Names.All<T>())}.{Closest.Hint(text ?? "", Names.All<T>())}");
        return null;
    }

    /// <summary>A member that is an ISO 8601 duration.</summary>
    protected Duration? Span(MapNode map, string name, string path)
    {
        if (map[name] is not { } node)
        {
            return null;
        }

        if (node is ScalarNode { Text: { } text } && Durations.Parse(text) is { } span && span >= Duration.Zero)
        {
            return span;
        }

        Wrong(At(path, name), node, $"'{name}' must be an ISO 8601 duration of days and less, such as PT5M or P1D.");
        return null;
    }

    /// <summary>A span of every week: days, from, to.</summary>
    protected WeeklySpan? WeekSpan(MapNode map, string path, string what)
    {
        Map(map, path, what, ["days", "from", "to"]);
        var days = Texts(map, "days", path)
            .Select(d =>
            {
                var index = Array.FindIndex(DayNames, n => d.Text.StartsWith(n, StringComparison.OrdinalIgnoreCase));
                if (index < 0)
                {
                    Wrong(d.Path, d.Node, $"'{d.Text}' is no day. Use {string.Join(", ", DayNames)}.");
                }

                return (IsoDayOfWeek)(index + 1);
            })
            .Where(d => d != IsoDayOfWeek.None)
            .Distinct()
            .Order()
            .ToImmutableArray();
        return Clock(map, "from", path) is { } from && Clock(map, "to", path) is { } to ? new WeeklySpan(days, from, to) : null;
    }

    /// <summary>A member that is a time of day.</summary>
    protected LocalTime? Clock(MapNode map, string name, string path)
    {
        if (Text(map, name, path, required: true) is not { } text)
        {
            return null;
        }

        if (text is "24:00" || LocalTimePattern.CreateWithInvariantCulture("H:mm").Parse(text).TryGetValue(LocalTime.Midnight, out _))
        {
            return text is "24:00" ? LocalTime.Midnight : LocalTimePattern.CreateWithInvariantCulture("H:mm").Parse(text).Value;
        }

        Wrong(At(path, name), map[name]!, $"'{text}' is no time of day, such as \"22:00\".");
        return null;
    }

    /// <summary>A member that is a list.</summary>
    protected ListNode? List(MapNode map, string name, string path)
    {
        if (map[name] is null or ListNode)
        {
            return map[name] as ListNode;
        }

        Wrong(At(path, name), map[name]!, $"'{name}' must be a list.");
        return null;
    }

    /// <summary>The texts of a member that is a list.</summary>
    protected IEnumerable<(Node Node, string Path, string Text)> Texts(MapNode map, string name, string path = "")
    {
        if (List(map, name, path) is not { } list)
        {
            yield break;
        }

        for (var i = 0; i < list.Items.Count; i++)
        {
            var at = $"{At(path, name)}[{i}]";
            if (list.Items[i] is ScalarNode { Text: { Length: > 0 } text })
            {
                yield return (list.Items[i], at, text);
            }
            else
            {
                Wrong(at, list.Items[i], "Text is expected here.");
            }
        }
    }

    /// <summary>An id that must be among those that exist, where they are given.</summary>
    protected string Known(Node at, string path, string id, IReadOnlyCollection<string>? all, string what)
    {
        if (id.Length > 0 && all is not null && !all.Contains(id))
        {
            Wrong(path, at, $"There is no {what} '{id}'.{Closest.Hint(id, all)}");
        }

        return id;
    }

    /// <summary>The path of a member.</summary>
    protected static string At(string path, string name) => path.Length == 0 ? name : $"{path}.{name}";

    /// <summary>Notes a mistake at its place.</summary>
    protected void Wrong(string path, Node at, string problem) => Errors.Add(new DocumentError(path, at.Line, at.Column, problem));
}
