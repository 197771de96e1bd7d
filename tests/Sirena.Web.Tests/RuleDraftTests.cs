using System.Text.Json;
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

    private const string Branches = """
        id: branches
        name: Branches
        when: [order.risk-flagged]
        mayOptOut: false
        gather: PT10M
        onlyIf:
          any:
            - { field: order.until-due, is: less-than, value: P1DT2H }
            - { field: order.extra.berth, is: one-of, value: [ N3, "5", 5 ] }
            - { field: order.via, is: starts-with, value: We, exactly: true }
        cases:
          - name: high
            onlyIf: { field: order.risk.level, is: equal, value: high }
            tell: [ { duty: credit-control }, { role: salesperson } ]
            by: { firstThatLands: [sms, mail], wait: PT2M }
            wording: risky-order
            notOlderThan: PT90S
            ladder:
              - { after: PT5M, tell: [ { team: credit-control } ], by: { allAtOnce: [sms, chat] } }
              - { afterWorking: PT15M, tell: [ { person: ines.calder } ], wording: other }
              - { beforeDue: PT1H30M, tell: [ { address: "harbour.office@port-averil.example" } ] }
          - name: otherwise
        """;

    private const string Options = """
        id: options
        name: Options
        when: [order.held]
        tell: [ { role: customer } ]
        do: [ hold, { tag: [rush, quay] } ]
        onAnswer: { taken: [ { status: packed } ], declined: [ { note: { text: "not ours", visibleToCustomer: true } } ] }
        onLanded: [ { note: "it was read" } ]
        offer: [ release, { cancel: { reason: "no stock", putBack: true } } ]
        ladder:
          - { after: PT5M, do: [ hold ] }
          - { after: PT9M, tell: [ { team: desk } ], repeat: { times: 2, every: PT3M } }
        gather: PT2M
        doneWithin: PT0S
        pullForward: false
        storm: { alerts: 9, within: PT10M }
        attach: [ { document: shipping-note, audience: customer }, { file: order.extra.manifest } ]
        doAtMost: { times: 5, within: PT1H }
        trial: true
        """;

    private static string Canonical(string document, bool yaml)
    {
        var (rule, errors) = RuleReader.Read(document, yaml);
        Assert.Empty(errors);
        return RuleWriter.Write(rule!).ToJsonString();
    }

    [Theory]
    [InlineData(Whole)]
    [InlineData(Branches)]
    [InlineData(Options)]
    public void What_the_blocks_show_is_the_whole_rule_and_saves_as_the_same(string document)
    {
        var rule = RuleReader.Read(document, yaml: true).Rule!;
        Assert.Equal(Canonical(document, yaml: true), Canonical(RuleDraft.From(rule).Document(rule.Id).ToJsonString(), yaml: false));
    }

    [Fact]
    public void A_form_keeps_what_was_typed_and_its_buttons_add_and_remove()
    {
        var draft = RuleDraft.Read(
            new FormCollection(
                new Dictionary<string, StringValues>
                {
                    ["name"] = "x",
                    ["when"] = "order.held",
                    ["c.group"] = "any",
                    ["c.0.field"] = "order.totl",
                    ["c.0.is"] = "at-least",
                    ["c.0.value"] = "many",
                    ["c.1.group"] = "all",
                    ["k0.name"] = "always",
                    ["k0.tell.0"] = "team:kitchen",
                    ["k0.tell.1"] = "address",
                    ["k0.address.1"] = "a@b",
                }
            )
        );
        draft.Do("add:c.1");
        draft.Do("event");
        draft.Do("drop-recipient:k0.0");
        var document = draft.Document(null);
        Assert.Equal(
            """{"any":[{"field":"order.totl","is":"at-least","value":"many"},{"all":[{"field":"order.total","is":"at-least","value":""}]}]}""",
            document["onlyIf"]!.ToJsonString()
        );
        Assert.Equal("""[{"address":"a@b","outside":true}]""", document["tell"]!.ToJsonString());
        Assert.Equal(2, document["when"]!.AsArray().Count);
        draft.Do("drop:c.0");
        Assert.Single((JsonArray)draft.Document(null)["onlyIf"]!["any"]!);
    }

    [Fact]
    public void What_nobody_filled_in_yet_stays_in_the_form_and_out_of_the_document()
    {
        var draft = RuleDraft.Fresh();
        draft.Do("act:k0");
        draft.Do("step:k0");
        draft.Do("act:k0.s0");
        Assert.Equal(
            (1, 1, 1, 1),
            (draft.Cases[0].Tell.Count, draft.Cases[0].Acts.Count, draft.Cases[0].Ladder[0].Tell.Count, draft.Cases[0].Ladder[0].Acts.Count)
        );
        Assert.Equal(
            """{"name":"","on":true,"when":["order.placed"],"urgency":"prompt","tell":[],"by":{"allAtOnce":["mail"]},"ladder":[{"after":"PT5M","tell":[]}]}""",
            Sorted(draft.Document(null), "name", "on", "when", "urgency", "tell", "by", "ladder")
        );
        draft.Do("drop-act:k0.0");
        draft.Do("drop-act:k0.s0.0");
        Assert.Equal((0, 0), (draft.Cases[0].Acts.Count, draft.Cases[0].Ladder[0].Acts.Count));
    }

    [Fact]
    public void What_is_asked_stays_in_the_order_of_the_form_and_stands_by_its_moment_in_the_document()
    {
        var draft = RuleDraft.Read(
            new FormCollection(
                new Dictionary<string, StringValues>
                {
                    ["k0.name"] = "always",
                    ["k0.do.when"] = new[] { "offer", "now", "taken", "landed", "now", "now" },
                    ["k0.do.kind"] = new[] { "cancel", "tag", "status", "note", "note", "" },
                    ["k0.do.value"] = new[] { "no stock", "rush, quay", "packed", "{ \"text\": \"read\" }", "{ not closed", "typed before its kind" },
                    ["k0.do.yes"] = new[] { "true", "", "", "true", "", "" },
                }
            )
        );
        Assert.Equal(["cancel", "tag", "status", "note", "note", ""], draft.Cases[0].Acts.Select(a => a.Kind));
        Assert.Equal(["no stock", "rush, quay", "packed", "read", "{ not closed", "typed before its kind"], draft.Cases[0].Acts.Select(a => a.Value));
        Assert.Equal([true, false, false, true, false, false], draft.Cases[0].Acts.Select(a => a.Yes));
        Assert.Equal(
            """{"tell":[],"do":[{"tag":["rush","quay"]},{"note":"{ not closed"}],"offer":[{"cancel":{"reason":"no stock","putBack":true}}],"onLanded":[{"note":{"text":"read","visibleToCustomer":true}}],"onAnswer":{"taken":[{"status":"packed"}]}}""",
            Sorted(draft.Document(null), "tell", "do", "offer", "onLanded", "onAnswer")
        );
    }

    [Fact]
    public void A_steps_ladder_can_be_shared_and_taken_back()
    {
        var steps = RuleReader.Read(Options, yaml: true).Rule!.Cases[0].Ladder;
        var draft = RuleDraft.Read(
            new FormCollection(
                new Dictionary<string, StringValues>
                {
                    ["k0.name"] = "always",
                    ["k0.tell.0"] = "team:kitchen",
                    ["k0.shared"] = "night",
                }
            )
        );
        Assert.Equal("night", draft.Cases[0].Shared);
        Assert.Empty(draft.StepsAt("k0"));
        Assert.Equal("""{"shared":"night"}""", draft.Document(null)["ladder"]!.ToJsonString());
        draft.Do("unshare:k0", id => id == "night" ? steps : []);
        Assert.Equal("", draft.Cases[0].Shared);
        Assert.Equal(["5 min", "9 min"], draft.Cases[0].Ladder.Select(s => s.Delay));
        Assert.Equal(("2", "3 min"), (draft.Cases[0].Ladder[1].Times, draft.Cases[0].Ladder[1].Every));
        Assert.Equal(RuleWriter.Write(steps).ToJsonString().Replace("\"tell\":[],", "", StringComparison.Ordinal), draft.StepsAt("k0").ToJsonString());
        Assert.Empty(draft.StepsAt("k4"));
    }

    [Theory]
    [InlineData("doneWithin", "never", "doneWithin", "\"PT0S\"")]
    [InlineData("rest", " 2 h ", "rest", "\"PT2H\"")]
    [InlineData("gather", "a while", "gather", "\"a while\"")]
    [InlineData("storm.alerts", "many", "storm", """{"alerts":"many","within":""}""")]
    [InlineData("doAtMost.within", "1 h", "doAtMost", """{"times":"","within":"PT1H"}""")]
    [InlineData("withdrawAt", "signed-for", "withdrawAt", """["signed-for"]""")]
    [InlineData("attach", "order.extra.manifest", "attach", """[{"file":"order.extra.manifest"}]""")]
    [InlineData("pullForward.asked", "true", "pullForward", "false")]
    [InlineData("mayOptOut.asked", "true", "mayOptOut", "false")]
    [InlineData("trial.asked", "true", "trial", null)]
    [InlineData("name", "x", "mayOptOut", null)]
    public void An_option_of_the_form_is_the_document_s_also_where_it_is_wrong(string field, string typed, string member, string? written)
    {
        var draft = RuleDraft.Read(new FormCollection(new Dictionary<string, StringValues> { [field] = typed }));
        Assert.Equal(written, draft.Document(null)[member]?.ToJsonString());
    }

    [Fact]
    public void An_option_shows_what_was_typed_or_says_it_in_words()
    {
        var draft = RuleDraft.From(RuleReader.Read(Options, yaml: true).Rule!);
        Assert.Equal(("2 min", "never", ""), (draft.Span("gather"), draft.Span("doneWithin"), draft.Span("rest")));
        Assert.Equal(
            ("9", "10 min", "5", "1 h"),
            (draft.Count("storm"), draft.Span("storm", "within"), draft.Count("doAtMost"), draft.Span("doAtMost", "within"))
        );
        Assert.Equal((false, true, true), (draft.Is("pullForward"), draft.Is("mayOptOut"), draft.Is("trial")));
        Assert.Equal([("shipping-note", "customer"), ("order.extra.manifest", "")], draft.Attach);
        draft.Do("drop-attach:0");
        draft.Do("attach");
        Assert.Equal([("order.extra.manifest", ""), ("shipping-note", "customer")], draft.Attach);
    }

    [Fact]
    public void A_form_with_cases_and_none_of_them_has_the_rule_s_own()
    {
        var draft = RuleDraft.Read(new FormCollection(new Dictionary<string, StringValues> { ["branches"] = "true" }));
        Assert.Single(draft.Cases);
        draft.Do("case");
        draft.Do("case");
        Assert.Equal(["first", "case 2", "otherwise"], draft.Cases.Select(c => c.Name));
    }

    // What no page makes but a caller may send.
    [Fact]
    public void Conditions_of_any_depth_are_a_mistake_in_the_document_and_no_fault()
    {
        var form = new Dictionary<string, StringValues>
        {
            ["name"] = "deep",
            ["k0.name"] = "always",
            ["k0.tell.0"] = "team:kitchen",
        };
        for (var (place, i) = ("c", 0); i < 300; (place, i) = (place + ".0", i + 1))
        {
            form[place + ".group"] = "all";
        }

        var text = RuleDraft.Read(new FormCollection(form)).Document(null).ToJsonString(new JsonSerializerOptions { WriteIndented = true });
        Assert.NotEmpty(RuleReader.Read(text, yaml: false).Errors);
    }

    [Theory]
    [InlineData("{ \"text\": \"a\", \"text\": \"b\" }")]
    [InlineData("{ \"text\": ")]
    [InlineData("{[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[")]
    [InlineData("{\"a\":[[[[[[[[[[[[[[[[1]]]]]]]]]]]]]]]]}")]
    public void What_is_typed_as_JSON_and_is_none_stays_a_text(string typed)
    {
        var form = new Dictionary<string, StringValues>
        {
            ["k0.name"] = "always",
            ["k0.do.kind"] = "note",
            ["k0.do.value"] = typed,
        };
        var draft = RuleDraft.Read(new FormCollection(form));
        Assert.Equal(typed.Trim(), draft.Cases[0].Acts[0].Value);
        Assert.Equal(typed.Trim(), (string)draft.Document(null)["do"]![0]!["note"]!);
    }

    private static string Sorted(JsonObject document, params string[] members) =>
        new JsonObject(members.Select(m => KeyValuePair.Create(m, document[m]?.DeepClone()))).ToJsonString();

    [Fact]
    public void Cases_steps_and_channels_are_added_moved_and_removed()
    {
        var draft = RuleDraft.Fresh();
        draft.Do("case");
        draft.Do("case");
        Assert.Equal(["first", "case 2", "otherwise"], draft.Cases.Select(c => c.Name));
        draft.Do("up:k1");
        draft.Do("step:k0");
        draft.Do("recipient:k0.s0");
        draft.Do("channel:k0");
        draft.Do("drop-channel:k0.0");
        draft.Do("add:k0.c");
        draft.Do("drop:k0.c.0");
        Assert.Equal(["case 2", "first", "otherwise"], draft.Cases.Select(c => c.Name));
        Assert.Equal((1, 2, 1), (draft.Cases[0].Ladder.Count, draft.Cases[0].Ladder[0].Tell.Count, draft.Cases[0].OnlyIf.Parts.Count));
        Assert.NotEqual("mail", Assert.Single(draft.Cases[0].By!.Channels));
        draft.Do("drop-step:k0.s0");
        draft.Do("drop-case:k0");
        draft.Do("drop-case:k0");
        draft.Do("join");
        Assert.Null(draft.Document(null)["cases"]);
        foreach (var nonsense in new[] { "drop:c.7", "drop-case:k9", "step:c", "channel:k0.s4", "up:x", "drop-recipient:k0.-1", "add:k3.c" })
        {
            draft.Do(nonsense);
        }
    }

    [Fact]
    public void Values_become_what_the_field_s_type_wants()
    {
        var draft = RuleDraft.Read(
            new FormCollection(
                new Dictionary<string, StringValues>
                {
                    ["c.group"] = "all",
                    ["k0.name"] = "always",
                    ["c.0.field"] = "order.until-due",
                    ["c.0.is"] = "less-than",
                    ["c.0.value"] = "24 h",
                    ["c.1.field"] = "order.extra.berth",
                    ["c.1.is"] = "one-of",
                    ["c.1.value"] = new[] { "N3", "S1" },
                    ["c.1.more"] = "A1; 7",
                    ["c.2.field"] = "order.risk.level",
                    ["c.2.is"] = "contains",
                    ["c.2.value"] = "high",
                    ["c.3.field"] = "order.total",
                    ["c.3.is"] = "between",
                    ["c.3.value"] = new[] { "1,000", "2500.50" },
                }
            )
        );
        Assert.Equal(
            """[{"field":"order.until-due","is":"less-than","value":"P1D"},{"field":"order.extra.berth","is":"one-of","value":["N3","S1","A1",7]},{"field":"order.risk.level","is":"equal","value":"high"},{"field":"order.total","is":"between","value":[1000,2500.50]}]""",
            draft.Document(null)["onlyIf"]!["all"]!.ToJsonString()
        );
    }

    // An amount that is a hundred times as much is a rule that tells nobody.
    [Theory]
    [InlineData("order.total", "9,99", "9.99")]
    [InlineData("order.total", "0,5", "0.5")]
    [InlineData("order.total", "1,284.50", "1284.50")]
    [InlineData("order.total", "1.284,50 eur", """{"amount":1284.50,"currency":"EUR"}""")]
    [InlineData("order.total", "1 500 EUR", """{"amount":1500,"currency":"EUR"}""")]
    [InlineData("order.total", "9,99 EUR", """{"amount":9.99,"currency":"EUR"}""")]
    [InlineData("order.total", "EUR 5", "\"EUR 5\"")]
    [InlineData("order.total", "five", "\"five\"")]
    [InlineData("order.extra.crew", "7", "7")]
    [InlineData("order.extra.crew", "1,284", "1284")]
    [InlineData("order.extra.crew", "1,5", "\"1,5\"")]
    [InlineData("order.extra.crew", "\"7\"", "\"7\"")]
    public void A_number_is_read_with_the_comma_or_the_point_that_was_typed(string field, string typed, string value)
    {
        var draft = RuleDraft.Read(
            new FormCollection(
                new Dictionary<string, StringValues>
                {
                    ["c.group"] = "all",
                    ["k0.name"] = "always",
                    ["c.0.field"] = field,
                    ["c.0.is"] = "equal",
                    ["c.0.value"] = typed,
                }
            )
        );
        Assert.Equal(value, draft.Document(null)["onlyIf"]!["value"]!.ToJsonString());
    }

    [Fact]
    public void Values_of_a_document_are_shown_as_they_are_typed()
    {
        static string[] Of(DraftCondition condition) =>
            [.. condition.Parts.Select(p => p.Group is null ? string.Join(" | ", p.Values) : $"[{string.Join("; ", Of(p))}]")];
        RuleDraft Draft(string document) => RuleDraft.From(RuleReader.Read(document, yaml: true).Rule!);
        Assert.Equal(["500 | 900.5", "5 USD", "[web | desk; true; ]"], Of(Draft(Whole).OnlyIf));
        Assert.Equal(["1 d 2 h", "N3 | \"5\" | 5", "We"], Of(Draft(Branches).OnlyIf));
        Assert.Equal(["high"], Of(Draft(Branches).Cases[0].OnlyIf));
    }

    [Theory]
    [InlineData("5", "PT5M")]
    [InlineData("1 h 30 min", "PT1H30M")]
    [InlineData("2 days", "P2D")]
    [InlineData("90s", "PT1M30S")]
    [InlineData("PT45M", "PT45M")]
    [InlineData("soon", "soon")]
    public void A_length_of_time_is_read_as_it_is_said(string typed, string iso) => Assert.Equal(iso, RuleDraft.Span(typed));

    [Theory]
    [InlineData("onlyIf.all[0].any[1].value", "c.0.1")]
    [InlineData("onlyIf.all[2].is", "c.2")]
    [InlineData("onlyIf.all[2].value[1]", "c.2")]
    [InlineData("tell[0].person", "k0.tell")]
    [InlineData("cases[1].onlyIf.any[2].field", "k1.c.2")]
    [InlineData("cases[0].ladder[3].tell[1].team", "k0.s3.tell")]
    [InlineData("ladder[1].after", "k0.s1.after")]
    [InlineData("cases[2]", "k2")]
    [InlineData("by.allAtOnce[0]", "k0.by")]
    [InlineData("rest", "rest")]
    public void A_mistake_in_the_document_finds_its_place_in_the_form(string path, string place) => Assert.Equal(place, DraftPlaces.Of(path));
}
