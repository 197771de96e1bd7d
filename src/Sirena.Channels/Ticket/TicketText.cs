using System.Text;
using Sirena.Core.Deliveries;
using Sirena.Core.Wordings;

namespace Sirena.Channels.Ticket;

/// <summary>Text for a ticket printer: wrapped at words, in the letters that it has, without control characters, which printers obey.</summary>
public static class TicketText
{
    static TicketText() => Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);

    /// <summary>The letters of a code page; what it has not is refused, not replaced by a likeness.</summary>
    public static Encoding? Letters(int? page) =>
        page is { } number ? Encoding.GetEncoding(number, EncoderFallback.ExceptionFallback, DecoderFallback.ReplacementFallback) : null;

    /// <summary>The lines of a text.</summary>
    /// <param name="text">The text.</param>
    /// <param name="columns">Characters a line.</param>
    /// <param name="letters">The printer's code page, or <see langword="null"/> for ASCII.</param>
    public static IEnumerable<string> Lines(string text, int columns = PrinterAddress.UsualColumns, Encoding? letters = null)
    {
        foreach (var line in text.ReplaceLineEndings("\n").Split('\n').Select(l => Clean(l, letters)))
        {
            var rest = line.TrimEnd();
            var indent = new string(' ', Math.Min(8, rest.Length - rest.TrimStart().Length));
            while (rest.Length > columns)
            {
                var cut = rest.LastIndexOf(' ', columns);
                cut = cut > indent.Length ? cut : columns;
                yield return rest[..cut].TrimEnd();
                rest = indent + rest[cut..].TrimStart();
            }

            yield return rest;
        }
    }

    // What the page has stays; else accents go, and what is no letter of the printer's becomes a question mark.
    private static string Clean(string line, Encoding? letters)
    {
        var made = new StringBuilder(line.Length);
        foreach (var c in FieldValue.Clean(line).Normalize(NormalizationForm.FormC))
        {
            if (c >= 127 && Has(letters, c))
            {
                made.Append(c);
                continue;
            }

            foreach (var part in char.IsSurrogate(c) ? c.ToString() : c.ToString().Normalize(NormalizationForm.FormD))
            {
                if (char.GetUnicodeCategory(part) == System.Globalization.UnicodeCategory.NonSpacingMark || (char.IsControl(part) && part != '\t'))
                {
                    continue;
                }

                made.Append(
                    part switch
                    {
                        '\t' => ' ',
                        '×' => 'x',
                        '–' or '—' => '-',
                        '“' or '”' => '"',
                        '‘' or '’' => '\'',
                        '€' => 'E',
                        'ø' => 'o',
                        'Ø' => 'O',
                        'ß' => 's',
                        _ when part < 127 => part,
                        _ => '?',
                    }
                );
            }
        }

        return made.ToString();
    }

    // No page gives a control code for a letter: bytes below 32 and 127 are obeyed, not printed.
    private static bool Has(Encoding? letters, char c)
    {
        try
        {
            return letters is not null && !char.IsControl(c) && letters.GetBytes([c]) is [>= 128];
        }
        catch (EncoderFallbackException)
        {
            return false;
        }
    }
}
