using System.Globalization;

namespace Sirena.Core.Sources;

/// <summary>Amounts and quantities as people and programs write them.</summary>
public static class DecimalText
{
    private static readonly NumberFormatInfo Comma = new() { NumberDecimalSeparator = ",", NumberGroupSeparator = "." };

    /// <summary>
    /// Reads a number. Groups are taken only where they are groups: three digits behind each mark, and only where it was said which sign stands before the
    /// decimals; <c>1.28</c> is never 128.
    /// </summary>
    /// <param name="text">What stands there.</param>
    /// <param name="point">The sign before the decimals, <c>.</c> or <c>,</c>; <see langword="null"/> takes digits with a point and no groups.</param>
    /// <returns>The number, or <see langword="null"/> where it is none, or has more than 28 digits.</returns>
    public static decimal? Read(string text, char? point)
    {
        if (Plain(text, point ?? '.'))
        {
            return decimal.Parse(text, NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint, point == ',' ? Comma : NumberFormatInfo.InvariantInfo);
        }

        var digits = text.Trim().Replace('\u2212', '-');
        var (whole, part) = digits.LastIndexOf(point ?? '.') is >= 0 and var at ? (digits[..at], digits[(at + 1)..]) : (digits, null);
        if (part is "" || part?.All(char.IsAsciiDigit) == false)
        {
            return null;
        }

        var sign = whole.StartsWith('-') || whole.StartsWith('+') ? whole[..1] : "";
        if (Ungrouped(whole[sign.Length..], point) is not { } plain || plain.Length + (part?.Length ?? 0) > 28)
        {
            return null;
        }

        return decimal.Parse(
            sign + plain + (part is null ? "" : "." + part),
            NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint,
            CultureInfo.InvariantCulture
        );
    }

    /// <summary>
    /// Reads a number as a person types it into a form, with the point or the comma before its decimals: <c>1284.5</c>, <c>1,284.50</c>, <c>9,99</c>,
    /// <c>1.284,50</c>. Where both could be meant the point is: <c>1,284</c> has groups.
    /// </summary>
    /// <returns>The number, or <see langword="null"/> where it is none.</returns>
    public static decimal? Typed(string text) => Read(text, '.') ?? Read(text, ',');

    // Digits, perhaps with a sign before and one point between: nearly every number is that.
    private static bool Plain(string text, char point)
    {
        var from = text is ['-' or '+', ..] ? 1 : 0;
        var points = 0;
        for (var i = from; i < text.Length; i++)
        {
            if (text[i] == point && i > from && i < text.Length - 1)
            {
                points++;
            }
            else if (!char.IsAsciiDigit(text[i]))
            {
                return false;
            }
        }

        return points <= 1 && text.Length - from is > 0 and <= 28;
    }

    private static string? Ungrouped(string whole, char? point)
    {
        if (whole.Length > 0 && whole.All(char.IsAsciiDigit))
        {
            return whole;
        }

        char[] marks = point switch
        {
            ',' => ['.', ' ', '\u00A0', '\u202F', '\'', '\u2019'],
            '.' => [',', ' ', '\u00A0', '\u202F', '\'', '\u2019'],
            _ => [],
        };
        if (whole.FirstOrDefault(c => marks.Contains(c)) is not (var mark and not '\0'))
        {
            return null;
        }

        var groups = whole.Split(mark);
        return groups[0].Length is >= 1 and <= 3 && groups.Skip(1).All(g => g.Length == 3) && groups.All(g => g.All(char.IsAsciiDigit))
            ? string.Concat(groups)
            : null;
    }
}
