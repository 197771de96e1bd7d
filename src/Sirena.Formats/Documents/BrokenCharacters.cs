using Sirena.Core.Wordings;

namespace Sirena.Formats.Documents;

/// <summary>
/// What JSON can write and no text can hold: half of a surrogate pair (RFC 8259, 8.2: "unpredictable"), and the zero character, which PostgreSQL does not
/// store.
/// </summary>
public static class BrokenCharacters
{
    /// <summary>The sentence on the zero character.</summary>
    public const string Zero = "Here stands a zero character, which no text can hold. Delete it.";

    private static readonly byte[] Replacement = "\\uFFFD"u8.ToArray();

    /// <summary>The first such escape in a JSON text: where it begins, in bytes, and what is wrong; <see langword="null"/> for none.</summary>
    public static (int Offset, string Problem)? Find(ReadOnlySpan<byte> json)
    {
        var from = 0;
        return Next(json, ref from, out var zero) is { } at ? (at, zero ? Zero : ParsedText.HalfCharacter) : null;
    }

    /// <summary>The same text with the replacement character U+FFFD in place of each; the text itself where there is none.</summary>
    public static ReadOnlyMemory<byte> Mend(ReadOnlyMemory<byte> json)
    {
        var (from, mended) = (0, (byte[]?)null);
        while (Next(json.Span, ref from, out _) is { } at)
        {
            mended ??= json.ToArray();
            Replacement.CopyTo(mended.AsSpan(at));
        }

        return mended ?? json;
    }

    // The next escape from a place on, which is moved behind it.
    private static int? Next(ReadOnlySpan<byte> json, ref int from, out bool zero)
    {
        zero = false;
        while (json[from..].IndexOf((byte)'\\') is >= 0 and var step)
        {
            var at = from + step;
            if (Unit(json, at) is not { } unit)
            {
                from = Math.Min(at + 2, json.Length);
                continue;
            }

            from = at + 6;
            if (char.IsHighSurrogate(unit) && Unit(json, from) is { } low && char.IsLowSurrogate(low))
            {
                from += 6;
            }
            else if (unit == 0 || char.IsSurrogate(unit))
            {
                zero = unit == 0;
                return at;
            }
        }

        from = json.Length;
        return null;
    }

    // The UTF-16 unit that an escape \uXXXX at a place stands for; null for anything else.
    private static char? Unit(ReadOnlySpan<byte> json, int at) =>
        at + 6 <= json.Length
        && json[at] == '\\'
        && json[at + 1] == 'u'
        && System.Buffers.Text.Utf8Parser.TryParse(json.Slice(at + 2, 4), out ushort unit, out var read, 'x')
        && read == 4
            ? (char)unit
            : null;
}
