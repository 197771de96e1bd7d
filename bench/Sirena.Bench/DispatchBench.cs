using System.Diagnostics;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Text;
using MailKit.Net.Smtp;
using MailKit.Security;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using NodaTime;
using Npgsql;
using Quartz;
using Sirena.Channels;
using Sirena.Channels.Mail;
using Sirena.Shots;

namespace Sirena.Bench;

/// <summary>
/// Messages handed over by one node, every attempt on disk before it is made, beside the bare client library and beside a general-purpose job library, in the
/// same run.
/// </summary>
public static class DispatchBench
{
    private const int Width = 8;
    private const int Runs = 3;
    private const int Messages = 8000;

    /// <summary>Measures; the median of three runs each, ratios taken run by run.</summary>
    public static async Task<IReadOnlyList<Figure>> RunAsync(string server, Action<string> say)
    {
        var (mail, bareMail, post, barePost, jobs) = (new double[Runs], new double[Runs], new double[Runs], new double[Runs], new double[Runs]);
        await using (var world = await World.MakeAsync(server, days: 0, aDay: 0))
        {
            await SetUpAsync(world);
            await HandOverAsync(world, "mail", "bench@port-averil.example", 3000);
            await HandOverAsync(world, "sms", "+447700900001", 3000);
            for (var run = 0; run < Runs; run++)
            {
                say($"dispatch, run {run + 1} of 3");
                bareMail[run] = await BareMailAsync(world);
                mail[run] = await HandOverAsync(world, "mail", "bench@port-averil.example", Messages);
                barePost[run] = await BarePostAsync(world);
                post[run] = await HandOverAsync(world, "sms", "+447700900001", Messages);
                jobs[run] = await JobsAsync(world, 1000);
            }
        }

        double Ratio(double[] of, double[] to) => Figure.Median([.. of.Zip(to, (a, b) => a / b)]);
        return
        [
            new Figure("bare MailKit loop, 8 connections", Figure.Median(bareMail), "mails/s"),
            new Figure("mail handed over, one gateway of width 8", Figure.Median(mail), "mails/s"),
            new Figure("  as a part of the bare loop", Ratio(mail, bareMail), "×", .6, Least: true),
            new Figure("bare HttpClient loop, 8 at once", Figure.Median(barePost), "posts/s"),
            new Figure("SMS handed over, one gateway of width 8", Figure.Median(post), "messages/s"),
            new Figure("  as a part of the bare loop", Ratio(post, barePost), "×", .25, Least: true),
            new Figure("job library that polls PostgreSQL, empty jobs", Figure.Median(jobs), "jobs/s"),
            new Figure("  SMS handed over beside it", Ratio(post, jobs), "×", 10, Least: true),
        ];
    }

    private static async Task SetUpAsync(World world)
    {
        using var http = new HttpClient
        {
            BaseAddress = new Uri(world.Url),
            DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Bearer", world.Demo.Token) },
        };
        (
            await http.PutAsJsonAsync(
                "/api/gateways/bench-mail",
                new
                {
                    channel = "mail",
                    name = "Bench mail",
                    address = $"127.0.0.1:{world.StandIns.SmtpPort}",
                    width = Width,
                }
            )
        ).EnsureSuccessStatusCode();
        (
            await http.PutAsJsonAsync(
                "/api/gateways/phone",
                new
                {
                    channel = "sms",
                    name = "Bench phone",
                    address = $"{world.StandIns.Url}/phone/messages",
                    body = """{"id":"{{id}}","to":"{{to}}","text":"{{text}}","receipts":""}""",
                    idAt = "message.id",
                    secret = world.StandIns.Phone.Key,
                    width = Width,
                }
            )
        ).EnsureSuccessStatusCode();
        using var rule = new StringContent(
            "name: Bench\nwhen: [bench.dispatch]\ntell: [ { address: \"first@port-averil.example\", outside: true } ]",
            Encoding.UTF8,
            "application/yaml"
        );
        (await http.PutAsync("/api/rules/bench", rule)).EnsureSuccessStatusCode();
        using var happened = new StringContent(
            """{"specversion":"1.0","id":"1","source":"/bench","type":"bench.dispatch","subject":"B-1","data":{"order":{"number":"B-1","total":12,"lines":[{"sku":"GAL-0031","title":"Fish pie, tray of 12","quantity":4}]}}}""",
            Encoding.UTF8,
            "application/cloudevents+json"
        );
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", world.Demo.SourceKey);
        (await http.PostAsync("/api/events", happened)).EnsureSuccessStatusCode();
        await world.UntilAsync("select exists (select from deliveries where order_number = 'B-1' and state = 'handed-over')", 20);
    }

    // Copies the first delivery so many times and waits until all are over and noted.
    private static async Task<double> HandOverAsync(World world, string channel, string to, int count)
    {
        var text = channel == "mail" ? "m.text" : "'B-1 held, credit limit. MV Corvane, berth N3, due Tue 24 Nov, 15:30, EUR 1,284.50. Reply OK 4821'";
        await world.ExecuteAsync(
            $"""
            with first as (select d.*, {text} text, m.subject, case when '{channel}' = 'mail' then m.html end html from deliveries d join messages m on m.delivery_id = d.id where d.order_number = 'B-1' order by d.id limit 1),
            made as (
                insert into deliveries (id, alert_id, order_number, rule_id, step, channel, "to", state, created_at, due_at, deadline, answered, tries)
                select gen_random_uuid(), alert_id, 'BENCH', rule_id, 0, '{channel}', '{to}', 'waiting', now(), now(), now() + interval '1 hour', false, 0 from first, generate_series(1, {count}) returning id)
            insert into messages (delivery_id, subject, text, html) select made.id, first.subject, first.text, first.html from made, first
            """
        );
        world.Nodes[0].Services.GetRequiredService<Engine.Signals>().Raise(Engine.Topic.Deliveries);
        var begin = Stopwatch.GetTimestamp();
        await world.UntilAsync("select not exists (select from deliveries where order_number = 'BENCH' and state = 'waiting')", 120);
        var rate = count / Stopwatch.GetElapsedTime(begin).TotalSeconds;
        await Task.Delay(500);
        await world.ExecuteAsync(
            "delete from receipts; delete from attempts where delivery_id in (select id from deliveries where order_number = 'BENCH'); delete from messages where delivery_id in (select id from deliveries where order_number = 'BENCH'); delete from deliveries where order_number = 'BENCH'"
        );
        return rate;
    }

    private static async Task<double> BareMailAsync(World world)
    {
        var settings = new MailSettings("127.0.0.1", world.StandIns.SmtpPort, "desk@averilquay.example", "Averil Quay");
        var (text, html) = await TextAsync(world);
        return await RateAsync(
            async (share, next) =>
            {
                using var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
                await socket.ConnectAsync("127.0.0.1", world.StandIns.SmtpPort);
                using var client = new SmtpClient();
                await client.ConnectAsync(socket, "127.0.0.1", world.StandIns.SmtpPort, SecureSocketOptions.None);
                client.Capabilities &= ~SmtpCapabilities.Pipelining;
                while (next())
                {
                    await client.SendAsync(
                        AlertMail.Make(
                            new OutgoingMessage(Guid.NewGuid(), "bench@port-averil.example", "B-1", "B-1: bench", text, html),
                            settings,
                            DateTimeOffset.UtcNow
                        )
                    );
                }
            }
        );
    }

    private static async Task<double> BarePostAsync(World world)
    {
        using var http = new HttpClient();
        return await RateAsync(
            async (share, next) =>
            {
                while (next())
                {
                    using var content = JsonContent.Create(
                        new
                        {
                            id = Guid.NewGuid(),
                            to = "+447700900001",
                            text = "B-1 held, credit limit. MV Corvane, berth N3, due Tue 24 Nov, 15:30, EUR 1,284.50. Reply OK 4821",
                            receipts = "",
                        }
                    );
                    using var answer = await http.PostAsync($"{world.StandIns.Url}/phone/messages", content);
                    answer.EnsureSuccessStatusCode();
                }
            }
        );
    }

    private static async Task<double> RateAsync(Func<int, Func<bool>, Task> loop)
    {
        var left = Messages;
        var begin = Stopwatch.GetTimestamp();
        await Task.WhenAll(Enumerable.Range(0, Width).Select(share => Task.Run(() => loop(share, () => Interlocked.Decrement(ref left) >= 0))));
        return Messages / Stopwatch.GetElapsedTime(begin).TotalSeconds;
    }

    private static async Task<(string Text, string? Html)> TextAsync(World world)
    {
        await using var source = NpgsqlDataSource.Create(world.Database);
        await using var command = source.CreateCommand(
            "select m.text, m.html from messages m join deliveries d on d.id = m.delivery_id where d.order_number = 'B-1'"
        );
        await using var reader = await command.ExecuteReaderAsync();
        await reader.ReadAsync();
        return (reader.GetString(0), await reader.IsDBNullAsync(1) ? null : reader.GetString(1));
    }

    // The same work without the work: jobs that do nothing, one of each message, from a store in the same database.
    private static async Task<double> JobsAsync(World world, int count)
    {
        var builder = Host.CreateEmptyApplicationBuilder(null);
        builder.Logging.ClearProviders();
        builder.Services.AddQuartz(q =>
        {
            q.UseDefaultThreadPool(p => p.MaxConcurrency = Width);
            q.UsePersistentStore(s =>
            {
                s.UsePostgres(world.Database);
                s.UseSystemTextJsonSerializer();
                s.ProvisionSchema();
            });
            q.AddJob<EmptyJob>(j => j.WithIdentity("empty").StoreDurably());
        });
        using var host = builder.Build();
        var scheduler = await host.Services.GetRequiredService<ISchedulerFactory>().GetScheduler();
        for (var i = 0; i < count; i++)
        {
            await scheduler.ScheduleJob(TriggerBuilder.Create().ForJob("empty").WithIdentity($"t{Guid.NewGuid():N}").StartNow().Build());
        }

        EmptyJob.Done = 0;
        var begin = Stopwatch.GetTimestamp();
        await scheduler.Start();
        while (EmptyJob.Done < count && Stopwatch.GetElapsedTime(begin) < TimeSpan.FromSeconds(60))
        {
            await Task.Delay(5);
        }

        var rate = EmptyJob.Done / Stopwatch.GetElapsedTime(begin).TotalSeconds;
        await scheduler.Shutdown(true);
        return rate;
    }

    private sealed class EmptyJob : IJob
    {
        private static int done;

        public static int Done
        {
            get => Volatile.Read(ref done);
            set => Volatile.Write(ref done, value);
        }

        public ValueTask Execute(IJobExecutionContext context, CancellationToken cancellationToken = default)
        {
            Interlocked.Increment(ref done);
            return default;
        }
    }
}
