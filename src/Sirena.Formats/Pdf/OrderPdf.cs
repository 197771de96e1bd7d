using System.Text;
using NodaTime;
using PdfSharp.Drawing;
using PdfSharp.Fonts;
using PdfSharp.Pdf;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;

namespace Sirena.Formats.Pdf;

/// <summary>What a document is made of.</summary>
/// <param name="Kind">Which document.</param>
/// <param name="Event">The event whose order it shows.</param>
/// <param name="Business">The business's name.</param>
/// <param name="Footer">Its last lines, or empty.</param>
/// <param name="Language">The language.</param>
/// <param name="Zone">The business's time zone.</param>
/// <param name="Currency">For amounts that name none.</param>
/// <param name="NameOf">Names a site by its id.</param>
/// <param name="Sites">The sites of a picking list, each on a page of its own; all of the order's where empty.</param>
public sealed record DocumentFacts(DocumentKind Kind, OrderEvent Event, string Business, string Footer, TextLanguage Language, DateTimeZone Zone, string Currency, Func<string, string> NameOf, IReadOnlyList<string> Sites);

/// <summary>Documents of an order as PDF, A4, with a font that has Latin, Greek and Cyrillic letters.</summary>
public static class OrderPdf
{
    private const double Left = 48;
    private const double Right = 547;
    private const double Bottom = 790;
    private static readonly Lazy<Fonts> Shared = new(() => new Fonts());
    private static readonly Lock One = new();

    /// <summary>The document's file name: <c>shipping-note-AQ-20418.pdf</c>.</summary>
    public static string FileName(DocumentKind kind, string? order) => $"{Core.Names.Name(kind)}-{string.Concat((order ?? "order").Select(c => char.IsAsciiLetterOrDigit(c) || c is '-' ? c : '_'))}.pdf";

    /// <summary>Makes one.</summary>
    public static byte[] Make(DocumentFacts facts)
    {
        // The library keeps fonts for the whole process.
        lock (One)
        {
            return Draw(facts);
        }
    }

    private static byte[] Draw(DocumentFacts facts)
    {
        var fonts = Shared.Value;
        using var document = new PdfDocument();
        document.Info.Title = $"{Title(facts)} {facts.Event.OrderNumber}";
        document.Info.Author = facts.Business;
        document.Options.CompressContentStreams = true;
        var lines = ShippedLine.Of(facts.Event);
        var sheet = new Sheet(document, facts, fonts);
        if (facts.Kind == DocumentKind.PickingList)
        {
            var bySite = lines.GroupBy(l => Site(l, facts)).Where(g => facts.Sites.Count == 0 || facts.Sites.Contains(g.Key)).ToArray();
            if (lines.Count == 0)
            {
                sheet.Begin(Title(facts), null);
            }

            foreach (var site in bySite.Length == 0 ? [.. lines.GroupBy(_ => "")] : bySite)
            {
                sheet.Begin(Title(facts), site.Key.Length > 0 ? $"{facts.Language.Word("Site")}: {facts.NameOf(site.Key)}" : null);
                sheet.Columns(("", 26, false), (facts.Language.Word("Quantity"), 66, true), (facts.Language.Word("Article"), 0, false));
                foreach (var line in site)
                {
                    sheet.Row(boxed: true, "", facts.Language.Number(line.Quantity - line.Shipped + line.Now), Name(line));
                }
            }
        }
        else if (facts.Kind == DocumentKind.ShippingNote)
        {
            sheet.Begin(Title(facts), null);
            sheet.Columns((facts.Language.Word("Now"), 60, true), (facts.Language.Word("Article"), 0, false), (facts.Language.Word("To follow"), 90, true));
            foreach (var line in lines.OrderByDescending(l => l.Now > 0))
            {
                sheet.Row(false, facts.Language.Number(line.Now), Name(line), line.Later > 0 ? facts.Language.Number(line.Later) : "–");
            }

            sheet.Remark(lines.Any(l => l.Later > 0) ? $"{facts.Language.Word("Follows later")}: {string.Join(", ", lines.Where(l => l.Later > 0).Take(12).Select(l => $"{facts.Language.Number(l.Later)} × {Name(l)}"))}{(lines.Count(l => l.Later > 0) > 12 ? " …" : "")}" : facts.Language.Word("Everything is in this shipment."));
        }
        else
        {
            sheet.Begin(Title(facts), null);
            sheet.Columns((facts.Language.Word("Quantity"), 66, true), (facts.Language.Word("Article"), 0, false), (facts.Language.Word("Price"), 90, true), (facts.Language.Word("Total"), 100, true));
            foreach (var line in lines)
            {
                var price = ShippedLine.Number(line.Line, "unitPrice");
                sheet.Row(false, facts.Language.Number(line.Quantity), Name(line), facts.Language.Figure(price), facts.Language.Figure(price * line.Quantity));
            }

            if (Facts.Member(facts.Event.After, "total") is { ValueKind: System.Text.Json.JsonValueKind.Number } total && total.TryGetDecimal(out var amount))
            {
                sheet.Sum(facts.Language.Word("Total"), facts.Language.Money(amount, Text(facts.Event, "currency") is { Length: > 0 } own ? own : facts.Currency));
            }
        }

        sheet.End();
        using var stream = new MemoryStream();
        document.Save(stream, closeStream: false);
        return stream.ToArray();
    }

    private static string Title(DocumentFacts facts) => facts.Language.Word(facts.Kind switch { DocumentKind.PickingList => "Picking list", DocumentKind.ShippingNote => "Shipping note", _ => "Order confirmation" });

    private static string Name(ShippedLine line) => FieldValue.Clean(string.Join("  ", new[] { Member(line, "title"), Member(line, "sku") }.Where(t => t.Length > 0)));

    private static string Member(ShippedLine line, string name) => Facts.Member(line.Line, name) is { ValueKind: System.Text.Json.JsonValueKind.String } text ? text.GetString()! : "";

    private static string Site(ShippedLine line, DocumentFacts facts) => Member(line, "site") is { Length: > 0 } own ? own : Text(facts.Event, "site");

    private static string Text(OrderEvent happened, params string[] path)
    {
        var at = happened.After;
        foreach (var name in path)
        {
            at = Facts.Member(at, name);
        }

        return at.ValueKind == System.Text.Json.JsonValueKind.String ? FieldValue.Clean(at.GetString()!) : "";
    }

    /// <summary>The shipped fonts, with the width of each letter kept: measuring a text costs more than drawing it.</summary>
    private sealed class Fonts : IFontResolver
    {
        private readonly Dictionary<(bool Bold, char Letter), double> widths = [];
        private readonly Lock gate = new();
        private readonly XGraphics ruler;

        public Fonts()
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

    /// <summary>Pages that are written from top to bottom.</summary>
    private sealed class Sheet(PdfDocument document, DocumentFacts facts, Fonts fonts)
    {
        private static readonly XBrush Ink = new XSolidBrush(XColor.FromArgb(27, 43, 52));
        private static readonly XBrush Muted = new XSolidBrush(XColor.FromArgb(92, 107, 115));
        private static readonly XPen Hair = new(XColor.FromArgb(216, 208, 192), .6);
        private static readonly XPen Box = new(XColor.FromArgb(92, 107, 115), .8);
        private (string Head, double Width, bool Right)[] columns = [];
        private string title = "";
        private XGraphics? page;
        private double y;

        public void Begin(string heading, string? under)
        {
            title = heading;
            NewPage();
            Put(facts.Business, Left, fonts.Bold, Ink);
            y += 30;
            Put(heading, Left, fonts.Large, Ink);
            y += 24;
            var details = new List<(string Label, string Value)> { (facts.Language.Word("Order"), facts.Event.OrderNumber ?? ""), (facts.Language.Word("Customer"), Text(facts.Event, "customer", "name")) };
            var place = string.Join(", ", new[] { Text(facts.Event, "extra", "vessel"), Text(facts.Event, "extra", "berth") }.Where(t => t.Length > 0));
            details.Add(("", place));
            details.Add((facts.Language.Word("Due"), Facts.Time(Text(facts.Event, "dueAt")) is { } due ? facts.Language.Moment(due.InZone(facts.Zone)) : ""));
            foreach (var (label, value) in details.Where(d => d.Value.Length > 0))
            {
                Put(label, Left, fonts.Plain, Muted);
                foreach (var row in fonts.Wrap(value, Right - Left - 90))
                {
                    Put(row, Left + 90, fonts.Bold, Ink);
                    y += 15;
                }
            }

            if (under is not null)
            {
                y += 6;
                Put(under, Left, fonts.Bold, Ink);
                y += 15;
            }

            y += 10;
        }

        public void Columns(params (string Head, double Width, bool Right)[] given)
        {
            var rest = Right - Left - given.Sum(c => c.Width);
            columns = [.. given.Select(c => c.Width > 0 ? c : (c.Head, rest, c.Right))];
            Heads();
        }

        public void Row(bool boxed, params string[] cells)
        {
            var wrapped = cells.Select((c, i) => columns[i].Right ? [c] : fonts.Wrap(c, columns[i].Width - 8)).ToArray();
            var height = (wrapped.Max(w => w.Count) * 14) + 5;
            if (y + height > Bottom - 30)
            {
                NewPage();
                Heads();
            }

            var x = Left;
            for (var i = 0; i < cells.Length; i++)
            {
                var (_, width, right) = columns[i];
                if (boxed && i == 0)
                {
                    page!.DrawRectangle(Box, x + 2, y + 2, 11, 11);
                }

                for (var row = 0; row < wrapped[i].Count; row++)
                {
                    var text = wrapped[i][row];
                    page!.DrawString(text, fonts.Plain, Ink, right ? x + width - 8 - fonts.Width(text) : x, y + 11 + (row * 14));
                }

                x += width;
            }

            y += height;
            page!.DrawLine(Hair, Left, y - 1, Right, y - 1);
        }

        public void Sum(string label, string value)
        {
            y += 6;
            Room(30);
            page!.DrawString(label, fonts.Bold, Ink, Right - 8 - fonts.Width(value, bold: true) - 20 - fonts.Width(label, bold: true), y + 11);
            page.DrawString(value, fonts.Bold, Ink, Right - 8 - fonts.Width(value, bold: true), y + 11);
            y += 20;
        }

        public void Remark(string text)
        {
            y += 10;
            foreach (var row in fonts.Wrap(text, Right - Left))
            {
                Room(16);
                Put(row, Left, fonts.Plain, Ink);
                y += 15;
            }
        }

        public void End()
        {
            page?.Dispose();
            for (var i = 0; i < document.PageCount; i++)
            {
                using var foot = XGraphics.FromPdfPage(document.Pages[i]);
                foot.DrawLine(Hair, Left, Bottom, Right, Bottom);
                foot.DrawString($"{title} {facts.Event.OrderNumber}{(facts.Footer.Length > 0 ? $" · {facts.Footer.ReplaceLineEndings(" ")}" : "")}", fonts.Small, Muted, new XRect(Left, Bottom + 4, Right - Left - 90, 12), XStringFormats.TopLeft);
                foot.DrawString($"{facts.Language.Word("Page")} {i + 1} {facts.Language.Word("of")} {document.PageCount}", fonts.Small, Muted, new XRect(Left, Bottom + 4, Right - Left, 12), XStringFormats.TopRight);
            }
        }

        private void Heads()
        {
            var x = Left;
            foreach (var (head, width, right) in columns)
            {
                page!.DrawString(head, fonts.Plain, Muted, right ? x + width - 8 - fonts.Width(head) : x, y + 10);
                x += width;
            }

            y += 17;
            page!.DrawLine(Box, Left, y - 2, Right, y - 2);
        }

        private void Room(double height)
        {
            if (y + height > Bottom - 20)
            {
                NewPage();
            }
        }

        private void NewPage()
        {
            page?.Dispose();
            var added = document.AddPage();
            added.Size = PdfSharp.PageSize.A4;
            page = XGraphics.FromPdfPage(added);
            y = 48;
        }

        private void Put(string text, double x, XFont font, XBrush brush) => page!.DrawString(text, font, brush, x, y + font.Size);
    }
}
