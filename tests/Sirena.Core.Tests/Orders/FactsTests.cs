using System.Text.Json;
using NodaTime;
using Sirena.Core.Orders.Fields;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Orders;

/// <summary>Every field of an event as conditions read it.</summary>
public sealed class FactsTests
{
    private const string Order = """
        {
          "number": "AQ-1", "placedAt": "2026-11-24T10:30:00Z", "dueAt": "2026-11-24T15:30:00+01:00", "status": "picking", "total": 1284.50,
          "customer": { "code": "C-77", "name": "MV Corvane", "language": "pt", "tags": ["export", "vip"] },
          "extra": { "berth": "N3", "seal": { "number": 4471 }, "hold": "inner" }, "pier": "West",
          "lines": [
            { "sku": "A", "quantity": 12, "unitPrice": 38.0, "tags": ["cold"] },
            { "sku": "B", "quantity": 2.5, "unitPrice": 10 },
            { "sku": "C", "quantity": "many" }
          ]
        }
        """;

    private static string Read(string path, string order = Order, string data = "{}", Instant? time = null)
    {
        var found = Facts(order, data: data, time: time).Read(FieldCatalogue.Find(path)!);
        return found.ValueKind == JsonValueKind.Undefined ? "-" : JsonSerializer.Serialize(found);
    }

    [Theory]
    [InlineData("event.id", "\"e1\"")]
    [InlineData("event.type", "\"order.held\"")]
    [InlineData("event.source", "\"/test\"")]
    [InlineData("event.subject", "\"AQ-1\"")]
    [InlineData("event.time", "\"2026-11-24T12:00:00Z\"")]
    [InlineData("event.local-hour", "12")]
    [InlineData("event.weekday", "\"tue\"")]
    [InlineData("order.number", "\"AQ-1\"")]
    [InlineData("order.status", "\"picking\"")]
    [InlineData("order.total", "1284.50")]
    [InlineData("order.customer.name", "\"MV Corvane\"")]
    [InlineData("order.customer.tags", """["export","vip"]""")]
    [InlineData("order.customer.group", "-")]
    [InlineData("order.payment.method", "-")]
    [InlineData("order.age", "\"PT1H30M\"")]
    [InlineData("order.until-due", "\"PT2H30M\"")]
    [InlineData("order.extra.berth", "\"N3\"")]
    [InlineData("order.extra.seal.number", "4471")]
    [InlineData("order.extra.pier", "\"West\"")]
    [InlineData("order.extra.status", "-")]
    [InlineData("order.extra.hold", "\"inner\"")]
    [InlineData("order.extra.nothing", "-")]
    [InlineData("order.lines.count", "3")]
    [InlineData("order.lines.sum.quantity", "14.5")]
    [InlineData("order.lines.sum.value", "481.00")]
    [InlineData("order.lines.any.sku", """["A","B","C"]""")]
    [InlineData("order.lines.all.unitPrice", "[38.0,10,null]")]
    [InlineData("order.lines.none.tags", """[["cold"],null,null]""")]
    public void Each_is_read_at_its_place(string path, string value) =>
        Assert.Equal(value.Replace("481.00", "481.0", StringComparison.Ordinal), Read(path).Replace("481.00", "481.0", StringComparison.Ordinal));

    // Numbers that no order has, and that cannot be multiplied and summed up, count as none.
    [Theory]
    [InlineData("order.lines.sum.value", "-6")]
    [InlineData("order.lines.sum.quantity", "99999999999")]
    public void Numbers_beyond_all_bounds_end_no_sum(string path, string value) =>
        Assert.Equal(
            value,
            Read(
                path,
                """{"lines":[{"quantity":9e27,"unitPrice":9e27},{"quantity":1e99,"unitPrice":1},{"quantity":-2,"unitPrice":3},{"quantity":100000000001e0},{"quantity":1,"unitPrice":0},{"quantity":99999999999,"unitPrice":0},{"quantity":1,"unitPrice":-100000000000}]}"""
            )
        );

    [Theory]
    [InlineData("order.lines.count", "0")]
    [InlineData("order.lines.sum.quantity", "0")]
    [InlineData("order.lines.any.sku", "-")]
    [InlineData("order.lines.all.sku", "-")]
    [InlineData("order.age", "-")]
    [InlineData("order.until-due", "-")]
    [InlineData("order.extra.berth", "-")]
    public void An_order_that_says_nothing_has_none(string path, string value) => Assert.Equal(value, Read(path, """{"number":"AQ-1"}"""));

    [Theory]
    [InlineData("""{"dueAt":"2026-11-24T10:00:00Z"}""", "\"-PT2H\"")]
    [InlineData("""{"dueAt":"2026-11-24"}""", "-")]
    [InlineData("""{"dueAt":5}""", "-")]
    [InlineData("""{"dueAt":null}""", "-")]
    [InlineData("""{"dueAt":"2300-01-01T00:00:00Z"}""", "-")]
    public void The_time_until_due_is_less_than_nothing_when_it_is_over(string order, string value) => Assert.Equal(value, Read("order.until-due", order));

    [Theory]
    [InlineData("2026-07-01T23:30:00Z", "0", "\"thu\"")]
    [InlineData("2026-11-29T23:59:59Z", "23", "\"sun\"")]
    [InlineData("2026-11-30T00:00:00Z", "0", "\"mon\"")]
    public void Hour_and_weekday_are_those_of_the_business_s_zone(string time, string hour, string weekday)
    {
        var at = NodaTime.Text.InstantPattern.ExtendedIso.Parse(time).Value;
        Assert.Equal((hour, weekday), (Read("event.local-hour", time: at), Read("event.weekday", time: at)));
    }

    [Theory]
    [InlineData("stock.onHand", "3")]
    [InlineData("change.before", "\"a\"")]
    [InlineData("note.text", "-")]
    [InlineData("event.extra.seal", "\"broken\"")]
    [InlineData("event.extra.crane", "7")]
    [InlineData("event.extra.nothing", "-")]
    public void What_an_event_says_beside_the_order_is_read_from_its_data(string path, string value) =>
        Assert.Equal(value, Read(path, data: """{"stock":{"onHand":3},"change":{"before":"a"},"extra":{"seal":"broken"},"crane":7}"""));

    [Fact]
    public void Only_the_order_has_a_before()
    {
        var facts = Facts("""{"status":"picking"}""", before: """{"status":"received"}""");
        Assert.Equal("received", facts.ReadBefore(FieldCatalogue.Find("order.status")!).GetString());
        Assert.Equal(JsonValueKind.Undefined, facts.ReadBefore(FieldCatalogue.Find("event.type")!).ValueKind);
        Assert.Equal(JsonValueKind.Undefined, Facts("{}").ReadBefore(FieldCatalogue.Find("order.status")!).ValueKind);
    }

    [Theory]
    [InlineData("{}", "EUR", null)]
    [InlineData("""{"currency":"USD","customer":{"language":"pt"}}""", "USD", "pt")]
    [InlineData("""{"currency":5,"customer":{"language":7}}""", "EUR", null)]
    [InlineData("""{"currency":null,"customer":"C-77"}""", "EUR", null)]
    public void Currency_and_language_are_the_order_s_where_it_says_them(string order, string currency, string? language)
    {
        var facts = Facts(order);
        Assert.Equal((currency, language), (facts.OrderCurrency, facts.CustomerLanguage));
    }

    [Fact]
    public void What_was_read_once_is_kept()
    {
        var facts = Facts(Order);
        var field = FieldCatalogue.Find("order.total")!;
        var (asked, value) = (0, 0m);
        for (var i = 0; i < 2; i++)
        {
            value = (decimal)facts.Value(field, (found, _, currency) => (asked++, found.GetDecimal()).Item2 + currency.Length)!;
        }

        Assert.Equal((1, 1287.50m), (asked, value));
        Assert.Same(facts.Folded("Größe"), facts.Folded("Größe"));
    }

    [Theory]
    [InlineData("\"text\"", "text")]
    [InlineData("12.500", "12.5")]
    [InlineData("1e400", "1e400")]
    [InlineData("true", "yes")]
    [InlineData("false", "no")]
    [InlineData("null", "nothing")]
    [InlineData("""["a",2,null]""", "a, 2, nothing")]
    [InlineData("""{"field":"order.total"}""", "the total")]
    [InlineData("""{"field":"order.nothing"}""", "order.nothing")]
    [InlineData("""{"amount":5}""", """{"amount":5}""")]
    public void A_value_is_said_in_words(string json, string words) => Assert.Equal(words, Sirena.Core.Orders.Fields.Facts.InWords(Element(json)));

    [Fact]
    public void What_is_missing_is_nothing() => Assert.Equal("nothing", Sirena.Core.Orders.Fields.Facts.InWords(default));

    [Theory]
    [InlineData("2026-11-24T15:30:00Z", true)]
    [InlineData(" 2026-11-24t15:30:00z ", true)]
    [InlineData("2026-11-24T15:30:00.123456789+05:30", true)]
    [InlineData("2026-11-24T15:30:00", false)]
    [InlineData("2026-11-24 15:30:00Z", false)]
    [InlineData("1969-12-31T23:59:59Z", false)]
    [InlineData("2200-01-01T00:00:00Z", false)]
    [InlineData("", false)]
    [InlineData(null, false)]
    public void A_time_has_an_offset_and_lies_in_known_time(string? text, bool good) =>
        Assert.Equal(good, Sirena.Core.Orders.Fields.Facts.Time(text) is not null);

    [Theory]
    [InlineData("""{"a":{"b":"x"}}""", "x")]
    [InlineData("""{"a":{"b":""}}""", null)]
    [InlineData("""{"a":{"b":5}}""", null)]
    [InlineData("""{"a":"b"}""", null)]
    [InlineData("""{"a":null}""", null)]
    public void A_text_is_found_by_its_path(string json, string? text) => Assert.Equal(text, Sirena.Core.Orders.Fields.Facts.Text(Element(json), "a", "b"));

    [Theory]
    [InlineData("""{"lines":[{"quantity":1},{"quantity":2}]}""", 2)]
    [InlineData("""{"lines":{}}""", 0)]
    [InlineData("""{"lines":[]}""", 0)]
    [InlineData("[]", 0)]
    public void Lines_are_what_stands_in_the_list(string order, int count) => Assert.Equal(count, Facts(order).Lines.Count);
}
