using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc.RazorPages.Infrastructure;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;
using Sirena.Shots;

// A class waits for its browser, its deliveries and its steps half of the time: a third works meanwhile.
[assembly: Xunit.v3.Parallelization(MaxThreads = 3)]

namespace Sirena.Web.Tests;

/// <summary>The application with a few days of demo data, and ways to speak to it.</summary>
public sealed class WorldFixture : IAsyncLifetime
{
    private readonly HttpClient http = new(new HttpClientHandler { AllowAutoRedirect = false, UseCookies = false });

    public World World { get; private set; } = null!;

    private readonly Lazy<OpenQA.Selenium.Chrome.ChromeDriver> browser = new(Browsers.Take);

    private readonly Dictionary<int, string> sessions = [];

    /// <summary>The cookie of a session.</summary>
    public const string Cookie = "sirena.session";

    public string Url => World.Url;

    /// <summary>The session that a test before began for somebody, or <see langword="null"/> where there is none or it has ended.</summary>
    public async Task<string?> SessionAsync(int user)
    {
        if (!sessions.TryGetValue(user, out var session))
        {
            return null;
        }

        using var request = new HttpRequestMessage(HttpMethod.Get, Url + "/mine");
        request.Headers.Add("Cookie", $"{Cookie}={session}");
        using var answer = await http.SendAsync(request, TestContext.Current.CancellationToken);
        return answer.StatusCode == HttpStatusCode.OK ? session : null;
    }

    /// <summary>Keeps a session for the tests that follow: signing in takes two pages and the time that a password is made to take.</summary>
    public void Keep(int user, string session) => sessions[user] = session;

    /// <summary>Somebody signed in without a browser, and the token that their forms carry.</summary>
    public async Task<(HttpClient Client, string Form)> SignInAsync(int user)
    {
        var client = new HttpClient(new HttpClientHandler { CookieContainer = new CookieContainer(), AllowAutoRedirect = false });
        async Task<string> FormAsync(string page) => World.FormToken(await client.GetStringAsync(Url + page, TestContext.Current.CancellationToken));
        var who = World.Demo.Users[user];
        using var signedIn = await client.PostAsync(
            Url + "/sign-in",
            new FormUrlEncodedContent([new("Email", who.Email), new("Password", who.Password), new("__RequestVerificationToken", await FormAsync("/sign-in"))]),
            TestContext.Current.CancellationToken
        );
        Assert.Equal(HttpStatusCode.Redirect, signedIn.StatusCode);
        return (client, await FormAsync("/orders"));
    }

    /// <summary>Puts a rule, as YAML.</summary>
    public async Task RuleAsync(string id, string yaml) =>
        Assert.True(
            (await SendAsync(HttpMethod.Put, $"/api/rules/{id}", World.Demo.Token, yaml, "application/yaml")).Status
                is HttpStatusCode.Created
                    or HttpStatusCode.OK
        );

    /// <summary>One browser for all tests of a class; each signs in anew.</summary>
    public OpenQA.Selenium.Chrome.ChromeDriver Browser => browser.Value;

    public async ValueTask InitializeAsync() =>
        World = await World.MakeAsync(
            Environment.GetEnvironmentVariable("SIRENA_TEST_SERVER")
                ?? throw new InvalidOperationException("SIRENA_TEST_SERVER is not set; run './sirena test'."),
            Days,
            aDay: 40
        );

    // On Saturdays and Sundays few orders come: the past goes back until it holds two days of the week in full.
    private static int Days =>
        DateTime.UtcNow.DayOfWeek switch
        {
            DayOfWeek.Saturday => 3,
            DayOfWeek.Sunday or DayOfWeek.Monday or DayOfWeek.Tuesday => 4,
            _ => 2,
        };

    public async ValueTask DisposeAsync()
    {
        http.Dispose();
        if (browser.IsValueCreated)
        {
            Browsers.Give(browser.Value);
        }

        await World.DisposeAsync();
    }

    public async Task<(HttpStatusCode Status, JsonNode? Body, HttpResponseMessage Answer)> SendAsync(
        HttpMethod method,
        string path,
        string? bearer,
        string? body = null,
        string type = "application/json",
        params (string Name, string Value)[] headers
    )
    {
        using var request = new HttpRequestMessage(method, Url + path);
        if (bearer is not null)
        {
            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", bearer);
        }

        if (body is not null)
        {
            request.Content = new ByteArrayContent(Encoding.UTF8.GetBytes(body));
            request.Content.Headers.ContentType = MediaTypeHeaderValue.Parse(type);
        }

        foreach (var (name, value) in headers)
        {
            request.Headers.TryAddWithoutValidation(name, value);
        }

        var answer = await http.SendAsync(request, TestContext.Current.CancellationToken);
        var text = await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken);
        return (answer.StatusCode, text.StartsWith('{') || text.StartsWith('[') ? JsonNode.Parse(text) : null, answer);
    }

    public Task<(HttpStatusCode Status, JsonNode? Body, HttpResponseMessage Answer)> GetAsync(string path) => SendAsync(HttpMethod.Get, path, World.Demo.Token);

    /// <summary>The application's own endpoints, each by its pattern; of a page with its handlers and properties.</summary>
    public async Task<List<(string Pattern, RouteEndpoint Endpoint, CompiledPageActionDescriptor? Page)>> EndpointsAsync()
    {
        var services = World.Nodes[0].Services;
        var loader = services.GetRequiredService<PageLoader>();
        var all = new List<(string, RouteEndpoint, CompiledPageActionDescriptor?)>();
        foreach (var endpoint in services.GetRequiredService<IEnumerable<EndpointDataSource>>().SelectMany(s => s.Endpoints).OfType<RouteEndpoint>())
        {
            var page = endpoint.Metadata.GetMetadata<PageActionDescriptor>() is { } descriptor ? await loader.LoadAsync(descriptor, endpoint.Metadata) : null;
            all.Add(("/" + endpoint.RoutePattern.RawText!.TrimStart('/'), endpoint, page));
        }

        return all;
    }

    /// <summary>The methods that an endpoint takes; GET where it names none.</summary>
    public static IReadOnlyList<string> MethodsOf(RouteEndpoint endpoint) => endpoint.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods ?? ["GET"];

    /// <summary>The order of the newest alert that has one: alerts of Sirena's own have none.</summary>
    public async Task<string> OrderAsync() =>
        (await GetAsync("/api/alerts?limit=50")).Body!["items"]!.AsArray().Select(a => (string?)a!["order"]).First(o => o is not null)!;

    public Task<(HttpStatusCode Status, JsonNode? Body, HttpResponseMessage Answer)> EventAsync(string body, string type = "application/cloudevents+json") =>
        SendAsync(HttpMethod.Post, "/api/events", World.Demo.SourceKey, body, type);

    public static string Event(string id, string number, string type = "order.held", string more = "") =>
        $$$"""{"specversion":"1.0","id":"{{{id}}}","source":"/web-test","type":"{{{type}}}","subject":"{{{number}}}","data":{"order":{"number":"{{{number}}}","currency":"EUR"{{{more}}} } } }""";

    public async Task<JsonNode> UntilAsync(string path, Func<JsonNode, bool> good, int seconds = 10)
    {
        JsonNode? last = null;
        for (var end = DateTime.UtcNow.AddSeconds(seconds * World.Patience); DateTime.UtcNow < end; await Task.Delay(50))
        {
            last = (await GetAsync(path)).Body;
            if (last is not null && good(last))
            {
                return last;
            }
        }

        Assert.Fail($"Waited {seconds} s in vain for {path}: {last?.ToJsonString(new JsonSerializerOptions { WriteIndented = true })}");
        return last!;
    }
}
