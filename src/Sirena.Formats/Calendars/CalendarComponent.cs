using System.Text.RegularExpressions;
using Sirena.Formats.Documents;
using static Sirena.Core.Quoting;

namespace Sirena.Formats.Calendars;

/// <summary>A property of a calendar component, as its line says it.</summary>
/// <param name="Name">Upper case.</param>
/// <param name="Parameters">What stands between the name and the colon, its first semicolon included; empty for none.</param>
/// <param name="Value">What stands behind the colon.</param>
/// <param name="Line">From 1.</param>
public sealed partial record CalendarProperty(string Name, string Parameters, string Value, int Line)
{
    /// <summary>A parameter's value without its quotes, or <see langword="null"/>.</summary>
    public string? Parameter(string name) =>
        OneParameter().Matches(Parameters).FirstOrDefault(m => m.Groups[1].Value.Equals(name, StringComparison.OrdinalIgnoreCase)) is { } found
            ? found.Groups[2].Value.Trim('"')
            : null;

    /// <summary>The same property with another value of a parameter.</summary>
    public CalendarProperty With(string name, string value) =>
        this with
        {
            Parameters = OneParameter()
                .Replace(Parameters, m =>
                    m.Groups[1].Value.Equals(name, StringComparison.OrdinalIgnoreCase)
                        ? $";{m.Groups[1].Value}={(value.IndexOfAny([':', ';', ',']) >= 0 ? $"\"{value}\"" : value)}"
                        : m.Value
                ),
        };

    /// <summary>The line.</summary>
    public string Text => $"{Name}{Parameters}:{Value}";

    /// <summary>Reads a line; <see langword="null"/> when it is none of a calendar or a card.</summary>
    public static CalendarProperty? Read(string line, int number)
    {
        var (quoted, colon) = (false, -1);
        for (var i = 0; i < line.Length && colon < 0; i++)
        {
            quoted ^= line[i] == '"';
            colon = line[i] == ':' && !quoted ? i : -1;
        }

        if (colon < 0)
        {
            return null;
        }

        var semicolon = line.IndexOf(';', StringComparison.Ordinal) is >= 0 and var s && s < colon ? s : colon;
        return PropertyName().IsMatch(line.AsSpan(0, semicolon))
            ? new CalendarProperty(line[..semicolon].ToUpperInvariant(), line[semicolon..colon], line[(colon + 1)..], number)
            : null;
    }

    [GeneratedRegex("^[A-Za-z0-9.-]{1,80}$", RegexOptions.NonBacktracking)]
    private static partial Regex PropertyName();

    [GeneratedRegex("""(?n);(?<1>[^=;:,"]+)=(?<2>("[^"]*"|[^;"])*)""", RegexOptions.NonBacktracking)]
    private static partial Regex OneParameter();
}

/// <summary>A component of a calendar (RFC 5545, 3.6) with what stands in it.</summary>
/// <param name="Name">Upper case: <c>VEVENT</c>.</param>
/// <param name="Line">Where it begins, from 1.</param>
public sealed record CalendarComponent(string Name, int Line)
{
    private const int Deepest = 32;
    private const int MostLines = 200_000;

    /// <summary>Its properties in order.</summary>
    public List<CalendarProperty> Properties { get; } = [];

    /// <summary>What it holds.</summary>
    public List<CalendarComponent> Children { get; } = [];

    /// <summary>The first property of a name, or <see langword="null"/>.</summary>
    public CalendarProperty? this[string name] => Properties.Find(p => p.Name == name);

    /// <summary>The calendars that a file holds.</summary>
    /// <returns>The calendars, each closed; or the first mistake, and no calendar.</returns>
    public static (IReadOnlyList<CalendarComponent> Calendars, DocumentError? Error) Read(IReadOnlyList<(string Text, int Number)> lines)
    {
        if (lines.Count > MostLines)
        {
            return ([], new DocumentError("", MostLines, 1, $"The calendar has more than {MostLines:N0} lines."));
        }

        var (calendars, open) = (new List<CalendarComponent>(), new Stack<CalendarComponent>());
        foreach (var (text, number) in lines)
        {
            var property = CalendarProperty.Read(text, number);
            var name = property?.Value.Trim().ToUpperInvariant();
            if (property is null || (open.Count == 0 && (property.Name != "BEGIN" || name != "VCALENDAR")))
            {
                return (
                    [],
                    new DocumentError(
                        "",
                        number,
                        1,
                        $"This is no calendar: {(open.Count == 0 ? "BEGIN:VCALENDAR is expected" : "a property such as SUMMARY:text is expected")}, "
                            + $"and '{Cut(text)}' stands here."
                    )
                );
            }

            if (property.Name == "BEGIN")
            {
                var made = new CalendarComponent(name!, number);
                (open.Count == 0 ? calendars : open.Peek().Children).Add(made);
                open.Push(made);
                if (open.Count > Deepest)
                {
                    return ([], new DocumentError(made.Name, number, 1, $"The calendar is more than {Deepest} deep."));
                }
            }
            else if (property.Name == "END")
            {
                if (open.Peek().Name != name)
                {
                    return (
                        [],
                        new DocumentError(
                            open.Peek().Name,
                            number,
                            1,
                            $"END:{Cut(name!)} stands where END:{open.Peek().Name} is expected: that begins in line {open.Peek().Line}."
                        )
                    );
                }

                open.Pop();
            }
            else
            {
                open.Peek().Properties.Add(property);
            }
        }

        return open.Count > 0
                ? ([], new DocumentError(open.Peek().Name, open.Peek().Line, 1, $"This {open.Peek().Name} has no END:{open.Peek().Name}. Is the file cut off?"))
            : calendars.Count == 0 ? ([], new DocumentError("", 1, 1, "The text is no calendar: BEGIN:VCALENDAR is expected."))
            : (calendars, null);
    }
}
