using PdfSharp.Pdf;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;

namespace Sirena.Formats.Pdf;

/// <summary>Documents of an order as PDF, A4, with a font that has Latin, Greek and Cyrillic letters.</summary>
public static class OrderPdf
{
    private static readonly Lazy<PdfFonts> Shared = new(() => new PdfFonts());
    private static readonly Lock One = new();

    /// <summary>The document's file name: <c>shipping-note-AQ-20418.pdf</c>.</summary>
    public static string FileName(DocumentKind kind, string? order) =>
        $"{Core.Names.Name(kind)}-{string.Concat((order ?? "order").Select(c => char.IsAsciiLetterOrDigit(c) || c is '-' ? c : '_'))}.pdf";

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
        using var document = new PdfDocument();
        document.Info.Title = $"{Title(facts)} {facts.Event.OrderNumber}";
        document.Info.Author = facts.Business;
        document.Options.CompressContentStreams = true;
        var (sheet, lines) = (new PdfSheet(document, facts, Shared.Value), ShippedLine.Of(facts.Event));
        switch (facts.Kind)
        {
            case DocumentKind.PickingList:
                PickingList(sheet, facts, lines);
                break;
            case DocumentKind.ShippingNote:
                ShippingNote(sheet, facts, lines);
                break;
            default:
                Confirmation(sheet, facts, lines);
                break;
        }

        sheet.End();
        using var stream = new MemoryStream();
        document.Save(stream, closeStream: false);
        return stream.ToArray();
    }

    // A page for each site, with what is left to pick there; what has gone already is said beside it.
    private static void PickingList(PdfSheet sheet, DocumentFacts facts, IReadOnlyList<ShippedLine> lines)
    {
        var bySite = lines.GroupBy(l => Site(l, facts)).Where(g => facts.Sites.Count == 0 || facts.Sites.Contains(g.Key)).ToArray();
        if (lines.Count == 0)
        {
            sheet.Begin(Title(facts), null);
        }

        foreach (var site in bySite.Length == 0 ? [.. lines.GroupBy(_ => "")] : bySite)
        {
            sheet.Begin(Title(facts), site.Key.Length > 0 ? $"{facts.Language.Word("Site")}: {facts.NameOf(site.Key)}" : null);
            if (site.All(l => l.Later == 0))
            {
                sheet.Remark(facts.Language.Word("Nothing is left to pick here."));
                continue;
            }

            var begun = site.Any(l => l.Shipped > 0);
            sheet.Columns([
                ("", 26, false),
                (facts.Language.Word("To pick"), 66, true),
                (facts.Language.Word("Article"), 0, false),
                .. begun ? [(facts.Language.Word("Ordered"), 76, true), (facts.Language.Word("Shipped"), 76, true)] : Array.Empty<(string, double, bool)>(),
            ]);
            foreach (var line in site.Where(l => l.Later > 0))
            {
                sheet.Row(
                    boxed: true,
                    [
                        "",
                        facts.Language.Number(line.Later),
                        Name(line),
                        .. begun ? [facts.Language.Number(line.Quantity), line.Shipped > 0 ? facts.Language.Number(line.Shipped) : "–"] : Array.Empty<string>(),
                    ]
                );
            }
        }
    }

    private static void ShippingNote(PdfSheet sheet, DocumentFacts facts, IReadOnlyList<ShippedLine> lines)
    {
        const int named = 12;
        sheet.Begin(Title(facts), null);
        sheet.Columns((facts.Language.Word("Now"), 60, true), (facts.Language.Word("Article"), 0, false), (facts.Language.Word("To follow"), 90, true));
        foreach (var line in lines.OrderByDescending(l => l.Now > 0))
        {
            sheet.Row(false, facts.Language.Number(line.Now), Name(line), line.Later > 0 ? facts.Language.Number(line.Later) : "–");
        }

        var later = lines.Where(l => l.Later > 0).ToArray();
        sheet.Remark(
            later.Length == 0
                ? facts.Language.Word("Everything is in this shipment.")
                : $"{facts.Language.Word("Follows later")}: "
                    + $"{string.Join(", ", later.Take(named).Select(l => $"{facts.Language.Number(l.Later)} × {Name(l)}"))}{(later.Length > named ? " …" : "")}"
        );
    }

    private static void Confirmation(PdfSheet sheet, DocumentFacts facts, IReadOnlyList<ShippedLine> lines)
    {
        sheet.Begin(Title(facts), null);
        sheet.Columns(
            (facts.Language.Word("Quantity"), 66, true),
            (facts.Language.Word("Article"), 0, false),
            (facts.Language.Word("Price"), 90, true),
            (facts.Language.Word("Total"), 100, true)
        );
        foreach (var line in lines)
        {
            var price = Facts.Number(line.Line, "unitPrice");
            sheet.Row(false, facts.Language.Number(line.Quantity), Name(line), facts.Language.Figure(price), facts.Language.Figure(price * line.Quantity));
        }

        if (Facts.Decimal(Facts.Member(facts.Event.After, "total")) is { } amount)
        {
            sheet.Sum(facts.Language.Word("Total"), facts.Language.Money(amount, facts.Text("currency") is { Length: > 0 } own ? own : facts.Currency));
        }
    }

    private static string Title(DocumentFacts facts) =>
        facts.Language.Word(
            facts.Kind switch
            {
                DocumentKind.PickingList => "Picking list",
                DocumentKind.ShippingNote => "Shipping note",
                _ => "Order confirmation",
            }
        );

    private static string Name(ShippedLine line) =>
        FieldValue.Clean(string.Join("  ", new[] { Member(line, "title"), Member(line, "sku") }.Where(t => t.Length > 0)));

    private static string Member(ShippedLine line, string name) =>
        Facts.Member(line.Line, name) is { ValueKind: System.Text.Json.JsonValueKind.String } text ? text.GetString()! : "";

    private static string Site(ShippedLine line, DocumentFacts facts) => Member(line, "site") is { Length: > 0 } own ? own : facts.Text("site");
}
