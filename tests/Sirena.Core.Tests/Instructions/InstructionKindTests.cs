using System.Text.Json.Nodes;
using NodaTime;
using Sirena.Core.Instructions;
using Sirena.Core.Orders;
using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using Sirena.Formats.Documents;
using Sirena.Formats.Rules;

namespace Sirena.Core.Tests.Instructions;

/// <summary>The kinds: each is shown by the event that it imagines and by no other, and reads back as it was written.</summary>
public sealed class InstructionKindTests
{
    private static readonly Status[] Statuses =
    [
        new()
        {
            Id = "received",
            Name = "Received",
            Mark = "a",
            Position = 1,
        },
        new()
        {
            Id = "picking",
            Name = "Picking",
            Mark = "a",
            Position = 2,
            Follows = ["alongside"],
        },
        new()
        {
            Id = "alongside",
            Name = "Alongside",
            Mark = "a",
            Position = 3,
        },
        new()
        {
            Id = "cancelled",
            Name = "Cancelled",
            Mark = "a",
            Position = 4,
            Kind = StatusKind.Void,
        },
    ];

    private static readonly Dictionary<string, string> With = new()
    {
        ["hold"] = """{ "reason": "limit" }""",
        ["status"] = """{ "to": "picking" }""",
        ["tag"] = """{ "add": ["ice"], "remove": ["old"] }""",
        ["note"] = """{ "text": "mind the step" }""",
        ["assign"] = """{ "salesperson": "ines.calder" }""",
        ["intake"] = """{ "state": "closed", "until": "2026-11-24T14:30:00Z" }""",
    };

    public static TheoryData<string> Names => [.. InstructionKinds.Names];

    private static InstructionSight Sight(string type, JsonObject order, JsonObject? beside = null)
    {
        var data = beside?.DeepClone().AsObject() ?? [];
        data["order"] = order.DeepClone();
        return new InstructionSight(
            new Facts(
                new OrderEvent
                {
                    EventId = "e",
                    Source = "/s",
                    Type = type,
                    Data = data.ToJsonString(),
                    OrderAfter = order.ToJsonString(),
                },
                DateTimeZone.Utc,
                "EUR"
            ),
            Statuses
        );
    }

    private static (JsonObject Before, JsonObject With) Case(string name) =>
        (
            (JsonObject)
                JsonNode.Parse(
                    name == "release"
                        ? """{ "number": "1", "status": "received", "tags": ["old"], "hold": { "reason": "x" } }"""
                        : """{ "number": "1", "status": "received", "tags": ["old"] }"""
                )!,
            (JsonObject)JsonNode.Parse(With.GetValueOrDefault(name, "{}"))!
        );

    [Theory]
    [MemberData(nameof(Names))]
    public void The_event_that_is_imagined_shows_it_and_the_order_before_did_not(string name)
    {
        var kind = InstructionKinds.Find(name)!;
        var (before, with) = Case(name);
        var sight = Sight("order.placed", before);
        Assert.False(kind.Shown(sight, with));
        Assert.Null(kind.NotNow(sight));
        var (type, change, beside) = kind.Imagine(sight, with);
        var after = OrderState.First(before, Instant.FromUtc(2026, 11, 24, 8, 0)).Merge(change, Instant.FromUtc(2026, 11, 24, 9, 0)).Document;
        Assert.True(kind.Shown(Sight(type, after, beside), with));
        Assert.Contains(type, EventTypes.All);
        Assert.NotEmpty(kind.Clause(with, id => id));
    }

    [Theory]
    [InlineData("release", """{"reason":"paid"}""", "release the order")]
    [InlineData("hold", "{}", "hold the order")]
    [InlineData("hold", """{"reason":""}""", "hold the order")]
    [InlineData("hold", """{"reason":"x"}""", "hold the order because 'x'")]
    [InlineData("status", """{"to":"picking"}""", "move the order to <picking>")]
    [InlineData("status", "{}", "move the order to <>")]
    [InlineData("capture", "{}", "capture the payment")]
    [InlineData("refund", "{}", "refund all of it")]
    [InlineData("refund", """{"amount":12.5,"reason":"late"}""", "refund 12.5 because 'late'")]
    [InlineData("tag", """{"add":["a"]}""", "tag the order 'a'")]
    [InlineData("tag", """{"add":["a","b"],"of":"order"}""", "tag the order 'a', 'b'")]
    [InlineData("tag", """{"remove":["a"],"of":"customer"}""", "take the tag 'a' off the customer")]
    [InlineData("tag", """{"add":["a"],"remove":["b"],"of":"customer"}""", "tag the customer 'a' and take the tag 'b' off the customer")]
    [InlineData("tag", """{"add":["a"],"remove":["b","c"]}""", "tag the order 'a' and take the tags 'b', 'c' off the order")]
    [InlineData("tag", """{"add":[],"remove":[]}""", "")]
    [InlineData("note", """{"text":"ice"}""", "write the note 'ice'")]
    [InlineData("note", """{"text":"ice","visibleToCustomer":true}""", "write the note 'ice' for the customer")]
    [InlineData("note", """{"text":"ice","visibleToCustomer":false}""", "write the note 'ice'")]
    [InlineData("assign", """{"salesperson":"ines"}""", "give the order to <ines>")]
    [InlineData("cancel", "{}", "cancel the order")]
    [InlineData("cancel", """{"putBack":true,"reason":"x"}""", "cancel the order and put the goods back because 'x'")]
    [InlineData("cancel", """{"putBack":"yes"}""", "cancel the order")]
    public void What_is_asked_is_said_with_what_was_given_and_no_more(string name, string with, string said) =>
        Assert.Equal(said, InstructionKinds.Find(name)!.Clause(Build.Json(with), id => $"<{id}>"));

    [Theory]
    [MemberData(nameof(Names))]
    public void A_rule_with_it_reads_back_as_it_was_written_and_says_it(string name)
    {
        var ask = With.TryGetValue(name, out var with) ? $$"""{ "{{name}}": {{with}} }""" : $"\"{name}\"";
        var known = new KnownNames(
            [],
            [],
            [.. Statuses.Select(s => s.Id)],
            new Dictionary<string, System.Collections.Immutable.ImmutableArray<Core.Ladders.LadderStep>>()
        )
        {
            Instructions = InstructionKinds.All.ToDictionary(k => k.Name),
        };
        var (rule, errors) = RuleReader.Read(
            $$"""{ "name": "x", "when": ["order.placed"], "tell": [], "do": [ {{ask}} ], "onAnswer": { "done": [ {{ask}} ] }, "offer": [ {{ask}} ], "ladder": [ { "after": "PT5M", "do": [ {{ask}} ] } ], "doAtMost": { "times": 5, "within": "PT1H" }, "trial": true }""",
            yaml: false,
            known with
            {
                People = ["ines.calder"],
            }
        );
        Assert.Empty(errors);
        var written = RuleWriter.Write(rule!).ToJsonString();
        var again = RuleReader.Read(written, yaml: false, known with { People = ["ines.calder"] }).Rule!;
        Assert.Equal(written, RuleWriter.Write(again).ToJsonString());
        var sentence = new RuleSentence(id => id).Of(rule!);
        var clause = InstructionKinds.Find(name)!.Clause(rule!.Cases[0].Do[0].Members, id => id);
        Assert.Equal(4, sentence.Split(clause).Length - 1);
        Assert.Contains("For now it only says what it would have done", sentence);
        Assert.NotEmpty(
            new RuleDifference(new RuleSentence(id => id)).Between(
                rule with
                {
                    Trial = false,
                    DoAtMost = null,
                    Cases = [rule.Cases[0] with { Do = [], Offer = [], OnAnswer = [] }],
                },
                rule
            )
        );
    }

    [Theory]
    [InlineData("""[ { "hold": { "reason": "x", "extra": 1 } } ]""", "do[0].hold.extra")]
    [InlineData("""[ { "hodl": {} } ]""", "do[0]")]
    [InlineData("""[ { "hold": {}, "release": {} } ]""", "do[0]")]
    [InlineData("""[ { "status": "nowhere" } ]""", "do[0].status.to")]
    [InlineData("""[ { "status": {} } ]""", "do[0].status.to")]
    [InlineData("""[ { "refund": { "amount": -3 } } ]""", "do[0].refund.amount")]
    [InlineData("""[ { "tag": {} } ]""", "do[0].tag")]
    [InlineData("""[ { "cancel": { "putBack": "yes" } } ]""", "do[0].cancel.putBack")]
    [InlineData("""[ { "note": "{{order.nope}}" } ]""", "do[0].note.text")]
    [InlineData("""[ { "assign": "nobody.here" } ]""", "do[0].assign.salesperson")]
    [InlineData("""[ { "intake": { "state": "ajar" } } ]""", "do[0].intake.state")]
    [InlineData("""[ { "capture": [1] } ]""", "do[0].capture")]
    [InlineData("[ 5 ]", "do[0]")]
    public void A_mistake_is_named_at_its_place(string list, string path)
    {
        var known = new KnownNames(
            ["ines.calder"],
            [],
            [.. Statuses.Select(s => s.Id)],
            new Dictionary<string, System.Collections.Immutable.ImmutableArray<Core.Ladders.LadderStep>>()
        )
        {
            Instructions = InstructionKinds.All.ToDictionary(k => k.Name),
        };
        var (rule, errors) = RuleReader.Read($$"""{ "name": "x", "when": ["order.placed"], "do": {{list}} }""", yaml: false, known);
        Assert.Null(rule);
        Assert.Contains(path, errors.Select(e => e.Path));
        Assert.All(errors, e => Assert.Matches("[.?]$", e.Problem));
    }

    [Theory]
    [InlineData("hold", "{}", "release", "{}", true)]
    [InlineData("status", """{ "to": "a" }""", "status", """{ "to": "b" }""", true)]
    [InlineData("status", """{ "to": "a" }""", "status", """{ "to": "a" }""", false)]
    [InlineData("cancel", "{}", "status", """{ "to": "a" }""", true)]
    [InlineData("tag", """{ "add": ["x"] }""", "tag", """{ "remove": ["x"] }""", true)]
    [InlineData("tag", """{ "add": ["x"] }""", "tag", """{ "remove": ["x"], "of": "customer" }""", false)]
    [InlineData("hold", "{}", "note", "{}", false)]
    public void Opposites_are_known_from_both_sides(string a, string withA, string b, string withB, bool opposite)
    {
        var (x, y) = ((a, (JsonObject)JsonNode.Parse(withA)!), (b, (JsonObject)JsonNode.Parse(withB)!));
        Assert.Equal((opposite, opposite), (InstructionKinds.Opposite(x, y), InstructionKinds.Opposite(y, x)));
    }

    [Fact]
    public void A_status_says_what_may_follow_it()
    {
        Assert.Equal(
            [null, "Received does not follow Picking", "Cancelled cannot be left", null],
            new[] { Statuses[0].WhyNot(Statuses[1]), Statuses[1].WhyNot(Statuses[0]), Statuses[3].WhyNot(Statuses[0]), Statuses[1].WhyNot(Statuses[1]) }
        );
    }
}
