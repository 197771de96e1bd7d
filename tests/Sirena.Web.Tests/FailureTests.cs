using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Http;
using Npgsql;

namespace Sirena.Web.Tests;

/// <summary>What breaks is answered by what it is: nothing of ours is called the caller's, nothing of the inside is told.</summary>
public sealed class FailureTests
{
    private sealed record Broken(Exception Error) : IExceptionHandlerFeature;

    private static async Task<(int Status, string Page, string? Retry)> AnswerAsync(Exception problem)
    {
        var http = new DefaultHttpContext { Response = { Body = new MemoryStream() } };
        http.Request.Path = "/orders";
        http.Features.Set<IExceptionHandlerFeature>(new Broken(problem));
        await Failure.AnswerAsync(http);
        return (http.Response.StatusCode, Encoding.UTF8.GetString(((MemoryStream)http.Response.Body).ToArray()), http.Response.Headers.RetryAfter);
    }

    private static Exception Thrown(Action what) => Assert.ThrowsAny<Exception>(what);

    private static PostgresException Database(string state) => new("secret table", "ERROR", "ERROR", state);

    [Fact]
    public async Task Half_a_character_is_the_caller_s()
    {
        foreach (var json in new[] { """["\ud800"]""", """["\udc00x"]""", """{"\ud800":1}""" })
        {
            var problem = Thrown(() =>
            {
                var root = JsonDocument.Parse(json).RootElement;
                _ = root.ValueKind == JsonValueKind.Array ? root[0].GetString() : root.EnumerateObject().First().Name;
            });
            var (status, page, _) = await AnswerAsync(problem);
            Assert.Equal(422, status);
            Assert.Contains("half a character", page, StringComparison.Ordinal);
        }
    }

    [Fact]
    public async Task A_value_of_another_kind_is_said_to_be_that()
    {
        var (status, page, _) = await AnswerAsync(Thrown(() => JsonDocument.Parse("[1]").RootElement.GetString()));
        Assert.Equal(422, status);
        Assert.Contains("of another kind", page, StringComparison.Ordinal);
        Assert.DoesNotContain("half a character", page, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("22021", 422, "A character cannot be kept.")]
    [InlineData("22P05", 422, "A character cannot be kept.")]
    [InlineData("22003", 422, "A value cannot be kept.")]
    [InlineData("23505", 409, "It does not fit what is there.")]
    [InlineData("53100", 503, "The database does not answer.")]
    [InlineData("57P01", 503, "The database does not answer.")]
    [InlineData("42P01", 500, "Something broke on our side.")]
    public async Task What_the_database_says_is_told_apart_and_not_told(string state, int status, string title)
    {
        var (answered, page, retry) = await AnswerAsync(Database(state));
        Assert.Equal(status, answered);
        Assert.Contains(title, page, StringComparison.Ordinal);
        Assert.DoesNotContain("secret table", page, StringComparison.Ordinal);
        Assert.Equal(status == 503 ? "5" : null, retry);
    }

    [Fact]
    public async Task A_fault_of_ours_is_ours_wherever_it_is_wrapped()
    {
        var (status, page, _) = await AnswerAsync(new InvalidOperationException("the inside"));
        Assert.Equal(500, status);
        Assert.DoesNotContain("the inside", page, StringComparison.Ordinal);
        Assert.Equal(500, (await AnswerAsync(new InvalidOperationException("outer", new NullReferenceException("inner")))).Status);
        Assert.Equal(422, (await AnswerAsync(new InvalidOperationException("outer", Database("22021")))).Status);
    }

    [Theory]
    [InlineData(413, "The request is too large.")]
    [InlineData(400, "The request cannot be read.")]
    public async Task What_cannot_be_read_keeps_its_status(int given, string title)
    {
        var (status, page, _) = await AnswerAsync(new BadHttpRequestException("Unexpected end of request content.", given));
        Assert.Equal(given, status);
        Assert.Contains(title, page, StringComparison.Ordinal);
    }
}
