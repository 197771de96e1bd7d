using System.Text;
using Microsoft.AspNetCore.Http;
using Sirena.Channels.Http;

namespace Sirena.Engine.Tests;

public class FileFetcherTests
{
    private static async Task<(FetchedFile? File, string? Problem)> FetchAsync(FarEnd far, string path, params string[] allowed)
    {
        using var fetcher = new FileFetcher(new OutsideHosts(allowed.Length == 0 ? ["127.0.0.1"] : allowed));
        return await fetcher.FetchAsync(path.StartsWith('/') ? far.Url + path : path, TestContext.Current.CancellationToken);
    }

    private static Task<FarEnd> ServeAsync(byte[] content) => FarEnd.StartAsync(http => http.Response.Body.WriteAsync(content).AsTask());

    public static TheoryData<byte[], string?> Kinds =>
        new()
        {
            { "%PDF-1.7 x"u8.ToArray(), "application/pdf" },
            { [0x89, 0x50, 0x4E, 0x47, 1], "image/png" },
            { [0xFF, 0xD8, 0xFF, 0xE0], "image/jpeg" },
            { "GIF89a"u8.ToArray(), "image/gif" },
            { [.. "RIFF"u8, 1, 2, 3, 4, .. "WEBPVP8"u8], "image/webp" },
            { "a,b\n1,2 é"u8.ToArray(), "text/plain; charset=utf-8" },
            { "MZ\0\u0001"u8.ToArray(), null },
            { [0xC3, 0x28, 0x41], null },
            { [], null },
            { "RIFF1234WAVE12"u8.ToArray(), "text/plain; charset=utf-8" },
        };

    [Theory]
    [MemberData(nameof(Kinds))]
    public async Task The_type_is_told_by_the_content_and_what_is_none_of_those_is_not_passed_on(byte[] content, string? type)
    {
        await using var far = await ServeAsync(content);
        var (file, problem) = await FetchAsync(far, "/file.exe");
        Assert.Equal(type, file?.Type);
        Assert.Equal(type is null ? "it is neither a PDF, a picture nor a text" : null, problem);
        Assert.DoesNotContain("exe", file?.Name ?? "");
    }

    [Theory]
    [InlineData("/plans/deck%20plan.pdf?x=1", "deck plan.pdf")]
    [InlineData("/label", "label.pdf")]
    [InlineData("/", "file.pdf")]
    [InlineData("/a%2F..%2F..%2Fetc%2Fpasswd", "passwd.pdf")]
    [InlineData("/%0d%0aBcc%3A%20x.pdf", "Bcc x.pdf")]
    public async Task Its_name_is_that_of_the_address_with_nothing_that_a_path_or_a_header_obeys(string path, string name)
    {
        await using var far = await ServeAsync("%PDF-1.7"u8.ToArray());
        Assert.Equal(name, (await FetchAsync(far, path)).File!.Name);
    }

    [Theory]
    [InlineData("http://127.0.0.1:1/x")]
    [InlineData("http://localhost:1/x")]
    [InlineData("http://[::1]:1/x")]
    [InlineData("http://[::ffff:127.0.0.1]:1/x")]
    [InlineData("http://[64:ff9b::7f00:1]:1/x")]
    [InlineData("http://[2002:7f00:1::]:1/x")]
    [InlineData("http://[::127.0.0.2]:1/x")]
    [InlineData("http://169.254.169.254/latest")]
    [InlineData("http://10.1.2.3/x")]
    [InlineData("http://0x7f000001/x")]
    public async Task What_lies_inside_this_network_is_not_called(string address)
    {
        await using var far = await ServeAsync([]);
        var (file, problem) = await FetchAsync(far, address, "files.averilquay.example");
        Assert.Null(file);
        Assert.Contains("lies inside this network", problem);
    }

    [Theory]
    [InlineData("ftp://files.example/x", "none of http or https")]
    [InlineData("file:///etc/passwd", "none of http or https")]
    [InlineData("no address", "none of http or https")]
    public async Task Only_addresses_of_the_web_are_fetched(string address, string problem)
    {
        await using var far = await ServeAsync([]);
        Assert.Contains(problem, (await FetchAsync(far, address)).Problem);
    }

    [Theory]
    [InlineData(3, true)]
    [InlineData(4, false)]
    public async Task It_is_passed_on_three_times_at_most(int times, bool fetched)
    {
        await using var far = await FarEnd.StartAsync(http =>
        {
            var at = int.Parse(http.Request.Path.Value!.Trim('/'), System.Globalization.CultureInfo.InvariantCulture);
            if (at == 0)
            {
                return http.Response.WriteAsync("found");
            }

            http.Response.Redirect($"/{at - 1}");
            return Task.CompletedTask;
        });
        var (file, problem) = await FetchAsync(far, $"/{times}");
        Assert.Equal(fetched ? "found" : null, file is null ? null : Encoding.UTF8.GetString(file.Content));
        Assert.Equal(fetched ? null : "it was passed on more than three times", problem);
    }

    [Theory]
    [InlineData("http://10.1.2.3/inner", "10.1.2.3 lies inside this network")]
    [InlineData("file:///etc/passwd", "none of http or https")]
    public async Task Where_it_is_passed_on_to_is_checked_anew(string to, string problem)
    {
        await using var far = await FarEnd.StartAsync(http =>
        {
            http.Response.StatusCode = 302;
            http.Response.Headers.Location = to;
            return Task.CompletedTask;
        });
        Assert.Contains(problem, (await FetchAsync(far, "/x")).Problem);
    }

    [Fact]
    public async Task What_is_too_large_is_left_and_what_the_server_refuses_is_said()
    {
        await using var far = await FarEnd.StartAsync(async http =>
        {
            http.Response.StatusCode = http.Request.Path == "/gone" ? 404 : 200;
            for (var i = 0; http.Request.Path == "/large" && i < 11; i++)
            {
                await http.Response.Body.WriteAsync(new byte[1 << 20]);
            }
        });
        Assert.Equal("it is larger than 10 MB", (await FetchAsync(far, "/large")).Problem);
        Assert.Equal("the server answered 404", (await FetchAsync(far, "/gone")).Problem);
    }
}
