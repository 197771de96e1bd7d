namespace Sirena.Formats.Documents;

/// <summary>What of a file is repeated in a sentence about it.</summary>
internal static class Quoting
{
    /// <summary>A text as it stands in a sentence: its begin, where it is long.</summary>
    public static string Cut(string text, int most = 40) => text.Length > most ? text[..most] + "…" : text;
}
