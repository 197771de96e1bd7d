using Sirena.Core.People;

namespace Sirena.Core.Wordings;

/// <summary>A mistake in a part of a wording.</summary>
/// <param name="Part">The part's name: <c>sms</c>, <c>mail.html</c>.</param>
/// <param name="Mistake">The mistake.</param>
public sealed record PartMistake(string Part, TextMistake Mistake);

/// <summary>Whether a wording can be saved: its texts parse, name fields that there are, and tell an audience only what it may read.</summary>
public static class WordingCheck
{
    /// <summary>The mistakes of a wording's facts: the part is <c>facts</c>, the line the fact's place, from 1.</summary>
    /// <param name="parts">The texts.</param>
    /// <param name="audience">Who reads them.</param>
    /// <param name="seen">Paths that events of the business's own were seen to carry.</param>
    public static IEnumerable<PartMistake> OfFacts(WordingParts parts, Audience audience, IReadOnlySet<string>? seen = null) =>
        parts.Facts.Length > Fact.Most
            ? [new PartMistake(Fact.Field, new TextMistake(Fact.Most + 1, 1, 1, Fact.TooMany(parts.Facts.Length)))]
            : parts.Facts.SelectMany((f, i) => f.Mistakes(audience, seen).Select(m => new PartMistake(Fact.Field, new TextMistake(i + 1, 1, 1, m.Problem))));

    /// <summary>The mistakes of one text.</summary>
    public static IReadOnlyList<TextMistake> Of(string source, Audience audience, bool html, IReadOnlySet<string>? seen = null)
    {
        var text = ParsedText.Of(source);
        if (text.Mistakes.Count > 0)
        {
            return text.Mistakes;
        }

        var mistakes = new List<TextMistake>();
        foreach (var (path, at, length, within) in text.Fields())
        {
            if (Unknown(path, within, seen) is { } problem)
            {
                mistakes.Add(text.At(at, length, problem));
            }
            else if (audience != Audience.Staff && Forbidden(path, within, audience))
            {
                mistakes.Add(
                    text.At(
                        at,
                        length,
                        $"'{path}' is internal: {(audience == Audience.Customer ? "a customer" : "somebody outside")} may not read it. Take it out, or "
                            + "say it in your own words."
                    )
                );
            }
            else if (
                html
                && InAddress(source, at)
                && !path.StartsWith("answer.link", StringComparison.Ordinal)
                && !path.StartsWith("links.", StringComparison.Ordinal)
            )
            {
                mistakes.Add(
                    text.At(
                        at,
                        length,
                        $"'{path}' stands inside an address here, where only links of Sirena's own may stand (answer.link, links.order): another could "
                            + "lead anywhere."
                    )
                );
            }
        }

        return mistakes;
    }

    /// <summary>The fields that a text names, each once, as full paths: those inside a section of lines as <c>order.lines.title</c>.</summary>
    public static IEnumerable<string> Used(string source) => ParsedText.Of(source).Fields().Select(f => Full(f.Path, f.Within)).Distinct();

    private static string Full(string path, IReadOnlyList<string> within) =>
        path == "."
            ? within.Count > 0
                ? within[^1]
                : path
            : IsLine(path, within)
                ? $"{LineSection(within)}.{path}"
                : path;

    private static string? LineSection(IReadOnlyList<string> within) =>
        within.LastOrDefault(w => w is "order.lines" or "order.lines.now" or "order.lines.later");

    private static bool IsLine(string path, IReadOnlyList<string> within) => LineSection(within) is not null && WordingFields.OfLine.Any(f => f.Path == path);

    private static string? Unknown(string path, IReadOnlyList<string> within, IReadOnlySet<string>? seen)
    {
        if (path == Fact.Field)
        {
            return null;
        }

        if (path == ".")
        {
            return within.Count > 0 ? null : "The dot stands for an item of a list, so it belongs into a section over one.";
        }

        if (
            IsLine(path, within)
            || WordingFields.Find(path, seen) is not null
            || (within.Count > 0 && WordingFields.Find($"{within[^1]}.{path}", seen) is not null)
        )
        {
            return null;
        }

        var known = WordingFields
            .All.Select(f => f.Path)
            .Append(Fact.Field)
            .Concat(LineSection(within) is null ? [] : WordingFields.OfLine.Select(f => f.Path))
            .Concat(seen ?? Enumerable.Empty<string>())
            .ToArray();
        return $"There is no field '{path}'.{Closest.Hint(path, known)}";
    }

    // Somebody outside is told by an explicit permission, and may know why and answer.
    private static readonly HashSet<string> Outside = ["answer", "answer.link", "answer.code", "links.order", "alert.because", "alert.rule", "alert.also"];

    private static bool Forbidden(string path, IReadOnlyList<string> within, Audience audience)
    {
        var full = path == "." && within.Count > 0 ? within[^1] : path;
        var inner = within.Count > 0 ? $"{within[^1]}.{full}" : full;
        return (audience == Audience.Customer && (WordingFields.IsOfHouse(full) || WordingFields.IsOfHouse(inner)))
            || ((audience != Audience.Outside || !Outside.Contains(full)) && (WordingFields.IsInternal(full) || WordingFields.IsInternal(inner)));
    }

    // Inside the quotes of href or src.
    private static bool InAddress(string source, int at)
    {
        var tag = source.LastIndexOf('<', Math.Max(0, at - 1));
        if (tag < 0 || source.IndexOf('>', tag) is >= 0 and var end && end < at)
        {
            return false;
        }

        var before = source[tag..at];
        var equals = before.LastIndexOf('=');
        return equals > 0
            && before[..equals].TrimEnd() is var name
            && (name.EndsWith("href", StringComparison.OrdinalIgnoreCase) || name.EndsWith("src", StringComparison.OrdinalIgnoreCase))
            && before[(equals + 1)..].Count(c => c == '"') < 2;
    }
}
