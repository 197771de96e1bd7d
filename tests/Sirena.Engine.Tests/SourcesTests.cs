using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using NodaTime;
using Sirena.Core.Orders;
using Sirena.Core.Sources;
using Sirena.Demo.OrderSystem;
using Sirena.Demo.World;
using Sirena.Engine.Sources;
using Sirena.Formats.Documents;
using Sirena.Formats.Sources;
using Sirena.Storage.Sources;

namespace Sirena.Engine.Tests;

/// <summary>Lists that are fetched and watched for, silence that is heard, bodies that are read once by several nodes.</summary>
public sealed class SourcesTests(DeskFixture desk) : IClassFixture<DeskFixture>
{
    private const string Listing =
        """{ "kind": "listing", "prefix": "{0}-", "listing": { "key": "no", {1} }, "reading": { "order": { "number": { "column": "no" }, "status": { "column": "status" } } } }""";

    private async Task SaveAsync(string id, string source)
    {
        var (node, error) = DocumentText.Read(source, yaml: false);
        Assert.Null(error);
        var saved = await desk.Services.GetRequiredService<SourceDesk>().SaveAsync(id, node!, "the test", TestContext.Current.CancellationToken);
        Assert.True(saved.Source is not null, string.Join("; ", saved.Errors.Select(e => $"{e.Path} {e.Problem}")));
    }

    private Task<T> UntilAsync<T>(Func<Storage.SirenaDb, Task<T>> read, Func<T, bool> good, string what) => desk.UntilAsync(read, good, _ => what, 60);

    private Task<List<OrderEvent>> SaidAsync(string type, string subject, int count = 1) =>
        UntilAsync(
            db => db.Events.AsNoTracking().Where(e => e.Type == type && e.Subject == subject).ToListAsync(),
            found => found.Count >= count,
            $"{type} of {subject} was not said"
        );

    [Fact]
    public void Whatever_the_ledger_sends_is_understood_by_its_reading_and_its_other_shape_is_not()
    {
        var reader = new BodyReader(
            ReadingReader.Read(SourceSetup.LedgerReading().ToJsonString(), yaml: false).Reading!,
            DateTimeZoneProviders.Tzdb["Europe/Lisbon"]
        );
        var plan = new OrderPlan(new Random(7));
        var now = Instant.FromUtc(2026, 11, 24, 9, 0);
        var types = new HashSet<string>();
        foreach (var happened in Enumerable.Range(30_000, 300).SelectMany(n => plan.Make(n, now)).Where(e => LedgerShape.Events.ContainsKey(e.Type)))
        {
            JsonElement Body(bool other) =>
                BodyText.Read(Encoding.UTF8.GetBytes(LedgerShape.Write("e", happened.Type, happened.Data, now, other).ToJsonString()), null).Root;
            var made = Assert.Single(reader.Read(new Body(Body(other: false), _ => null)).Events);
            Assert.Equal((happened.Type, now), (made.Type, made.Time!.Value));
            var (sent, read) = (happened.Data["order"]!, made.Data["order"]!);
            Assert.Equal(
                (Amount(sent["total"]), sent["dueAt"]?.ToString(), sent["lines"]?.AsArray().Count),
                (Amount(read["total"]), read["dueAt"]?.ToString(), read["lines"]?.AsArray().Count)
            );
            Assert.NotEmpty(reader.Read(new Body(Body(other: true), _ => null)).Problems);
            types.Add(made.Type);
        }

        Assert.Contains("order.held", types);
        Assert.Contains("order.note-added", types);
    }

    private static decimal? Amount(JsonNode? value) =>
        value is null ? null : decimal.Parse(value.ToJsonString(), System.Globalization.CultureInfo.InvariantCulture);

    [Fact]
    public async Task A_list_is_fetched_heeding_its_tag_and_three_failures_are_said()
    {
        var (answer, asked) = (200, new List<string>());
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        builder.WebHost.UseUrls("http://127.0.0.1:0");
        await using var app = builder.Build();
        app.MapGet("/open.csv", (HttpRequest request, HttpResponse response) =>
        {
            lock (asked)
            {
                asked.Add(request.Headers.IfNoneMatch.ToString());
            }

            response.Headers.ETag = "\"one\"";
            return answer != 200 ? Results.StatusCode(answer)
                : request.Headers.IfNoneMatch == "\"one\"" ? Results.StatusCode(304)
                : Results.Text("no;status\n1;received\n2;received\n", "text/csv");
        });
        await app.StartAsync(TestContext.Current.CancellationToken);
        await SaveAsync(
            "fetched",
            Listing
                .Replace("{0}", "F", StringComparison.Ordinal)
                .Replace("{1}", $"\"url\": \"{app.Urls.First()}/open.csv\", \"schedule\": \"* * * * *\"", StringComparison.Ordinal)
        );
        var fetch = desk.Services.GetRequiredService<ListFetch>();
        async Task DueAsync(int failures)
        {
            await using (var db = await desk.DbAsync())
            {
                await db.Database.ExecuteSqlRawAsync(
                    "update sources set fetched_at = now() - interval '1 hour', fetch_failures = {0} where id = 'fetched'",
                    failures
                );
            }

            int before;
            lock (asked)
            {
                before = asked.Count;
            }

            // The node's own look may be faster: whichever comes first fetches, and once.
            await fetch.LookAsync(TestContext.Current.CancellationToken);
            await UntilAsync(_ => Task.FromResult(asked.Count), count => count > before, "The list was not fetched");
        }

        await DueAsync(0);
        await UntilAsync(db => db.ListingRuns.AsNoTracking().CountAsync(r => r.Source == "fetched"), n => n == 1, "No run was made of what was fetched");
        await UntilAsync(db => db.Sources.AsNoTracking().SingleAsync(s => s.Id == "fetched"), s => s.FetchTag == "\"one\"", "The tag was not kept");
        await DueAsync(0);
        Assert.Equal("\"one\"", asked[^1]);
        answer = 503;
        await DueAsync(2);
        Assert.Contains("503", (string)JsonNode.Parse((await SaidAsync("source.failing", "fetched"))[0].Data)!["source"]!["problem"]!);
        answer = 200;
        await DueAsync(3);
        await SaidAsync("source.restored", "fetched");
        await using var last = await desk.DbAsync();
        Assert.Equal(1, await last.ListingRuns.CountAsync(r => r.Source == "fetched"));
        await last.Sources.Where(s => s.Id == "fetched").ExecuteUpdateAsync(u => u.SetProperty(s => s.On, false), TestContext.Current.CancellationToken);
    }

    [Fact]
    public async Task A_file_in_a_watched_folder_is_read_when_it_stands_still_and_goes_to_done_or_bad()
    {
        var folder = Directory.CreateTempSubdirectory("sirena-watched-").FullName;
        try
        {
            await SaveAsync(
                "watched",
                Listing.Replace("{0}", "W", StringComparison.Ordinal).Replace("{1}", $"\"folder\": \"{folder}\"", StringComparison.Ordinal)
            );
            await File.WriteAllTextAsync(Path.Combine(folder, "a.csv"), "no;status\n1;received\n", TestContext.Current.CancellationToken);
            await File.WriteAllTextAsync(Path.Combine(folder, "b.csv"), "no;status\n1;\"open\n", TestContext.Current.CancellationToken);
            await UntilAsync(
                _ => Task.FromResult(File.Exists(Path.Combine(folder, "done", "a.csv")) && File.Exists(Path.Combine(folder, "bad", "b.csv"))),
                both => both,
                "The files were not moved"
            );
            Assert.Contains("never closed", await File.ReadAllTextAsync(Path.Combine(folder, "bad", "b.csv.why.txt"), TestContext.Current.CancellationToken));
            await UntilAsync(db => db.Orders.AsNoTracking().CountAsync(o => o.Number == "W-1"), n => n == 1, "The order of the list is not there");

            // The folder is gone for a while: that is said once, and once that it is there again.
            Directory.Move(folder, folder + "-away");
            Assert.Contains("no folder", (string)JsonNode.Parse(Assert.Single(await SaidAsync("source.failing", "watched")).Data)!["source"]!["problem"]!);
            Directory.Move(folder + "-away", folder);
            Assert.Single(await SaidAsync("source.restored", "watched"));
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    [Fact]
    public async Task A_folder_outside_of_those_that_may_be_watched_is_refused()
    {
        var (node, _) = DocumentText.Read(
            Listing.Replace("{0}", "X", StringComparison.Ordinal).Replace("{1}", "\"folder\": \"/etc\"", StringComparison.Ordinal),
            yaml: false
        );
        var saved = await desk.Services.GetRequiredService<SourceDesk>().SaveAsync("etc", node!, "the test", TestContext.Current.CancellationToken);
        Assert.Equal("listing.folder", Assert.Single(saved.Errors).Path);
    }

    [Fact]
    public async Task Silence_at_a_busy_hour_is_said_once_and_ended_when_something_comes()
    {
        await SaveAsync("busy", """{ "kind": "calls", "proof": { "key": true } }""");
        var now = SystemClock.Instance.GetCurrentInstant();
        await using (var db = await desk.DbAsync())
        {
            await db.Database.ExecuteSqlRawAsync(
                "insert into source_hours (source, hour, events) select 'busy', h, 120 from generate_series(date_trunc('hour', now()) - interval '30 days', date_trunc('hour', now()) - interval '1 hour', interval '1 hour') h"
            );
            await db
                .Sources.Where(s => s.Id == "busy")
                .ExecuteUpdateAsync(u => u.SetProperty(s => s.LastAt, now - Duration.FromMinutes(2)), TestContext.Current.CancellationToken);
        }

        var watch = ActivatorUtilities.CreateInstance<SilenceWatch>(desk.Services);
        await watch.LookAsync(TestContext.Current.CancellationToken);
        await using (var db = await desk.DbAsync())
        {
            Assert.Null((await db.Sources.AsNoTracking().SingleAsync(s => s.Id == "busy")).SilentSince);
            await db
                .Sources.Where(s => s.Id == "busy")
                .ExecuteUpdateAsync(u => u.SetProperty(s => s.LastAt, now - Duration.FromMinutes(30)), TestContext.Current.CancellationToken);
        }

        await watch.LookAsync(TestContext.Current.CancellationToken);
        await watch.LookAsync(TestContext.Current.CancellationToken);
        var said = JsonNode.Parse(Assert.Single(await SaidAsync("source.silent", "busy")).Data)!["source"]!;
        Assert.InRange((double)said["expected"]!, 55, 65);
        var pulse = desk.Services.GetRequiredService<SourcePulse>();
        pulse.Note("busy", 1, SystemClock.Instance.GetCurrentInstant());
        await pulse.WriteAsync(TestContext.Current.CancellationToken);
        await watch.LookAsync(TestContext.Current.CancellationToken);
        await SaidAsync("source.back", "busy");
        await UntilAsync(db => db.Sources.AsNoTracking().SingleAsync(s => s.Id == "busy"), s => s.SilentSince is null, "The silence is not over");
    }

    [Fact]
    public async Task Two_nodes_read_each_body_once_and_in_the_order_in_which_they_came()
    {
        await SaveAsync(
            "twice",
            """{ "kind": "calls", "proof": { "key": true }, "reading": { "event": { "always": "order.changed" }, "order": { "number": { "path": "$.no" }, "extra": { "n": { "path": "$.n" } } }, "keep": "none" } }"""
        );
        var other = await desk.StartNodeAsync();
        var queue = desk.Services.GetRequiredService<ArrivalQueue>();
        for (var i = 0; i < 120; i++)
        {
            var body = Encoding.UTF8.GetBytes($"{{\"no\":\"TW-1\",\"n\":{i}}}");
            await queue.StoreAsync(
                [
                    new ArrivedBody
                    {
                        Source = "twice",
                        At = SystemClock.Instance.GetCurrentInstant(),
                        Size = body.Length,
                        Content = body,
                        Hash = SHA256.HashData(body),
                    },
                ],
                TestContext.Current.CancellationToken
            );
        }

        var events = await UntilAsync(
            db => db.Events.AsNoTracking().Where(e => e.OrderNumber == "TW-1").OrderBy(e => e.Seq).ToListAsync(),
            found => found.Count >= 120,
            "Not all bodies were read"
        );
        Assert.Equal(Enumerable.Range(0, 120), events.Select(e => (int)JsonNode.Parse(e.Data)!["order"]!["extra"]!["n"]!));
        await desk.StopNodeAsync(other);
    }
}
