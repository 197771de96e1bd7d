using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Sources;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Sources;

/// <summary>Readings proposed from bodies of many shapes: what is found, why, and that what is proposed reads the very bodies.</summary>
public sealed class ReadingProposalTests
{
    internal static readonly StatusWords Words = new([
        new Status
        {
            Id = "received",
            Name = "Received",
            Mark = "received",
            Words = ["10"],
        },
        new Status
        {
            Id = "picking",
            Name = "Picking",
            Mark = "picking",
            Words = ["30", "KOMM"],
        },
        new Status
        {
            Id = "cancelled",
            Name = "Cancelled",
            Mark = "cancelled",
        },
    ]);

    private static Proposal Propose(params string[] bodies)
    {
        var proposal = ReadingProposal.Of([.. bodies.Select(Element)], Words, Lisbon);
        var reader = new BodyReader(proposal.Reading, Lisbon);
        Assert.All(bodies, b => Assert.Empty(reader.Read(new Body(Element(b), _ => null)).Problems));
        return proposal;
    }

    [Fact]
    public void Of_two_lists_the_one_that_speaks_more_of_lines_is_the_orders_lines()
    {
        const string body =
            """{"msg":"ORD_NEW","no":"A-1","charges":[{"price":"5,00"}],"rows":[{"art":"CHD-1","qty":"2,0","price":"318,00"}],"refunds":[{"price":"1,00"}]}""";
        Assert.Equal("$.rows[*]", Propose(body).Reading.Lines!.Each.Text);
    }

    [Fact]
    public void The_ledgers_shape()
    {
        var proposal = Propose(
            """{"msg":"ORD_NEW","sent":"14/05/2026 14:24:16","doc":{"no":20441,"state":"Received","wanted":"30/05/2026","due":"30/05/2026 09:30","account":{"code":"TARN","name":"MV Tarn Venture","mail":"purser@tarn.example"},"rep":"ines","amount":"1.076,00","cur":"EUR","rows":[{"art":"CHD-1","qty":"2,0","txt":"Rope","price":"318,00"}]}}""",
            """{"msg":"ORD_HOLD","sent":"14/05/2026 15:24:16","doc":{"no":20442,"state":"Picking","due":"01/06/2026 10:30","account":{"code":"CORV","name":"MV Corvane","mail":"purser@corvane.example"},"rep":"odile","amount":"76,50","cur":"EUR","rows":[]}}"""
        );
        string? At(string field) => proposal.Reading.Of(field)?.Path?.Text;
        Assert.Equal("$.msg", proposal.Reading.Event!.Path!.Text);
        Assert.Equal("order.held", proposal.Reading.Event.Words!["ORD_HOLD"]);
        Assert.Equal(("$.doc.no", "$.doc.state", "$.doc.due"), (At("order.number"), At("order.status"), At("order.dueAt")));
        Assert.Equal(("$.doc.amount", "$.doc.cur", "$.doc.rep"), (At("order.total"), At("order.currency"), At("order.salesperson")));
        Assert.Equal(
            ("$.doc.account.name", "$.doc.account.code", "$.doc.account.mail"),
            (At("order.customer.name"), At("order.customer.code"), At("order.customer.email"))
        );
        Assert.Equal(',', proposal.Reading.Of("order.total")!.Decimal);
        Assert.Equal("dd/MM/uuuu HH:mm", proposal.Reading.Of("order.dueAt")!.Forms[0].Text);
        Assert.Equal("$.doc.rows[*]", proposal.Reading.Lines!.Each.Text);
        Assert.Equal(["sku", "title", "quantity", "unitPrice"], proposal.Reading.Lines.Fields.Select(f => f.Field.Path));
        Assert.Equal("$.sent", proposal.Reading.Time!.Path!.Text);
        Assert.Contains("'30/05/2026 09:30' leaves no other way", proposal.Because["order.dueAt"]);
    }

    [Fact]
    public void A_flat_body_with_cents_and_seconds()
    {
        var proposal = Propose(
            """{"event":"order.created","order_id":"A-1","status":"received","created_at":1795534200,"total_cents":128450,"currency":"EUR","customer_email":"a@b.example","phone":"+447700900123"}""",
            """{"event":"order.cancelled","order_id":"A-2","status":"cancelled","created_at":1795534300,"total_cents":900,"currency":"GBP","customer_email":"c@b.example","phone":"+447700900124"}"""
        );
        Assert.Equal("$.order_id", proposal.Reading.Of("order.number")!.Path!.Text);
        Assert.Equal("order.placed", proposal.Reading.Event!.Words!["order.created"]);
        Assert.Equal(2, proposal.Reading.Of("order.total")!.Minor);
        Assert.Equal(TimeForm.EpochSeconds, proposal.Reading.Of("order.placedAt")!.Forms[0].Text);
        Assert.Equal("$.phone", proposal.Reading.Of("order.customer.phone")!.Path!.Text);
    }

    [Fact]
    public void Several_orders_in_one_body()
    {
        var proposal = Propose(
            """{"type":"update","orders":[{"number":"B-1","status":"Picking","total":12.5},{"number":"B-2","status":"Received","total":3}]}"""
        );
        Assert.Equal("$.orders[*]", proposal.Reading.Each!.Text);
        Assert.Equal("$.number", proposal.Reading.Of("order.number")!.Path!.Text);
        Assert.Contains("each", proposal.Because.Keys);
    }

    [Fact]
    public void What_stands_beside_a_list_of_orders_says_what_happened_and_when()
    {
        const string Batch =
            """{"message":"ORD_HOLD","sentAt":"2026-11-24T10:15:00Z","orders":[{"number":"B-1","status":"Picking"},{"number":"B-2","status":"Received"}]}""";
        var proposal = Propose(Batch);
        Assert.Equal(("$.message", "$.sentAt"), (proposal.Reading.Event!.Path!.Text, proposal.Reading.Time!.Path!.Text));
        var read = new BodyReader(proposal.Reading, Lisbon).Read(new Body(Element(Batch), _ => null));
        Assert.Equal(["order.held", "order.held"], read.Events.Select(e => e.Type));
        Assert.All(read.Events, e => Assert.Equal(Instant.FromUtc(2026, 11, 24, 10, 15), e.Time));
    }

    [Fact]
    public void Words_of_another_language()
    {
        var proposal = Propose(
            """{"Auftragsnummer":"4711-A","Zustand":"KOMM","Liefertermin":"24.12.2026","Betrag":"1.284,50","Kunde":"Corvane"}""",
            """{"Auftragsnummer":"4712-A","Zustand":"KOMM","Liefertermin":"03.12.2026","Betrag":"84,50","Kunde":"Tarn"}"""
        );
        Assert.Equal("$.Auftragsnummer", proposal.Reading.Of("order.number")!.Path!.Text);
        Assert.Equal("$.Zustand", proposal.Reading.Of("order.status")!.Path!.Text);
        Assert.Equal("dd.MM.uuuu", proposal.Reading.Of("order.dueAt")!.Forms[0].Text);
        Assert.Equal("$.Kunde", proposal.Reading.Of("order.customer.name")!.Path!.Text);
    }

    [Theory]
    [InlineData("24/11/2026", "12/13/2026", null)]
    [InlineData("04/11/2026", "24/11/2026", "dd/MM/uuuu")]
    [InlineData("11/04/2026", "11/24/2026", "MM/dd/uuuu")]
    public void An_impossible_month_decides_the_order_of_day_and_month(string first, string second, string? form)
    {
        var proposal = ReadingProposal.Of([Element($"{{\"no\":\"1\",\"due\":\"{first}\"}}"), Element($"{{\"no\":\"2\",\"due\":\"{second}\"}}")], Words, Lisbon);
        Assert.Equal(form, proposal.Reading.Of("order.dueAt")?.Forms[0].Text);
    }

    [Fact]
    public void What_nothing_decides_is_said() =>
        Assert.Contains("not decided", ReadingProposal.Of([Element("""{"no":"1","due":"04/05/2026"}""")], Words, Lisbon).Because["order.dueAt"]);

    [Fact]
    public void The_same_bodies_give_the_same_proposal_and_strange_ones_do_no_harm()
    {
        foreach (var body in new[] { "[]", "{}", "null", "\"x\"", "[[[1]]]", """{"a":{"b":[{"c":null}]}}""" })
        {
            var (one, two) = (ReadingProposal.Of([Element(body)], Words, Lisbon), ReadingProposal.Of([Element(body)], Words, Lisbon));
            Assert.Equal(one.Because, two.Because);
        }
    }

    [Fact]
    public void One_that_is_no_phone_number_among_several_is_enough() =>
        Assert.Null(Propose("""{"orderNo":"A-1","x":"+447700900123"}""", """{"orderNo":"A-2","x":"ask the purser"}""").Reading.Of("order.customer.phone"));

    // Not every text that begins with a plus is a phone number, and not every number has one.
    [Theory]
    [InlineData("+447700900123", true)]
    [InlineData("+12.50", false)]
    [InlineData("+7", false)]
    [InlineData("447700900123", false)]
    public void A_phone_number_has_its_country_and_is_one(string value, bool phone) =>
        Assert.Equal(phone, Propose($$"""{"orderNo":"A-1","x":"{{value}}"}""").Reading.Of("order.customer.phone") is not null);
}
