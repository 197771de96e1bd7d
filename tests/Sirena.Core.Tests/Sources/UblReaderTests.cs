using System.Text;
using NodaTime;
using Sirena.Core.Sources;
using Sirena.Formats.Sources;

namespace Sirena.Core.Tests.Sources;

public sealed class UblReaderTests
{
    private const string Spaces =
        "xmlns:cac=\"urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2\" xmlns:cbc=\"urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2\"";

    private static BodyResult Read(string root, string inner, string head = "<?xml version=\"1.0\" encoding=\"UTF-8\"?>") =>
        UblReader.Read(
            Encoding.UTF8.GetBytes($"{head}<{root} xmlns=\"urn:oasis:names:specification:ubl:schema:xsd:{root}-2\" {Spaces}>{inner}</{root}>"),
            DateTimeZoneProviders.Tzdb["Europe/Lisbon"]
        );

    [Fact]
    public void An_order_is_read_by_the_standards_own_fields()
    {
        var result = Read(
            "Order",
            """
            <cbc:UBLVersionID>2.1</cbc:UBLVersionID><cbc:ID>PO-77</cbc:ID><cbc:IssueDate>2026-11-24</cbc:IssueDate><cbc:IssueTime>06:12:09Z</cbc:IssueTime><cbc:Note>Stern ramp</cbc:Note>
            <cbc:DocumentCurrencyCode>EUR</cbc:DocumentCurrencyCode>
            <cac:BuyerCustomerParty><cac:Party><cac:PartyIdentification><cbc:ID>CORV</cbc:ID></cac:PartyIdentification><cac:PartyName><cbc:Name>MV Corvane</cbc:Name></cac:PartyName>
              <cac:Contact><cbc:Telephone>+447700900123</cbc:Telephone><cbc:ElectronicMail>purser@corvane.example</cbc:ElectronicMail></cac:Contact></cac:Party></cac:BuyerCustomerParty>
            <cac:Delivery><cac:RequestedDeliveryPeriod><cbc:EndDate>2026-11-24</cbc:EndDate><cbc:EndTime>15:30:00</cbc:EndTime></cac:RequestedDeliveryPeriod></cac:Delivery>
            <cac:AnticipatedMonetaryTotal><cbc:PayableAmount currencyID="EUR">152.00</cbc:PayableAmount></cac:AnticipatedMonetaryTotal>
            <cac:OrderLine><cac:LineItem><cbc:ID>1</cbc:ID><cbc:Quantity unitCode="EA">4</cbc:Quantity><cac:Price><cbc:PriceAmount currencyID="EUR">38.00</cbc:PriceAmount></cac:Price>
              <cac:Item><cbc:Name>Fish pie</cbc:Name><cac:SellersItemIdentification><cbc:ID>GAL-0031</cbc:ID></cac:SellersItemIdentification></cac:Item></cac:LineItem></cac:OrderLine>
            """
        );
        var made = Assert.Single(result.Events);
        Assert.Equal(("ubl-Order-PO-77", "order.placed", Instant.FromUtc(2026, 11, 24, 6, 12, 9)), (made.Id, made.Type, made.Time!.Value));
        var order = made.Data["order"]!;
        Assert.Equal(
            ("PO-77", "2026-11-24T15:30:00Z", "MV Corvane", "CORV", "Stern ramp"),
            (
                (string)order["number"]!,
                (string)order["dueAt"]!,
                (string)order["customer"]!["name"]!,
                (string)order["customer"]!["code"]!,
                (string)order["extra"]!["note"]!
            )
        );
        Assert.Equal((152m, 4m, "GAL-0031"), ((decimal)order["total"]!, (decimal)order["lines"]![0]!["quantity"]!, (string)order["lines"]![0]!["sku"]!));
    }

    [Fact]
    public void A_time_beyond_the_calendar_is_a_problem_with_its_place()
    {
        var result = Read("Order", "<cbc:ID>PO-78</cbc:ID><cbc:IssueDate>9999-12-31</cbc:IssueDate><cbc:IssueTime>23:59:59-12:00</cbc:IssueTime>");
        Assert.Equal("/Order/IssueDate", Assert.Single(result.Problems).Path);
    }

    [Theory]
    [InlineData(
        "OrderChange",
        "<cbc:ID>C1</cbc:ID><cbc:SequenceNumberID>2</cbc:SequenceNumberID><cac:OrderReference><cbc:ID>PO-77</cbc:ID></cac:OrderReference>",
        "order.changed",
        "ubl-OrderChange-C1-2"
    )]
    [InlineData(
        "OrderCancellation",
        "<cbc:ID>X1</cbc:ID><cac:OrderReference><cbc:ID>PO-77</cbc:ID></cac:OrderReference><cbc:CancellationNote>sold out</cbc:CancellationNote>",
        "order.cancelled",
        "ubl-OrderCancellation-X1"
    )]
    [InlineData(
        "DespatchAdvice",
        "<cbc:ID>D1</cbc:ID><cac:OrderReference><cbc:ID>PO-77</cbc:ID></cac:OrderReference><cac:DespatchLine><cbc:DeliveredQuantity>3</cbc:DeliveredQuantity></cac:DespatchLine>",
        "order.shipped",
        "ubl-DespatchAdvice-D1"
    )]
    public void What_follows_an_order_is_read_by_its_reference(string root, string inner, string type, string id)
    {
        var made = Assert.Single(Read(root, inner).Events);
        Assert.Equal((type, id, "PO-77"), (made.Type, made.Id, (string?)made.Data["order"]!["number"]));
    }

    [Theory]
    [InlineData("<cbc:ID></cbc:ID>", "/Order/ID", "number")]
    [InlineData("<cbc:ID>1</cbc:ID><cbc:IssueDate>2026-02-30</cbc:IssueDate>", "/Order/IssueDate", "XML Schema")]
    [InlineData(
        "<cbc:ID>1</cbc:ID><cac:AnticipatedMonetaryTotal><cbc:PayableAmount>1,5</cbc:PayableAmount></cac:AnticipatedMonetaryTotal>",
        "/Order/AnticipatedMonetaryTotal/PayableAmount",
        "decimal"
    )]
    [InlineData("<cbc:ID>1</cbc:ID><cbc:DocumentCurrencyCode>EURO</cbc:DocumentCurrencyCode>", "/Order", "ISO 4217")]
    [InlineData("<cbc:ID>1</cac:ID>", "/", "XML")]
    public void What_is_wrong_is_named_at_its_place(string inner, string path, string wanted)
    {
        var problem = Read("Order", inner).Problems[0];
        Assert.Equal(path, problem.Path);
        Assert.Contains(wanted, problem.Wanted);
    }

    [Fact]
    public void Dtds_entities_other_documents_and_towers_are_refused()
    {
        Assert.Contains("DTD", Read("Order", "<cbc:ID>&x;</cbc:ID>", "<!DOCTYPE Order [<!ENTITY x SYSTEM \"file:///etc/passwd\">]>").Problems[0].Wanted);
        Assert.Contains("namespace", Read("Invoice", "<cbc:ID>1</cbc:ID>").Problems[0].Wanted);
        Assert.Contains(
            "levels",
            Read("Order", string.Concat(Enumerable.Repeat("<a>", 5_000)) + string.Concat(Enumerable.Repeat("</a>", 5_000))).Problems[0].Wanted
        );
        Assert.NotEmpty(UblReader.Read([], DateTimeZone.Utc).Problems);
    }
}
