using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.Primitives;
using Sirena.Formats.Rules;
using Sirena.Web.Pages.Rules;

namespace Sirena.Web.Tests;

public class RuleDraftTests
{
    private const string Whole = """
        id: whole
        name: Whole
        on: false
        when: [order.held, order.placed]
        urgency: urgent
        onlyIf:
          all:
            - { field: order.total, is: between, value: [500, 900.5] }
            - { field: order.total, is: at-least, value: { amount: 5, currency: USD } }
            - none:
                - { field: order.via, is: one-of, value: [web, desk] }
                - { field: note.visibleToCustomer, is: equal, value: true }
                - { field: order.hold, is: missing }
        tell: [ { person: ines.calder }, { team: kitchen }, { role: salesperson }, { address: "a@b.example", outside: true } ]
        by: { allAtOnce: [mail] }
        rest: PT90M
        withdrawAt: [signed-for]
        """;

    private static string Canonical(string document, bool yaml)
    {
        var (rule, errors) = RuleReader.Read(document, yaml);
        Assert.Empty(errors);
        return RuleWriter.Write(rule!).ToJsonString();
    }

    [Fact]
    public void What_the_blocks_show_is_the_whole_rule_and_saves_as_the_same()
    {
        var rule = RuleReader.Read(Whole, yaml: true).Rule!;
        Assert.Equal(Canonical(Whole, yaml: true), Canonical(RuleDraft.From(rule)!.Document("whole").ToJsonString(), yaml: false));
    }

    [Theory]
    [InlineData("cases: [ { name: a, tell: [] } ]")]
    [InlineData("tell: []\nby: { allAtOnce: [sms] }")]
    [InlineData("tell: []\nladder: [ { after: PT5M, tell: [ { team: kitchen } ] } ]")]
    [InlineData("tell: []\nonlyIf: { field: order.via, is: equal, value: web, exactly: true }")]
    public void A_rule_that_the_blocks_cannot_show_in_full_is_not_shown_in_them(string rest) =>
        Assert.Null(RuleDraft.From(RuleReader.Read($"name: x\nwhen: [order.held]\n{rest}", yaml: true).Rule!));

    [Fact]
    public void A_form_keeps_what_was_typed_and_its_buttons_add_and_remove()
    {
        var draft = RuleDraft.Read(new FormCollection(new Dictionary<string, StringValues>
        {
            ["name"] = "x",
            ["when"] = "order.held",
            ["c.group"] = "any",
            ["c.0.field"] = "order.totl",
            ["c.0.is"] = "at-least",
            ["c.0.value"] = "many",
            ["c.1.group"] = "all",
            ["tell"] = new[] { "team:kitchen", "address" },
            ["address"] = new[] { "", "a@b" },
        }));
        draft.Do("add:c.1");
        draft.Do("event");
        draft.Do("drop-recipient:0");
        var document = draft.Document(null);
        Assert.Equal("""{"any":[{"field":"order.totl","is":"at-least","value":"many"},{"all":[{"field":"order.total","is":"at-least","value":""}]}]}""", document["onlyIf"]!.ToJsonString());
        Assert.Equal("""[{"address":"a@b","outside":true}]""", document["tell"]!.ToJsonString());
        Assert.Equal(2, document["when"]!.AsArray().Count);
        draft.Do("drop:c.0");
        Assert.Single((JsonArray)draft.Document(null)["onlyIf"]!["any"]!);
    }

    [Theory]
    [InlineData("onlyIf.all[0].any[1].value", "c.0.1")]
    [InlineData("onlyIf.all[2].is", "c.2")]
    [InlineData("onlyIf.all[2].value[1]", "c.2")]
    [InlineData("tell[0].person", "tell")]
    [InlineData("rest", "rest")]
    public void A_mistake_in_the_document_finds_its_place_in_the_form(string path, string place) => Assert.Equal(place, RuleDraft.PlaceOf(path));
}
