namespace Sirena.Core;

/// <summary>Pieces of sentences.</summary>
public static class Sentences
{
    /// <summary>The text with a capital at its begin.</summary>
    public static string Capital(string text) => text.Length == 0 ? text : char.ToUpperInvariant(text[0]) + text[1..];
}
