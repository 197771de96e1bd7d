using System.Globalization;
using System.Text;

namespace Sirena.Core.Deliveries;

/// <summary>How a text message is encoded on its way to a phone.</summary>
public enum SmsEncoding
{
    /// <summary>The 7-bit default alphabet with its extension table (GSM 03.38, 6.2.1).</summary>
    Gsm7,

    /// <summary>16-bit units (GSM 03.38, 6.2.3), taken when one character is not in the default alphabet.</summary>
    Ucs2,
}

/// <summary>A character that forces the encoding in which a segment holds less than half.</summary>
/// <param name="Text">The character.</param>
/// <param name="Instead">What could stand in its place, or <see langword="null"/>.</param>
public sealed record CostlyCharacter(string Text, string? Instead);

/// <summary>
/// A text message as the network counts it: 160 septets in one segment and 153 in each of several, or 70 and 67 16-bit units (GSM 03.38 and 03.40, 9.2.3.24.1).
/// </summary>
/// <param name="Text">The text.</param>
/// <param name="Encoding">Its encoding.</param>
/// <param name="Units">Septets or 16-bit units, without what fills a segment up.</param>
/// <param name="Segments">Segments, at least 1.</param>
/// <param name="Costly">The characters that force UCS-2, each once, in the order of the text.</param>
public sealed record SmsText(string Text, SmsEncoding Encoding, int Units, int Segments, IReadOnlyList<CostlyCharacter> Costly)
{
    private const string Basic =
        "@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ !\"#¤%&'()*+,-./0123456789:;<=>?¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà";
    private const string Extended = "\f^{}\\[~]|€";
    private static readonly Dictionary<string, string> Plainer = new(StringComparer.Ordinal)
    {
        ["’"] = "'",
        ["‘"] = "'",
        ["“"] = "\"",
        ["”"] = "\"",
        ["„"] = "\"",
        ["«"] = "\"",
        ["»"] = "\"",
        ["–"] = "-",
        ["—"] = "-",
        ["…"] = "...",
        ["\u00a0"] = " ",
        ["\u202f"] = " ",
        ["×"] = "x",
        ["•"] = "-",
        ["′"] = "'",
    };

    /// <summary>Counts a text.</summary>
    public static SmsText Of(string text)
    {
        var costly = new List<CostlyCharacter>();
        foreach (var rune in text.EnumerateRunes())
        {
            var one = rune.ToString();
            if (
                (one.Length > 1 || (!Basic.Contains(one[0], StringComparison.Ordinal) && !Extended.Contains(one[0], StringComparison.Ordinal)))
                && !costly.Exists(c => c.Text == one)
            )
            {
                costly.Add(new CostlyCharacter(one, Plain(one)));
            }
        }

        var encoding = costly.Count == 0 ? SmsEncoding.Gsm7 : SmsEncoding.Ucs2;
        var sizes =
            encoding == SmsEncoding.Gsm7
                ? text.Select(c => Extended.Contains(c, StringComparison.Ordinal) ? 2 : 1)
                : text.EnumerateRunes().Select(r => r.Utf16SequenceLength);
        var (single, several) = encoding == SmsEncoding.Gsm7 ? (160, 153) : (70, 67);
        int[] all = [.. sizes];
        var units = all.Sum();
        return new SmsText(text, encoding, units, units <= single ? 1 : Split(all, several), costly);
    }

    /// <summary>The text with each costly character that has a plainer one written so.</summary>
    public static string Cheaper(string text) =>
        Of(text).Costly.Where(c => c.Instead is not null).Aggregate(text, (t, c) => t.Replace(c.Text, c.Instead, StringComparison.Ordinal));

    /// <summary>What it costs at a price for each segment.</summary>
    public decimal Cost(decimal perSegment) => Segments * perSegment;

    // Neither an escape and its character nor a surrogate pair is split between two segments.
    private static int Split(int[] sizes, int room)
    {
        var (segments, used) = (1, 0);
        foreach (var size in sizes)
        {
            if (used + size > room)
            {
                (segments, used) = (segments + 1, 0);
            }

            used += size;
        }

        return segments;
    }

    // A letter without its accent where the alphabet has it: 'ã' as 'a'.
    private static string? Plain(string one)
    {
        if (Plainer.TryGetValue(one, out var plain))
        {
            return plain;
        }

        var bare = string.Concat(one.Normalize(NormalizationForm.FormD).Where(c => CharUnicodeInfo.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark));
        return bare.Length > 0 && bare != one && bare.All(c => Basic.Contains(c, StringComparison.Ordinal)) ? bare : null;
    }
}
