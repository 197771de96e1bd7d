using System.Text.Json.Nodes;
using Sirena.Core.Rules;
using Sirena.Formats.Rules;

namespace Sirena.Core.Tests.Formats;

public class RuleDocumentTests
{
    private const string Contract = """
        id: risky-order
        name: Risky order
        on: true
        when: [order.risk-flagged, order.held]
        urgency: prompt                       # routine | prompt | urgent
        onlyIf:
          all:
            - { field: order.total, is: at-least, value: 500 }
            - any:
                - { field: order.customer.group, is: one-of, value: [yachts, research] }
                - { field: order.lines.any.tags, is: contains, value: bonded }
        cases:
          - name: high
            onlyIf: { field: order.risk.level, is: equal, value: high }
            tell:
              - { duty: credit-control }
              - { role: salesperson }
            by: { firstThatLands: [sms, mail], wait: PT2M }
            wording: risky-order
            ladder:
              - { after: PT5M, tell: [ { team: credit-control } ], by: { allAtOnce: [sms] } }
              - { afterWorking: PT15M, tell: [ { person: ines.calder } ] }
              - { beforeDue: PT1H, tell: [ { address: "harbour.office@port-averil.example", outside: true } ], by: { allAtOnce: [mail] } }
          - name: otherwise
            tell: [ { team: desk } ]
            by: { allAtOnce: [screen] }
        gather: PT0S
        rest: PT30M
        withdrawAt: [cancelled, signed-for]
        """;

    private static readonly KnownNames Names = new(
        ["ines.calder"],
        ["kitchen", "desk", "credit-control"],
        ["cancelled", "signed-for"],
        new Dictionary<string, System.Collections.Immutable.ImmutableArray<Sirena.Core.Ladders.LadderStep>>
        {
            ["evening"] =
            [
                new Sirena.Core.Ladders.LadderStep(
                    Sirena.Core.Ladders.StepClock.After,
                    NodaTime.Duration.FromMinutes(7),
                    [new TeamRecipient("desk")],
                    null,
                    null
                ),
            ],
        }
    );

    private static IReadOnlyList<Sirena.Formats.Documents.DocumentError> Errors(string yaml) => RuleReader.Read(yaml, yaml: true, Names).Errors;

    [Theory]
    [InlineData("Held for credit", "held-for-credit")]
    [InlineData("Kühlhaus, groß", "kuhlhaus-gross")]
    [InlineData("Þór Ærø Łódź", "thor-aero-lodz")]
    [InlineData("Склад 2", "2-[0-9a-f]{6}")]
    [InlineData("倉庫", "[0-9a-f]{6}")]
    [InlineData("!!!", "unnamed")]
    public void An_id_is_made_of_a_name_and_two_names_without_Latin_letters_stay_two(string name, string id)
    {
        Assert.Matches($"^{id}$", RuleReader.IdFrom(name));
        Assert.Equal(RuleReader.IdFrom(name), RuleReader.IdFrom(name.ToUpperInvariant()));
        Assert.NotEqual(RuleReader.IdFrom("Сигне"), RuleReader.IdFrom("Ольга"));
        Assert.InRange(RuleReader.IdFrom(string.Concat(Enumerable.Repeat("склад depot ", 20))).Length, 50, 60);
    }

    [Fact]
    public void The_contract_s_example_is_read_and_written_back_without_loss()
    {
        var (rule, errors) = RuleReader.Read(Contract, yaml: true, Names);
        Assert.Empty(errors);
        var written = RuleWriter.Write(rule!);
        var (again, _) = RuleReader.Read(written.ToJsonString(), yaml: false, Names);
        Assert.True(JsonNode.DeepEquals(written, RuleWriter.Write(again!)));
        Assert.Equal(3, again!.Cases[0].Ladder.Length);
        Assert.Equal("PT30M", written["rest"]!.GetValue<string>());
    }

    private const string Later = """
        name: Later
        when: [order.placed]
        tell: [ { team: desk } ]
        ladder:
          - { after: PT5M, tell: [ { team: desk } ], wording: finance, repeat: { times: 3, every: PT2M } }
        doneWithin: PT2H
        pullForward: false
        storm: { alerts: 20, within: PT10M }
        attach: [ { document: shipping-note, audience: customer }, { file: order.extra.drawing } ]
        """;

    [Fact]
    public void Repeats_limits_storms_and_documents_are_read_said_and_written_back()
    {
        var (rule, errors) = RuleReader.Read(Later, yaml: true, Names);
        Assert.Empty(errors);
        var written = RuleWriter.Write(rule!).ToJsonString();
        Assert.Equal(written, RuleWriter.Write(RuleReader.Read(written, yaml: false, Names).Rule!).ToJsonString());
        var sentence = new RuleSentence(id => id).Of(rule!);
        foreach (
            var part in new[]
            {
                "3 times more every 2 min",
                "has 2 h until it is done",
                "No step is pulled forward",
                "Beyond 20 within 10 min",
                "the shipping note to the customer and the file at order.extra.drawing",
            }
        )
        {
            Assert.Contains(part, sentence);
        }
    }

    [Fact]
    public void A_shared_ladder_brings_its_steps_and_an_unknown_one_is_named()
    {
        var (rule, _) = RuleReader.Read("name: S\nwhen: [order.placed]\ntell: [ { team: desk } ]\nladder: { shared: evening }", yaml: true, Names);
        Assert.Equal(("evening", 1), (rule!.Cases[0].SharedLadder, rule.Cases[0].Ladder.Length));
        var stored = RuleReader.Read(RuleWriter.Write(rule).ToJsonString(), yaml: false).Rule!;
        Assert.Equal(NodaTime.Duration.FromMinutes(7), stored.Cases[0].Ladder[0].Delay);
        Assert.Contains("evening", Errors("name: S\nwhen: [order.placed]\ntell: [ { team: desk } ]\nladder: { shared: evenin }")[0].Problem);
    }

    [Theory]
    [InlineData("storm: { alerts: 0, within: PT10M }", "storm")]
    [InlineData("storm: { alerts: 5 }", "storm")]
    [InlineData("attach: [ { document: bill } ]", "attach[0].document")]
    [InlineData("attach: [ { } ]", "attach[0]")]
    [InlineData("attach: [ { file: nowhere } ]", "attach[0].file")]
    [InlineData("ladder: [ { after: PT5M, tell: [ { team: desk } ], repeat: { times: 0, every: PT5M } } ]", "ladder[0].repeat")]
    [InlineData("id: sirena.note", "id")]
    public void What_the_later_members_cannot_be_is_named_at_its_place(string member, string path) =>
        Assert.Contains(Errors($"name: S\nwhen: [order.placed]\ntell: [ {{ team: desk }} ]\n{member}"), e => e.Path == path);

    [Fact]
    public void The_sentence_reads_aloud()
    {
        var rule = RuleReader.Read(Contract, yaml: true, Names).Rule!;
        Assert.Equal(
            "When an order is flagged risky or an order is held, and the total is at least 500.00 and (the customer's group is one of yachts or research or any line's tags contains bonded): "
                + "if the risk is high, tell whoever is on duty in credit-control and the order's salesperson by SMS, then mail; if nobody answers, after 5 min everyone in credit-control by SMS; "
                + "if nobody answers, after 15 min of working time ines.calder by SMS, then mail; if nobody answers, 1 h before the order is due harbour.office@port-averil.example by mail; "
                + "otherwise tell everyone in desk by screen. Not again for the same order within 30 min. Ends when the order is cancelled or signed-for.",
            new RuleSentence(id => id).Of(rule)
        );
    }

    [Theory]
    [InlineData("name: x\nwhen: [order.held]", "tell", "either 'tell' or 'cases'")]
    [InlineData("name: \"x\\ny\"\nwhen: [order.held]\ntell: [ { team: desk } ]", "name", "'name' is one line")]
    [InlineData("name: x\nwhen: [order.held]\ncases: [ { name: \"a\\tb\", tell: [ { team: desk } ] } ]", "cases[0].name", "'name' is one line")]
    [InlineData("name: x\nwhen: [order.held]\ntell: []\ncases:\n  - name: a", "tell", "beside 'cases'")]
    [InlineData("name: x\ntell: []", "when", "needs 'when'")]
    [InlineData("name: x\nwhen: [order.held]\ntell: [ { person: nobody } ]", "tell[0].person", "no person 'nobody'")]
    [InlineData("name: x\nwhen: [order.held]\ntell: [ { team: kitchn } ]", "tell[0].team", "Did you mean 'kitchen'?")]
    [InlineData("name: x\nwhen: [order.held]\ntell: []\nonlyIf: { field: order.total, is: atleast, value: 1 }", "onlyIf.is", "Did you mean 'at-least'?")]
    [InlineData("name: x\nwhen: [order.held]\ntell: []\nurgncy: urgent", "urgncy", "no member 'urgncy'. Did you mean 'urgency'?")]
    [InlineData("name: x\nwhen: [order.held]\ntell: []\nrest: 30 minutes", "rest", "ISO 8601 duration")]
    [InlineData("name: x\nwhen: [order.held]\ntell: [ { address: quay@averil } ]", "tell[0].address", "has no domain ending")]
    [InlineData("name: x\nwhen: [order.held]\ntell: []\nby: { allAtOnce: [pigeon] }", "by.allAtOnce[0]", "no channel 'pigeon'")]
    [InlineData("name: x\nwhen: [order.held]\ntell: []\nwithdrawAt: [gone]", "withdrawAt[0]", "no status 'gone'")]
    public void A_mistake_has_its_path_and_a_way_out(string yaml, string path, string sentence)
    {
        var error = Assert.Single(Errors(yaml));
        Assert.Equal(path, error.Path);
        Assert.Contains(sentence, error.Problem);
    }

    [Fact]
    public void Mistakes_have_line_and_column_in_YAML_and_in_JSON()
    {
        var yaml = Assert.Single(Errors("name: x\nwhen: [order.held]\ntell: []\nonlyIf:\n  all:\n    - { field: order.totl, is: at-least, value: 5 }"));
        Assert.Equal((6, 16, "onlyIf.all[0].field"), (yaml.Line, yaml.Column, yaml.Path));
        var json = Assert.Single(
            RuleReader.Read("{\n  \"name\": \"x\", \"when\": [\"order.held\"],\n  \"tell\": [], \"urgency\": \"quick\"\n}", yaml: false, Names).Errors
        );
        Assert.Equal((3, 26), (json.Line, json.Column));
    }

    [Theory]
    [InlineData("{ \"name\": ", false, "This is not JSON")]
    [InlineData("name: [", true, "This is not YAML")]
    [InlineData("a: &x 1\nb: *x", true, "anchors and aliases are not taken")]
    [InlineData("", true, "empty")]
    public void A_text_that_cannot_be_read_says_so(string text, bool yaml, string sentence) =>
        Assert.Contains(sentence, Assert.Single(RuleReader.Read(text, yaml, Names).Errors).Problem);

    [Fact]
    public void All_mistakes_are_found_at_once() => Assert.Equal(3, Errors("name: 7\nwhen: [order.held]\ntell: [ { person: nobody } ]\nurgency: quick").Count);
}
