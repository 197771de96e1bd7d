using System.Text;

namespace Sirena.Core.Deliveries;

/// <summary>What a far end says, made fit to be kept and shown.</summary>
public static class FarText
{
    /// <summary>How many characters are kept.</summary>
    public const int Most = 2_000;

    /// <summary>The text without control and zero characters or halves of characters, at most 2,000 characters, cut between whole ones.</summary>
    public static string Clean(string? said, int most = Most)
    {
        // Nearly all of it is plain, and then it is only cut of its space.
        if (said is not null && said.Length <= most && said.All(c => c is (>= ' ' and < '\u007F') or (>= '\u00A0' and < '\uD800')))
        {
            return said.Trim();
        }

        var kept = new StringBuilder();
        foreach (var rune in (said ?? "").EnumerateRunes())
        {
            if (kept.Length + rune.Utf16SequenceLength > most)
            {
                break;
            }

            // Halves come out of the enumeration as U+FFFD; line ends and tabs are spaces, other controls cannot be shown.
            kept.Append(
                rune.Value is '\r' or '\n' or '\t' ? " "
                : Rune.IsControl(rune) ? "\uFFFD"
                : rune.ToString()
            );
        }

        return kept.ToString().Trim();
    }
}
