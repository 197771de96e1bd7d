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
    [InlineData("""{"order":{"number":"AQ-1","lines":[{"quantity":99999999999.999,"shipped":-99999999999,"unitPrice":null}]}}""")]
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
    [InlineData("""{"order":{"number":"AQ-1","lines":[{"quantity":100000000000}]}}""", "data.order.lines[0].quantity must be a number below 100,000,000,000")]
    [InlineData("""{"order":{"number":"AQ-1","lines":[{},{"shipped":-100000000000}]}}""", "data.order.lines[1].shipped must be a number below")]
    [InlineData("""{"order":{"number":"AQ-1","lines":[{"unitPrice":9e27}]}}""", "data.order.lines[0].unitPrice must be a number below")]
    [InlineData("""{"order":{"number":"AQ-1","lines":[{"unitPrice":9e29}]}}""", "data.order.lines[0].unitPrice must be a decimal number of at most 28 digits")]
    public void Bad_data_is_named_with_its_place(string data, string sentence) => Assert.Contains(sentence, Problem(data));

    [Theory]
    [InlineData("order.\\u0007held")]
    [InlineData("order.held\\u0085")]
    public void A_type_with_a_control_character_is_refused(string type) =>
        Assert.Equal("The attribute 'type' holds a control character.", Problem("""{"order":{"number":"AQ-1"}}""", type));

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
    [InlineData(",\"time\":\"9999-12-31T23:59:60-12:00\"", "is not RFC 3339")]
    [InlineData(",\"datacontenttype\":\"text/xml\"", "Sirena takes application/json")]
    [InlineData(",\"data_base64\":\"aGk=\"", "'data' and 'data_base64' exclude each other")]
    public void Bad_attributes_are_named(string more, string sentence) => Assert.Contains(sentence, Problem("""{"order":{"number":"AQ-1"}}""", more: more));

    [Theory]
    [InlineData("9999-12-31T23:59:59-12:00", "2199-12-31T23:59:59Z")]
    [InlineData("0000-01-01T00:00:00+18:00", "1970-01-01T00:00:00Z")]
    public void A_time_that_is_far_away_is_the_nearest_that_is_worked_with(string time, string taken)
    {
        var body = $$"""{"specversion":"1.0","id":"1","source":"/s","type":"tide.turned","time":"{{time}}"}""";
        var at = CloudEvents.Json(Encoding.UTF8.GetBytes(body), batch: false).Events.Single().Event!.Time;
        Assert.Equal(taken, NodaTime.Text.InstantPattern.General.Format(at!.Value));
    }

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
    public void What_stands_twice_or_is_too_deep_in_one_event_of_a_batch_leaves_the_others()
    {
        static string Event(string id, string more) =>
            $$$"""{"specversion":"1.0","id":"{{{id}}}","source":"/s","type":"order.held","data":{"order":{"number":"AQ-1"{{{more}}} } } }""";
        var deep = $",\"extra\":{new string('[', 40)}{new string(']', 40)}";
        var body = $"[{Event("1", "")},{Event("2", ",\"total\":1,\"total\":2")},{Event("3", deep)},null,{Event("4", ",\"note\":\"\\ud83d\"")}]";
        var (events, problem) = CloudEvents.Json(Encoding.UTF8.GetBytes(body), batch: true);
        Assert.Null(problem);
        Assert.Equal([("1", true), ("2", false), ("3", false), (null, false), ("4", true)], events.Select(e => (e.Id, e.Event is not null)));
        Assert.All(events.Skip(1).Take(2), e => Assert.StartsWith("The event is not JSON: ", e.Problem));
        Assert.Equal([0, 1, 2, 3, 4], events.Select(e => e.Index));

        // Alone it is refused, and so is what is no list to its end.
        Assert.StartsWith("The body is not JSON: ", CloudEvents.Json(Encoding.UTF8.GetBytes(Event("2", ",\"total\":1,\"total\":2")), batch: false).Problem);
        Assert.StartsWith("The body is not JSON: ", CloudEvents.Json(Encoding.UTF8.GetBytes(body[..^1]), batch: true).Problem);
    }

    [Fact]
    public void A_byte_order_mark_before_an_event_is_passed_over()
    {
        const string good = """{"specversion":"1.0","id":"1","source":"/s","type":"order.held","data":{"order":{"number":"AQ-1"}}}""";
        Assert.NotNull(CloudEvents.Json(Encoding.UTF8.GetBytes("\uFEFF" + good), batch: false).Events.Single().Event);
        Assert.NotNull(CloudEvents.Json(Encoding.UTF8.GetBytes($"\uFEFF[{good}]"), batch: true).Events.Single().Event);
    }

    [Fact]
    public void Broken_JSON_says_where() => Assert.Contains("line 2, column", CloudEvents.Json("{\n\"id\" 7}"u8.ToArray(), batch: false).Problem);
}
