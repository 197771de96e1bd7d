using System.Text;
using System.Text.Json;
using CsCheck;
using Sirena.Formats.Documents;
using Sirena.Formats.Events;
using Sirena.Formats.Rules;
using Sirena.Formats.Wordings;

namespace Sirena.Core.Tests.Formats;

public class BrokenCharactersTests
{
    private static byte[] Bytes(string text) => Encoding.UTF8.GetBytes(text);

    [Theory]
    [InlineData("""{"a":"plain \" \\ \n \u00e9 text"}""", null)]
    [InlineData("""{"a":"\ud83d\ude00"}""", null)]
    [InlineData("""{"a":"\\ud800"}""", null)]
    [InlineData("""{"a":"\\\ud800"}""", 8)]
    [InlineData("""{"a":"\ud800 b"}""", 6)]
    [InlineData("""{"a":"\uDC00"}""", 6)]
    [InlineData("""{"a":"\ud83dx\ude00"}""", 6)]
    [InlineData("""{"a":"\ud83d\ud83d\ude00"}""", 6)]
    [InlineData("""{"a":"\u0000"}""", 6)]
    [InlineData("""{"\ud800":1}""", 2)]
    [InlineData("""{"a":"\ud8""", null)]
    [InlineData("", null)]
    public void Half_characters_and_zeros_are_found_where_they_stand(string json, int? offset) =>
        Assert.Equal(offset, BrokenCharacters.Find(Bytes(json))?.Offset);

    [Fact]
    public void Mending_puts_the_replacement_character_in_place_of_each_and_leaves_the_rest()
    {
        Assert.Equal(
            """{"a":"\uFFFD \ud83d\ude00 \uFFFD","b\uFFFD":"\\ud800"}""",
            Encoding.UTF8.GetString(BrokenCharacters.Mend(Bytes("""{"a":"\ud800 \ud83d\ude00 \u0000","b\udfff":"\\ud800"}""")).Span)
        );
        ReadOnlyMemory<byte> whole = Bytes("""{"a":"\ud83d\ude00"}""");
        Assert.Equal(whole, BrokenCharacters.Mend(whole));
    }

    [Fact]
    public void Whatever_escapes_a_text_is_made_of_the_mended_one_can_be_read()
    {
        var piece = Gen.OneOf(
            Gen.Const("a"),
            Gen.Const("\\\\"),
            Gen.Const("\\\""),
            Gen.Const("é"),
            Gen.Const("\\n"),
            Gen.UShort.Select(u => $"\\u{u:x4}"),
            Gen.UShort[0xD800, 0xDFFF].Select(u => $"\\u{u:X4}"),
            Gen.Const("\\u0000")
        );
        piece
            .Array[0, 12]
            .Select(p => $"\"{string.Concat(p)}\"")
            .Sample(json =>
            {
                var mended = BrokenCharacters.Mend(Bytes(json));
                Assert.Null(BrokenCharacters.Find(mended.Span));
                var text = JsonSerializer.Deserialize<string>(mended.Span)!;
                Assert.DoesNotContain('\0', text);
                Assert.Equal(text, Encoding.UTF8.GetString(Encoding.UTF8.GetBytes(text)));
            });
    }

    [Fact]
    public void An_order_with_half_a_character_in_a_name_is_taken_with_the_replacement_in_its_place()
    {
        var (events, problem) = CloudEvents.Json(
            Bytes(
                """{"specversion":"1.0","id":"1","source":"/t","type":"order.placed","subject":"A-1","data":{"order":{"number":"A-1","customer":{"name":"MV \ud83dCorvane\u0000"}}}}"""
            ),
            batch: false
        );
        Assert.Null(problem);
        Assert.Null(events[0].Problem);
        Assert.Equal("MV \uFFFDCorvane\uFFFD", (string)events[0].Event!.Data!["order"]!["customer"]!["name"]!);
    }

    [Theory]
    [InlineData("{\n \"name\": \"a \\ud800 b\" }", false, 2, 13, Sirena.Core.Wordings.ParsedText.HalfCharacter)]
    [InlineData("{ \"na\\u0000me\": 1 }", false, 1, 6, BrokenCharacters.Zero)]
    [InlineData("name: x\nwhen: \"a\\0b\"", true, 2, 7, BrokenCharacters.Zero)]
    [InlineData("\"a\\0b\": x", true, 1, 1, BrokenCharacters.Zero)]
    public void A_document_says_where_the_broken_character_stands(string text, bool yaml, int line, int column, string sentence)
    {
        var (_, errors) = RuleReader.Read(text, yaml, null, null);
        var error = Assert.Single(errors);
        Assert.Equal((line, column), (error.Line, error.Column));
        Assert.Contains(sentence.TrimEnd('.'), error.Problem);
        Assert.Equal(error.Problem, Assert.Single(WordingReader.Read(text, yaml, null, new HashSet<string>()).Errors).Problem);
    }
}
