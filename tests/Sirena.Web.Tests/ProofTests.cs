using System.Net;
using System.Net.Sockets;
using System.Text;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using MimeKit;
using NodaTime;
using OpenQA.Selenium;
using Sirena.Engine;
using Sirena.Engine.Schedules;

namespace Sirena.Web.Tests;

/// <summary>The ledger: filters, what it gives out, sending again, what upkeep leaves, the summary, reports from a mailbox.</summary>
public sealed class ProofTests(WorldFixture world) : BrowserTests(world)
{
    private T Service<T>()
        where T : notnull => World.World.Nodes[0].Services.GetRequiredService<T>();

    private async Task<JsonNode> SendAsync(string id, string tell, Func<JsonArray, bool> good)
    {
        Assert.True(
            (
                await World.SendAsync(
                    HttpMethod.Put,
                    $"/api/rules/{id}",
                    World.World.Demo.Token,
                    $"name: {id}\nwhen: [test.{id}]\nurgency: urgent\ntell: [ {tell} ]\nby: {{ allAtOnce: [mail] }}",
                    "application/yaml"
                )
            ).Status
                is HttpStatusCode.Created
                    or HttpStatusCode.OK
        );
        var number = $"PR-{id}-{Guid.NewGuid().ToString()[..6]}";
        await World.EventAsync(WorldFixture.Event(Guid.NewGuid().ToString(), number, $"test.{id}"));
        return (await World.UntilAsync($"/api/deliveries?order={number}", d => d["items"]!.AsArray().Count > 0 && good(d["items"]!.AsArray()), 15))["items"]!;
    }

    private async Task<string> TextAsync(string path)
    {
        using var http = new HttpClient(new HttpClientHandler { UseCookies = false }) { BaseAddress = new Uri(World.Url) };
        http.DefaultRequestHeaders.Add("Cookie", $"{WorldFixture.Cookie}={await World.SessionAsync(0)}");
        return await http.GetStringAsync(path);
    }

    [Fact]
    public async Task What_failed_is_found_sent_again_all_at_once_and_to_somebody_else()
    {
        World.World.StandIns.Faults.Add(new Demo.StandIns.Fault("mail", "*@lost.example", "refuse", 0));
        await SendAsync("lost", "{ address: \"one@lost.example\", outside: true }, { address: \"two@lost.example\", outside: true }", d =>
            d.Count(i => (string)i!["state"]! == "failed") == 2
        );
        await World.World.UntilAsync("select count(*) = 2 from events where type = 'delivery.failed' and subject like 'PR-lost%'", 10);
        World.World.StandIns.Faults.Clear();
        Go("/proof?rule=lost&state=failed");
        Choose("form[action*='handler=Again'] button");
        Browser.SwitchTo().Alert().Accept();
        Says("2 messages are on their way again.");
        await World.World.UntilAsync("select count(*) = 2 from deliveries where rule_id = 'lost' and state = 'handed-over'", 15);

        Go("/proof?rule=lost");
        Choose("a[data-look]");
        Until(() => Browser.FindElements(By.CssSelector("tr.opn select[name=person]")).Count > 0, "The details open");
        Choose("tr.opn select[name=person] option[value='odile.varga']");
        Choose("tr.opn form.line button");
        Says("on its way to Odile Varga");
        await World.World.UntilAsync("select count(*) = 1 from deliveries where rule_id = 'lost' and person = 'odile.varga' and state = 'handed-over'", 15);
        string Link(string to) =>
            Regex
                .Match(
                    World
                        .World.StandIns.Mail.Mails.Last(m =>
                            m.To.StartsWith(to, StringComparison.Ordinal) && m.Subject.Contains("PR-lost", StringComparison.Ordinal)
                        )
                        .Text,
                    "/a/[A-Za-z0-9_-]{22}"
                )
                .Value;
        Assert.NotEqual(Link("one@"), Link("odile"));
        NoSeriousFault();
    }

    [Fact]
    public async Task The_ledger_is_taken_out_as_CSV_and_JSON_lines_and_a_mail_as_its_file()
    {
        var items = await SendAsync("out", "{ address: \"=cmd@out.example\", outside: true }", d => (string)d[0]!["state"]! == "handed-over");
        var csv = await TextAsync("/proof?handler=Export&format=csv&rule=out");
        Assert.StartsWith("id,alert,order,rule,step,person,to,", csv);
        Assert.Contains(",'=cmd@out.example,outside,mail,handed-over,", csv);
        Assert.Equal(2, csv.Split('\n', StringSplitOptions.RemoveEmptyEntries).Length);
        var line = JsonNode.Parse((await TextAsync("/proof?handler=Export&format=jsonl&rule=out")).Trim())!;
        Assert.Equal((string)items[0]!["id"]!, (string)line["id"]!);
        Assert.Equal("=cmd@out.example", (string)line["to"]!);
        using var file = new MemoryStream(Encoding.UTF8.GetBytes(await TextAsync($"/proof/{items[0]!["id"]}/eml")));
        using var mail = MimeMessage.Load(file);
        Assert.StartsWith(((Guid)items[0]!["id"]!).ToString("N"), mail.MessageId);
        Assert.Contains((string)items[0]!["order"]!, mail.Subject);
        Go("/proof?rule=out&team=kitchen");
        Says("No delivery fits these filters.");
        Go("/proof?first=2020-01-01&last=2020-01-02&more=true");
        Says("2020-01-01 to 2020-01-02");
    }

    [Fact]
    public async Task Upkeep_takes_old_texts_and_rows_and_leaves_their_hash_and_the_day_s_figures()
    {
        var items = await SendAsync("old", "{ person: ines.calder }", d => (string)d[0]!["state"]! == "handed-over");
        var id = Guid.Parse((string)items[0]!["id"]!);
        await World.World.ExecuteAsync($"update deliveries set created_at = now() - interval '100 days' where id = '{id}'");
        await Service<Upkeep>().RunAsync(TestContext.Current.CancellationToken);
        await World.World.UntilAsync(
            $"select text = '' and html is null and size > 100 and octet_length(hash) = 32 from messages where delivery_id = '{id}'",
            5
        );
        Go($"/proof/{id}");
        Says("Its text is no longer kept.");
        await World.World.ExecuteAsync($"update deliveries set created_at = now() - interval '26 months' where id = '{id}'");
        await Service<Upkeep>().RunAsync(TestContext.Current.CancellationToken);
        await Service<Upkeep>().RunAsync(TestContext.Current.CancellationToken);
        await World.World.UntilAsync(
            $"select not exists (select from deliveries where id = '{id}') and (select count = 1 from daily_figures where rule_id = 'old' and channel = 'mail' and state = 'handed-over')",
            5
        );

        // The alert goes with its last message, the event with its last alert; nothing that is younger or still open.
        await World.World.ExecuteAsync(
            """
            update events e set received = now() - interval '26 months' from alerts a where a.event_id = e.id and a.rule_id = 'old';
            update answer_links l set expires_at = now() - interval '8 days' from alerts a where a.id = l.alert_id and a.rule_id = 'old';
            update alerts set raised_at = now() - interval '26 months' where rule_id = 'old'
            """
        );

        // Those that are there now: the world goes on, and may raise another meanwhile.
        var now = await World.World.CountAsync("select (extract(epoch from now()) * 1000)::bigint");
        var others = $"select count(*) from alerts where rule_id <> 'old' and raised_at < to_timestamp({now} / 1000.0)";
        var before = await World.World.CountAsync(others);
        await Service<Upkeep>().RunAsync(TestContext.Current.CancellationToken);
        Assert.Equal(
            (before, 1L),
            (await World.World.CountAsync(others), await World.World.CountAsync("select count(*) from alerts where rule_id = 'old' and state = 'open'"))
        );
        await World.World.ExecuteAsync("update alerts set state = 'lapsed', ended_at = now() where rule_id = 'old'");
        await Service<Upkeep>().RunAsync(TestContext.Current.CancellationToken);
        Assert.Equal(
            (before, 0L, 0L),
            (
                await World.World.CountAsync(others),
                await World.World.CountAsync("select count(*) from alerts where rule_id = 'old'"),
                await World.World.CountAsync("select count(*) from events where received < now() - interval '25 months'")
            )
        );
    }

    [Fact]
    public async Task Upkeep_ends_sessions_that_are_over_and_receipts_nobody_awaits()
    {
        await World.World.ExecuteAsync(
            """
            insert into sessions (hash, user_id, ticket, expires_at) select '\x01'::bytea, user_id, ticket, now() - interval '1 minute' from sessions limit 1;
            insert into early_receipts (gateway, far_id, kind, words, at) values ('phone', 'old', 'delivered', '', now() - interval '2 days'), ('phone', 'young', 'delivered', '', now())
            """
        );
        await World.World.UntilAsync("select exists (select from sessions where hash = '\\x01')", 1);
        await Service<Upkeep>().RunAsync(TestContext.Current.CancellationToken);
        await World.World.UntilAsync(
            "select not exists (select from sessions where expires_at < now()) and (select array_agg(far_id) = array['young'] from early_receipts)",
            5
        );
        Go("/proof");
        Says("did not arrive");
    }

    [Fact]
    public async Task A_mail_server_of_the_settings_that_fails_is_seen_in_the_strip_and_on_Channels()
    {
        async Task FailsAsync(bool fails)
        {
            await World.World.ExecuteAsync(
                $"""update gateways set "on" = {!fails} where channel = 'mail'; update business set mail_failing_since = {(fails ? "now()" : "null")}, mail_last_error = '4.3.2 Not today'"""
            );
            Service<Signals>().Raise(Topic.Setup);
        }

        await FailsAsync(true);
        try
        {
            Go("/channels?id=settings");
            Says("does not work");
            Says("4.3.2 Not today");
            Assert.Matches(@"mail \S+ does not work", TextOf(By.CssSelector(".strip")));
        }
        finally
        {
            await FailsAsync(false);
        }
    }

    [Fact]
    public async Task A_summary_is_asked_for_on_its_page_and_says_what_failed()
    {
        Go("/settings/records");
        Browser.FindElement(By.Id("to")).SendKeys("odile.varga@averilquay.example");
        Choose("select[name=span] option[value=weekly]");
        Choose("form[action$='handler=Summary'] .btn-primary");
        Says("gets a weekly summary");
        Choose("button[formaction*='SummaryNow']");
        Says("is on its way to odile.varga@averilquay.example");
        var mail = World.World.StandIns.Mail.Mails.Last(m =>
            m.To == "odile.varga@averilquay.example" && m.Subject.StartsWith("Averil Quay Provisions, ", StringComparison.Ordinal)
        );
        Assert.Matches(@"All channels: [\d,]+ sent, [\d,]+ landed, [\d,]+ no evidence, [\d,]+ failed", mail.Text);
        Assert.Contains("alerts were raised", mail.Text);
        Choose("form[action$='handler=NoSummary'] button:not([formaction])");
        Says("gets no weekly summary any more");
        NoSeriousFault();
    }

    [Fact]
    public void The_times_of_schedules_are_those_of_the_business_also_when_clocks_change()
    {
        var lisbon = DateTimeZoneProviders.Tzdb["Europe/Lisbon"];
        Assert.Equal(Instant.FromUtc(2026, 7, 6, 6, 0), ScheduleWorker.Next("0 7 * * 1", Instant.FromUtc(2026, 7, 1, 12, 0), lisbon));
        Assert.Equal(Instant.FromUtc(2026, 10, 26, 7, 0), ScheduleWorker.Next("0 7 * * 1", Instant.FromUtc(2026, 10, 20, 12, 0), lisbon));
    }

    [Fact]
    public async Task Reports_are_read_from_a_mailbox_and_a_reply_shows_that_a_mail_landed()
    {
        await using var box = new Mailbox("reports", "right");
        Go("/settings/records");
        Browser.FindElement(By.Id("mailbox")).SendKeys($"127.0.0.1:{box.Port}");
        Choose("#encryption option[value=none]");
        Browser.FindElement(By.Id("user")).SendKeys("reports");
        Browser.FindElement(By.Id("password")).SendKeys("wrong");
        Choose("form[action$='handler=Mailbox'] .btn-primary");
        Says("It is read within half a minute");
        await World.World.UntilAsync("select report_mailbox_error like '%does not accept the name and password%' from business", 40);
        await World.World.ExecuteAsync("update business set report_mailbox_error = null");
        Go("/settings/records");
        Browser.FindElement(By.Id("password")).SendKeys("right");
        Choose("form[action$='handler=Mailbox'] .btn-primary");
        Says("It is read within half a minute");

        // From now on mail asks for reports to its own return address; the bounce and the reply lie in the mailbox.
        var items = await SendAsync("boxed", "{ address: \"bounced@b.example\", outside: true }, { address: \"replied@b.example\", outside: true }", d =>
            d.Count == 2 && d.All(i => (string)i!["state"]! == "handed-over")
        );
        string Of(string to) => (string)items.AsArray().First(i => (string)i!["to"]! == to)!["id"]!;
        var sent = World.World.StandIns.Mail.Mails.Last(m => m.To == "bounced@b.example");
        box.Letters.Enqueue($"From: mailer-daemon@b.example\r\nTo: {sent.From}\r\nSubject: Returned\r\n\r\n550 5.1.1 nobody lives here\r\n");
        box.Letters.Enqueue(
            $"From: replied@b.example\r\nTo: desk@averilquay.example\r\nSubject: Re\r\nIn-Reply-To: <{Guid.Parse(Of("replied@b.example")):N}@averilquay.example>\r\n\r\nThank you\r\n"
        );
        await World.World.UntilAsync(
            $"select state = 'failed' and reason like '%nobody lives here%' from deliveries where id = '{Of("bounced@b.example")}'",
            45
        );
        await World.World.UntilAsync($"select state = 'landed' from deliveries where id = '{Of("replied@b.example")}'", 45);
        await World.World.ExecuteAsync("update business set report_mailbox = null");
    }

    /// <summary>A mailbox that speaks as much of IMAP4rev1 (RFC 3501) as its reader needs.</summary>
    private sealed class Mailbox : IAsyncDisposable
    {
        private readonly TcpListener listener = new(IPAddress.Loopback, 0);
        private readonly Task serving;
        private readonly List<(string Text, bool Seen)> letters = [];

        public Mailbox(string user, string password)
        {
            listener.Start();
            serving = ServeAsync(user, password);
        }

        public System.Collections.Concurrent.ConcurrentQueue<string> Letters { get; } = new();

        public int Port => ((IPEndPoint)listener.LocalEndpoint).Port;

        public async ValueTask DisposeAsync()
        {
            listener.Stop();
            await serving;
        }

        private async Task ServeAsync(string user, string password)
        {
            try
            {
                while (true)
                {
                    using var client = await listener.AcceptTcpClientAsync();
                    await SpeakAsync(client.GetStream(), user, password);
                }
            }
            catch (Exception e) when (e is SocketException or ObjectDisposedException or InvalidOperationException or IOException)
            {
                // That is how it stops.
            }
        }

        private async Task SpeakAsync(NetworkStream stream, string user, string password)
        {
            using var reader = new StreamReader(stream, Encoding.ASCII, leaveOpen: true);
            async Task Say(string line) => await stream.WriteAsync(Encoding.UTF8.GetBytes(line + "\r\n"));
            await Say("* OK [CAPABILITY IMAP4rev1 AUTH=PLAIN] ready");
            while (await reader.ReadLineAsync() is { } line)
            {
                var (tag, command) = (line.Split(' ')[0], line[(line.IndexOf(' ', StringComparison.Ordinal) + 1)..].ToUpperInvariant());
                if (command.StartsWith("AUTHENTICATE PLAIN", StringComparison.Ordinal))
                {
                    await Say("+ ");
                    var right = (await reader.ReadLineAsync())! == Convert.ToBase64String(Encoding.UTF8.GetBytes($"\0{user}\0{password}"));
                    await Say(right ? $"{tag} OK [CAPABILITY IMAP4rev1] in" : $"{tag} NO [AUTHENTICATIONFAILED] wrong");
                }
                else if (command.StartsWith("LOGIN", StringComparison.Ordinal))
                {
                    await Say(line.Contains(password, StringComparison.Ordinal) ? $"{tag} OK in" : $"{tag} NO [AUTHENTICATIONFAILED] wrong");
                }
                else if (command.StartsWith("LIST", StringComparison.Ordinal))
                {
                    await Say("* LIST () \"/\" INBOX");
                    await Say($"{tag} OK listed");
                }
                else if (command.StartsWith("SELECT", StringComparison.Ordinal))
                {
                    while (Letters.TryDequeue(out var letter))
                    {
                        letters.Add((letter, false));
                    }

                    await Say(
                        $"* {letters.Count} EXISTS\r\n* 0 RECENT\r\n* FLAGS (\\Seen)\r\n* OK [PERMANENTFLAGS (\\Seen)] set\r\n* OK [UIDVALIDITY 1] valid\r\n{tag} OK [READ-WRITE] open"
                    );
                }
                else if (command.StartsWith("UID SEARCH", StringComparison.Ordinal))
                {
                    await Say($"* SEARCH{string.Concat(letters.Select((l, i) => l.Seen ? "" : $" {i + 1}"))}\r\n{tag} OK found");
                }
                else if (command.StartsWith("UID FETCH", StringComparison.Ordinal))
                {
                    var uid = int.Parse(command.Split(' ')[2], System.Globalization.CultureInfo.InvariantCulture);
                    var text = letters[uid - 1].Text;
                    await Say($"* {uid} FETCH (UID {uid} BODY[] {{{Encoding.UTF8.GetByteCount(text)}}}\r\n{text})\r\n{tag} OK fetched");
                }
                else if (command.StartsWith("UID STORE", StringComparison.Ordinal))
                {
                    var uid = int.Parse(command.Split(' ')[2], System.Globalization.CultureInfo.InvariantCulture);
                    letters[uid - 1] = (letters[uid - 1].Text, true);
                    await Say($"{tag} OK stored");
                }
                else if (command.StartsWith("LOGOUT", StringComparison.Ordinal))
                {
                    await Say($"* BYE bye\r\n{tag} OK out");
                    return;
                }
                else
                {
                    await Say(command.StartsWith("CAPABILITY", StringComparison.Ordinal) ? $"* CAPABILITY IMAP4rev1\r\n{tag} OK said" : $"{tag} OK done");
                }
            }
        }
    }
}
