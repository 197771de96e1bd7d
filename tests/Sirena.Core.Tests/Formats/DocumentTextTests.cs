using System.Text.Json;
using System.Text.Json.Nodes;
using CsCheck;
using Sirena.Formats.Documents;

namespace Sirena.Core.Tests.Formats;

public class DocumentTextTests
{
    private static Node Read(string text, bool yaml = true)
    {
        var (node, error) = DocumentText.Read(text, yaml);
        Assert.Null(error);
        return node!;
    }

    private static DocumentError Wrong(string text, bool yaml = true)
    {
        var (node, error) = DocumentText.Read(text, yaml);
        Assert.Null(node);
        return error!;
    }

    private static JsonNode? Json(Node node) =>
        node switch
        {
            MapNode map => new JsonObject(map.Members.Select(m => KeyValuePair.Create(m.Name, Json(m.Value)))),
            ListNode list => new JsonArray([.. list.Items.Select(Json)]),
            ScalarNode scalar => JsonNode.Parse(scalar.Value.GetRawText()),
            _ => throw new InvalidOperationException(),
        };

    [Theory]
    [InlineData("true", "true")]
    [InlineData("~", "null")]
    [InlineData("", "null")]
    [InlineData("12", "12")]
    [InlineData("-1.50", "-1.50")]
    [InlineData("007", "7")]
    [InlineData("'12'", "\"12\"")]
    [InlineData("\"true\"", "\"true\"")]
    [InlineData("yes", "\"yes\"")]
    [InlineData("22:00", "\"22:00\"")]
    [InlineData("AQ-1", "\"AQ-1\"")]
    [InlineData("2026-11-24", "\"2026-11-24\"")]
    [InlineData("+447700900123", "447700900123")]
    [InlineData("'+447700900123'", "\"+447700900123\"")]
    public void Plain_scalars_follow_the_core_schema_of_YAML_1_2_and_quoted_ones_are_text(string scalar, string json)
    {
        var found = ((MapNode)Read($"a: {scalar}")).Members.Single().Value;
        Assert.Equal(JsonNode.Parse(json)?.ToJsonString(), Json(found)?.ToJsonString());
    }

    [Fact]
    public void Both_languages_give_the_same_nodes_with_their_places()
    {
        var yaml = (MapNode)Read("name: x\nwhen:\n  - order.placed\n");
        var json = (MapNode)Read("{ \"name\": \"x\",\n  \"when\": [ \"order.placed\" ] }", yaml: false);
        Assert.Equal(Json(yaml)!.ToJsonString(), Json(json)!.ToJsonString());
        Assert.Equal((3, 5), (((ListNode)yaml.Members[1].Value).Items[0].Line, ((ListNode)yaml.Members[1].Value).Items[0].Column));
        Assert.Equal((2, 13), (((ListNode)json.Members[1].Value).Items[0].Line, ((ListNode)json.Members[1].Value).Items[0].Column));
    }

    [Theory]
    [InlineData("a: &x 1\nb: *x", "anchors and aliases are not taken")]
    [InlineData("a: 1\n---\nb: 2", "several documents")]
    [InlineData("a: [1", "This is not YAML")]
    [InlineData("", "empty")]
    [InlineData("? [a, b]\n: 1", "a name is expected")]
    public void What_YAML_could_do_more_is_refused_with_its_place(string text, string problem) => Assert.Contains(problem, Wrong(text).Problem);

    [Fact]
    public void A_text_with_any_one_or_two_characters_changed_is_read_or_refused()
    {
        const string text =
            "name: Odd\nwhen: [order.odd]\nonlyIf:\n  all:\n    - { field: order.total, is: at-least, value: 5 }\n    - { field: 'x', is: \"y\" }\nquiet: [ { from: 22:00 } ]\n";
        var odd = "\n\r\t :,[]{}?-#&*!|>'\"%@`\\\u0085\u2028\ufeffé";
        var (read, refused) = (0, 0);
        for (var i = 0; i < text.Length; i++)
        {
            foreach (
                var changed in odd.SelectMany(c =>
                        new[] { text[..i] + c + text[(i + 1)..], text[..i] + c + text[i..], text[..i] + c, $"{text[..i]}{c}\n{text[i..]}" }
                    )
                    .Append(text[..i])
            )
            {
                _ = DocumentText.Read(changed, yaml: true).Error is null ? read++ : refused++;
            }
        }

        Assert.True(read > 1000 && refused > 1000, $"{read} read, {refused} refused");
    }

    [Theory]
    [InlineData("{ \"a\": }", 1, 8)]
    [InlineData("{\n  \"a\": 1,\n}", 3, 1)]
    [InlineData("[1, 2", 1, 6)]
    public void Broken_JSON_is_named_by_line_and_column(string text, int line, int column)
    {
        var error = Wrong(text, yaml: false);
        Assert.Equal((line, column), (error.Line, error.Column));
        Assert.StartsWith("This is not JSON", error.Problem);
    }

    [Fact]
    public void Depth_and_length_are_bounded()
    {
        Assert.NotNull(Read(new string('[', 32) + new string(']', 32), yaml: false));
        Assert.Contains("This is not JSON", Wrong(new string('[', 33) + new string(']', 33), yaml: false).Problem);
        Assert.Contains(
            "32 deep",
            Wrong(string.Concat(Enumerable.Range(0, 40).Select(i => new string(' ', i) + "a:\n")) + new string(' ', 40) + "b: 1").Problem
        );
        Assert.Contains("longer than 1 MB", Wrong(new string('x', (1024 * 1024) + 1)).Problem);
    }

    private static Gen<JsonNode?> Nodes(int depth)
    {
        var leaf = Gen.OneOf<JsonNode?>(
            Gen.String[Gen.Char[' ', '~'], 0, 12].Select(s => (JsonNode?)JsonValue.Create(s)),
            Build
                .AnyOf(
                    "true",
                    "null",
                    "12",
                    "1e3",
                    "- x",
                    "a: b",
                    "#",
                    "'",
                    "\n two\nlines ",
                    "é ☂ 😀",
                    " ",
                    "*x",
                    "&x",
                    "!t",
                    "@",
                    "`",
                    "%",
                    "0x1F",
                    ".5",
                    "~"
                )
                .Select(s => (JsonNode?)JsonValue.Create(s)),
            Gen.Int.Select(i => (JsonNode?)JsonValue.Create(i)),
            Gen.Bool.Select(b => (JsonNode?)JsonValue.Create(b)),
            Gen.Const((JsonNode?)null)
        );
        return depth == 0
            ? leaf
            : Gen.OneOf(
                leaf,
                Nodes(depth - 1).Array[0, 4].Select(a => (JsonNode?)new JsonArray([.. a.Select(n => n?.DeepClone())])),
                Nodes(depth - 1).Array[0, 4].Select(a => (JsonNode?)new JsonObject(a.Select((n, i) => KeyValuePair.Create($"m{i}", n?.DeepClone()))))
            );
    }

    [Fact]
    public void What_is_written_as_YAML_is_read_back_as_the_same() =>
        Nodes(3)
            .Where(n => n is JsonObject or JsonArray)
            .Sample(node =>
            {
                var text = YamlText.Write(node!);
                Assert.Equal(node!.ToJsonString(), Json(Read(text))!.ToJsonString());
            });
}
