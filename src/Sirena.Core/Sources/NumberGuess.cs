using System.Globalization;

namespace Sirena.Core.Sources;

/// <summary>How the numbers of a value are written.</summary>
internal sealed record NumberGuess(char? Point, int Minor, string Why)
{
    public static NumberGuess? Of(BodyLeaf leaf)
    {
        if (leaf.Texts.Count == 0)
        {
            return null;
        }

        if (leaf.Texts.All(t => decimal.TryParse(t, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out _)))
        {
            var cents = leaf.Names[0].Any(n => n is "cents" or "cent" or "minor" or "pence" or "centimos");
            return new NumberGuess(null, cents ? 2 : 0, cents ? "its values are whole numbers of the smallest coin" : "its values are numbers");
        }

        if (leaf.Texts.All(t => DecimalText.Read(t, null) is not null))
        {
            return new NumberGuess(null, 0, "its values are numbers");
        }

        var (comma, point) = (leaf.Texts.All(t => DecimalText.Read(t, ',') is not null), leaf.Texts.All(t => DecimalText.Read(t, '.') is not null));
        return (comma, point) switch
        {
            (true, false) => new NumberGuess(
                ',',
                0,
                $"its decimals stand behind a comma, as in '{leaf.Texts.First(t => t.Contains(',', StringComparison.Ordinal))}'"
            ),
            (false, true) => new NumberGuess('.', 0, $"its decimals stand behind a point, as in '{leaf.Texts[0]}'"),
            (true, true) => new NumberGuess(
                ',',
                0,
                "its values can be read with a comma or a point before the decimals; nothing in these bodies decides it, so look at this one"
            ),
            _ => null,
        };
    }
}
