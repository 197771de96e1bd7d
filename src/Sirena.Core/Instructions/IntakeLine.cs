using System.Text.RegularExpressions;

namespace Sirena.Core.Instructions;

/// <summary>A day on which a source takes orders otherwise, as a person types it on one line: the day, perhaps from when to when, and why.</summary>
/// <param name="Date">The day, as it was typed.</param>
/// <param name="From">From when, <c>08:00</c>; <see langword="null"/> for closed all day. What is no time stays as it was typed.</param>
/// <param name="To">Until when.</param>
/// <param name="Name">Why.</param>
public sealed partial record IntakeLine(string Date, string? From, string? To, string? Name)
{
    /// <summary>
    /// Reads one: <c>2026-12-24 08:00-12:00 Christmas Eve</c>, <c>2026-12-25 Christmas Day</c>. Between the times stands a hyphen, a dash or <c>to</c>, with or
    /// without space. A time without its other end is none by which a day could be closed: it is kept, so that the other is asked for.
    /// </summary>
    /// <param name="line">The line; not empty.</param>
    public static IntakeLine Read(string line)
    {
        var match = Shape().Match(line.Trim());
        string? Time(string group) => match.Groups[group] is { Success: true } typed ? WhenText.Clocked(typed.Value) : null;
        var name = match.Groups["name"].Value.Trim();
        return new IntakeLine(match.Groups["date"].Value, Time("from"), Time("to"), name.Length > 0 ? name : null);
    }

    private const string Clock = @"\d{1,2}(?:[:.h]\d{2})?h?";
    private const string Both = $@"\s+(?<from>{Clock})\s*(?:[-\u2010-\u2015]|to\b)\s*(?<to>{Clock})(?=\s|$)";
    private const string Half = @"\s+(?<from>\d{1,2}[:.]\d{2})(?=\W|$)";

    [GeneratedRegex($"^(?<date>\\S*)(?:{Both}|{Half})?(?<name>.*)$", RegexOptions.CultureInvariant | RegexOptions.IgnoreCase | RegexOptions.Singleline)]
    private static partial Regex Shape();
}
