using System.Net;
using System.Text.Json.Nodes;

namespace Sirena.Web.Tests;

/// <summary>Two callers, one saved thing: each has a version, and of two that name the same one only one is first.</summary>
public sealed class VersionsTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    private static readonly HttpStatusCode[] Saved = [HttpStatusCode.OK, HttpStatusCode.Created];

    // Each kind of thing: its address, its media type, and what it is with another name or number.
    private static readonly Dictionary<string, (string Path, string Type, Func<int, string> Document)> Things = new()
    {
        ["status"] = ("/api/statuses/at-the-berth", "application/json", n => $$"""{"name":"At berth {{n}}","mark":"gate","kind":"open"}"""),
        ["source"] = ("/api/sources/two-tills", "application/json", n => $$"""{"name":"Till {{n}}","kind":"events"}"""),
        ["gateway"] = ("/api/gateways/two-lines", "application/json", n =>
            $$"""{"channel":"sms","name":"Line {{n}}","address":"https://sms.port-averil.example/"}"""
        ),
        ["wording"] = ("/api/wordings/two-words", "application/json", n =>
            $$$"""{"name":"Words {{{n}}}","texts":[{"audience":"staff","sms":"{{order.number}} {{{n}}} "} ] }"""
        ),
        ["person"] = ("/api/people/two.hands", "application/json", n => $$"""{"name":"Two Hands {{n}}"}"""),
        ["rule"] = ("/api/rules/two-heads", "application/json", n =>
            $$"""{"name":"Two heads {{n}}","when":["test.two-heads"],"tell":[{"person":"ines.calder"}],"by":{"allAtOnce":["screen"]} }"""
        ),
        ["rota"] = ("/api/teams/two-berths/rota", "text/calendar", n =>
            "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//quay//EN\r\nBEGIN:VEVENT\r\nUID:one@quay\r\nDTSTAMP:20261101T000000Z\r\n"
            + $"DTSTART:202612{n:00}T080000Z\r\nDTEND:202612{n:00}T160000Z\r\nATTENDEE:mailto:hand@quay.example\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
        ),
    };

    public static TheoryData<string> Kinds => [.. Things.Keys];

    private async Task<(HttpStatusCode Status, JsonNode? Body, string? Tag)> SendAsync(string kind, HttpMethod method, int n = 0, string? match = null)
    {
        var (path, type, document) = Things[kind];
        var (status, body, answer) = await world.SendAsync(
            method,
            path + (kind == "rota" && method == HttpMethod.Put ? "?take=less" : ""),
            world.World.Demo.Token,
            method == HttpMethod.Put ? document(n) : null,
            type,
            match is null ? [] : [("If-Match", match)]
        );
        return (status, body, answer.Headers.ETag?.Tag);
    }

    private async Task<string> MadeAsync(string kind, int n)
    {
        if (kind == "rota")
        {
            const string hand = """{"name":"Rota Hand","teams":["two-berths"],"contacts":[{"channel":"mail","address":"hand@quay.example"}]}""";
            await world.SendAsync(HttpMethod.Put, "/api/people/rota.hand", world.World.Demo.Token, hand);
        }

        var (status, body, tag) = await SendAsync(kind, HttpMethod.Put, n);
        Assert.True(Saved.Contains(status), $"{kind}: {status} {body?.ToJsonString()}");
        Assert.Equal(tag, (await SendAsync(kind, HttpMethod.Get)).Tag);
        return Assert.IsType<string>(tag);
    }

    [Theory]
    [MemberData(nameof(Kinds))]
    public async Task What_was_saved_since_is_shown_and_not_written_over(string kind)
    {
        var first = await MadeAsync(kind, 1);
        var (status, body, second) = await SendAsync(kind, HttpMethod.Put, 2, first);
        Assert.True(status == HttpStatusCode.OK, $"{kind}: {status} {body?.ToJsonString()}");
        Assert.NotEqual(first, second);
        foreach (var method in new[] { HttpMethod.Put, HttpMethod.Delete }.Where(m => (kind, m.Method) is not ("person", "DELETE")))
        {
            (status, body, var current) = await SendAsync(kind, method, 3, first);
            Assert.Equal((HttpStatusCode.PreconditionFailed, second), (status, current));
            Assert.Contains(kind == "rota" ? "20261202T080000Z" : "2", body!["current"]!.ToJsonString());
            Assert.NotEmpty(body["changed"]!.AsArray());
        }

        Assert.Equal(second, (await SendAsync(kind, HttpMethod.Get)).Tag);
        Assert.Equal(HttpStatusCode.OK, (await SendAsync(kind, HttpMethod.Put, 3, $"\"another\", {second}")).Status);
        Assert.Equal(HttpStatusCode.OK, (await SendAsync(kind, HttpMethod.Put, 4, "*")).Status);
        Assert.Equal(HttpStatusCode.PreconditionFailed, (await SendAsync(kind, HttpMethod.Put, 5, "W/" + (await SendAsync(kind, HttpMethod.Get)).Tag)).Status);
        Assert.Equal(HttpStatusCode.OK, (await SendAsync(kind, HttpMethod.Put, 6)).Status);
    }

    [Theory]
    [MemberData(nameof(Kinds))]
    public async Task Of_many_who_save_the_same_version_at_once_one_is_first(string kind)
    {
        var tag = await MadeAsync(kind, 10);
        var all = await Task.WhenAll(Enumerable.Range(11, 6).Select(n => SendAsync(kind, HttpMethod.Put, n, tag)));
        Assert.Equal([HttpStatusCode.OK, .. Enumerable.Repeat(HttpStatusCode.PreconditionFailed, 5)], all.Select(a => a.Status).OrderBy(s => (int)s));
        Assert.Equal(all.Single(a => a.Status == HttpStatusCode.OK).Tag, (await SendAsync(kind, HttpMethod.Get)).Tag);
    }

    // More than there are lines to the database: who waits for a thing must leave one to whoever has it.
    [Fact]
    public async Task A_crowd_that_saves_one_thing_is_served_one_after_the_other()
    {
        await MadeAsync("status", 30);
        var all = await Task.WhenAll(Enumerable.Range(31, 120).Select(n => SendAsync("status", HttpMethod.Put, n)));
        Assert.All(all, a => Assert.Equal(HttpStatusCode.OK, a.Status));
    }

    [Fact]
    public async Task A_rule_that_somebody_changed_meanwhile_is_archived_only_when_that_was_seen()
    {
        async Task<HttpStatusCode> SavedAsync() => (await world.GetAsync("/api/rules/three-heads")).Status;
        foreach (var name in new[] { "Three heads", "Three heads are better" })
        {
            await world.RuleAsync("three-heads", $"name: {name}\nwhen: [test.three-heads]\ntell: [ {{ person: ines.calder }} ]\nby: {{ allAtOnce: [screen] }}");
        }

        var (client, form) = await world.SignInAsync(0);
        using var _ = client;
        async Task<string> ArchiveAsync(int drawn)
        {
            using var answer = await client.PostAsync(
                $"{world.Url}/rules/three-heads",
                new FormUrlEncodedContent([new("act", "archive"), new("base", $"{drawn}"), new("__RequestVerificationToken", form)]),
                TestContext.Current.CancellationToken
            );
            return answer.Headers.Location!.ToString();
        }

        Assert.Equal("/rules/three-heads", await ArchiveAsync(1));
        Assert.Contains("was changed meanwhile", await client.GetStringAsync($"{world.Url}/rules/three-heads", TestContext.Current.CancellationToken));
        Assert.Equal(HttpStatusCode.OK, await SavedAsync());
        Assert.Equal("/rules", await ArchiveAsync(2));
        Assert.Equal(HttpStatusCode.NotFound, await SavedAsync());
    }

    [Fact]
    public async Task A_version_of_what_does_not_exist_is_none()
    {
        foreach (var (kind, (path, type, document)) in Things.Where(t => t.Key != "rota"))
        {
            var (status, _, _) = await world.SendAsync(
                HttpMethod.Put,
                path[..(path.LastIndexOf('/') + 1)] + "never.made",
                world.World.Demo.Token,
                document(1),
                type,
                ("If-Match", "*")
            );
            Assert.True(status == HttpStatusCode.PreconditionFailed, $"{kind}: {status}");
        }
    }
}
