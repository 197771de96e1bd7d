using Sirena.Core.People;
using Sirena.Core.Wordings;

namespace Sirena.Core.Tests.Wordings;

/// <summary>Texts with every kind of mistake at many places: what is said of each, where, and over how many characters, as it was found good.</summary>
public sealed class MistakesSweepTests
{
    private static readonly string[] Paths =
    [
        "order.number",
        "order.hold.reason",
        "order.risk.reasons",
        "order.lines",
        "order.lines.now",
        "order.extra.berth",
        "order.extra.cost",
        "note.text",
        "note.public",
        "alert.rule",
        "alert.also",
        "answer.link",
        "links.order",
        "links.why",
        "gateway.error",
        "event.what",
        "facts",
        "title",
        "level",
        "nothing",
        ".",
    ];

    // What a path can stand behind, in braces; in a shape it stands for the hash.
    private static readonly string[] Kinds = ["", "#", "&", "> ", "^", "/"];

    private static readonly string[] Shapes =
    [
        "{{#}}",
        "a\nb {{{#}}} c",
        "{{&#}}",
        "{{> #}}",
        "ab{{##}}",
        "ab{{##}} {{^#}}",
        "\n\n{{^#}}x",
        "x\n {{/#}} y",
        "{{##}}x{{/other}}",
        "{{#order.lines}}\n{{##}}x{{/order.lines}}{{/#}}",
        "a {{^order.lines}}{{##}}x{{/order.lines}}",
        "{{##}}{{.}} {{title}} {{level}}{{/#}}",
        "{{^#}}{{.}}{{/#}}",
        "{{#order.risk}}{{#}}{{/order.risk}}",
        "<a href=\"{{#}}\">x</a>",
        "<a title='x' href='https://a.example/{{#}}'>{{#}}</a>",
        "<p>{{#}}",
        "{{#}} {{",
        "{{#}} {{ }} {{! {{#}} }}",
    ];

    [Fact]
    public void Every_mistake_is_said_where_it_stands()
    {
        var told =
            from shape in Shapes
            from path in Paths
            let text = Kinds.Aggregate(shape, (t, kind) => t.Replace($"{{{{{kind}#}}}}", $"{{{{{kind}{path}}}}}", StringComparison.Ordinal))
            from said in Enum.GetValues<Audience>()
                .Select(a => (Audience: a, Said: Said(WordingCheck.Of(text, a, html: shape.Contains('<', StringComparison.Ordinal)))))
                .GroupBy(s => s.Said, s => s.Audience)
            select $"{string.Join(' ', said)}: {text.Replace("\n", "\\n", StringComparison.Ordinal)}: {said.Key}";
        Kept.Same("mistakes", told);
    }

    private static string Said(IReadOnlyList<TextMistake> mistakes) =>
        mistakes.Count == 0 ? "good" : string.Join(" | ", mistakes.Select(m => $"{m.Line}:{m.Column}+{m.Length} {m.Problem}"));

    [Fact]
    public void What_a_text_names_is_told_with_the_lines_it_stands_in() =>
        Assert.Equal(
            ["order.lines", "order.lines.title", "order.number", "order.lines.now", "order.lines.now.now", "order.risk.reasons", "."],
            WordingCheck.Used(
                "{{#order.lines}}{{title}}{{order.number}}{{.}}{{#order.lines.now}}{{now}}{{/order.lines.now}}{{/order.lines}}"
                    + "{{#order.risk.reasons}}{{.}}{{/order.risk.reasons}}{{.}}"
            )
        );
}
