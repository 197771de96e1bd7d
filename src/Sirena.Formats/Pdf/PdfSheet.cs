using PdfSharp.Drawing;
using PdfSharp.Pdf;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;

namespace Sirena.Formats.Pdf;

/// <summary>Pages that are written from top to bottom.</summary>
internal sealed class PdfSheet(PdfDocument document, DocumentFacts facts, PdfFonts fonts)
{
    private const double Left = 48;
    private const double Right = 547;
    private const double Bottom = 790;
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
        var details = new List<(string Label, string Value)>
        {
            (facts.Language.Word("Order"), facts.Event.OrderNumber ?? ""),
            (facts.Language.Word("Customer"), facts.Text("customer", "name")),
        };
        details.AddRange(OwnField.Of(facts.Event.After, facts.Own).Select(o => (o.Field.NameIn(facts.Language), o.Value)));
        details.Add((facts.Language.Word("Due"), Facts.Time(facts.Text("dueAt")) is { } due ? facts.Language.Moment(due.InZone(facts.Zone)) : ""));
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
            foot.DrawString(
                $"{title} {facts.Event.OrderNumber}{(facts.Footer.Length > 0 ? $" · {facts.Footer.ReplaceLineEndings(" ")}" : "")}",
                fonts.Small,
                Muted,
                new XRect(Left, Bottom + 4, Right - Left - 90, 12),
                XStringFormats.TopLeft
            );
            foot.DrawString(
                $"{facts.Language.Word("Page")} {i + 1} {facts.Language.Word("of")} {document.PageCount}",
                fonts.Small,
                Muted,
                new XRect(Left, Bottom + 4, Right - Left, 12),
                XStringFormats.TopRight
            );
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
