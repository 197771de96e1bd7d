using Sirena.Formats.Documents;

namespace Sirena.Core.Tests.Formats;

public class TypedJsonTests
{
    [Theory]
    [InlineData("{ \"a\": [1, true, null] }", "{\"a\":[1,true,null]}")]
    [InlineData("7", "7")]
    [InlineData("\"x\"", "\"x\"")]
    public void A_value_is_read(string text, string json) => Assert.Equal(json, TypedJson.Read(text)!.ToJsonString());

    [Theory]
    [InlineData("")]
    [InlineData("{")]
    [InlineData("{ a: 1 }")]
    [InlineData("{ \"a\": 1, \"a\": 2 }")]
    [InlineData("{ \"a\": { \"b\": 1, \"b\": 2 } }")]
    public void What_is_none_is_none(string text) => Assert.Null(TypedJson.Read(text));

    [Fact]
    public void Sixteen_deep_is_read_and_seventeen_is_not()
    {
        static string Deep(int n) => new string('[', n) + new string(']', n);
        Assert.NotNull(TypedJson.Read(Deep(16)));
        Assert.Null(TypedJson.Read(Deep(17)));
        Assert.Null(TypedJson.Read(Deep(100_000)));
    }
}
