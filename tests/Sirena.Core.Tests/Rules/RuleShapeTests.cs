using Sirena.Core.Instructions;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Rules;

/// <summary>What can be asked of a rule without an event.</summary>
public sealed class RuleShapeTests
{
    private static readonly InstructionAsk Hold = new("hold", "{}");

    private static RuleCase Case(string name = "a") => new() { Name = name, Tell = [new PersonRecipient("ines.calder")] };

    [Fact]
    public void A_case_acts_by_any_of_its_moments()
    {
        Assert.False(Case().Acts);
        Assert.True((Case() with { Do = [Hold] }).Acts);
        Assert.True((Case() with { OnLanded = [Hold] }).Acts);
        Assert.True((Case() with { Offer = [Hold] }).Acts);
        Assert.True(Rule("r", cases: [Case(), Case("b") with { Do = [Hold] }]).Acts);
        Assert.False(Rule("r", cases: [Case(), Case("b")]).Acts);
    }

    [Fact]
    public void A_case_is_found_by_its_name()
    {
        var rule = Rule("r", cases: [Case("a"), Case("b")]);
        Assert.Equal("b", rule.Case("b")!.Name);
        Assert.Null(rule.Case("c"));
        Assert.Null(rule.Case(null));
    }

    [Fact]
    public void A_book_listens_to_what_a_rule_that_is_on_listens_to()
    {
        var book = new RuleBook(3, [new(Rule("a"), 1), new(Rule("b", when: "order.paid", on: false), 1)]);
        Assert.True(book.Listens("order.held"));
        Assert.False(book.Listens("order.paid"));
        Assert.False(book.Listens("order.placed"));
        Assert.Equal(3, book.Version);
    }

    [Fact]
    public void A_condition_knows_the_words_that_it_wants()
    {
        Assert.True(Leaf("order.status", "equal", "\"picking\"").Wants("picking"));
        Assert.True(Leaf("order.status", "one-of", """["picking","loaded"]""").Wants("loaded"));
        Assert.False(Leaf("order.status", "equal", "\"picking-late\"").Wants("picking"));
        Assert.False(Leaf("order.status", "present").Wants("picking"));
    }

    [Fact]
    public void An_option_is_found_by_its_member()
    {
        Assert.All(RuleOptions.All, o => Assert.Same(o, RuleOptions.Find(o.Member)));
        Assert.Null(RuleOptions.Find("nothing"));
    }
}
