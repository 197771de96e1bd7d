using System.Text;

namespace Sirena.Formats.Documents;

/// <summary>
/// Bytes from outside as text. A byte-order mark counts before the declared character set, and that before UTF-8; bytes that do not fit are named by their line
/// and
/// never replaced.
/// </summary>
public static class TextBytes
{
    private static readonly (byte[] Mark, string Name)[] Marks = [([0xEF, 0xBB, 0xBF], "utf-8"), ([0xFF, 0xFE], "utf-16"), ([0xFE, 0xFF], "utf-16BE")];

    static TextBytes() => Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);

    /// <summary>Reads bytes.</summary>
    /// <param name="bytes">What came.</param>
    /// <param name="charset">The declared character set, or <see langword="null"/>.</param>
    /// <returns>The text, or the one mistake that keeps it from being read.</returns>
    public static (string? Text, DocumentError? Error) Read(byte[] bytes, string? charset)
    {
        var (encoding, skip, error) = EncodingOf(bytes, charset);
        if (error is not null)
        {
            return (null, error);
        }

        try
        {
            var text = encoding!.GetString(bytes, skip, bytes.Length - skip);
            return text.IndexOf('\0', StringComparison.Ordinal) is >= 0 and var zero
                ? (null, new DocumentError("", LineOf(text.AsSpan(0, zero)), null, $"{BrokenCharacters.Zero} Is this UTF-16? Then say so: charset=utf-16."))
                : (text, null);
        }
        catch (DecoderFallbackException e)
        {
            return (null, Unfit(encoding!, LineOf(Encoding.Latin1.GetString(bytes, 0, Math.Max(0, skip + e.Index))), e.BytesUnknown));
        }
    }

    /// <summary>The mistake of bytes that do not fit.</summary>
    internal static DocumentError Unfit(Encoding encoding, int line, byte[]? unknown) =>
        new(
            "",
            line,
            null,
            $"Line {line} holds bytes that are no {encoding.WebName.ToUpperInvariant()} ({Convert.ToHexString(unknown ?? [])}). Save the file as "
                + "UTF-8, or declare what it is, such as charset=windows-1252."
        );

    /// <summary>The encoding of some bytes, and how long their mark is.</summary>
    internal static (Encoding? Encoding, int Skip, DocumentError? Error) EncodingOf(byte[] bytes, string? charset)
    {
        var (mark, name) = Marks.FirstOrDefault(m => bytes.AsSpan().StartsWith(m.Mark));
        name ??= charset?.Trim('"', ' ') is { Length: > 0 } declared ? declared : "utf-8";
        try
        {
            return (Encoding.GetEncoding(name, EncoderFallback.ExceptionFallback, DecoderFallback.ExceptionFallback), mark?.Length ?? 0, null);
        }
        catch (Exception e) when (e is ArgumentException or NotSupportedException)
        {
            return (
                null,
                0,
                new DocumentError(
                    "",
                    1,
                    1,
                    $"The character set '{(name.Length > 40 ? name[..40] : name)}' is not known. Send utf-8, or one such as windows-1252 or utf-16."
                )
            );
        }
    }

    // Lines end in CR LF, LF or CR.
    private static int LineOf(ReadOnlySpan<char> before)
    {
        var line = 1;
        for (var i = 0; i < before.Length; i++)
        {
            line += before[i] == '\n' || (before[i] == '\r' && (i + 1 == before.Length || before[i + 1] != '\n')) ? 1 : 0;
        }

        return line;
    }
}
