using System.Text.Json;
using Sirena.Core.Sources;

namespace Sirena.Core.Tests.Sources;

public sealed class BodyPathTests
{
    [Theory]
    [InlineData("$", "$")]
    [InlineData("$.a.b", "$.a.b")]
    [InlineData("$['a'][\"b c\"][0]", "$.a['b c'][0]")]
    [InlineData("$.a[*].*", "$.a[*][*]")]
    [InlineData("$['it\\'s']", "$['it\\'s']")]
    [InlineData("$.a[0]", "$.a[0]")]
    [InlineData("$['a\\\\b']", "$['a\\\\b']")]
    [InlineData("$['a\\tb\\u000Bc']", "$['a\\tb\\u000bc']")]
    [InlineData("$['a\tb\r\n\f\b']", "$['a\\tb\\r\\n\\f\\b']")]
    [InlineData("$['caf\\u00e9']", "$.caf\u00e9")]
    [InlineData("$[\"it's\"]", "$['it\\'s']")]
    [InlineData("$[999999]", "$[999999]")]
    [InlineData("$.a_1-b", "$.a_1-b")]
    public void A_path_is_read_and_written(string text, string written)
    {
        var (path, problem) = BodyPath.Parse(text);
        Assert.Null(problem);
        Assert.Equal(written, path!.Text);
        Assert.Equal(path, BodyPath.Parse(path.Text).Path);
    }

    [Theory]
    [InlineData("")]
    [InlineData("a.b")]
    [InlineData("$..a")]
    [InlineData("$.a[?(@.b)]")]
    [InlineData("$.a[-1]")]
    [InlineData("$.a[1:3]")]
    [InlineData("$['a]")]
    [InlineData("$['a'")]
    [InlineData("$['a'x")]
    [InlineData("$['a\\")]
    [InlineData("$['\\u00e']")]
    [InlineData("$['\\u-001']")]
    [InlineData("$['\\u00")]
    [InlineData("$[1000000]")]
    [InlineData("$[]")]
    [InlineData("$.a]")]
    [InlineData("$.a'b")]
    [InlineData("$.a\"b")]
    [InlineData("$.a b")]
    [InlineData("$.")]
    [InlineData("$.a.")]
    [InlineData("$.a[0")]
    [InlineData("$[99999999999]")]
    public void Nothing_that_is_executed_is_taken(string text) => Assert.NotNull(BodyPath.Parse(text).Problem);

    [Theory]
    [InlineData("a b", "$['a b']")]
    [InlineData("a\nb", "$['a\\nb']")]
    [InlineData("it's \\", "$['it\\'s \\\\']")]
    [InlineData("", "$['']")]
    public void A_member_of_any_name_is_found_by_the_path_that_is_written_for_it(string name, string path)
    {
        using var body = JsonDocument.Parse(JsonSerializer.Serialize(new Dictionary<string, int> { [name] = 7 }));
        Assert.Equal(path, BodyPath.Of(name).Text);
        Assert.Equal(7, BodyPath.Parse(path).Path!.FirstIn(body.RootElement).GetInt32());
        Assert.Equal(name, BodyPath.Parse(path).Path!.LastName);
    }

    [Fact]
    public void A_path_goes_on_from_another_or_does_not_begin_so()
    {
        BodyPath Of(string text) => BodyPath.Parse(text).Path!;
        Assert.Equal("$.b[0]", Of("$.a.b[0]").After(Of("$.a"))!.Text);
        Assert.Equal("$", Of("$.a").After(Of("$.a"))!.Text);
        Assert.Null(Of("$.a").After(Of("$.a.b")));
        Assert.Null(Of("$.a.b").After(Of("$.c")));
        Assert.Equal("$.a.b", Of("$.a.b.c").First(2).Text);
        Assert.Equal([true, false], new[] { "$.a[*].b", "$.a[0].b" }.Select(p => Of(p).IsMany));
        Assert.Equal(["b", "a", ""], new[] { "$.a.b[0]", "$.a[*]", "$" }.Select(p => Of(p).LastName));
    }

    [Fact]
    public void It_finds_each_value_with_its_place_and_takes_one_for_a_list_of_one()
    {
        using var body = JsonDocument.Parse("""{"o":[{"n":1},{"n":2},{}],"x":{"n":3}}""");
        Assert.Equal(["$.o[0].n", "$.o[1].n"], BodyPath.Parse("$.o[*].n").Path!.In(body.RootElement).Select(f => f.At.Text));
        Assert.Equal(["3"], BodyPath.Parse("$.x[*].n").Path!.In(body.RootElement).Select(f => f.Value.ToString()));
        Assert.Equal("2", BodyPath.Parse("$.o[1].n").Path!.FirstIn(body.RootElement).ToString());
        Assert.All(["$.o[2].n", "$.o[3].n", "$.o[7].n", "$.x[0].n"], p =>
            Assert.Equal(JsonValueKind.Undefined, BodyPath.Parse(p).Path!.FirstIn(body.RootElement).ValueKind)
        );
    }
}
