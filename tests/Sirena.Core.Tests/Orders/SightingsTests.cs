using Sirena.Core.Orders.Fields;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Orders;

/// <summary>What events carry is offered in the editor, members of the business's own among it.</summary>
public class SightingsTests
{
    private static (FieldType Type, string? Value)[] Of(string path, string after, string data = "{}") =>
        [.. Sightings.In(Event(after, data: data)).Where(s => s.Path == path).Select(s => (s.Type, s.Value))];

    [Theory]
    [InlineData("""{"via":"web"}""", "order.via", FieldType.Text, "web")]
    [InlineData("""{"extra":{"berth":"N3"}}""", "order.extra.berth", FieldType.Text, "N3")]
    [InlineData("""{"berth":"N3"}""", "order.extra.berth", FieldType.Text, "N3")]
    [InlineData("""{"extra":{"crates":12}}""", "order.extra.crates", FieldType.Number, "12")]
    [InlineData("""{"extra":{"cold":true}}""", "order.extra.cold", FieldType.YesNo, "true")]
    [InlineData("""{"extra":{"sails":"2026-11-24T18:00:00Z"}}""", "order.extra.sails", FieldType.Time, "2026-11-24T18:00:00Z")]
    [InlineData("""{"extra":{"hold":{"side":"port"}}}""", "order.extra.hold.side", FieldType.Text, "port")]
    [InlineData("""{"customer":{"email":"a@b.example"}}""", "order.customer.email", FieldType.Text, null)]
    [InlineData("""{"customer":{"name":"Ines"}}""", "order.customer.name", FieldType.Text, null)]
    public void A_member_is_seen_with_its_type_and_what_it_held(string after, string path, FieldType type, string? value) =>
        Assert.Equal([(type, value)], Of(path, after));

    [Fact]
    public void A_list_is_seen_with_each_of_its_values() =>
        Assert.Equal([(FieldType.List, "rush"), (FieldType.List, "7")], Of("order.extra.tags", """{"extra":{"tags":["rush",7,{"no":1},null]}}"""));

    [Fact]
    public void Lines_are_seen_by_the_fields_that_a_rule_can_ask_of_them()
    {
        const string Lines = """{"lines":[{"sku":"ROPE-8","quantity":2,"colour":"red"},{"sku":"TAR-1"}]}""";
        Assert.Equal([(FieldType.Text, "ROPE-8"), (FieldType.Text, "TAR-1")], Of("order.lines.any.sku", Lines));
        Assert.Equal([(FieldType.Number, "2")], Of("order.lines.any.quantity", Lines));
        Assert.Empty(Of("order.lines.any.colour", Lines));
        Assert.DoesNotContain(Sightings.In(Event("""{"lines":"none"}""")), s => s.Path.StartsWith("order.lines", StringComparison.Ordinal));
    }

    [Fact]
    public void What_an_event_says_beside_the_order_is_seen_too()
    {
        const string Data = """{"order":{"via":"web"},"change":{"after":"x"},"berth":"N3","extra":{"shift":"night"},"note":{"text":"secret"}}""";
        Assert.Equal([(FieldType.Text, "N3")], Of("event.extra.berth", "{}", Data));
        Assert.Equal([(FieldType.Text, "night")], Of("event.extra.shift", "{}", Data));
        Assert.DoesNotContain(Sightings.In(Event("{}", data: Data)), s => s.Value == "secret" || s.Path.StartsWith("change", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("a.b")]
    [InlineData("a b")]
    [InlineData("")]
    public void A_name_that_no_path_can_have_is_not_offered(string name) => Assert.Empty(Sightings.In(Event($$"""{"extra":{"{{name}}":1} }""")));

    [Fact]
    public void Long_names_and_long_values_are_left_out()
    {
        var (sixty, more) = (new string('n', 60), new string('n', 61));
        Assert.Equal([(FieldType.Text, sixty)], Of($"order.extra.{sixty}", $$"""{"extra":{"{{sixty}}":"{{sixty}}"} }"""));
        Assert.Empty(Sightings.In(Event($$"""{"extra":{"{{more}}":1} }""")));
        Assert.Equal([(FieldType.Text, null)], Of("order.extra.x", $$"""{"extra":{"x":"{{more}}"} }"""));
        Assert.Equal([(FieldType.Text, null)], Of("order.extra.x", """{"extra":{"x":""}}"""));
    }
}
