using System.Text;
using Sirena.Formats.Events;

namespace Sirena.Core.Tests.Orders;

public class IncomingEventTests
{
    private static string? Problem(string data, string type = "order.held", string subject = "AQ-1", string more = "")
    {
        var body = $$"""{"specversion":"1.0","id":"1","source":"/s","type":"{{type}}","subject":"{{subject}}"{{more}},"data":{{data}}}""";
        var (events, problem) = CloudEvents.Json(Encoding.UTF8.GetBytes(body), batch: false);
        return problem ?? events[0].Problem;
    }

    [Theory]
    [InlineData("""{"order":{"number":"AQ-1","total":12.5,"currency":"EUR","lines":[{"quantity":1}]}}""")]
    [InlineData("""{"order":{"number":"AQ-1","unheard":{"of":[1]},"total":null}}""")]
    public void Good_events_are_taken(string data) => Assert.Null(Problem(data));

    [Theory]
    [InlineData("""{"order":{}}""", "data.order.number is missing")]
    [InlineData("""{}""", "data.order is missing")]
    [InlineData("""{"order":{"number":"AQ-2"}}""", "do not agree")]
    [InlineData("""{"order":{"number":"AQ-1","total":"much"}}""", "data.order.total must be a number")]
    [InlineData("""{"order":{"number":"AQ-1","dueAt":"tomorrow"}}""", "data.order.dueAt must be a time in RFC 3339")]
    [InlineData("""{"order":{"number":"AQ-1","currency":"euro"}}""", "not a code of ISO 4217")]
    [InlineData("""{"order":{"number":"AQ-1","lines":[{},{"quantity":"two"}]}}""", "data.order.lines[1].quantity must be a number")]
    [InlineData("""[1]""", "The data is not a JSON object")]
    public void Bad_data_is_named_with_its_place(string data, string sentence) => Assert.Contains(sentence, Problem(data));

    [Theory]
    [InlineData(1, true)]
    [InlineData(100, true)]
    [InlineData(101, false)]
    public void A_number_has_1_to_100_characters(int length, bool taken)
    {
        var number = new string('A', length);
        Assert.Equal(
            taken ? null : "data.order.number must be text of 1 to 100 characters.",
            Problem($$$"""{"order":{"number":"{{{number}}}"}}""", subject: number)
        );
    }

    [Theory]
    [InlineData("\"\"")]
    [InlineData("7")]
    [InlineData("true")]
    [InlineData("[\"AQ-1\"]")]
    [InlineData("\"AQ\\n1\"")]
    [InlineData("\"AQ\\u00071\"")]
    public void A_number_that_is_no_line_of_text_is_refused(string number) =>
        Assert.Equal("data.order.number must be text of 1 to 100 characters.", Problem("{\"order\":{\"number\":" + number + "}}"));

    [Theory]
    [InlineData(500, null)]
    [InlineData(501, "The attribute 'type' is longer than 500 characters.")]
    public void An_attribute_has_500_characters_at_most(int length, string? problem) =>
        Assert.Equal(problem, Problem("""{"tide":"low"}""", type: new string('t', length)));

    [Fact]
    public void Other_events_need_no_order_and_unknown_types_are_taken()
    {
        Assert.Null(Problem("""{"stock":{"sku":"GAL-1","onHand":-1}}""", "stock.negative", "GAL-1"));
        Assert.Null(Problem("""{"tide":"low"}""", "harbour.tide-changed", "N3"));
    }

    [Theory]
    [InlineData(",\"time\":\"yesterday\"", "is not RFC 3339")]
    [InlineData(",\"datacontenttype\":\"text/xml\"", "Sirena takes application/json")]
    [InlineData(",\"data_base64\":\"aGk=\"", "'data' and 'data_base64' exclude each other")]
    public void Bad_attributes_are_named(string more, string sentence) => Assert.Contains(sentence, Problem("""{"order":{"number":"AQ-1"}}""", more: more));

    [Fact]
    public void A_batch_is_read_event_by_event()
    {
        var good = """{"specversion":"1.0","id":"1","source":"/s","type":"order.held","data":{"order":{"number":"AQ-1"}}}""";
        var (events, problem) = CloudEvents.Json(Encoding.UTF8.GetBytes($"[{good},7,{good.Replace("1.0", "0.3")}]"), batch: true);
        Assert.Null(problem);
        Assert.NotNull(events[0].Event);
        Assert.Equal([null, "This is not an object; an event is one.", "specversion is '0.3'; Sirena takes 1.0."], events.Select(e => e.Problem));
    }

    [Fact]
    public void Broken_JSON_says_where() => Assert.Contains("line 2, column", CloudEvents.Json("{\n\"id\" 7}"u8.ToArray(), batch: false).Problem);
}
