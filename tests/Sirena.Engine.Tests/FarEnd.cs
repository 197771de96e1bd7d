using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.Logging;

namespace Sirena.Engine.Tests;

/// <summary>A web server on loopback that answers what a test says and keeps what it was sent.</summary>
public sealed class FarEnd : IAsyncDisposable
{
    private readonly WebApplication app;

    private FarEnd(Func<HttpContext, Task> answer)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        builder.WebHost.UseUrls("http://127.0.0.1:0");
        app = builder.Build();
        app.Run(async http =>
        {
            using var body = new StreamReader(http.Request.Body);
            Got.Add(
                (
                    http.Request.Path,
                    await body.ReadToEndAsync(),
                    http.Request.Headers.ToDictionary(h => h.Key, h => h.Value.ToString(), StringComparer.OrdinalIgnoreCase)
                )
            );
            await answer(http);
        });
    }

    public List<(string Path, string Body, Dictionary<string, string> Headers)> Got { get; } = [];

    public string Url => app.Urls.First();

    public static async Task<FarEnd> StartAsync(Func<HttpContext, Task> answer)
    {
        var far = new FarEnd(answer);
        await far.app.StartAsync();
        return far;
    }

    public async ValueTask DisposeAsync() => await app.DisposeAsync();
}
