namespace Sirena.Core;

/// <summary>Finds the word that somebody probably meant.</summary>
public static class Closest
{
    /// <summary>
    /// The candidate within two slips of <paramref name="word"/> (Damerau-Levenshtein without transpositions, upper and lower case alike), or
    /// <see langword="null"/>.
    /// </summary>
    public static string? To(string word, IEnumerable<string> candidates)
    {
        var best = candidates.Select(c => (Word: c, Slips: Distance(word, c))).OrderBy(x => x.Slips).FirstOrDefault((Word: "", Slips: int.MaxValue));
        return best.Slips <= Math.Max(2, word.Length / 5) ? best.Word : null;
    }

    /// <summary>The ending of an error's sentence: the near miss, or nothing.</summary>
    public static string Hint(string word, IEnumerable<string> candidates) => To(word, candidates) is { } near ? $" Did you mean '{near}'?" : "";

    private static int Distance(string a, string b)
    {
        var row = Enumerable.Range(0, b.Length + 1).ToArray();
        for (var i = 1; i <= a.Length; i++)
        {
            var diagonal = row[0];
            row[0] = i;
            for (var j = 1; j <= b.Length; j++)
            {
                var above = row[j];
                row[j] = Math.Min(Math.Min(row[j], row[j - 1]) + 1, diagonal + (char.ToUpperInvariant(a[i - 1]) == char.ToUpperInvariant(b[j - 1]) ? 0 : 1));
                diagonal = above;
            }
        }

        return row[b.Length];
    }
}
