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
    private static byte[] Make(DocumentKind kind, int lines, string title = "Fish pie", string[]? sites = null)
    {
        var all = string.Join(',', Enumerable.Range(0, lines).Select(i => $$"""{"sku":"S{{i}}","title":"{{title}}","quantity":12,"shipped":4,"unitPrice":38.5,"site":"{{(i % 2 == 0 ? "galley" : "cold-store")}}"}"""));
        var happened = Event($$"""{"number":"AQ-1","total":100,"currency":"EUR","customer":{"name":"Ναυτιλιακή Правый"},"dueAt":"2026-11-24T15:30:00Z","lines":[{{all}}]}""", "order.shipped");
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
    public void Files_are_named_by_what_they_are_and_their_order() => Assert.Equal("shipping-note-AQ_1.pdf", OrderPdf.FileName(DocumentKind.ShippingNote, "AQ/1"));
}
