using System.Text.Json.Nodes;
using Sirena.Core.Orders;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Orders;

/// <summary>What an event changed, where its source does not say; and what types of events there are.</summary>
public sealed class ChangeTests
{
    [Theory]
    [InlineData("""{"a":1}""", """{"a":2}""", """{"field":"a","before":1,"after":2}""")]
    [InlineData(null, """{"number":"AQ-1","a":2}""", """{"field":"a","before":null,"after":2}""")]
    [InlineData("""{"a":1,"status":"x"}""", """{"a":2,"status":"y"}""", """{"field":"status","before":"x","after":"y"}""")]
    [InlineData("""{"a":1,"b":1}""", """{"a":1}""", """{"field":"b","before":1,"after":null}""")]
    [InlineData("""{"b":1,"a":1}""", """{"a":2,"b":2}""", """{"field":"a","before":1,"after":2}""")]
    [InlineData("""{"number":"AQ-1"}""", """{"number":"AQ-2"}""", null)]
    [InlineData("""{"c":{"x":1,"y":2}}""", """{"c":{"y":2,"x":1}}""", null)]
    [InlineData("{}", "{}", null)]
    public void The_first_difference_is_the_change_the_status_before_all(string? before, string after, string? change)
    {
        var found = Change.Between(before is null ? null : Json(before), Json(after));
        Assert.True(JsonNode.DeepEquals(change is null ? null : Json(change), found), found?.ToJsonString());
    }

    [Theory]
    [InlineData("{}", """{"change":{"field":"a"}}""")]
    [InlineData("""{"order":{}}""", """{"order":{},"change":{"field":"a"}}""")]
    public void A_change_is_put_into_the_data(string data, string complete)
    {
        Assert.Equal(complete, Change.Complete(data, new JsonObject { ["field"] = "a" }));
        Assert.Equal(data, Change.Complete(data, null));
    }

    [Theory]
    [InlineData("1", "1.0", true)]
    [InlineData("1", "\"1\"", false)]
    [InlineData("[1,2]", "[2,1]", false)]
    [InlineData("""{"a":1,"b":2}""", """{"b":2,"a":1}""", true)]
    public void Two_values_say_the_same_by_what_they_are(string a, string b, bool same) => Assert.Equal(same, Change.Same(Element(a), Element(b)));

    [Fact]
    public void What_is_missing_is_the_same_as_what_is_missing_alone()
    {
        Assert.True(Change.Same(default, default));
        Assert.False(Change.Same(default, Element("null")));
    }

    [Theory]
    [InlineData("order.placed", true)]
    [InlineData("com.example.Order-2.placed_x", true)]
    [InlineData("a", true)]
    [InlineData("a.b", true)]
    [InlineData("order..placed", false)]
    [InlineData(".order", false)]
    [InlineData("order.", false)]
    [InlineData("order placed", false)]
    [InlineData("ordér.placed", false)]
    [InlineData("", false)]
    [InlineData(null, false)]
    public void A_type_is_words_joined_by_dots(string? type, bool good) => Assert.Equal(good, EventTypes.IsType(type));

    [Fact]
    public void A_type_has_a_hundred_characters_at_most_and_those_that_are_known_have_names()
    {
        Assert.True(EventTypes.IsType(new string('a', 100)));
        Assert.False(EventTypes.IsType(new string('a', 101)));
        Assert.Equal(("Held", "seal.broken"), (EventTypes.Name("order.held"), EventTypes.Name("seal.broken")));
        Assert.Equal("the event seal.broken comes in", EventTypes.Phrase("seal.broken"));
        Assert.Equal(("order.held", null), (EventTypes.OfKnown("order.held"), EventTypes.OfKnown("order.hold")));
        Assert.True(EventTypes.NeedsOrder("order.x"));
        Assert.False(EventTypes.NeedsOrder("orders.missed"));
        Assert.True(EventTypes.IsOwn("orders.missed"));
        Assert.False(EventTypes.IsOwn("order.held"));
        Assert.Equal(EventTypes.All.Count, EventTypes.All.Distinct().Count());
    }
}
