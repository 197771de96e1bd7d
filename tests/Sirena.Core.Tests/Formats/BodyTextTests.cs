using System.Text;
using Sirena.Formats.Sources;

namespace Sirena.Core.Tests.Formats;

/// <summary>What a foreign order system sends, as values.</summary>
public class BodyTextTests
{
    private const string Form = "application/x-www-form-urlencoded";

    private static (string? Json, string? Problem) Read(string body, string? media = "application/json") => Read(Encoding.UTF8.GetBytes(body), media);

    private static (string? Json, string? Problem) Read(byte[] body, string? media)
    {
        var (root, problem) = BodyText.Read(body, media);
        return problem is null ? (root.GetRawText(), null) : (null, $"{problem.Found} is not {problem.Wanted}");
    }

    [Theory]
    [InlineData("order=AQ-1&total=12.50", """{"order":"AQ-1","total":"12.50"}""")]
    [InlineData("name=Ines+Calder&note=a%26b%3Dc", """{"name":"Ines Calder","note":"a\u0026b=c"}""")]
    [InlineData("tag=rush&tag=quay&tag=cold", """{"tag":["rush","quay","cold"]}""")]
    [InlineData("flag&empty=&x=1=2", """{"flag":"","empty":"","x":"1=2"}""")]
    [InlineData("zero=%00", """{"zero":"\uFFFD"}""")]
    public void A_form_is_an_object_of_its_fields(string body, string json) => Assert.Equal(json, Read(body, Form + "; charset=utf-8").Json);

    [Fact]
    public void A_form_has_a_bound_of_fields()
    {
        Assert.Null(Read(string.Join('&', Enumerable.Range(0, 2_000).Select(i => $"f{i}=1")), Form).Problem);
        Assert.Equal(
            "2001 fields is not a form with at most 2000 fields",
            Read(string.Join('&', Enumerable.Range(0, 2_001).Select(i => $"f{i}=1")), Form).Problem
        );
    }

    [Fact]
    public void JSON_is_read_in_the_character_set_that_is_declared_or_marked()
    {
        Assert.Equal("""{"a":"ação"}""", Read("""{"a":"ação"}""").Json);
        Assert.Equal("""{"a":"ação"}""", Read(Encoding.Latin1.GetBytes("""{"a":"ação"}"""), "application/json; charset=iso-8859-1").Json);
        Assert.Equal("""{"a":"ação"}""", Read([0xFF, 0xFE, .. Encoding.Unicode.GetBytes("""{"a":"ação"}""")], "application/json").Json);
        Assert.Equal("[1]", Read("[1]", null).Json);
    }

    [Theory]
    [InlineData("""{"a":""", @"line 1, column \d+: \S.*")]
    [InlineData("<order/>", @"line 1, column 1: \S.*")]
    [InlineData("{\n  a}", @"line 2, column 3: \S.*")]
    [InlineData("""{"a":1,"a":2}""", "[A-Z][^:]*'a'.*")]
    public void What_is_no_JSON_is_said_with_its_place_where_one_is_known(string body, string said)
    {
        var (_, problem) = Read(body);
        Assert.StartsWith(body[..1], problem, StringComparison.Ordinal);
        Assert.Matches($@"is not JSON \({said}\)$", problem);
    }

    [Fact]
    public void Nothing_and_what_is_too_deep_are_refused()
    {
        Assert.Contains("a body in JSON, or a form", Read("").Problem, StringComparison.Ordinal);
        Assert.Null(Read(new string('[', 32) + new string(']', 32)).Problem);
        Assert.NotNull(Read(new string('[', 33) + new string(']', 33)).Problem);
        Assert.True(Read(new string('[', 5_000)).Problem!.Length < 300);
    }
}
