using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Wordings;

namespace Sirena.Core.Tests.Wordings;

/// <summary>The texts of a wording: found by their names, exchanged, and lent to channels that have none.</summary>
public sealed class WordingPartsTests
{
    private static WordingParts Of(params string[] names) => names.Aggregate(new WordingParts(), (parts, name) => parts.With(name, $"text of {name}"));

    public static TheoryData<string> Names => [.. WordingParts.Names];

    [Theory]
    [MemberData(nameof(Names))]
    public void Each_part_is_set_read_and_taken_away_by_its_name(string name)
    {
        var with = new WordingParts().With(name, "hello");
        Assert.Equal("hello", with[name]);
        Assert.Equal((name, "hello"), Assert.Single(with.Given));
        Assert.All(WordingParts.Names.Where(n => n != name), n => Assert.Null(with[n]));
        Assert.Null(with.With(name, "  ")[name]);
        Assert.Null(with.With(name, null)[name]);
        Assert.NotEqual(new WordingParts(), with);
        Assert.Equal(with, new WordingParts().With(name, "hello"));
        Assert.Equal(with.GetHashCode(), new WordingParts().With(name, "hello").GetHashCode());
        Assert.Equal(name, with.Used(name));
    }

    [Fact]
    public void There_are_eight_and_no_other()
    {
        Assert.Equal(["mail.subject", "mail.text", "mail.html", "sms", "chat", "push", "screen", "ticket"], WordingParts.Names.OrderBy(Rank));
        Assert.Throws<ArgumentException>(() => new WordingParts()["fax"]);
        Assert.Throws<ArgumentException>(() => new WordingParts().With("fax", "x"));
        static int Rank(string name) => Array.IndexOf(["mail.subject", "mail.text", "mail.html", "sms", "chat", "push", "screen", "ticket"], name);
    }

    [Theory]
    [InlineData("mail.subject", "chat,screen,push", "screen")]
    [InlineData("mail.subject", "sms", "sms")]
    [InlineData("mail.subject", "mail.text", null)]
    [InlineData("mail.text", "mail.html,sms", "mail.html")]
    [InlineData("mail.text", "sms,screen", "screen")]
    [InlineData("mail.text", "mail.subject", "mail.subject")]
    [InlineData("mail.html", "mail.text,sms", null)]
    [InlineData("sms", "chat,push", "push")]
    [InlineData("sms", "ticket", null)]
    [InlineData("chat", "sms,mail.subject", "sms")]
    [InlineData("push", "mail.subject,chat", "chat")]
    [InlineData("screen", "sms,push", "push")]
    [InlineData("ticket", "sms,mail.text", "mail.text")]
    [InlineData("ticket", "", null)]
    public void Where_a_part_is_missing_the_nearest_stands_in(string name, string there, string? used) =>
        Assert.Equal(used, Of(there.Split(',', StringSplitOptions.RemoveEmptyEntries)).Used(name));

    private static WordingText Text(Audience audience, string language) => new(audience, language, Of("sms"));

    [Fact]
    public void A_reader_gets_their_language_else_English_else_the_first_and_never_another_s()
    {
        var wording = new Wording("w", "W", [Text(Audience.Staff, "pt"), Text(Audience.Staff, "en"), Text(Audience.Customer, "pt")]);
        string? Language(Audience audience, string? language) => wording.For(audience, language)?.Language;
        Assert.Equal("pt", Language(Audience.Staff, "pt-PT"));
        Assert.Equal("en", Language(Audience.Staff, "de"));
        Assert.Equal("en", Language(Audience.Staff, null));
        Assert.Equal("pt", Language(Audience.Customer, "en"));
        Assert.Null(Language(Audience.Outside, "en"));
    }

    [Theory]
    [InlineData("{{business.name}}, Quay 4", "Averil & Co, Quay 4", true)]
    [InlineData("{{ business.name }}", "Averil & Co", true)]
    [InlineData("Quay 4", "Quay 4", true)]
    [InlineData("", "", true)]
    [InlineData("{{order.number}}", "{{order.number}}", false)]
    [InlineData("{{business.name}} {{", "Averil & Co {{", false)]
    public void Header_and_footer_name_the_business_alone(string typed, string filled, bool good)
    {
        Assert.Equal(filled, Branding.Filled(typed, "Averil & Co"));
        Assert.Equal(good, Branding.Mistake(typed) is null);
    }

    [Theory]
    [InlineData("order.total", "total")]
    [InlineData("order.total.plain", "total, bare")]
    [InlineData("order.dueAt.until", "due time, how far off")]
    [InlineData("order.extra.a", "a")]
    [InlineData("order.extra.seal.number", "seal number")]
    [InlineData("event.extra.crane", "crane")]
    [InlineData(OwnField.All, "fields of our own")]
    [InlineData("order.lines.now.sum.value", "value in this shipment")]
    public void A_field_of_a_text_has_a_name(string path, string name) => Assert.Equal(name, WordingFields.Find(path)!.Name);

    [Theory]
    [InlineData("order.extra")]
    [InlineData("order.extra.")]
    [InlineData("order.extra.a..b")]
    [InlineData("stock.extra.a")]
    [InlineData("order.nothing")]
    [InlineData("quay.crane")]
    [InlineData("")]
    public void What_no_event_carries_has_none(string path) => Assert.Null(WordingFields.Find(path));

    [Theory]
    [InlineData("quay.crane", true)]
    [InlineData("quay.crane.time", true)]
    [InlineData("quay.crane.plain", true)]
    [InlineData("quay.crane.loud", false)]
    [InlineData("quay.time", false)]
    public void What_events_of_one_s_own_carry_is_known_with_its_forms(string path, bool known) =>
        Assert.Equal(known, WordingFields.Find(path, new HashSet<string> { "quay.crane" }) is not null);

    [Theory]
    [InlineData("order.total", false)]
    [InlineData("order.hold.reason", true)]
    [InlineData("order.risk.level", true)]
    [InlineData("order.extra.margin", true)]
    [InlineData("order.extra.deep.cost", true)]
    [InlineData("order.extra.costly", false)]
    [InlineData("note.text", true)]
    [InlineData("note.public", false)]
    [InlineData("answer.link", true)]
    [InlineData("order.customer.group", true)]
    [InlineData("order.customer.name", false)]
    [InlineData(OwnField.All, false)]
    public void What_a_customer_may_not_read_is_internal(string path, bool inside) => Assert.Equal(inside, WordingFields.IsInternal(path));
}
