using Sirena.Core.Deliveries;

namespace Sirena.Core.Tests.Deliveries;

/// <summary>Headers of a gateway's requests: what cannot be sent is refused when it is saved.</summary>
public sealed class RequestHeaderTests
{
    [Theory]
    [InlineData("Authorization", "Bearer abc.def~1")]
    [InlineData("X-Api-Key", "k")]
    [InlineData("x_key.1", "")]
    [InlineData("Accept-Language", "pt, en;q=0.5\tx")]
    public void What_HTTP_takes_is_taken(string name, string value) => Assert.Null(RequestHeader.Problem(name, value));

    [Theory]
    [InlineData("", "v", "is no name of a header")]
    [InlineData("Bad Name", "v", "is no name of a header")]
    [InlineData("Chave-Secretária", "v", "is no name of a header")]
    [InlineData("Name:", "v", "is no name of a header")]
    [InlineData("Content-Length", "5", "is set by Sirena")]
    [InlineData("content-type", "text/plain", "is set by Sirena")]
    [InlineData("Host", "elsewhere.example", "is set by Sirena")]
    [InlineData("Webhook-Signature", "v1,x", "is set by Sirena")]
    [InlineData("X-Key", "two\nlines", "one line")]
    [InlineData("X-Key", "zero\0", "one line")]
    [InlineData("X-Key", "chave é", "one line")]
    [InlineData("X-Key", "del\u007F", "one line")]
    public void What_would_never_arrive_is_refused_in_a_sentence(string name, string value, string sentence) =>
        Assert.Contains(sentence, RequestHeader.Problem(name, value), StringComparison.Ordinal);

    [Fact]
    public void Names_and_values_have_bounds()
    {
        Assert.Null(RequestHeader.Problem(new string('n', 100), new string('v', 4_000)));
        Assert.NotNull(RequestHeader.Problem(new string('n', 101), ""));
        Assert.NotNull(RequestHeader.Problem("n", new string('v', 4_001)));
    }

    [Fact]
    public void Lines_are_read_and_what_is_none_is_named()
    {
        var (headers, problems) = RequestHeader.ReadLines("Authorization: Bearer a:b\r\n\n  X-Key :  k  \nX-KEY: other\nBearer abc\n");
        Assert.Equal(["Authorization=Bearer a:b", "X-Key=k"], headers.Select(h => $"{h.Key}={h.Value}"));
        Assert.Equal(["The header X-KEY stands here twice.", "'Bearer abc' is no header: write its name, a colon and its value."], problems);
        Assert.Contains("'" + new string('x', 20) + "…'", RequestHeader.ReadLines(new string('x', 21)).Problems[0], StringComparison.Ordinal);
        Assert.Contains("'" + new string('x', 20) + "'", RequestHeader.ReadLines(new string('x', 20)).Problems[0], StringComparison.Ordinal);
        Assert.Empty(RequestHeader.ReadLines(" \r\n").Headers);
    }
}
