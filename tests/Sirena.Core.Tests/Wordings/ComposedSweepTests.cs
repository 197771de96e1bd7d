using System.Text.RegularExpressions;
using NodaTime;
using Sirena.Core.Deliveries;
using Sirena.Core.Orders;
using Sirena.Core.People;
using Sirena.Core.Wordings;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Wordings;

/// <summary>What is written beside a wording's own words, for each reader and from orders that have much or little, kept as it was found good.</summary>
public sealed partial class ComposedSweepTests
{
    private static readonly string[] Orders =
    [
        "{}",
        """{"number":"7","status":"x","hold":{"reason":"y"},"risk":{"level":"z"},"extra":{"vessel":"V","berth":""}}""",
        """{"number":"AQ-1","status":"loaded","currency":"EUR","total":12.5,"hold":{"reason":""},"risk":{"level":""},"extra":{"berth":"N3 & N4"},"lines":[{"sku":"A","title":"Pie <b>","quantity":3,"shipped":1},{"sku":"B","quantity":1}]}""",
    ];

    private static readonly string[] Types = [EventTypes.StatusChanged, "order.held", "order.risk-flagged", "order.note-added", "order.shipped", "stock.low"];

    private static readonly (string Name, WordingParts Parts)[] Wordings =
    [
        ("no words", new WordingParts()),
        (
            "facts",
            new WordingParts
            {
                Subject = "{{event.what}}",
                Text = "{{recipient.name}}: {{event.name}}\n{{facts}}",
                Facts = [new Fact("Status", "order.status", Labelled: true), new Fact("Own", OwnField.All, Labelled: true), new Fact("Rule", "alert.rule")],
            }
        ),
        (
            "own page",
            new WordingParts
            {
                Subject = "{{order.number}}",
                Text = "{{#facts}}see {{links.why}} {{links.settings}}{{/facts}}",
                Html = "<p>{{event.what}} {{order.status}} {{order.lines.table}}</p>{{facts}}<p>{{next.who}} {{next.at.time}} {{answer.code}}</p>",
                Facts = [new Fact("Berth", "order.extra.berth", Labelled: true)],
            }
        ),
        ("answers", new WordingParts { Sms = "{{#answer}}{{answer.link}}{{/answer}}{{^answer}}no{{/answer}} {{alert.also}} {{alert.case}} {{alert.because}}" }),
    ];

    private static IEnumerable<(string Name, MessageFacts About)> Readers(string order, string type)
    {
        var facts = Facts(order, data: """{"note":{"text":"w"},"alert":{"ruleName":"Its rule","personName":"Odile"}}""", type: type);
        foreach (var audience in Enum.GetValues<Audience>())
        {
            var bare = ComposerTests.About(audience: audience, facts: facts) with { Answer = null, Rule = "" };
            yield return ($"{audience}", bare);
            yield return ($"{audience} who has a page", bare with { Reader = "Ines", ReaderId = "ines", Others = ["One", "Two"], Rule = "A rule" });
            yield return (
                $"{audience} who is chased",
                bare with
                {
                    ReaderId = "ines",
                    Delivery = new Guid("01890000-0000-7000-8000-000000000001"),
                    Answer = new AnswerWays("https://sirena.example/a/k", "2761"),
                    Next = ("Maren", Noon + Duration.FromMinutes(25)),
                    Case = "high",
                    Branding = new Branding("#12343B", "Quay road 1", "", null),
                }
            );
            yield return ($"{audience}, a delivery of nobody", bare with { Delivery = new Guid("01890000-0000-7000-8000-000000000001") });
        }
    }

    [Fact]
    public void Every_reader_reads_what_was_found_good()
    {
        var told = new List<string>();
        foreach (var (name, parts) in Wordings)
        {
            foreach (var order in Orders)
            {
                foreach (var type in name == "no words" ? Types : Types[1..2])
                {
                    told.Add($"== {name}, {type} of {order}");
                    told.AddRange(
                        Readers(order, type)
                            .Where(r => type == Types[1] || r.About.ReaderId is null)
                            .SelectMany(r => Said(r.Name, new Composer(r.About), parts))
                    );
                }
            }
        }

        Kept.Same("composed", told);
    }

    private static IEnumerable<string> Said(string reader, Composer composer, WordingParts parts)
    {
        var said = Enum.GetValues<Channel>().Select(c => (Channel: c, Text: composer.For(c, parts))).ToArray();
        foreach (var same in said.GroupBy(s => s.Text.Text))
        {
            yield return $"{reader}, {string.Join(' ', same.Select(s => s.Channel))}: [{same.First().Text.Subject}] {OneLine(same.Key)}";
        }

        yield return $"{reader}, page: {OneLine(Looks().Replace(Body().Match(said[0].Text.Html!).Value, ""))}";
    }

    private static string OneLine(string text) => text.ReplaceLineEndings("\\n");

    [GeneratedRegex("(?s)(?<=</h1>).*(?=</body>)")]
    private static partial Regex Body();

    [GeneratedRegex(" style=\"[^\"]*\"")]
    private static partial Regex Looks();
}
