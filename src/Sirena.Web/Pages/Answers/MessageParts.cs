using System.Text.RegularExpressions;

namespace Sirena.Web.Pages.Answers;

/// <summary>
/// A message as a page shows it to its reader: the same words, set as facts, goods and the rest, without the links and the reply code, which the page's buttons
/// stand for. Nothing is added that the message did not say.
/// </summary>
/// <param name="Headline">Its subject, or its first line.</param>
/// <param name="Words">What is neither fact nor goods, line by line.</param>
/// <param name="Facts">Its lines of a label and a value.</param>
/// <param name="Goods">Its lines of an order's goods: how many, and what.</param>
public sealed partial record MessageParts(
    string Headline,
    IReadOnlyList<string> Words,
    IReadOnlyList<(string Label, string Value)> Facts,
    IReadOnlyList<(string Quantity, string What)> Goods
)
{
    /// <summary>Reads one.</summary>
    /// <param name="subject">The message's subject, or empty.</param>
    /// <param name="text">Its plain text.</param>
    /// <param name="baseAddress">The address of Sirena, whose links are left out.</param>
    public static MessageParts Of(string subject, string text, string baseAddress)
    {
        var lines = text.ReplaceLineEndings("\n")
            .Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
            .Select(l => Reply().Replace(l, "").Trim())
            .Where(l =>
                l.Length > 0
                && !l.Contains(baseAddress + "/", StringComparison.Ordinal)
                && !Told().IsMatch(l)
                && !l.EndsWith(", by Sirena", StringComparison.Ordinal)
            )
            .ToList();
        var headline =
            subject.Length > 0 ? subject
            : lines.Count > 0 ? lines[0]
            : "";
        lines.RemoveAll(l => l == headline);
        var (words, facts, goods) = (new List<string>(), new List<(string, string)>(), new List<(string, string)>());
        foreach (var line in lines)
        {
            if (Good().Match(line) is { Success: true } good)
            {
                goods.Add((good.Groups[1].Value, good.Groups[2].Value));
            }
            else if (Fact().Match(line) is { Success: true } fact)
            {
                facts.Add((fact.Groups[1].Value, fact.Groups[2].Value));
            }
            else
            {
                words.Add(line);
            }
        }

        return new MessageParts(headline, words, facts, goods);
    }

    /// <summary>Whether the message says a text, in any of its parts.</summary>
    public bool Says(string text) =>
        Headline.Contains(text, StringComparison.Ordinal)
        || Words.Any(w => w.Contains(text, StringComparison.Ordinal))
        || Facts.Any(f => f.Value.Contains(text, StringComparison.Ordinal));

    // "Reply OK 2761 or https://...", as the shipped texts end.
    [GeneratedRegex(@"[.,;]?\s*(?:Reply |Responda )?OK \d{4}(?:\s+(?:or|ou))?(?:\s+https?://\S+)?\.?$")]
    private static partial Regex Reply();

    [GeneratedRegex("^(You get this because|Recebe isto porque|Rule '.*' matched too|A regra '.*' também)")]
    private static partial Regex Told();

    [GeneratedRegex(@"^([\d.,]{1,9}) x (.{1,200})$")]
    private static partial Regex Good();

    [GeneratedRegex(@"^(\p{Lu}[\p{L} ]{1,16}): (.{1,80})$")]
    private static partial Regex Fact();
}
