using Sirena.Core.Orders.Fields;
using Sirena.Core.Rules;
using static Sirena.Core.Tests.Build;

namespace Sirena.Core.Tests.Rules;

/// <summary>
/// Every field asked by every operator with values of every kind, of orders that have it, lack it, or have something else there; the answers are kept as they
/// were found good. A line says a field and an operator, then each value that is taken with its answers: + for yes, - for no, ! for what cannot be compared; the
/// line below says in words what was asked with the first of them, and what was there.
/// </summary>
public sealed class QuestionSweepTests
{
    private static readonly string[] Values =
    [
        "0",
        "2",
        "12.5",
        "\"12.5\"",
        "\"20 GBP\"",
        "\"high\"",
        "\"Póvoa\"",
        "\"a\"",
        "true",
        "\"PT2H\"",
        "\"P1D\"",
        "\"2026-11-24T12:00:00Z\"",
        "\"17:30\"",
        "\"monday\"",
        "[\"a\",\"b\"]",
        "[\"high\",\"low\"]",
        "[0,12.5]",
        "[\"PT0S\",\"PT2H\"]",
        "[\"2026-11-24T10:00:00Z\",\"2026-11-24T14:00:00Z\"]",
        "[\"08:00\",\"17:30\"]",
        "[\"tuesday\",\"friday\"]",
        "[true]",
        """{"field":"order.total"}""",
        """{"field":"order.placedAt"}""",
        """{"field":"order.customer.code"}""",
    ];

    private static readonly Facts[] Asked =
    [
        Facts("{}"),
        Facts(
            """{"number":"AQ-1","status":"placed","total":12.5,"currency":"EUR","via":"a","site":"povoa","tags":["a","b"],"placedAt":"2026-11-24T10:00:00Z","dueAt":"2026-11-24T14:00:00Z","customer":{"name":"Póvoa","code":"a","group":"high","tags":["b"],"email":"a@b.example","language":"pt"},"risk":{"level":"high","score":2},"payment":{"method":"a","state":"paid"},"hold":{"reason":"a","since":"2026-11-24T12:00:00Z"},"salesperson":"a","extra":{"berth":12.5,"deep":{"x":"a"}},"lines":[{"sku":"a","title":"Póvoa","quantity":2,"unitPrice":12.5,"site":"a","shipped":0,"tags":["a"]},{"sku":"b","quantity":12.5,"unitPrice":2,"shipped":2}]}""",
            """{"status":"held","total":2,"currency":"EUR","via":"b","dueAt":"2026-11-24T13:00:00Z","risk":{"level":"low","score":2},"lines":[{"sku":"a","quantity":1}]}"""
        ),
        Facts(
            """{"status":"PLACED","total":0,"currency":"GBP","via":"POVOA A","tags":[],"dueAt":"2026-11-24T12:00:00Z","customer":{"name":"povoa quay","group":"LOW"},"risk":{"level":"medium","score":12.5},"extra":{"berth":"12.5"},"lines":[{"sku":"A","quantity":0,"unitPrice":0}]}""",
            """{"status":"PLACED","total":0,"currency":"GBP"}""",
            time: Noon
        ),
        Facts(
            """{"status":7,"total":"12.5","currency":5,"via":null,"tags":"a","dueAt":"soon","customer":"a","risk":{"level":9,"score":"2"},"extra":{"berth":true},"lines":"none"}"""
        ),
        Facts(
            """{"total":20,"currency":"GBP","placedAt":"2026-11-22T12:00:00Z","dueAt":"2026-11-25T12:00:00Z","lines":[{"sku":"a","quantity":2,"shipped":2,"site":"b"},{"sku":"a","quantity":12.5,"unitPrice":0,"tags":["b","a"]},{"quantity":"x"}]}""",
            """{"total":20,"currency":"EUR","lines":[]}""",
            """{"reason":"a","note":{"text":"a Póvoa","by":"a"},"from":"placed","to":"held"}""",
            "order.status-changed",
            NodaTime.Instant.FromUtc(2026, 11, 27, 17, 30)
        ),
    ];

    private static readonly RuleSentence Sentence = new(id => id);

    private static IEnumerable<string> Lines()
    {
        foreach (var field in FieldCatalogue.All.Select(f => f.Path).Append("order.extra.berth").Append("event.extra.x"))
        {
            foreach (var op in Enum.GetValues<Operator>())
            {
                var (taken, said) = (new List<string>(), new List<string>());
                foreach (var (value, exactly) in Values.SelectMany(v => new (string? Value, bool Exactly)[] { (v, false), (v, true) }).Prepend((null, false)))
                {
                    var leaf = Leaf(field, op.Name(), value, exactly);
                    if (Question.TryMake(leaf, out var question) is not null)
                    {
                        continue;
                    }

                    if (said.Count == 0)
                    {
                        said.AddRange(Asked.Select(f => question!.Explain(f, null)).Select(t => $"{Sentence.Of(t)} – {Sentence.Met(t)}").Distinct());
                    }

                    var answers = string.Concat(
                        Asked.Select(f =>
                            question!.Holds(f, out var problem) ? '+'
                            : problem is null ? '-'
                            : '!'
                        )
                    );
                    if (!exactly || taken.Count == 0 || !taken[^1].EndsWith(answers, StringComparison.Ordinal))
                    {
                        taken.Add($"{value}{(exactly ? " exactly" : "")} {answers}".Trim());
                    }
                }

                if (taken.Count > 0)
                {
                    yield return $"{field} {op.Name()}: {string.Join(" | ", taken)}\n  {string.Join("; ", said)}";
                }
            }
        }
    }

    [Fact]
    public void Every_field_answers_every_operator_as_it_did() => Kept.Same("questions", Lines());
}
