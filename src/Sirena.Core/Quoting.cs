namespace Sirena.Core;

/// <summary>What of a text is repeated in a sentence about it.</summary>
public static class Quoting
{
    /// <summary>A text as it stands in a sentence: its begin, where it is long, and never half a character.</summary>
    public static string Cut(string text, int most = 40) => text.Length > most ? text[..(char.IsHighSurrogate(text[most - 1]) ? most - 1 : most)] + "…" : text;

    /// <summary>Names as a sentence lists them: <c>'person', 'team' and 'duty'</c>.</summary>
    public static string All(IEnumerable<string> names)
    {
        string[] quoted = [.. names.Select(n => $"'{n}'")];
        return quoted.Length < 2 ? string.Concat(quoted) : $"{string.Join(", ", quoted[..^1])} and {quoted[^1]}";
    }
}
