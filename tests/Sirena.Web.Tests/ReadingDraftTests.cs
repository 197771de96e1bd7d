using System.Text.Json.Nodes;
using Sirena.Core.Sources;
using Sirena.Formats.Sources;
using Sirena.Web.Pages.Sources;

namespace Sirena.Web.Tests;

/// <summary>A reading while it is put together on its page: what its document becomes by a click.</summary>
public sealed class ReadingDraftTests
{
    private const string Several = """
        {"event":{"path":"$.kind","otherwise":"ignore"},"each":"$.orders[*]",
         "order":{"number":{"path":"$.no"},"via":{"always":"web"},"site":{"header":"X-Site"},
                  "customer":{"name":{"join":[{"path":"$.first"},"$.last",{"column":"other"}],"between":" "}},
                  "lines":{"each":"$.rows[*]","sku":{"path":"$.art"}},"extra":{"berth":{"path":"$.quay"}}}}
        """;

    private static BodyPath At(string path) => BodyPath.Parse(path).Path!;

    private static string Used(ReadingDraft draft, string place) => string.Join(' ', draft.UsedBy(At(place)));

    [Theory]
    [InlineData("event", "$.kind")]
    [InlineData("order.number", "$.no")]
    [InlineData("order.via", "always web")]
    [InlineData("order.site", "header X-Site")]
    [InlineData("order.customer.name", "$.first + $.last + other")]
    [InlineData("order.lines.sku", "$.art")]
    [InlineData("order.total", "")]
    public void Where_a_value_is_taken_from_is_said(string field, string from) => Assert.Equal(from, ReadingDraft.Parse(Several, false).FromOf(field));

    [Theory]
    [InlineData("$.kind", "event")]
    [InlineData("$.orders[0].no", "order.number")]
    [InlineData("$.orders[7].no", "order.number")]
    [InlineData("$.orders[0].first", "order.customer.name")]
    [InlineData("$.orders[1].last", "order.customer.name")]
    [InlineData("$.orders[0].other", "order.customer.name")]
    [InlineData("$.orders[0].rows[3].art", "order.lines.sku")]
    [InlineData("$.orders[0].quay", "order.extra.berth")]
    [InlineData("$.orders[0].art", "")]
    [InlineData("$.orders[0]", "")]
    public void A_place_of_a_body_knows_the_fields_that_it_fills(string place, string fields) =>
        Assert.Equal(fields, Used(ReadingDraft.Parse(Several, false), place));

    [Fact]
    public void A_place_is_made_one_of_its_list()
    {
        var draft = ReadingDraft.Parse(Several, false);
        draft.Use("order.total", At("$.orders[2].sum"));
        draft.Use("order.lines.title", At("$.orders[0].pieces[4].words"));
        draft.Use("time", At("$.sent"));
        Assert.Equal(("$.sum", "$.words", "$.sent"), (draft.FromOf("order.total"), draft.FromOf("order.lines.title"), draft.FromOf("time")));
        Assert.Equal("$.pieces[*]", draft.Lines!.Text);

        // A value that stands in no list is none of a line.
        draft.Use("order.lines.quantity", At("$.count"));
        Assert.Null(draft.Get("order.lines.quantity"));
    }

    [Fact]
    public void One_place_instead_of_several_leaves_nothing_of_how_they_were_joined()
    {
        var draft = ReadingDraft.Parse(Several, false);
        draft.Use("order.customer.name", At("$.orders[0].whole"));
        Assert.Equal("""{"path":"$.whole"}""", draft.Get("order.customer.name")!.ToJsonString());
        var (reading, errors) = ReadingReader.Read(draft.Document.ToJsonString(), yaml: false);
        Assert.True(reading is not null, string.Join("; ", errors.Select(e => e.Problem)));
    }

    [Fact]
    public void In_a_list_a_value_is_a_column()
    {
        var draft = ReadingDraft.Parse("{}", columns: true);
        draft.Use("order.number", At("$['Order No']"));
        Assert.Equal("""{"column":"Order No"}""", draft.Get("order.number")!.ToJsonString());
        Assert.Equal(("Order No", "order.number"), (draft.FromOf("order.number"), Used(draft, "$['Order No']")));
    }

    [Fact]
    public void The_event_says_what_any_other_word_is_and_a_group_that_is_empty_goes()
    {
        var draft = ReadingDraft.Parse("{}", false);
        draft.Use("event", At("$.kind"));
        Assert.Equal("not-understood", draft.Get("event.otherwise")!.ToString());
        draft.Use("order.customer.name", At("$.who"));
        draft.Remove("order.customer.name");
        Assert.False(draft.Document.ContainsKey("order"));
        draft.Remove("event");
        draft.Remove("order.customer.name");
        Assert.Equal("{}", draft.Document.ToJsonString());
    }

    [Theory]
    [InlineData("nothing")]
    [InlineData("[]")]
    [InlineData("""{"event":7,"order":"x","each":"$..","time":[1]}""")]
    [InlineData("""{"order":{"number":{"path":"no path"},"total":{"join":{}},"via":{"join":[null,[],{}]}}}""")]
    public void A_document_that_is_none_fills_nothing(string text)
    {
        var draft = ReadingDraft.Parse(text, false);
        Assert.Empty(draft.Filled());
        Assert.Equal("", Used(draft, "$.a"));
        Assert.All(ReadingDraft.Fields, f => Assert.NotNull(draft.FromOf(f)));
        draft.Use("order.number", At("$.a"));
        Assert.Equal("$.a", draft.FromOf("order.number"));
    }

    [Theory]
    [InlineData("event", "Which event")]
    [InlineData("order.lines.unitPrice", "Line: unit price")]
    [InlineData("order.customer.code", "Customer's code")]
    [InlineData("order.extra.berth", "Berth")]
    public void A_field_has_a_name_that_people_use(string field, string name) => Assert.Equal(name, ReadingDraft.NameOf(field));

    [Fact]
    public void Only_what_can_be_filled_is_a_field()
    {
        Assert.All(ReadingDraft.Fields, f => Assert.True(ReadingDraft.IsField(f), f));
        Assert.True(ReadingDraft.IsField("order.extra.berth"));
        Assert.All(["order.extra.", "order.extra.a.b", "order", "nothing", ""], f => Assert.False(ReadingDraft.IsField(f), f));
        Assert.Equal(
            (ReadAs.Time, ReadAs.Text, ReadAs.Number, ReadAs.Number, ReadAs.Any),
            (
                ReadingDraft.HowOf("time"),
                ReadingDraft.HowOf("event"),
                ReadingDraft.HowOf("order.lines.quantity"),
                ReadingDraft.HowOf("order.total"),
                ReadingDraft.HowOf("order.extra.berth")
            )
        );
    }

    [Theory]
    [InlineData("""{"path":"$.a"}""", "as it stands")]
    [InlineData("""{"form":"dd/MM/uuuu","zone":"Europe/Lisbon"}""", "dd/MM/uuuu, in Europe/Lisbon")]
    [InlineData("""{"form":["uuuu","dd.MM."]}""", "uuuu or dd.MM.")]
    [InlineData("""{"decimal":",","minor":2}""", "decimal comma, 2 decimals")]
    [InlineData("""{"decimal":"."}""", "decimal point")]
    [InlineData("""{"words":{"A":"a"},"trim":true}""", "1 word, without space around")]
    [InlineData("""{"words":{"A":"a","B":"b"},"yes":["Y"]}""", "2 words, yes or no")]
    [InlineData("7", "")]
    public void How_it_is_read_is_said_in_a_few_words(string value, string said) => Assert.Equal(said, MapWords.How(JsonNode.Parse(value)));
}
