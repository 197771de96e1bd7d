using System.Net;
using CsCheck;
using Sirena.Core.Wordings;
using Stubble.Core.Builders;

namespace Sirena.Core.Tests.Wordings;

public class MessageWriterTests
{
    // A small world of names: texts, lists of maps, and maps in maps.
    private static readonly Dictionary<string, object> World = new()
    {
        ["a"] = "first",
        ["b"] = "",
        ["c"] = new Dictionary<string, object>
        {
            ["a"] = "inner",
            ["d"] = new Dictionary<string, object> { ["e"] = "deep" },
        },
        ["l"] = new List<object>
        {
            new Dictionary<string, object> { ["a"] = "one", ["n"] = "1" },
            new Dictionary<string, object> { ["n"] = "2" },
        },
        ["t"] = new List<object> { "x", "y" },
        ["z"] = new List<object>(),
    };

    private static TextValue Of(object value) =>
        value switch
        {
            Dictionary<string, object> map => new TextMap(name => map.TryGetValue(name, out var part) ? Of(part) : null),
            List<object> list => new TextList([.. list.Select(Of)]),
            _ => new PlainValue((string)value),
        };

    private static string Write(string text, ValueForm form = ValueForm.Text) =>
        MessageWriter.Write(ParsedText.Of(text), name => World.TryGetValue(name, out var value) ? Of(value) : null, form);

    [Theory]
    [InlineData("{{a}} {{c.a}} {{c.d.e}} {{nothing}}|", "first inner deep |")]
    [InlineData("{{#c}}{{a}} {{d.e}}{{/c}}", "inner deep")]
    [InlineData("{{#l}}{{n}}{{a}};{{/l}}", "1one;2first;")]
    [InlineData("{{#t}}<{{.}}>{{/t}}", "<x><y>")]
    [InlineData("{{#b}}shown{{/b}}{{^b}}hidden{{/b}}", "hidden")]
    [InlineData("{{#z}}some{{/z}}{{^z}}none{{/z}}", "none")]
    [InlineData("begin\n{{#a}}\nline\n{{/a}}\nend", "begin\nline\nend")]
    [InlineData("{{! a remark }}x", "x")]
    [InlineData("", "")]
    public void Fields_sections_and_inverted_sections_are_written_as_the_specification_says(string text, string written) => Assert.Equal(written, Write(text));

    private static Gen<string> Texts(int depth)
    {
        var leaf = Gen.OneOf(Build.AnyOf("a", "b", "c.a", "c.d.e", "n", "q", "l.n").Select(n => $"{{{{{n}}}}}"), Build.AnyOf(" words ", "\n", "x", "é", "  "));
        if (depth == 0)
        {
            return leaf;
        }

        var section = Gen.Select(Build.AnyOf("a", "b", "c", "c.d", "l", "z", "q"), Build.AnyOf('#', '^'), Texts(depth - 1).Array[0, 3])
            .Select((name, kind, inside) => $"{{{{{kind}{name}}}}}{string.Concat(inside)}{{{{/{name}}}}}");
        return Gen.OneOf(leaf, section, leaf);
    }

    [Fact]
    public void It_agrees_with_a_general_renderer_on_any_text()
    {
        var general = new StubbleBuilder().Configure(c => c.SetIgnoreCaseOnKeyLookup(false)).Build();
        Texts(3)
            .Array[0, 5]
            .Select(t => string.Concat(t))
            .Sample(
                text => Assert.Equal(general.Render(text, World, new Stubble.Core.Settings.RenderSettings { SkipHtmlEncoding = true }), Write(text)),
                iter: 3_000
            );
    }

    [Fact]
    public void A_value_in_HTML_is_only_ever_text() =>
        Gen.OneOf(Gen.String, Gen.Char["<>&\"'ab "].Array.Select(c => new string(c)))
            .Sample(value =>
            {
                var written = MessageWriter.Write(ParsedText.Of("<p>{{v}}</p>"), _ => new PlainValue(FieldValue.Clean(value)), ValueForm.Html)[3..^4];
                Assert.DoesNotContain('<', written);
                Assert.DoesNotContain('"', written);
                Assert.Equal(FieldValue.Clean(value), WebUtility.HtmlDecode(written));
            });

    [Fact]
    public void A_text_that_repeats_without_measure_is_cut_off_with_a_sentence()
    {
        var many = new TextList([.. Enumerable.Range(0, 60).Select(_ => new PlainValue("x"))]);
        var nested = string.Concat(Enumerable.Repeat("{{#m}}", 6)) + string.Concat(Enumerable.Repeat("{{/m}}", 6));
        var watch = System.Diagnostics.Stopwatch.StartNew();
        Assert.Equal(MessageWriter.TooMuch, MessageWriter.Write(ParsedText.Of(nested), name => name == "m" ? many : null, ValueForm.Text));
        Assert.True(watch.Elapsed < TimeSpan.FromSeconds(10), $"{watch.Elapsed}");
    }

    // A piece and a section entered are one each: two of the text and two of each item are 100,000 for 49,999 items, and two too many for one more.
    [Theory]
    [InlineData(49_999, false)]
    [InlineData(50_000, true)]
    public void What_is_counted_may_be_spent_to_the_last(int items, bool cut)
    {
        var many = new TextList([.. Enumerable.Repeat(new PlainValue("x"), items)]);
        var written = MessageWriter.Write(ParsedText.Of("{{#m}}x{{/m}}y"), name => name == "m" ? many : null, ValueForm.Text);
        Assert.Equal(cut, written.EndsWith(MessageWriter.TooMuch, StringComparison.Ordinal));
        Assert.Equal(!cut, written.EndsWith('y'));
    }

    [Theory]
    [InlineData("{{#a}}", 5_400, "{{/a}}")]
    [InlineData("{{#a}}", 10_900, "")]
    [InlineData("{{/a}}", 10_900, "")]
    [InlineData("{{", 32_000, "")]
    [InlineData("{{a}}", 13_000, "")]
    [InlineData("{{#a}}{{/b}}", 5_400, "")]
    public void A_text_of_nothing_but_braces_is_read_in_no_time(string open, int times, string close)
    {
        var watch = System.Diagnostics.Stopwatch.StartNew();
        _ = ParsedText.Of(string.Concat(Enumerable.Repeat(open, times)) + string.Concat(Enumerable.Repeat(close, times))).Mistakes;
        Assert.True(watch.Elapsed < TimeSpan.FromSeconds(10), $"{watch.Elapsed}");
    }

    [Fact]
    public void A_text_that_grows_without_measure_is_cut_off_with_a_mark()
    {
        var many = new TextList([.. Enumerable.Range(0, 2_000).Select(_ => new PlainValue(new string('x', 400)))]);
        var written = MessageWriter.Write(ParsedText.Of("{{#m}}{{.}}{{/m}}"), _ => many, ValueForm.Text);
        Assert.Equal(MessageWriter.MostOutput + 1, written.Length);
        Assert.EndsWith("…", written);
    }

    [Fact]
    public void A_cleaned_text_has_no_control_characters_and_no_half_characters_and_stays_as_it_is_when_cleaned_again() =>
        Gen.String.Sample(text =>
        {
            var clean = FieldValue.Clean(text);
            Assert.DoesNotContain(clean, c => char.IsControl(c) && c != '\n');
            Assert.Equal(clean, FieldValue.Clean(clean));
            Assert.Equal(clean, System.Text.Encoding.UTF8.GetString(System.Text.Encoding.UTF8.GetBytes(clean)));
        });

    [Theory]
    [InlineData("MV *Corvane*", @"MV \*Corvane\*")]
    [InlineData("[pay here](https://bad.example)", @"\[pay here\](https://bad.example)")]
    [InlineData("<!channel> `x` ~y~", @"\<!channel\> \`x\` \~y\~")]
    [InlineData(@"\*not escaped\*", @"\\\*not escaped\\\*")]
    [InlineData("_under_ and GAL_0031_B", @"\_under\_ and GAL_0031_B")]
    [InlineData("@here and @Channel, @bram.osei, @channels", "@\u2060here and @\u2060Channel, @bram.osei, @channels")]
    [InlineData("https://sirena.example/a/x-_y_?q=1&r=2", "https://sirena.example/a/x-_y_?q=1&r=2")]
    public void What_a_value_says_is_no_markup_in_team_chat(string value, string written) =>
        Assert.Equal($"*{written}*", MessageWriter.Write(ParsedText.Of("*{{v}}*"), _ => new PlainValue(value), ValueForm.Chat));

    [Theory]
    [InlineData(ValueForm.Line, "MV Corvane Total: 0")]
    [InlineData(ValueForm.Text, "MV Corvane\r\nTotal: 0")]
    public void A_value_brings_no_line_break_into_a_short_text(ValueForm form, string written) =>
        Assert.Equal(written, MessageWriter.Write(ParsedText.Of("{{v}}"), _ => new PlainValue("MV Corvane\r\nTotal: 0"), form));
}
