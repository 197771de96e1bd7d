using NodaTime;
using PdfSharp.Pdf.IO;
using Sirena.Core.Orders;
using Sirena.Core.Rules;
using Sirena.Core.Wordings;
using Sirena.Formats.Pdf;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Formats;

public class OrderPdfTests
{
    private static byte[] Make(DocumentKind kind, string lines, string? before = null, string[]? sites = null, TextLanguage? language = null) =>
        Draw(
            kind,
            $$"""{"lines":[{{before ?? lines}}]}""",
            $$"""{"number":"AQ-1","currency":"EUR","total":1284.5,"site":"galley","customer":{"name":"MV Corvane"},"lines":[{{lines}}]}""",
            sites ?? [],
            language ?? TextLanguage.En
        );

    private static byte[] Draw(DocumentKind kind, string before, string after, string[] sites, TextLanguage language)
    {
        var happened = new OrderEvent
        {
            EventId = "e",
            Source = "/t",
            Type = "order.shipped",
            OrderNumber = "AQ-1",
            OrderBefore = before,
            OrderAfter = after,
            Data = "{}",
        };
        return OrderPdf.Make(
            new DocumentFacts(kind, happened, "Averil Quay Provisions", "Quay 4", language, Lisbon, "EUR", id => id == "cold-store" ? "Cold store" : id, sites)
        );
    }

    /// <summary>Each document of an order, whatever it holds.</summary>
    internal static void MakeOf(string order)
    {
        foreach (var kind in Enum.GetValues<DocumentKind>())
        {
            Draw(kind, order, order, [], TextLanguage.En);
        }
    }

    private static string Line(string sku, int quantity, int shipped, string site = "cold-store") =>
        $$"""{"sku":"{{sku}}","title":"Article {{sku}}","quantity":{{quantity}},"shipped":{{shipped}},"unitPrice":38.5,"site":"{{site}}"}""";

    // The words of each page from top to bottom, as a reader finds them.
    private static string[] Read(byte[] pdf)
    {
        using var document = UglyToad.PdfPig.PdfDocument.Open(pdf);
        return
        [
            .. document
                .GetPages()
                .Select(p =>
                    string.Join(
                        '\n',
                        p.GetWords()
                            .GroupBy(w => Math.Round(w.BoundingBox.Bottom / 4))
                            .OrderByDescending(g => g.Key)
                            .Select(g => string.Join(' ', g.OrderBy(w => w.BoundingBox.Left).Select(w => w.Text)))
                    )
                ),
        ];
    }

    private static byte[] Make(DocumentKind kind, int lines, string title = "Fish pie", string[]? sites = null)
    {
        var all = string.Join(
            ',',
            Enumerable
                .Range(0, lines)
                .Select(i =>
                    $$"""{"sku":"S{{i}}","title":"{{title}}","quantity":12,"shipped":4,"unitPrice":38.5,"site":"{{(i % 2 == 0 ? "galley" : "cold-store")}}"}"""
                )
        );
        var happened = Event(
            $$"""{"number":"AQ-1","total":100,"currency":"EUR","customer":{"name":"Ναυτιλιακή Правый"},"dueAt":"2026-11-24T15:30:00Z","lines":[{{all}}]}""",
            "order.shipped"
        );
        return OrderPdf.Make(new DocumentFacts(kind, happened, "Averil Quay Provisions", "Quay 4", TextLanguage.En, Lisbon, "EUR", id => id, sites ?? []));
    }

    private static int Pages(byte[] pdf)
    {
        using var stream = new MemoryStream(pdf);
        using var document = PdfReader.Open(stream, PdfDocumentOpenMode.Import);
        for (var i = 0; i < document.PageCount; i++)
        {
            Assert.Equal((595, 842), ((int)document.Pages[i].Width.Point, (int)document.Pages[i].Height.Point));
        }

        return document.PageCount;
    }

    [Theory]
    [InlineData(1, 1)]
    [InlineData(20, 1)]
    [InlineData(500, 13)]
    public void A_document_has_as_many_A4_pages_as_its_lines_need(int lines, int least)
    {
        foreach (var kind in Enum.GetValues<DocumentKind>())
        {
            Assert.InRange(Pages(Make(kind, lines)), least, least + 3 + (kind == DocumentKind.PickingList ? 2 : 0));
        }
    }

    [Fact]
    public void Long_words_and_letters_of_other_scripts_are_wrapped_and_an_order_without_lines_is_a_document_too()
    {
        Assert.Equal(2, Pages(Make(DocumentKind.OrderConfirmation, 3, new string('w', 400))));
        Assert.Equal(1, Pages(Make(DocumentKind.ShippingNote, 3, "Канат швартовый, Σχοινί")));
        Assert.Equal(1, Pages(Make(DocumentKind.PickingList, 0)));
    }

    [Fact]
    public void A_picking_list_has_a_page_for_each_site_or_only_those_that_are_asked_for()
    {
        Assert.Equal(2, Pages(Make(DocumentKind.PickingList, 4)));
        Assert.Equal(1, Pages(Make(DocumentKind.PickingList, 4, sites: ["galley"])));
    }

    [Fact]
    public void A_shipping_note_says_what_goes_now_and_what_follows()
    {
        var page = Assert.Single(Read(Make(DocumentKind.ShippingNote, $"{Line("A", 12, 4)},{Line("B", 2, 2)}", $"{Line("A", 12, 0)},{Line("B", 2, 2)}")));
        Assert.Contains("Shipping note", page);
        Assert.Contains("4 Article A A 8", page);
        Assert.Contains("0 Article B B –", page);
        Assert.Contains("Follows later: 8 × Article A", page);
        Assert.Contains("Page 1 of 1", page);
        Assert.Contains(
            "Tudo vai nesta remessa.",
            Assert.Single(Read(Make(DocumentKind.ShippingNote, Line("A", 4, 4), Line("A", 4, 0), language: TextLanguage.Of("pt"))))
        );
    }

    [Fact]
    public void A_picking_list_says_what_is_left_to_pick_at_its_site_and_what_has_gone()
    {
        var lines = $"{Line("A", 12, 4)},{Line("B", 2, 2)},{Line("C", 5, 0, "galley")}";
        var page = Assert.Single(Read(Make(DocumentKind.PickingList, lines, sites: ["cold-store"])));
        Assert.Contains("Site: Cold store", page);
        Assert.Contains("To pick Article Ordered Shipped", page);
        Assert.Contains("8 Article A A 12 4", page);
        Assert.DoesNotContain("Article B", page);
        Assert.DoesNotContain("Article C", page);
        var galley = Assert.Single(Read(Make(DocumentKind.PickingList, lines, sites: ["galley"])));
        Assert.Contains("5 Article C C", galley);
        Assert.DoesNotContain("Shipped", galley);
        Assert.Contains("Nothing is left to pick here.", Assert.Single(Read(Make(DocumentKind.PickingList, Line("A", 4, 4)))));
    }

    [Fact]
    public void An_order_confirmation_says_prices_and_the_total_in_the_reader_s_language()
    {
        var page = Assert.Single(Read(Make(DocumentKind.OrderConfirmation, $"{Line("A", 12, 0)},{Line("B", 200, 0)}")));
        Assert.Contains("12 Article A A 38.50 462.00", page);
        Assert.Contains("Total 1,284.50 EUR", page);
        Assert.Contains("7.700,00", Assert.Single(Read(Make(DocumentKind.OrderConfirmation, Line("B", 200, 0), language: TextLanguage.Of("pt")))));
    }

    [Fact]
    public void Every_page_repeats_the_heads_of_its_columns_and_no_line_is_lost_between_pages()
    {
        var pages = Read(Make(DocumentKind.OrderConfirmation, string.Join(',', Enumerable.Range(0, 120).Select(i => Line($"S{i:000}", 1, 0)))));
        Assert.InRange(pages.Length, 3, 5);
        Assert.All(pages, (page, i) => Assert.Contains($"Page {i + 1} of {pages.Length}", page));
        Assert.All(pages, page => Assert.Contains("Quantity Article Price", page));
        Assert.All(Enumerable.Range(0, 120), i => Assert.Single(pages, page => page.Contains($"Article S{i:000}", StringComparison.Ordinal)));
    }

    [Fact]
    public void Files_are_named_by_what_they_are_and_their_order() =>
        Assert.Equal("shipping-note-AQ_1.pdf", OrderPdf.FileName(DocumentKind.ShippingNote, "AQ/1"));
}
