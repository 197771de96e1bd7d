using System.Text;
using PdfSharp.Drawing;
using PdfSharp.Fonts;

namespace Sirena.Formats.Pdf;

/// <summary>The shipped fonts, with the width of each letter kept: measuring a text costs more than drawing it.</summary>
internal sealed class PdfFonts : IFontResolver
{
    private readonly Dictionary<(bool Bold, char Letter), double> widths = [];
    private readonly Lock gate = new();
    private readonly XGraphics ruler;

    public PdfFonts()
    {
        GlobalFontSettings.FontResolver = this;
        Plain = new XFont("Sirena", 10, XFontStyleEx.Regular);
        Bold = new XFont("Sirena", 10, XFontStyleEx.Bold);
        Small = new XFont("Sirena", 8, XFontStyleEx.Regular);
        Large = new XFont("Sirena", 18, XFontStyleEx.Bold);
        ruler = XGraphics.CreateMeasureContext(new XSize(600, 800), XGraphicsUnit.Point, XPageDirection.Downwards);
    }

    public XFont Plain { get; }

    public XFont Bold { get; }

    public XFont Small { get; }

    public XFont Large { get; }

    public byte[] GetFont(string faceName)
    {
        using var stream = typeof(OrderPdf).Assembly.GetManifestResourceStream(faceName)!;
        using var copy = new MemoryStream();
        stream.CopyTo(copy);
        return copy.ToArray();
    }

    public FontResolverInfo ResolveTypeface(string familyName, bool isBold, bool isItalic) => new(isBold ? "DejaVuSans-Bold.ttf" : "DejaVuSans.ttf");

    /// <summary>The width of a text at 10 points.</summary>
    public double Width(string text, bool bold = false)
    {
        lock (gate)
        {
            var sum = 0.0;
            foreach (var letter in text)
            {
                if (!widths.TryGetValue((bold, letter), out var width))
                {
                    widths[(bold, letter)] = width = char.IsSurrogate(letter) ? 5 : ruler.MeasureString(letter.ToString(), bold ? Bold : Plain).Width;
                }

                sum += width;
            }

            return sum;
        }
    }

    /// <summary>The text in pieces that fit a width; a word that alone is too long is broken.</summary>
    public IReadOnlyList<string> Wrap(string text, double width)
    {
        if (Width(text) <= width)
        {
            return [text];
        }

        var (rows, row) = (new List<string>(), new StringBuilder());
        foreach (var word in text.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            var left = word;
            if (row.Length > 0 && Width($"{row} {left}") > width)
            {
                rows.Add(row.ToString());
                row.Clear();
            }

            while (Width(left) > width)
            {
                var fit = 1;
                while (fit < left.Length && Width(left[..(fit + 1)]) <= width)
                {
                    fit++;
                }

                rows.Add(left[..fit]);
                left = left[fit..];
            }

            row.Append(row.Length > 0 ? " " : "").Append(left);
        }

        if (row.Length > 0)
        {
            rows.Add(row.ToString());
        }

        return rows;
    }
}
