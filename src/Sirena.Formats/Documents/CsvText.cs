namespace Sirena.Formats.Documents;

/// <summary>What is known of a text with separated values (RFC 4180) before its rows are read.</summary>
public static class CsvText
{
    private static readonly char[] Separators = [',', ';', '\t', '|'];

    /// <summary>The separator, found from the head row: the one that stands there most often; a comma where none does.</summary>
    public static char SeparatorOf(string text)
    {
        var head = text.AsSpan(0, text.AsSpan().IndexOfAny('\r', '\n') is >= 0 and var end ? end : text.Length);
        var (best, most) = (',', 0);
        foreach (var separator in Separators)
        {
            var count = head.Count(separator);
            (best, most) = count > most ? (separator, count) : (best, most);
        }

        return best;
    }

    /// <summary>
    /// A cell as it is written, so that no spreadsheet takes it for a formula: with an apostrophe before it. One that begins with apostrophes and then like a
    /// formula gets one more, so that it reads back.
    /// </summary>
    public static string Guarded(string cell) => IsFormula(cell) ? "'" + cell : cell;

    /// <summary>A cell as it was before it was guarded.</summary>
    public static string Unguarded(string cell) => cell.StartsWith('\'') && IsFormula(cell) ? cell[1..] : cell;

    private static bool IsFormula(string cell) => cell.AsSpan().TrimStart('\'') is { Length: > 0 } rest && rest[0] is '=' or '+' or '-' or '@' or '\t' or '\r';

    /// <summary>The line of a quotation mark that begins a cell and is never closed (RFC 4180, 2.5 to 2.7); <see langword="null"/> for none.</summary>
    public static int? OpenQuote(string text, char separator)
    {
        var (line, opened, begins) = (1, 0, true);
        for (var i = 0; i < text.Length; i++)
        {
            line += text[i] == '\n' ? 1 : 0;
            if (opened > 0)
            {
                if (text[i] == '"')
                {
                    (opened, i) = i + 1 < text.Length && text[i + 1] == '"' ? (opened, i + 1) : (0, i);
                }
            }
            else
            {
                opened = text[i] == '"' && begins ? line : 0;
                begins = text[i] == separator || text[i] is '\r' or '\n' || (begins && text[i] == ' ');
            }
        }

        return opened > 0 ? opened : null;
    }
}
