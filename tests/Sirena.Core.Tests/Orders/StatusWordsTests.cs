using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Orders;

public class StatusWordsTests
{
    private static readonly StatusWords Words = new([
        new Status
        {
            Id = "in-galley",
            Name = "In the galley",
            Mark = "galley",
            Words = ["kitchen", "Küche", "With the cooks"],
        },
        new Status
        {
            Id = "loaded",
            Name = "Loaded",
            Mark = "loaded",
        },
    ]);

    [Theory]
    [InlineData("kitchen", "in-galley")]
    [InlineData("KUCHE ", "in-galley")]
    [InlineData("In the Galley", "in-galley")]
    [InlineData(" with the COOKS", "in-galley")]
    [InlineData("with", "with")]
    [InlineData("cooks", "cooks")]
    [InlineData("loaded", "loaded")]
    [InlineData("part-loaded", "part-loaded")]
    public void A_word_means_its_status_and_an_unknown_one_stays(string word, string id) => Assert.Equal(id, Words.IdOf(word));

    [Theory]
    [InlineData("", false)]
    [InlineData("kitchen", true)]
    [InlineData("kitchen,elsewhere", false)]
    [InlineData("kitchen,loaded,elsewhere", true)]
    [InlineData("kitchen,nowhere,elsewhere", false)]
    public void Words_fit_when_more_than_half_of_them_mean_a_status(string words, bool fits) =>
        Assert.Equal(fits, Words.Fits(words.Split(',', StringSplitOptions.RemoveEmptyEntries)));

    [Fact]
    public void An_event_s_order_and_its_change_of_status_get_the_ids()
    {
        var data = Json("""{"order":{"status":"kitchen","note":"kitchen"},"change":{"field":"status","before":"loaded","after":"kitchen"}}""");
        Words.Apply(data);
        Assert.Equal(
            """{"order":{"status":"in-galley","note":"kitchen"},"change":{"field":"status","before":"loaded","after":"in-galley"}}""",
            data.ToJsonString()
        );
        var other = Json("""{"order":{"status":7},"change":{"field":"via","after":"kitchen"}}""");
        Words.Apply(other);
        Assert.Equal("""{"order":{"status":7},"change":{"field":"via","after":"kitchen"}}""", other.ToJsonString());
    }

    [Fact]
    public void Words_are_typed_with_any_of_the_usual_marks_between() => Assert.Equal(["a", "b", "c-d", "e a"], StatusWords.Read(" a, b;c-d\r\ne a \n a"));

    [Fact]
    public void An_event_shows_its_fields_with_their_types_and_values()
    {
        var seen = Sightings
            .In(
                Event(
                    """{"number":"A","total":5,"berth":"N3","extra":{"vessel":{"crew":12}},"tags":["export"],"customer":{"email":"a@b.example","group":"yachts"},"lines":[{"sku":"X","tags":["bonded"],"strange":1}],"a.b":1}""",
                    data: """{"order":{},"note":{"text":"private"},"seal":{"broken":true},"extra":{"till":"T1"}}"""
                )
            )
            .ToArray();
        Assert.Contains(("order.extra.berth", FieldType.Text, "N3"), seen);
        Assert.Contains(("order.extra.vessel.crew", FieldType.Number, "12"), seen);
        Assert.Contains(("order.tags", FieldType.List, "export"), seen);
        Assert.Contains(("order.customer.group", FieldType.Text, "yachts"), seen);
        Assert.Contains(("order.customer.email", FieldType.Text, null), seen);
        Assert.Contains(("order.lines.any.tags", FieldType.List, "bonded"), seen);
        Assert.Contains(("event.extra.seal.broken", FieldType.YesNo, "true"), seen);
        Assert.Contains(("event.extra.till", FieldType.Text, "T1"), seen);
        Assert.Contains(("note.text", FieldType.Text, null), seen);
        Assert.DoesNotContain(seen, s => s.Path.Contains("strange", StringComparison.Ordinal) || s.Path.EndsWith(".a.b", StringComparison.Ordinal));
    }
}
