using System.Globalization;
using System.Text;

namespace Sirena.Core;

/// <summary>The digits that people type: each script has its own, and they mean the same.</summary>
public static class Digits
{
    /// <summary>The text with every decimal digit (Unicode's category Nd) as one of 0 to 9; nothing else is changed.</summary>
    public static string Plain(string text) =>
        Ascii.IsValid(text)
            ? text
            : string.Concat(
                text.EnumerateRunes()
                    .Select(r =>
                        Rune.GetUnicodeCategory(r) == UnicodeCategory.DecimalDigitNumber
                            ? ((int)Rune.GetNumericValue(r)).ToString(CultureInfo.InvariantCulture)
                            : r.ToString()
                    )
            );
}
