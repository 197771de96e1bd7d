using System.Text;
using Sirena.Core.Wordings;

namespace Sirena.Channels.Ticket;

/// <summary>Text for a ticket printer: 42 columns, wrapped at words, without control characters, which printers obey.</summary>
public static class TicketText
{
    /// <summary>Columns of the usual 80 mm printer.</summary>
    public const int Columns = 42;

    /// <summary>The lines of a text.</summary>
    public static IEnumerable<string> Lines(string text)
    {
        foreach (var line in text.ReplaceLineEndings("\n").Split('\n').Select(Clean))
        {
            var rest = line.TrimEnd();
            var indent = new string(' ', Math.Min(8, rest.Length - rest.TrimStart().Length));
            while (rest.Length > Columns)
            {
                var cut = rest.LastIndexOf(' ', Columns);
                cut = cut > indent.Length ? cut : Columns;
                yield return rest[..cut].TrimEnd();
                rest = indent + rest[cut..].TrimStart();
            }

            yield return rest;
        }
    }

    // Printers of this kind know Latin letters; accents go, what is no letter of theirs becomes a question mark.
    private static string Clean(string line)
    {
        var made = new StringBuilder(line.Length);
        foreach (var c in FieldValue.Clean(line).Normalize(NormalizationForm.FormD))
        {
            if (char.GetUnicodeCategory(c) == System.Globalization.UnicodeCategory.NonSpacingMark || (char.IsControl(c) && c != '\t'))
            {
                continue;
            }

            made.Append(c switch { '\t' => ' ', '×' => 'x', '–' or '—' => '-', '“' or '”' => '"', '‘' or '’' => '\'', '€' => 'E', 'ø' => 'o', 'Ø' => 'O', 'ß' => 's', _ when c < 127 => c, _ => '?' });
        }

        return made.ToString();
    }
}
