using System.Net;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Sirena.Channels.Http;

namespace Sirena.Web.Tests;

/// <summary>An order system of its own shape, over HTTP: proved, kept, read, mended, taken again.</summary>
public sealed class SourcesApiTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    private const string Secret = "a-secret-of-the-till";

    private static JsonObject Till(string reading = "$.state") =>
        (JsonObject)
            JsonNode.Parse(
                $$$"""
                { "name": "Till", "kind": "calls", "prefix": "T-",
                  "proof": { "signature": { "header": "X-Sig", "algorithm": "sha256", "encoding": "hex", "before": "sha256=", "timeHeader": null }, "secret": "{{{Secret}}}" },
                  "reading": { "event": { "path": "$.kind", "words": { "NEW": "order.placed", "HOLD": "order.held", "PING": "ignore" }, "otherwise": "not-understood" },
                               "order": { "number": { "path": "$.no" }, "status": { "path": "{{{reading}}}" }, "total": { "path": "$.sum", "decimal": "," }, "currency": { "always": "EUR" } }, "keep": "rest" } }
                """
            )!;

    private async Task<JsonNode> PutAsync(string id, JsonObject source, HttpStatusCode wanted = HttpStatusCode.Created)
    {
        var (status, body, _) = await world.SendAsync(HttpMethod.Put, $"/api/sources/{id}", world.World.Demo.Token, source.ToJsonString());
        Assert.True(status == wanted, $"{status}: {body?.ToJsonString()}");
        return body!;
    }

    private Task<(HttpStatusCode Status, JsonNode? Body, HttpResponseMessage Answer)> CallAsync(
        string id,
        string body,
        string? signature = null,
        string type = "application/json",
        params (string, string)[] headers
    ) =>
        world.SendAsync(
            HttpMethod.Post,
            $"/api/in/{id}",
            null,
            body,
            type,
            [
                ("X-Sig", signature ?? "sha256=" + Convert.ToHexStringLower(HMACSHA256.HashData(Encoding.UTF8.GetBytes(Secret), Encoding.UTF8.GetBytes(body)))),
                .. headers,
            ]
        );

    private Task<JsonNode> ArrivedAsync(string id, int count, string state) =>
        world.UntilAsync($"/api/sources/{id}/arrivals?state={state}", a => a["items"]!.AsArray().Count >= count);

    [Fact]
    public async Task A_body_of_its_own_shape_is_kept_then_read_and_decided()
    {
        await PutAsync("till-a", Till());
        var (status, body, _) = await CallAsync("till-a", """{"kind":"NEW","no":"7","state":"received","sum":"1.284,50","lane":"4"}""");
        Assert.Equal(HttpStatusCode.Accepted, status);
        Assert.NotEmpty((string)body!["id"]!);
        var arrived = (await ArrivedAsync("till-a", 1, "understood"))["items"]![0]!;
        Assert.Equal((string)body["id"]!, (string)arrived["id"]!);
        var trail = await world.UntilAsync("/api/orders/T-7/trail", t => t["events"]!.AsArray().Any(e => e!["decidedAt"] is not null));
        var told = trail["events"]![0]!;
        Assert.Equal(
            ("order.placed", "/sources/till-a", (string)arrived["events"]![0]!),
            ((string)told["type"]!, (string)told["source"]!, (string)told["id"]!)
        );
        Assert.Equal(1284.50m, (decimal)told["data"]!["order"]!["total"]!);
        Assert.Equal("4", (string)told["data"]!["order"]!["extra"]!["lane"]!);

        // The same body once more within a day makes no second event; the body itself can be had as it came.
        await CallAsync("till-a", """{"kind":"NEW","no":"7","state":"received","sum":"1.284,50","lane":"4"}""");
        var both = await ArrivedAsync("till-a", 2, "understood");
        Assert.Equal(both["items"]![0]!["events"]!.ToJsonString(), both["items"]![1]!["events"]!.ToJsonString());
        Assert.Single((await world.GetAsync("/api/orders/T-7/trail")).Body!["events"]!.AsArray());
        var (_, raw, _) = await world.GetAsync($"/api/sources/till-a/arrivals/{arrived["id"]}/body");
        Assert.Equal("1.284,50", (string)raw!["sum"]!);
    }

    [Fact]
    public async Task What_is_not_understood_is_kept_with_its_place_mended_and_taken_again_marked_late()
    {
        await PutAsync("till-b", Till());
        foreach (
            var (bad, path) in new[]
            {
                ("""{"kind":"NEW","nummer":"8"}""", "$.no"),
                ("""{"kind":"WHAT","no":"8"}""", "$.kind"),
                ("""{"kind":"NEW","no":"9","sum":"1,284.50"}""", "$.sum"),
                ("""{"kind":""", "$"),
                ("""{"kind":"NEW","kind":"NEW","no":"1"}""", "$"),
            }
        )
        {
            Assert.Equal(HttpStatusCode.Accepted, (await CallAsync("till-b", bad)).Status);
            var last = (
                await world.UntilAsync("/api/sources/till-b/arrivals?state=not-understood", a =>
                    a["items"]!.AsArray().FirstOrDefault() is { } x && (string?)x["problem"]!["path"] == path
                )
            )["items"]![0]!;
            Assert.NotEmpty((string)last["problem"]!["wanted"]!);
        }

        Assert.Equal(HttpStatusCode.Accepted, (await CallAsync("till-b", """{"kind":"PING"}""")).Status);
        await ArrivedAsync("till-b", 1, "ignored");

        // The draft is tried on what came before it is saved.
        var reading = (JsonObject)Till()["reading"]!.DeepClone();
        reading["order"]!["number"] = new JsonObject { ["path"] = "$.nummer" };
        var (_, tried, _) = await world.SendAsync(
            HttpMethod.Post,
            "/api/sources/till-b/readings/try",
            world.World.Demo.Token,
            new JsonObject { ["reading"] = reading.DeepClone(), ["last"] = 50 }.ToJsonString()
        );
        Assert.Equal("8", (string)tried!["items"]!.AsArray().Single(i => i!["events"]!.AsArray().Count > 0)!["events"]![0]!["data"]!["order"]!["number"]!);
        await PutAsync("till-b", new JsonObject { ["reading"] = reading }, HttpStatusCode.OK);
        var (status, again, _) = await world.SendAsync(
            HttpMethod.Post,
            "/api/sources/till-b/arrivals/again",
            world.World.Demo.Token,
            """{"state":"not-understood"}"""
        );
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Equal((1, 4), ((int)again!["understood"]!, (int)again["notUnderstood"]!));
        var trail = await world.UntilAsync("/api/orders/T-8/trail", t => t["events"]!.AsArray().Any(e => e!["decidedAt"] is not null));
        var told = Assert.Single(trail["events"]!.AsArray());
        Assert.True((bool)told!["decidedLate"]!);
        var arrived = (await world.GetAsync("/api/sources/till-b/arrivals?state=understood")).Body!["items"]![0]!;
        Assert.Equal((DateTimeOffset)arrived["at"]!, (DateTimeOffset)told["received"]!);
    }

    [Fact]
    public async Task A_call_that_proves_nothing_leaves_its_reason_and_nothing_else()
    {
        await PutAsync("till-c", Till());
        var right = Till();
        right["proof"]!["signature"]!["timeHeader"] = "X-Time";
        await PutAsync("till-d", right);
        var (status, body, _) = await CallAsync("till-c", """{"kind":"NEW","no":"1"}""", "sha256=00ff");
        Assert.Equal((HttpStatusCode.Unauthorized, "wrong-signature"), (status, (string?)body!["kind"]));
        Assert.Equal("no-proof", (string?)(await world.SendAsync(HttpMethod.Post, "/api/in/till-c", null, "{}")).Body!["kind"]);
        var old = DateTimeOffset.UtcNow.AddMinutes(-7).ToUnixTimeSeconds().ToString();
        Assert.Equal("too-old", (string?)(await CallAsync("till-d", "{}", headers: ("X-Time", old))).Body!["kind"]);
        var now = DateTimeOffset.UtcNow.ToUnixTimeSeconds().ToString();
        var good =
            "sha256=" + Convert.ToHexStringLower(HMACSHA256.HashData(Encoding.UTF8.GetBytes(Secret), Encoding.UTF8.GetBytes(now + ".{\"kind\":\"PING\"}")));
        Assert.Equal(HttpStatusCode.Accepted, (await CallAsync("till-d", "{\"kind\":\"PING\"}", good, headers: ("X-Time", now))).Status);
        var refused = (await ArrivedAsync("till-c", 2, "refused"))["items"]!.AsArray();
        Assert.Equal(["no-proof", "wrong-signature"], refused.Select(r => (string)r!["problem"]!["kind"]!));
        Assert.All(refused, r => Assert.DoesNotContain(Secret, r!.ToJsonString()));
        Assert.Equal(HttpStatusCode.NotFound, (await world.GetAsync($"/api/sources/till-c/arrivals/{refused[0]!["id"]}/body")).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await CallAsync("nobody", "{}")).Status);
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, (await CallAsync("till-c", new string(' ', 4 * 1024 * 1024 + 1))).Status);
    }

    [Fact]
    public async Task Every_proof_opens_and_an_old_secret_holds_for_a_day()
    {
        JsonObject With(string proof) =>
            new(Till().Where(m => m.Key != "proof").Select(m => KeyValuePair.Create(m.Key, m.Value?.DeepClone()))) { ["proof"] = JsonNode.Parse(proof) };
        const string Body = """{"kind":"PING"}""";
        Task<(HttpStatusCode Status, JsonNode? Body, HttpResponseMessage Answer)> Send(string path, params (string, string)[] headers) =>
            world.SendAsync(HttpMethod.Post, path, null, Body, "application/json", headers);

        await PutAsync("p-basic", With("""{ "basic": { "user": "till" }, "secret": "pass-word-1" }"""));
        string Basic(string s) => "Basic " + Convert.ToBase64String(Encoding.UTF8.GetBytes(s));
        Assert.Equal(HttpStatusCode.Accepted, (await Send("/api/in/p-basic", ("Authorization", Basic("till:pass-word-1")))).Status);
        var (status, _, answer) = await Send("/api/in/p-basic", ("Authorization", Basic("till:other")));
        Assert.Equal(HttpStatusCode.Unauthorized, status);
        Assert.Contains("Basic", answer.Headers.WwwAuthenticate.ToString());

        var key = WebhookSignature.NewKey();
        await PutAsync("p-hooks", With($$"""{ "standardWebhooks": true, "secret": "{{key}}" }"""));
        var now = DateTimeOffset.UtcNow.ToUnixTimeSeconds();
        (string, string)[] Hooks(string k) =>
            [
                ("webhook-id", "m1"),
                ("webhook-timestamp", now.ToString()),
                ("webhook-signature", WebhookSignature.Sign(k, "m1", now, Encoding.UTF8.GetBytes(Body))),
            ];
        Assert.Equal(HttpStatusCode.Accepted, (await Send("/api/in/p-hooks", Hooks(key))).Status);
        Assert.Equal(HttpStatusCode.Unauthorized, (await Send("/api/in/p-hooks", Hooks(WebhookSignature.NewKey()))).Status);
        var next = WebhookSignature.NewKey();
        await PutAsync("p-hooks", (JsonObject)JsonNode.Parse($$"""{ "proof": { "standardWebhooks": true, "secret": "{{next}}" } }""")!, HttpStatusCode.OK);
        Assert.Equal(HttpStatusCode.Accepted, (await Send("/api/in/p-hooks", Hooks(key))).Status);
        Assert.Equal(HttpStatusCode.Accepted, (await Send("/api/in/p-hooks", Hooks(next))).Status);

        var made = await PutAsync("p-address", With("""{ "inAddress": true }"""));
        Assert.Equal(HttpStatusCode.Accepted, (await Send((string)made["address"]!)).Status);
        Assert.Equal(HttpStatusCode.Unauthorized, (await Send("/api/in/p-address")).Status);
        Assert.Equal(HttpStatusCode.Unauthorized, (await Send("/api/in/p-address/guess-guess")).Status);
        Assert.Null((await world.GetAsync("/api/sources/p-address")).Body!["address"]);

        await PutAsync("p-key", With("""{ "key": true }"""));
        Assert.Equal(HttpStatusCode.Accepted, (await world.SendAsync(HttpMethod.Post, "/api/in/p-key", world.World.Demo.SourceKey, Body)).Status);
        Assert.Equal(HttpStatusCode.Unauthorized, (await Send("/api/in/p-key")).Status);
        Assert.DoesNotContain("pass-word-1", (await world.GetAsync("/api/sources")).Body!.ToJsonString());
        await world.World.UntilAsync("select not exists (select from sources where secret like '%pass-word-1%')", 5);
    }

    [Fact]
    public async Task A_form_is_read_like_a_body_and_a_writer_becomes_an_event_without_an_order()
    {
        await PutAsync(
            "form",
            (JsonObject)
                JsonNode.Parse(
                    $$"""
                    { "kind": "calls", "proof": { "inAddress": true, "secret": "{{Secret}}" },
                      "reading": { "event": { "always": "contact.received" }, "contact": { "name": { "field": "name" }, "email": { "field": "email" }, "text": { "field": "message" } }, "keep": "none" } }
                    """
                )!
        );
        var (status, _, _) = await world.SendAsync(
            HttpMethod.Post,
            $"/api/in/form/{Secret}",
            null,
            "name=Noor+H%C3%A1ddad&email=noor%40example.org&message=When+does+it+sail%3F",
            "application/x-www-form-urlencoded"
        );
        Assert.Equal(HttpStatusCode.Accepted, status);
        var arrived = (await ArrivedAsync("form", 1, "understood"))["items"]![0]!;
        var told = (await world.UntilAsync($"/api/events/{arrived["events"]![0]}/trail", _ => true))["events"]![0]!;
        Assert.Equal(
            ("contact.received", "Noor Háddad", "noor@example.org"),
            ((string)told["type"]!, (string)told["data"]!["contact"]!["name"]!, (string)told["subject"]!)
        );
    }

    [Theory]
    [InlineData("""{ "kind": "calls", "proof": { "signature": { "header": "X Sig" }, "secret": "long-enough" } }""", "proof.signature.header")]
    [InlineData(
        """{ "kind": "calls", "proof": { "signature": { "header": "X-Sig", "algorithm": "md5" }, "secret": "long-enough" } }""",
        "proof.signature.algorithm"
    )]
    [InlineData("""{ "kind": "calls", "proof": { "signature": { "header": "X-Sig" } } }""", "proof.secret")]
    [InlineData("""{ "kind": "calls", "proof": { "key": true, "basic": { "user": "a" } } }""", "proof")]
    [InlineData("""{ "kind": "callz" }""", "kind")]
    [InlineData("""{ "name": "Till" }""", "kind")]
    [InlineData("""{ "kind": "calls", "limit": 0 }""", "limit")]
    [InlineData(
        """{ "kind": "calls", "proof": { "key": true }, "reading": { "event": { "always": "order.placed" }, "order": { "number": { "path": "no" } } } }""",
        "reading.order.number.path"
    )]
    [InlineData("""{ "kind": "events", "reading": { "event": { "always": "order.placed" }, "order": { "number": { "path": "$.no" } } } }""", "reading")]
    [InlineData("""{ "kind": "calls", "silence": { "threshold": 0 } }""", "silence.threshold")]
    [InlineData("""{ "kind": "calls", "colour": "red" }""", "colour")]
    public async Task A_mistake_is_named_at_its_place_and_nothing_is_made(string source, string path)
    {
        var (status, body, _) = await world.SendAsync(HttpMethod.Put, "/api/sources/wrong", world.World.Demo.Token, source);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains(path, body!["errors"]!.AsArray().Select(e => (string)e!["path"]!));
        Assert.Equal(HttpStatusCode.NotFound, (await world.GetAsync("/api/sources/wrong")).Status);
    }

    [Fact]
    public async Task A_source_has_a_version_a_limit_and_an_end()
    {
        await PutAsync("versions", Till());
        var (_, _, answer) = await world.GetAsync("/api/sources/versions");
        var tag = answer.Headers.ETag!.Tag;
        Assert.Equal(
            HttpStatusCode.OK,
            (
                await world.SendAsync(HttpMethod.Put, "/api/sources/versions", world.World.Demo.Token, """{"name":"Till two"}""", headers: ("If-Match", tag))
            ).Status
        );
        var (status, stale, _) = await world.SendAsync(
            HttpMethod.Put,
            "/api/sources/versions",
            world.World.Demo.Token,
            """{"name":"Till three"}""",
            headers: ("If-Match", tag)
        );
        Assert.Equal((HttpStatusCode.PreconditionFailed, "Till two"), (status, (string?)stale!["current"]!["name"]));
        Assert.Equal("T-", (string?)stale["current"]!["prefix"]);

        await PutAsync("versions", new JsonObject { ["limit"] = 1 }, HttpStatusCode.OK);
        var many = await Task.WhenAll(Enumerable.Range(0, 12).Select(_ => CallAsync("versions", """{"kind":"PING"}""")));
        Assert.Contains(many, m => m.Status == HttpStatusCode.Accepted);
        Assert.Contains(many, m => m.Status == HttpStatusCode.TooManyRequests && m.Answer.Headers.RetryAfter!.Delta >= TimeSpan.FromSeconds(1));

        await PutAsync("versions", new JsonObject { ["on"] = false, ["limit"] = 100 }, HttpStatusCode.OK);
        Assert.Equal(HttpStatusCode.Forbidden, (await CallAsync("versions", "{}")).Status);
        Assert.Equal(HttpStatusCode.NoContent, (await world.SendAsync(HttpMethod.Delete, "/api/sources/versions", world.World.Demo.Token)).Status);
        Assert.Equal(HttpStatusCode.NotFound, (await CallAsync("versions", "{}")).Status);
    }

    [Fact]
    public async Task A_reading_is_proposed_from_bodies_with_its_reasons()
    {
        await PutAsync("proposed", (JsonObject)JsonNode.Parse($$"""{ "kind": "calls", "proof": { "inAddress": true, "secret": "{{Secret}}" } }""")!);
        foreach (var n in new[] { 1, 2 })
        {
            await world.SendAsync(
                HttpMethod.Post,
                $"/api/in/proposed/{Secret}",
                null,
                $$"""{"kind":"NEW","order_no":"X-{{n}}","state":"received","due":"{{n + 12}}/05/2027","total":"1.2{{n}}0,00"}"""
            );
        }

        await ArrivedAsync("proposed", 2, "not-understood");
        var (status, body, _) = await world.SendAsync(HttpMethod.Post, "/api/sources/proposed/readings/proposal", world.World.Demo.Token, """{"last":50}""");
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Equal("$.order_no", (string?)body!["reading"]!["order"]!["number"]!["path"]);
        Assert.Contains("leaves no other way", (string?)body["because"]!["order.dueAt"]);
        await PutAsync("proposed", new JsonObject { ["reading"] = body["reading"]!.DeepClone() }, HttpStatusCode.OK);
        var (_, again, _) = await world.SendAsync(
            HttpMethod.Post,
            "/api/sources/proposed/arrivals/again",
            world.World.Demo.Token,
            """{"state":"not-understood"}"""
        );
        Assert.Equal(2, (int)again!["understood"]!);
    }
}
