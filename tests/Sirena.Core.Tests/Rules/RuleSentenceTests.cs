using NodaTime;
using Sirena.Core.Rules;
using Sirena.Formats.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Rules;

/// <summary>What a rule reads like: each of its parts in plain words.</summary>
public sealed class RuleSentenceTests
{
    private static readonly Dictionary<string, string> Known = new()
    {
        ["ines.calder"] = "Ines Calder",
        ["kitchen"] = "Galley kitchen",
        ["desk"] = "Desk",
        ["picking"] = "Picking",
        ["loaded"] = "Loaded",
        ["quay"] = "Quay",
        ["seal.broken"] = "an order's seal is broken",
    };

    private static readonly RuleSentence Sentence = new(id => Known.GetValueOrDefault(id, id), Lisbon, "EUR");

    [Theory]
    [InlineData("{}", "weigh-again")]
    [InlineData("null", "weigh-again")]
    [InlineData("""{"scale":"quay","times":2}""", "weigh-again (quay, 2)")]
    public void What_only_the_order_system_knows_is_said_by_its_name_and_what_goes_with_it(string with, string said) =>
        Assert.Equal(said, Sentence.Of(new Core.Instructions.InstructionAsk("weigh-again", with)));

    private static string Of(string yaml)
    {
        var (rule, errors) = RuleReader.Read("id: r\nname: R\n" + yaml, yaml: true);
        Assert.True(errors.Count == 0, string.Join("; ", errors.Select(e => $"{e.Path} {e.Problem}")));
        return Sentence.Of(rule!);
    }

    private static string Only(string condition) =>
        Of($"when: [order.held]\nonlyIf: {condition}\ntell: [{{ team: kitchen }}]")["When an order is held and ".Length..];

    [Theory]
    [InlineData("[order.held]", "When an order is held, tell everyone in Galley kitchen by mail.")]
    [InlineData("[order.held, order.placed]", "When an order is held or an order is placed, tell everyone in Galley kitchen by mail.")]
    [InlineData(
        "[order.held, order.placed, seal.broken]",
        "When an order is held, an order is placed or an order's seal is broken, tell everyone in Galley kitchen by mail."
    )]
    [InlineData("[hatch.open]", "When the event hatch.open comes in, tell everyone in Galley kitchen by mail.")]
    public void What_happens_comes_first(string when, string sentence) => Assert.Equal(sentence, Of($"when: {when}\ntell: [{{ team: kitchen }}]"));

    [Theory]
    [InlineData("{ person: ines.calder }", "Ines Calder")]
    [InlineData("{ team: kitchen }", "everyone in Galley kitchen")]
    [InlineData("{ duty: desk }", "whoever is on duty in Desk")]
    [InlineData("{ role: salesperson }", "the order's salesperson")]
    [InlineData("{ role: customer }", "the customer")]
    [InlineData("{ person: ines.calder }, { team: desk }", "Ines Calder and everyone in Desk")]
    [InlineData("{ person: ines.calder }, { team: desk }, { duty: kitchen }", "Ines Calder, everyone in Desk and whoever is on duty in Galley kitchen")]
    public void Then_who_is_told(string tell, string said) =>
        Assert.Equal($"When an order is held, tell {said} by mail.", Of($"when: [order.held]\ntell: [{tell}]"));

    [Theory]
    [InlineData("{ allAtOnce: [sms] }", "by SMS")]
    [InlineData("{ allAtOnce: [sms, mail] }", "by SMS and mail")]
    [InlineData("{ allAtOnce: [sms, mail, push] }", "by SMS, mail and push")]
    [InlineData("{ firstThatLands: [sms, mail] }", "by SMS, then mail")]
    public void Then_by_what(string by, string said) =>
        Assert.Equal($"When an order is held, tell everyone in Desk {said}.", Of($"when: [order.held]\ntell: [{{ team: desk }}]\nby: {by}"));

    [Theory]
    [InlineData("{ field: order.total, is: at-least, value: 500 }", "the total is at least 500.00 EUR")]
    [InlineData("{ field: order.total, is: at-least, value: { amount: 1284.5, currency: USD } }", "the total is at least 1,284.50 USD")]
    [InlineData("{ field: order.status, is: equal, value: picking }", "the status is Picking")]
    [InlineData("{ field: order.status, is: one-of, value: [picking, loaded, gone] }", "the status is one of Picking, Loaded or gone")]
    [InlineData("{ field: order.site, is: not-equal, value: quay }", "the site is not Quay")]
    [InlineData("{ field: order.risk.score, is: between, value: [20, 80] }", "the risk score is between 20 and 80")]
    [InlineData("{ field: order.customer.tags, is: contains-all, value: [a, b, c] }", "the customer's tags contains all of a, b and c")]
    [InlineData("{ field: order.customer.tags, is: contains-any, value: [a, b] }", "the customer's tags contains any of a or b")]
    [InlineData("{ field: order.hold.reason, is: present }", "the reason for the hold is there")]
    [InlineData("{ field: order.dueAt, is: changed }", "the due time has changed")]
    [InlineData("{ field: order.tags, is: empty }", "the tags is empty")]
    [InlineData("{ field: order.dueAt, is: at-most, value: '2026-07-24T15:30:00Z' }", "the due time is at most Fri 24 Jul 16:30")]
    [InlineData("{ field: order.until-due, is: less-than, value: PT2H30M }", "the time until due is less than 2 h 30")]
    [InlineData("{ field: stock.onHand, is: at-most, value: { field: stock.threshold } }", "the quantity on hand is at most the threshold")]
    [InlineData("{ field: order.extra.berth, is: equal, value: N3 }", "berth is N3")]
    [InlineData("{ field: order.lines.any.sku, is: starts-with, value: GAL }", "any line's article number starts with GAL")]
    [InlineData("{ field: note.visibleToCustomer, is: equal, value: true }", "whether the customer sees the note is yes")]
    [InlineData("{ field: change.after, is: equal, value: loaded }", "the value after is Loaded")]
    public void A_condition_says_its_field_its_operator_and_its_value(string condition, string said) =>
        Assert.Equal(said + ", tell everyone in Galley kitchen by mail.", Only(condition));

    private const string A = "{ field: order.extra.a, is: present }",
        B = "{ field: order.extra.b, is: present }",
        C = "{ field: order.extra.c, is: present }";

    [Theory]
    [InlineData($"{{ all: [{A}, {B}] }}", "a is there and b is there")]
    [InlineData($"{{ any: [{A}, {B}, {C}] }}", "a is there, b is there or c is there")]
    [InlineData($"{{ none: [{A}, {B}] }}", "none of these holds: a is there, b is there")]
    [InlineData($"{{ all: [{A}, {{ any: [{B}, {C}] }}] }}", "a is there and (b is there or c is there)")]
    [InlineData($"{{ any: [{A}, {{ all: [{B}] }}] }}", "a is there or b is there")]
    [InlineData($"{{ none: [{{ all: [{A}, {B}] }}, {C}] }}", "none of these holds: (a is there and b is there), c is there")]
    [InlineData($"{{ all: [{A}] }}", "a is there")]
    public void Groups_stand_in_brackets_where_and_and_or_could_be_mixed_up(string condition, string said) =>
        Assert.Equal(said + ", tell everyone in Galley kitchen by mail.", Only(condition));

    [Fact]
    public void Cases_follow_one_another_and_the_last_is_otherwise() =>
        Assert.Equal(
            "When an order is held: if the total is at least 500.00 EUR, tell everyone in Desk by mail; otherwise tell Ines Calder by mail.",
            Of(
                """
                when: [order.held]
                cases:
                  - { name: high, onlyIf: { field: order.total, is: at-least, value: 500 }, tell: [ { team: desk } ] }
                  - { name: otherwise, tell: [ { person: ines.calder } ] }
                """
            )
        );

    [Fact]
    public void Steps_say_when_whom_and_how_often_and_take_the_channels_of_the_case() =>
        Assert.Equal(
            "When an order is held, tell everyone in Desk by SMS; if nobody answers, after 5 min Ines Calder by SMS; "
                + "if nobody answers, after 1 h of working time everyone in Galley kitchen by mail, 3 times more every 10 min; "
                + "if nobody answers, 30 min before the order is due hold the order because 'late'.",
            Of(
                """
                when: [order.held]
                tell: [ { team: desk } ]
                by: { allAtOnce: [sms] }
                ladder:
                  - { after: PT5M, tell: [ { person: ines.calder } ] }
                  - { afterWorking: PT1H, tell: [ { team: kitchen } ], by: { allAtOnce: [mail] }, repeat: { times: 3, every: PT10M } }
                  - { beforeDue: PT30M, do: [ { hold: { reason: late } } ] }
                """
            )
        );

    [Theory]
    [InlineData("do: [ { hold: { reason: credit } } ]\ntell: [ { team: desk } ]", "hold the order because 'credit' and tell everyone in Desk by mail.")]
    [InlineData("do: [ { hold: { reason: credit } } ]\ntell: []", "hold the order because 'credit'.")]
    [InlineData("tell: [ { team: desk } ]\noffer: [ { release: {} } ]", "tell everyone in Desk by mail; whoever is told may release the order.")]
    [InlineData(
        "tell: [ { team: desk } ]\nonAnswer: { taken: [ { note: mine } ] }",
        "tell everyone in Desk by mail; when somebody takes it, write the note 'mine'."
    )]
    [InlineData("tell: [ { team: desk } ]\nonLanded: [ { note: sent } ]", "tell everyone in Desk by mail; when a message has landed, write the note 'sent'.")]
    public void What_is_asked_of_the_order_system_is_said_at_its_moment(string yaml, string said) =>
        Assert.Equal("When an order is held, " + said, Of("when: [order.held]\n" + yaml));

    [Theory]
    [InlineData("gather: PT10M", "Gathered for 10 min into one message each.")]
    [InlineData("rest: PT2H", "Not again for the same order within 2 h.")]
    [InlineData("doneWithin: PT90M", "Whoever takes it has 1 h 30 until it is done.")]
    [InlineData("doneWithin: PT0S", "Whoever takes it has no time set.")]
    [InlineData("storm: { alerts: 20, within: PT10M }", "Beyond 20 within 10 min they are gathered into one.")]
    [InlineData("withdrawAt: [picking, loaded]", "Ends when the order is Picking or Loaded.")]
    [InlineData("trial: true", "For now it only says what it would have done to the order.")]
    public void Options_are_sentences_behind_it(string option, string said) =>
        Assert.Equal($"When an order is held, tell everyone in Desk by mail. {said}", Of($"when: [order.held]\ntell: [ {{ team: desk }} ]\n{option}"));

    [Fact]
    public void What_an_event_met_is_said_as_the_rule_says_it()
    {
        var facts = Facts("""{"total":109.6,"status":"picking","customer":{"tags":["a","b"]},"dueAt":"2026-07-24T15:30:00Z"}""");
        string Met(ConditionLeaf leaf)
        {
            Assert.Null(Question.TryMake(leaf, out var question));
            return Sentence.Met(question!.Explain(facts, null));
        }

        Assert.Equal("here 109.60 EUR", Met(Leaf("order.total", "at-least", "500")));
        Assert.Equal("here Picking", Met(Leaf("order.status", "equal", "\"loaded\"")));
        Assert.Equal("here a, b", Met(Leaf("order.customer.tags", "contains", "\"c\"")));
        Assert.Equal("here Fri 24 Jul 16:30", Met(Leaf("order.dueAt", "at-most", "\"2026-07-24T10:00:00Z\"")));
        Assert.Equal("missing here", Met(Leaf("order.site", "equal", "\"quay\"")));
    }

    [Fact]
    public void Without_a_zone_times_are_said_in_UTC_and_without_a_currency_amounts_without_one()
    {
        var plain = new RuleSentence(id => id);
        Assert.Equal("the total is at least 500.00", plain.Of((Condition)Leaf("order.total", "at-least", "500")));
        Assert.Equal("the due time is at most Fri 24 Jul 15:30", plain.Of((Condition)Leaf("order.dueAt", "at-most", "\"2026-07-24T15:30:00Z\"")));
    }

    [Theory]
    [InlineData("order.total", """{"total":"12.5"}""")]
    [InlineData("order.total", """{"total":[1,{"amount":1,"currency":"EUR"},{"amount":"1","currency":5}]}""")]
    [InlineData("order.extra.fee", """{"extra":{"fee":{"amount":"12","currency":"EUR"}}}""")]
    [InlineData("order.extra.fee", """{"extra":{"fee":{"amount":1e999,"currency":null}}}""")]
    public void What_stands_where_an_amount_should_is_said_as_it_is(string field, string order)
    {
        Assert.Null(Question.TryMake(Leaf(field, "present"), out var question));
        Assert.StartsWith("here ", new RuleSentence(id => id).Met(question!.Explain(Facts(order), null)), StringComparison.Ordinal);
    }
}
