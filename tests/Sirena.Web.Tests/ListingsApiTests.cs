using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json.Nodes;

namespace Sirena.Web.Tests;

/// <summary>Lists over HTTP: tried, taken, doubted; and what a check finds missing.</summary>
public sealed class ListingsApiTests(WorldFixture world) : IClassFixture<WorldFixture>
{
    private const string Head = "Nr;Status;Faellig;Summe;Kunde\r\n";

    private async Task MakeAsync(string id, string role = "orders", string more = "", string prefix = "")
    {
        var (status, body, _) = await world.SendAsync(
            HttpMethod.Put,
            $"/api/sources/{id}",
            world.World.Demo.Token,
            $$"""
            { "kind": "listing", "prefix": "{{prefix}}", "listing": { "role": "{{role}}", "key": "Nr", "charset": "windows-1252"{{more}} },
              "reading": { "order": { "number": { "column": "Nr" }, "status": { "column": "Status" }, "dueAt": { "column": "Faellig", "form": "dd.MM.uuuu HH:mm", "zone": "Europe/Lisbon" },
                "total": { "column": "Summe", "decimal": "," }, "currency": { "always": "EUR" }, "customer": { "name": { "column": "Kunde" } } } } }
            """
        );
        Assert.True(status == HttpStatusCode.Created, body?.ToJsonString());
    }

    private async Task<(HttpStatusCode Status, JsonNode Body)> PutAsync(string id, byte[] file, string query = "", string type = "text/csv")
    {
        using var http = new HttpClient();
        using var request = new HttpRequestMessage(HttpMethod.Put, $"{world.Url}/api/sources/{id}/listing{query}") { Content = new ByteArrayContent(file) };
        request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", world.World.Demo.Token);
        request.Content.Headers.ContentType = MediaTypeHeaderValue.Parse(type);
        using var answer = await http.SendAsync(request, TestContext.Current.CancellationToken);
        return (answer.StatusCode, JsonNode.Parse(await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken))!);
    }

    private Task<(HttpStatusCode Status, JsonNode Body)> PutAsync(string id, string file, string query = "") => PutAsync(id, Ansi(file), query);

    private static byte[] Ansi(string text)
    {
        Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);
        return Encoding.GetEncoding("windows-1252").GetBytes(text);
    }

    [Fact]
    public async Task The_first_run_is_a_baseline_and_the_next_ones_make_events_of_what_differs()
    {
        await MakeAsync("book", prefix: "Y-");
        var (status, first) = await PutAsync(
            "book",
            Head
                + "1;received;24.11.2026 15:30;1.284,50;Café Größe\r\n2;received;24.11.2026 16:30;12,00;Tarn\r\n3;received;;7;Corvane\r\n4;received;;8;Corvane\r\n"
        );
        Assert.True(status == HttpStatusCode.OK, first.ToJsonString());
        Assert.Equal(("taken", true, 4), ((string)first["state"]!, (bool)first["baseline"]!, (int)first["counts"]!["new"]!));
        var order = (await world.GetAsync("/api/orders/Y-1/trail")).Body!["events"]![0]!["data"]!["order"]!;
        Assert.Equal(("Café Größe", "2026-11-24T15:30:00Z"), ((string)order["customer"]!["name"]!, (string)order["dueAt"]!));
        Assert.Equal(1284.50m, (decimal)order["total"]!);
        Assert.Empty((await world.GetAsync("/api/alerts?order=Y-1")).Body!["items"]!.AsArray());

        const string Second =
            "1;picking;24.11.2026 15:30;1.284,50;Café Größe\r\n2;received;24.11.2026 17:30;12,00;Tarn\r\n3;received;;7;Corvane\r\n5;received;;x;New\r\n6;received;25.11.2026 08:00;9;New\r\n6;received;;9;Twice\r\nhalf\r\n4;received;;8;Corvane\r\n";
        var (_, tried) = await PutAsync("book", Head + Second, "?try=1");
        Assert.Equal("tried", (string)tried["state"]!);
        Assert.Equal(["6"], tried["new"]!.AsArray().Select(n => (string)n!));
        Assert.Equal(["1", "2"], tried["changed"]!.AsArray().Select(n => (string)n!["key"]!));
        Assert.Equal(
            ("Status", "received", "picking"),
            (
                (string)tried["changed"]![0]!["cells"]![0]!["column"]!,
                (string)tried["changed"]![0]!["cells"]![0]!["before"]!,
                (string)tried["changed"]![0]!["cells"]![0]!["after"]!
            )
        );
        Assert.Equal([(5, "Summe"), (7, "Nr"), (8, null)], tried["bad"]!.AsArray().Select(b => ((int)b!["row"]!, (string?)b["column"])));
        Assert.Single((await world.GetAsync("/api/orders/Y-1/trail")).Body!["events"]!.AsArray());

        var (taken, answer, _) = await world.SendAsync(HttpMethod.Post, $"/api/sources/book/runs/{tried["run"]}/take", world.World.Demo.Token);
        Assert.True(taken == HttpStatusCode.OK, answer?.ToJsonString());
        var trail = await world.UntilAsync("/api/orders/Y-1/trail", t =>
            t["events"]!.AsArray().Count == 2 && t["events"]!.AsArray().All(e => e!["decidedAt"] is not null)
        );
        var moved = trail["events"]!.AsArray().Single(e => (string)e!["type"]! == "order.status-changed")!;
        Assert.Equal(
            ("status", "received", "picking"),
            ((string)moved["data"]!["change"]!["field"]!, (string)moved["data"]!["change"]!["before"]!, (string)moved["data"]!["change"]!["after"]!)
        );
        Assert.Contains((await world.GetAsync("/api/orders/Y-2/trail")).Body!["events"]!.AsArray(), e => (string)e!["type"]! == "order.changed");
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await world.SendAsync(HttpMethod.Post, $"/api/sources/book/runs/{tried["run"]}/take", world.World.Demo.Token)).Status
        );

        // The same file once more differs in nothing.
        var (_, again) = await PutAsync("book", Head + Second);
        Assert.Equal((0, 0, 0), ((int)again["counts"]!["new"]!, (int)again["counts"]!["changed"]!, (int)again["counts"]!["gone"]!));
    }

    [Fact]
    public async Task A_run_that_looks_broken_waits_and_says_so()
    {
        await MakeAsync("doubt", more: ", \"gone\": \"cancelled\"", prefix: "D-");
        var rows = Enumerable.Range(1, 10).Select(n => $"{n};received;;{n};A\r\n").ToArray();
        await PutAsync("doubt", Head + string.Concat(rows));
        var (_, waits) = await PutAsync("doubt", Head + string.Concat(rows.Take(6)));
        Assert.Equal("waits", (string)waits["state"]!);
        Assert.Contains("4 of 10 rows are gone", (string)waits["reason"]!);
        await world.UntilAsync("/api/sources/doubt/runs", r => (string)r["items"]![0]!["state"]! == "waits");
        await world.World.UntilAsync("select exists (select from events where type = 'source.doubtful' and subject = 'doubt')", 5);
        await world.World.UntilAsync("select status = 'received' from orders where number = 'D-9'", 5);
        Assert.Equal(
            HttpStatusCode.OK,
            (await world.SendAsync(HttpMethod.Post, $"/api/sources/doubt/runs/{waits["run"]}/take", world.World.Demo.Token)).Status
        );
        await world.World.UntilAsync("select status = 'cancelled' from orders where number = 'D-9'", 5);
        var (_, columns) = await PutAsync("doubt", "Nr;Status\r\n1;received\r\n");
        Assert.Contains("'Faellig'", (string)columns["reason"]!);

        // What cannot be read as a reason refuses nothing.
        foreach (var wrong in new[] { """{"reason":"an old""", """{"reason":12345}""", """{"reson":"an old export"}""", "[]" })
        {
            var (status, _, _) = await world.SendAsync(HttpMethod.Post, $"/api/sources/doubt/runs/{columns["run"]}/refuse", world.World.Demo.Token, wrong);
            Assert.Equal((wrong, HttpStatusCode.UnprocessableEntity), (wrong, status));
        }

        Assert.Equal(
            HttpStatusCode.NoContent,
            (
                await world.SendAsync(
                    HttpMethod.Post,
                    $"/api/sources/doubt/runs/{columns["run"]}/refuse",
                    world.World.Demo.Token,
                    """{"reason":"an old export"}"""
                )
            ).Status
        );
        Assert.Contains("an old export", (string)(await world.GetAsync("/api/sources/doubt/runs")).Body!["items"]![0]!["reason"]!);
    }

    [Fact]
    public async Task Of_a_list_without_a_reading_the_last_file_is_kept()
    {
        await world.SendAsync(HttpMethod.Put, "/api/sources/unread", world.World.Demo.Token, """{ "kind": "listing", "listing": { "key": "Nr" } }""");
        foreach (var rows in new[] { "1;a\r\n", "1;a\r\n2;b\r\n" })
        {
            var (status, body) = await PutAsync("unread", "Nr;Status\r\n" + rows);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
            Assert.Contains("no reading yet", body.ToJsonString());
        }

        var kept = Assert.Single((await world.GetAsync("/api/sources/unread/runs")).Body!["items"]!.AsArray())!;
        Assert.Equal(("tried", 2), ((string)kept["state"]!, (int)kept["rows"]!));
    }

    [Theory]
    [InlineData("Nr;Status\r\n1;\"received\r\n", "never closed")]
    [InlineData("Nr;Status;Faellig;Summe;Kunde\r\n1;received;;1;A\r\n2;rece", "ends within a row")]
    [InlineData("PK\u0003\u0004", "spreadsheet")]
    [InlineData("<!doctype html><html>", "HTML")]
    [InlineData("", "empty")]
    [InlineData("Nummer;Status\r\n1;received\r\n", "'Nr' is missing")]
    [InlineData("Nr;Status;Status\r\n1;a;b\r\n", "stands twice")]
    public async Task What_is_no_list_is_refused_whole(string file, string problem)
    {
        await world.SendAsync(
            HttpMethod.Put,
            "/api/sources/broken",
            world.World.Demo.Token,
            """{ "kind": "listing", "listing": { "key": "Nr" }, "reading": { "order": { "number": { "column": "Nr" }, "status": { "column": "Status" } } } }"""
        );
        var (status, body) = await PutAsync("broken", file);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains(
            problem,
            body.ToJsonString(new System.Text.Json.JsonSerializerOptions { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping })
        );
        Assert.Empty((await world.GetAsync("/api/sources/broken/runs")).Body!["items"]!.AsArray());
    }

    [Theory]
    [InlineData("utf-8", true)]
    [InlineData("utf-16", true)]
    [InlineData("utf-8", false)]
    public async Task Files_come_in_the_usual_encodings_and_line_ends(string charset, bool mark)
    {
        var id = $"enc-{charset}-{(mark ? "m" : "p")}";
        await MakeAsync(id, prefix: id + "-");
        var encoding = Encoding.GetEncoding(charset);
        byte[] file =
        [
            .. mark ? encoding.GetPreamble() : [],
            .. encoding.GetBytes((Head + "1;received;;1;Größe\r\n").Replace("\r\n", mark ? "\r" : "\n", StringComparison.Ordinal).Replace(';', '\t')),
        ];
        var (status, body) = await PutAsync(id, file, type: mark ? "text/csv" : "text/csv; charset=utf-8");
        Assert.True(status == HttpStatusCode.OK, body.ToJsonString());
        Assert.Equal("Größe", (string?)(await world.GetAsync($"/api/orders/{id}-1/trail")).Body!["events"]![0]!["data"]!["order"]!["customer"]!["name"]);
    }

    [Fact]
    public async Task Json_lines_are_a_list_too()
    {
        await world.SendAsync(
            HttpMethod.Put,
            "/api/sources/jl",
            world.World.Demo.Token,
            """{ "kind": "listing", "prefix": "JL-", "listing": { "key": "no" }, "reading": { "order": { "number": { "column": "no" }, "status": { "column": "status" }, "total": { "column": "sum" } } } }"""
        );
        var (status, body) = await PutAsync(
            "jl",
            Encoding.UTF8.GetBytes("{\"no\":1,\"status\":\"received\",\"sum\":12.5}\n{\"no\":2,\"status\":\"picking\"}\n{\"no\":\n"),
            type: "application/x-ndjson"
        );
        Assert.True(status == HttpStatusCode.OK, body.ToJsonString());
        Assert.Equal((2, 3), ((int)body["counts"]!["new"]!, (int)body["bad"]![0]!["row"]!));
        Assert.Equal(12.5m, (decimal)(await world.GetAsync("/api/orders/JL-1/trail")).Body!["events"]![0]!["data"]!["order"]!["total"]!);
    }

    [Fact]
    public async Task A_check_finds_what_was_never_heard_and_what_is_taken_over_is_decided()
    {
        await MakeAsync("check", "check", ", \"stands\": 1", "K-");
        await world.EventAsync(WorldFixture.Event("k-1", "K-1", "order.placed", ",\"status\":\"received\""));
        await world.EventAsync(WorldFixture.Event("k-2", "K-2", "order.placed", ",\"status\":\"received\""));
        await world.EventAsync(WorldFixture.Event("k-3", "K-3", "order.placed", ",\"status\":\"received\""));
        await world.World.ExecuteAsync("update orders set changed_at = now() - interval '1 hour' where number like 'K-%'");
        var (status, body) = await PutAsync("check", Head + "1;received;;1;A\r\n2;picking;;2;B\r\n4;received;;3;C\r\n");
        Assert.True(status == HttpStatusCode.OK, body.ToJsonString());
        var items = (await world.GetAsync("/api/sources/check/missing")).Body!["items"]!.AsArray();
        Assert.Equal([("K-4", "unknown"), ("K-2", "status"), ("K-3", "gone")], items.Select(i => ((string)i!["order"]!, (string)i["kind"]!)));
        Assert.Equal(("picking", "received"), ((string)items[1]!["there"]!, (string)items[1]!["here"]!));
        await world.World.UntilAsync("select exists (select from events where type = 'orders.missed' and subject = 'check')", 5);
        var (made, answer, _) = await world.SendAsync(HttpMethod.Post, "/api/sources/check/missing/K-4/take-over", world.World.Demo.Token);
        Assert.True(made == HttpStatusCode.Created, answer?.ToJsonString());
        var trail = await world.UntilAsync("/api/orders/K-4/trail", t => t["events"]!.AsArray().Any(e => e!["decidedAt"] is not null));
        Assert.True((bool)trail["events"]![0]!["data"]!["fromCheck"]!);
        Assert.Equal(
            HttpStatusCode.UnprocessableEntity,
            (await world.SendAsync(HttpMethod.Post, "/api/sources/check/missing/K-3/set-aside", world.World.Demo.Token, "{}")).Status
        );
        Assert.Equal(
            HttpStatusCode.NoContent,
            (
                await world.SendAsync(
                    HttpMethod.Post,
                    "/api/sources/check/missing/K-3/set-aside",
                    world.World.Demo.Token,
                    """{"reason":"signed for by hand"}"""
                )
            ).Status
        );
        Assert.Equal(
            HttpStatusCode.Conflict,
            (await world.SendAsync(HttpMethod.Post, "/api/sources/check/missing/K-3/take-over", world.World.Demo.Token)).Status
        );
        Assert.Equal(["K-2"], (await world.GetAsync("/api/sources/check/missing")).Body!["items"]!.AsArray().Select(i => (string)i!["order"]!));
    }
}
