using System.Text.Json;
using NodaTime;
using Sirena.Core.Sources;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Sources;

/// <summary>What a proposal makes of names, dates and numbers that it has never seen.</summary>
public sealed class GuessTests
{
    [Theory]
    [InlineData("2026-11-24T15:30:00Z", "", false, "RFC 3339")]
    [InlineData("2026-11-24T15:30:00", "", true, "ISO 8601 without an offset")]
    [InlineData("1790000000", "epoch", false, "seconds since 1970")]
    [InlineData("1790000000000", "epoch", false, "milliseconds since 1970")]
    [InlineData("20261124", "uuuuMMdd", true, "uuuuMMdd")]
    [InlineData("24/11/2026 15:30", "dd/MM/uuuu HH:mm", true, "the day stands first: '24/11/2026 15:30' leaves no other way")]
    [InlineData("24.11.2026", "dd.MM.uuuu", true, "the day stands first")]
    [InlineData("12/04/2026|13/04/2026", "dd/MM/uuuu", true, "the day stands first: '13/04/2026' leaves no other way")]
    [InlineData("12/12/2026|04/13/2026", "MM/dd/uuuu", true, "the month stands first: '04/13/2026' leaves no other way")]
    [InlineData("24-11-2026T15:30:10", "dd-MM-uuuu'T'HH:mm:ss", true, "the day stands first")]
    [InlineData("11/24/2026", "MM/dd/uuuu", true, "the month stands first: '11/24/2026' leaves no other way")]
    [InlineData("03/04/2026|04/25/2026", "MM/dd/uuuu", true, "the month stands first: '04/25/2026'")]
    [InlineData("3.4.2026|25.4.2026", "d.M.uuuu", true, "the day stands first: '25.4.2026'")]
    [InlineData("24/11/26 15:30", "dd/MM/yy HH:mm", true, "the day stands first")]
    [InlineData("03/04/2026", "dd/MM/uuuu", true, "it is not decided whether the day or the month stands first")]
    public void Times_are_read_in_the_form_that_fits_all_of_them(string texts, string form, bool needsZone, string why)
    {
        var guess = DateGuess.Of(texts.Split('|'))!;
        Assert.Equal(needsZone, guess.NeedsZone);
        Assert.Contains(why, guess.Why, StringComparison.Ordinal);
        var said = string.Concat(guess.Forms.Select(f => f.Text));
        Assert.True(form == "epoch" ? said.StartsWith("epoch", StringComparison.Ordinal) : form == said, said);
        Assert.All(texts.Split('|'), t => Assert.True(guess.Forms.Count == 0 || guess.Forms[0].Read(t, DateTimeZone.Utc) is not null));
    }

    [Theory]
    [InlineData("")]
    [InlineData("soon")]
    [InlineData("24/11/2026|11/25/2026")]
    [InlineData("24/11/2026|24.11.2026")]
    [InlineData("123456789")]
    [InlineData("1790000000|1790000000000")]
    [InlineData("2026-11-24T15:30:00Z|tomorrow")]
    public void What_has_no_form_in_common_is_no_time(string texts) => Assert.Null(DateGuess.Of(texts.Split('|', StringSplitOptions.RemoveEmptyEntries)));

    private static BodyLeaf Leaf(string path, params string[] texts)
    {
        var leaf = new BodyLeaf(BodyPath.Parse(path).Path!);
        foreach (var text in texts)
        {
            leaf.Add(JsonSerializer.SerializeToElement(text));
        }

        return leaf;
    }

    [Theory]
    [InlineData("$.total", "1284|-3", null, 0, "its values are numbers")]
    [InlineData("$.total", "1284.50|3", null, 0, "its values are numbers")]
    [InlineData("$.totalCents", "128450|0", null, 2, "smallest coin")]
    [InlineData("$.amount_minor", "128450", null, 2, "smallest coin")]
    [InlineData("$.total", "1284,50|3,10", ',', 0, "behind a comma, as in '1284,50'")]
    [InlineData("$.total", "3|1.284,50", ',', 0, "behind a comma, as in '1.284,50'")]
    [InlineData("$.total", "1,284.50", '.', 0, "behind a point, as in '1,284.50'")]
    [InlineData("$.total", "1,284", ',', 0, "nothing in these bodies decides it")]
    public void Numbers_are_read_with_the_mark_that_fits_all_of_them(string path, string texts, char? point, int minor, string why)
    {
        var guess = NumberGuess.Of(Leaf(path, texts.Split('|')))!;
        Assert.Equal((point, minor), (guess.Point, guess.Minor));
        Assert.Contains(why, guess.Why, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("soon")]
    [InlineData("3|soon")]
    [InlineData("1,284.50|1.284,50")]
    public void What_is_no_number_is_none(string texts) => Assert.Null(NumberGuess.Of(Leaf("$.total", texts.Split('|'))));

    [Fact]
    public void Of_nothing_nothing_is_guessed()
    {
        Assert.Null(NumberGuess.Of(Leaf("$.total")));
        Assert.Equal(0, Lexicon.Number.Score([]));
    }

    [Theory]
    [InlineData("$.orderNumber", 3)]
    [InlineData("$.order_no", 3)]
    [InlineData("$.bestellnummer", 3)]
    [InlineData("$.order.number", 2.5)]
    [InlineData("$.auftrag.nr", 2.5)]
    [InlineData("$.parcel.number", 0.75)]
    [InlineData("$.number", 1)]
    [InlineData("$.orderId", 3)]
    [InlineData("$.pedidoCode", 2)]
    [InlineData("$.weight", 0)]
    public void A_name_scores_by_its_own_word_then_by_what_stands_above(string path, double score) =>
        Assert.Equal(score, Lexicon.Number.Score(Leaf(path).Names));

    [Theory]
    [InlineData("ping", "ignore")]
    [InlineData("order.held", "order.held")]
    [InlineData("ORDER_ON_HOLD", "order.held")]
    [InlineData("unhold", "order.released")]
    [InlineData("Freigegeben", "order.released")]
    [InlineData("status-changed", "order.status-changed")]
    [InlineData("order/created", "order.placed")]
    [InlineData("storniert", "order.cancelled")]
    [InlineData("payment failed", "order.payment-failed")]
    [InlineData("payment received", "order.paid")]
    [InlineData("orders:updated", "order.changed")]
    [InlineData("fraud", "order.risk-flagged")]
    [InlineData("OrderCreated", "order.placed")]
    [InlineData("orderOnHold", "order.held")]
    [InlineData("PaymentFailed", "order.payment-failed")]
    [InlineData("card declined", "order.payment-failed")]
    [InlineData("order.partially_shipped", "order.shipped")]
    [InlineData("orders/fulfilled", "order.shipped")]
    [InlineData("encomenda enviada", "order.shipped")]
    [InlineData("payment.refunded", "order.refunded")]
    [InlineData("invoice.paid", "order.paid")]
    [InlineData("approval required", "order.approval-requested")]
    [InlineData("order.customer.updated", "order.changed")]
    [InlineData("StockLow", "stock.low")]
    [InlineData("inventory_adjustment", "stock.adjusted")]
    [InlineData("inventory.updated", "stock.changed")]
    [InlineData("stock.counted", null)]
    [InlineData("stock not low", null)]
    [InlineData("customer.created", null)]
    [InlineData("cust_created", null)]
    [InlineData("bestelling.item.updated", "order.changed")]
    [InlineData("product/updated", null)]
    [InlineData("user_deleted", null)]
    [InlineData("order.line.add", null)]
    [InlineData("OrderInvoiceCreated", null)]
    [InlineData("not_paid", null)]
    [InlineData("order.not-shipped", null)]
    [InlineData("payment pending", null)]
    [InlineData("shipment_delayed", null)]
    [InlineData("shipment.failed", null)]
    [InlineData("order rejected", null)]
    [InlineData("banana", null)]
    public void A_word_of_the_order_system_means_an_event(string word, string? type) => Assert.Equal(type, Happenings.Of([word]).GetValueOrDefault(word));

    [Fact]
    public void At_most_forty_words_are_looked_at()
    {
        string[] words = [.. Enumerable.Range(1, 60).Select(n => $"held {n}")];
        Assert.Equal(40, Happenings.Of([.. words, .. words]).Count);
    }

    [Theory]
    [InlineData("$.shipTo.dueAt", "due at|ship to")]
    [InlineData("$.SKU", "sku")]
    [InlineData("$.Größe_cm", "große cm")]
    [InlineData("$.lines[*].unitPrice", "unit price|lines")]
    public void A_name_is_taken_apart_into_its_words(string path, string names) =>
        Assert.Equal(names, string.Join('|', Leaf(path).Names.Select(n => string.Join(' ', n))));

    [Fact]
    public void Every_value_of_a_body_is_found_at_its_place_lists_at_one()
    {
        var found = new Dictionary<string, BodyLeaf>();
        BodyLeaf.Walk(Element("""{"a":{"b":" x "},"l":[{"n":1},{"n":2},{"n":2}],"e":"","z":null}"""), BodyPath.Root, found);
        BodyLeaf.Walk(Element("""{"a":{"b":"y"}}"""), BodyPath.Root, found);
        var b = found.Values.Single(l => l.Names[0][0] == "b");
        Assert.Equal((2, "x|y"), (b.Values.Count, string.Join('|', b.Texts)));
        var n = found.Values.Single(l => l.Names[0][0] == "n");
        Assert.Equal((3, 2), (n.Texts.Count, n.Distinct.Count));
        Assert.Empty(found.Values.Single(l => l.Names[0][0] == "e").Texts);
        Assert.Empty(found.Values.Single(l => l.Names[0][0] == "z").Texts);
    }

    [Theory]
    [InlineData("order.total", ReadAs.Number, "total")]
    [InlineData("order.customer.tags", ReadAs.List, "customer's tags")]
    [InlineData("order.extra.gate", ReadAs.Any, "gate")]
    public void What_a_reading_may_fill_is_found_by_its_path(string path, ReadAs how, string name)
    {
        var field = ReadingField.Find(path)!;
        Assert.Equal((how, name), (field.As, field.Name));
    }

    [Theory]
    [InlineData("order.extra.")]
    [InlineData("order.extra.a.b")]
    [InlineData("order.nothing")]
    [InlineData("")]
    public void What_it_may_not_fill_is_none(string path) => Assert.Null(ReadingField.Find(path));

    [Fact]
    public void A_name_of_its_own_has_a_hundred_characters_at_most()
    {
        Assert.NotNull(ReadingField.Find("order.extra." + new string('x', 100)));
        Assert.Null(ReadingField.Find("order.extra." + new string('x', 101)));
    }

    [Theory]
    [InlineData("$", null, "a body", "Wanted is a body.")]
    [InlineData("/", "<html>", "XML of UBL", "Wanted is XML of UBL; it begins with '<html>'.")]
    [InlineData("$.a", null, "a number", "$.a: nothing stands there, wanted is a number.")]
    [InlineData("$.a", "x", "a number", "$.a: 'x' stands there, wanted is a number.")]
    public void What_could_not_be_read_is_one_sentence(string path, string? found, string wanted, string sentence) =>
        Assert.Equal(sentence, new BodyProblem(path, found, wanted).Sentence);
}
