using System.Text;

namespace Sirena.Formats.Documents;

/// <summary>
/// The lines of iCalendar and vCard (RFC 5545, 3.1; RFC 6350, 3.2): ended by CR LF, LF or CR, folded ones joined. A fold may split a character, so octets are
/// joined before they are read.
/// </summary>
public static class ContentLines
{
    /// <summary>Reads the lines.</summary>
    /// <param name="bytes">The file.</param>
    /// <param name="charset">The declared character set, or <see langword="null"/>.</param>
    /// <returns>The lines without empty ones, each with the number of the line at which it begins; or the mistake.</returns>
    public static (IReadOnlyList<(string Text, int Number)> Lines, DocumentError? Error) Read(byte[] bytes, string? charset)
    {
        var (encoding, skip, error) = TextBytes.EncodingOf(bytes, charset);
        if (error is not null)
        {
            return ([], error);
        }

        if (encoding is not UTF8Encoding)
        {
            var (text, wrong) = TextBytes.Read(bytes, charset);
            if (text is null)
            {
                return ([], wrong);
            }

            (bytes, skip) = (Encoding.UTF8.GetBytes(text.TrimStart('\uFEFF')), 0);
        }

        var strict = new UTF8Encoding(false, throwOnInvalidBytes: true);
        var found = new List<(string, int)>();
        foreach (var (octets, number) in Joined(bytes, skip))
        {
            try
            {
                var line = strict.GetString(octets);
                if (line.Contains('\0', StringComparison.Ordinal))
                {
                    return ([], new DocumentError("", number, null, BrokenCharacters.Zero));
                }

                if (!string.IsNullOrWhiteSpace(line))
                {
                    found.Add((line, number));
                }
            }
            catch (DecoderFallbackException e)
            {
                return ([], TextBytes.Unfit(strict, number, e.BytesUnknown));
            }
        }

        return (found, null);
    }

    private static IEnumerable<(byte[] Octets, int Number)> Joined(byte[] bytes, int skip)
    {
        var held = new MemoryStream();
        var (number, begun) = (0, 1);
        for (var at = skip; at < bytes.Length;)
        {
            var end = at;
            while (end < bytes.Length && bytes[end] is not ((byte)'\r' or (byte)'\n'))
            {
                end++;
            }

            number++;
            if (number > 1 && bytes[at] is (byte)' ' or (byte)'\t' && end > at + 1)
            {
                held.Write(bytes, at + 1, end - at - 1);
            }
            else
            {
                yield return (held.ToArray(), begun);
                held.SetLength(0);
                held.Write(bytes, at, end - at);
                begun = number;
            }

            at = end + (end + 1 < bytes.Length && bytes[end] == '\r' && bytes[end + 1] == '\n' ? 2 : 1);
        }

        yield return (held.ToArray(), begun);
    }
}
