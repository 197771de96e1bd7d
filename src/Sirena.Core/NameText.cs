using System.Diagnostics.CodeAnalysis;
using Sirena.Core.Wordings;

namespace Sirena.Core;

/// <summary>What people call things (a source, a team, a rule): one line of text. Lists, lines of messages and of the strip are made of names.</summary>
public static class NameText
{
    /// <summary>Whether a text can be a name: it says something, is no longer than may be, and holds no line break or other control character.</summary>
    /// <param name="text">The text; space around it counts for nothing.</param>
    /// <param name="most">How many characters it may have.</param>
    public static bool Fits([NotNullWhen(true)] string? text, int most) => text?.Trim() is { Length: > 0 } name && name.Length <= most && IsLine(text);

    /// <summary>Whether a text is one line, without control characters.</summary>
    public static bool IsLine(string text) => !text.Any(char.IsControl);

    /// <summary>A name from a file of another program as one line.</summary>
    public static string Line(string text) => FieldValue.Clean(MessageWriter.OneLine(text)).Trim();
}
