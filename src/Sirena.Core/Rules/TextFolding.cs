using System.Globalization;
using System.Text;

namespace Sirena.Core.Rules;

/// <summary>Text without case and accents, so that <c>Ólafur</c> and <c>olafur</c> are the same (Unicode canonical decomposition, marks dropped).</summary>
public static class TextFolding
{
    /// <summary>The folded text.</summary>
    public static string Fold(string text)
    {
        if (System.Text.Ascii.IsValid(text))
        {
            return text.ToLowerInvariant();
        }

        var folded = new StringBuilder(text.Length);

        // Halves of characters, which no form of Unicode takes, become the replacement character.
        var whole = text.AsSpan().ContainsAnyInRange('\uD800', '\uDFFF') ? string.Concat(text.EnumerateRunes()) : text;
        foreach (var c in whole.Normalize(NormalizationForm.FormD))
        {
            if (CharUnicodeInfo.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark)
            {
                folded.Append(char.ToLowerInvariant(c));
            }
        }

        return folded.ToString().Normalize(NormalizationForm.FormC);
    }
}
