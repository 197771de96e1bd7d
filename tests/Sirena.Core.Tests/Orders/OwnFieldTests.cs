using Sirena.Core.Orders;
using Sirena.Core.Wordings;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Orders;

/// <summary>The fields of orders that are the business's own.</summary>
public sealed class OwnFieldTests
{
    private static readonly OwnField Gate = new("order.extra.gate", "Gate") { InLists = true };

    private static string Of(string order, params OwnField[] fields) =>
        string.Join("; ", OwnField.Of(Element(order), fields).Select(f => $"{f.Field.Name} {f.Value}"));

    [Theory]
    [InlineData("""{"extra":{"gate":"4 West"}}""", "Gate 4 West")]
    [InlineData("""{"gate":"4 West"}""", "Gate 4 West")]
    [InlineData("""{"gate":"5","extra":{"gate":"4 West"}}""", "Gate 4 West")]
    [InlineData("""{"extra":{"gate":4.50}}""", "Gate 4.5")]
    [InlineData("""{"extra":{"gate":true}}""", "Gate yes")]
    [InlineData("""{"extra":{"gate":["4","5"]}}""", "Gate 4, 5")]
    [InlineData("""{"extra":{"gate":"4\nWest"}}""", "Gate 4 West")]
    [InlineData("""{"extra":{"gate":""}}""", "")]
    [InlineData("""{"extra":{"gate":null}}""", "")]
    [InlineData("""{"extra":{"gate":{"number":4}}}""", "")]
    [InlineData("""{"extra":["gate"]}""", "")]
    [InlineData("{}", "")]
    public void A_list_shows_its_value_in_words(string order, string shown) => Assert.Equal(shown, Of(order, Gate));

    [Fact]
    public void Each_tick_alone_shows_it_and_none_does_not()
    {
        var berth = new OwnField("order.extra.berth", "Berth");
        OwnField[] ticked =
        [
            berth with
            {
                InLists = true,
            },
            berth with
            {
                InMessages = true,
            },
            berth with
            {
                InShort = true,
            },
            berth with
            {
                ForCustomers = true,
            },
        ];
        Assert.False(berth.Shown);
        Assert.All(ticked, f => Assert.True(f.Shown));
    }

    [Fact]
    public void Several_stand_in_the_order_of_the_business() =>
        Assert.Equal("Crew 31; Gate 4", Of("""{"extra":{"gate":"4","crew":31}}""", new("order.extra.crew", "Crew"), new("order.extra.hull", "Hull"), Gate));

    [Theory]
    [InlineData("Berth", "berth")]
    [InlineData("PO number", "PO number")]
    [InlineData("Étage", "étage")]
    [InlineData("gate", "gate")]
    [InlineData("Ox", "ox")]
    [InlineData("", "")]
    [InlineData("G", "G")]
    [InlineData("4 West", "4 West")]
    public void Inside_a_sentence_it_begins_small_where_it_is_a_word(string name, string inside) => Assert.Equal(inside, OwnField.Inside(name));

    [Fact]
    public void A_language_without_a_name_of_its_own_has_the_english_one()
    {
        var pt = TextLanguage.Of("pt");
        Assert.Equal("Gate", Gate.NameIn(pt));
        Assert.Equal("Gate", (Gate with { Names = new() { ["pt"] = "" } }).NameIn(pt));
        Assert.Equal("Porta", (Gate with { Names = new() { ["pt"] = "Porta" } }).NameIn(pt));
    }

    [Theory]
    [InlineData("order.total", "Total", "no field of your own")]
    [InlineData("order.extra.", "Gate", "no field of your own")]
    [InlineData("event.extra.gate", "Gate", "no field of your own")]
    [InlineData("gate", "Gate", "no field of your own")]
    [InlineData("order.extra.gate", " ", "needs a name")]
    [InlineData("order.extra.gate", "a\nb", "one line of 1 to 40 characters")]
    [InlineData("order.extra.gate", "12345678901234567890123456789012345678901", "one line of 1 to 40 characters")]
    public void What_cannot_be_shown_is_refused_in_a_sentence(string path, string name, string sentence) =>
        Assert.Contains(sentence, OwnField.Problem([Gate with { Path = "order.extra.first" }, new OwnField(path, name)]), StringComparison.Ordinal);

    [Fact]
    public void A_name_of_forty_characters_is_taken() =>
        Assert.Null(OwnField.Problem([Gate with { Name = new string('x', 40), Names = new() { ["pt"] = new string('y', 40) } }]));

    [Fact]
    public void A_name_of_another_language_is_looked_at_too() =>
        Assert.Contains("cannot be the name", OwnField.Problem([Gate with { Names = new() { ["pt"] = new string('x', 41) } }]), StringComparison.Ordinal);

    [Fact]
    public void There_is_room_for_eight_and_for_three_in_lists()
    {
        OwnField[] Some(int n, bool lists) => [.. Enumerable.Range(1, n).Select(i => new OwnField($"order.extra.f{i}", $"F{i}") { InLists = lists })];
        Assert.Null(OwnField.Problem([]));
        Assert.Null(OwnField.Problem(Some(8, false)));
        Assert.Contains("At most 8", OwnField.Problem(Some(9, false)), StringComparison.Ordinal);
        Assert.Null(OwnField.Problem(Some(3, true)));
        Assert.Contains("room for 3", OwnField.Problem(Some(4, true)), StringComparison.Ordinal);
    }

    [Fact]
    public void One_field_stands_once_and_what_is_internal_is_not_for_customers()
    {
        Assert.Contains("twice", OwnField.Problem([Gate, Gate with { Name = "Door" }]), StringComparison.Ordinal);
        Assert.Contains("twice", OwnField.Problem([Gate, new OwnField(Gate.Path, "Gate") { InLists = true }]), StringComparison.Ordinal);
        Assert.Contains("internal", OwnField.Problem([new OwnField("order.extra.margin", "Margin") { ForCustomers = true }]), StringComparison.Ordinal);
        Assert.Null(OwnField.Problem([new OwnField("order.extra.margin", "Margin") { InMessages = true }]));
    }
}
